"""Loops of hatching: lines of a course within outlines, marks along them, marks within outlines, evenly strewn points.

Outlines are closed rings: points (V, 2), of ring r those from ``first[r]`` to ``first[r + 1]``. What lies within is told by
counting crossings, whatever the order and direction of the rings, so that rings of neighbours together are one shape.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, grown_rows
from warmgraphite.noise.kernels import share, value_over

__all__ = ["clipped", "course_crossings", "course_marks", "course_rows", "depth_within", "evenly_strewn", "inside", "kept_points"]

#: Millimetres across and down of what is drawn out, or left, of a pattern that is only suggested.
PATCH = (16.0, 11.0)


@device()
def _shift(k, disorder, key):
    """How far line k lies from its place, in steps."""
    return disorder * 0.38 * (2.0 * share(key, np.uint64(k + 1_000_003)) - 1.0) if disorder > 0.0 else 0.0


@device()
def _on_paper(h, a, b):
    w = h[2, 0] * a + h[2, 1] * b + h[2, 2]
    return (h[0, 0] * a + h[0, 1] * b + h[0, 2]) / w, (h[1, 0] * a + h[1, 1] * b + h[1, 2]) / w


@device()
def _apart(h, a, b, step, unit):
    """Millimetres between a line and the next at a place of it, and of paper to a ``unit`` along it."""
    x, y = _on_paper(h, a, b)
    x1, y1 = _on_paper(h, a + unit, b)
    x2, y2 = _on_paper(h, a, b + step)
    tx, ty = x1 - x, y1 - y
    size = max(np.hypot(tx, ty), 1e-12)
    return abs(tx * (y2 - y) - ty * (x2 - x)) / size, size / unit


@kernel("f8[:,::1], i8[::1], i8[::1], f8[:,:,::1], f8[:,:,::1], f8, f8, f8, f8, f8, i8[::1], f8, u8[::1]")
def course_crossings(points, first, groups, planes, papers, step, at, unit, least, most, drops, disorder, keys):
    """Where lines of a course cross outlines, group by group: the group, the number of the line, and how far along it; and for each
    group how often lines are halved everywhere, and how near stretches must be to be one.

    Rings from ``groups[g]`` to ``groups[g + 1]`` are of group g. ``papers`` (G, 3, 3) take places along and across its course to the
    paper, ``planes`` back. Lines come no closer than ``least`` anywhere, and are no more than ``most`` in a group.
    """
    size = groups.size - 1
    level, joined = np.zeros(size, np.int64), np.zeros(size)
    flat = np.empty_like(points)
    for g in range(size):
        p, h = planes[g], papers[g]
        low, high, widest, finest = np.inf, -np.inf, 0.0, np.inf
        for k in range(first[groups[g]], first[groups[g + 1]]):
            a, b = _on_paper(p, points[k, 0], points[k, 1])
            flat[k, 0], flat[k, 1] = a, b
            low, high = min(low, b), max(high, b)
            gap, per = _apart(h, a, b, step, unit)
            widest, finest = max(widest, gap), min(finest, per)
        while widest * (1 << level[g]) < least and level[g] < 30:
            level[g] += 1
        while (high - low) / step > most * float(1 << (level[g] + drops[g])) and level[g] < 40:
            level[g] += 1
        joined[g] = 2e-3 / max(finest, 1e-9)
    group, number, along = np.empty(0, np.int32), np.empty(0, np.int64), np.empty(0)
    total = 0
    for sweep in range(2):
        if sweep == 1:
            group, number, along = np.empty(total, np.int32), np.empty(total, np.int64), np.empty(total)
            total = 0
        for g in range(size):
            skip, key = 1 << (level[g] + drops[g]), keys[g]
            for r in range(groups[g], groups[g + 1]):
                p = first[r + 1] - 1
                for q in range(first[r], first[r + 1]):
                    i, j = (p, q) if flat[p, 1] < flat[q, 1] else (q, p)
                    p = q
                    low, high = flat[i, 1], flat[j, 1]
                    if low == high:
                        continue
                    begin = int(np.floor((low - at) / step - 0.5)) // skip
                    end = int(np.ceil((high - at) / step + 0.5)) // skip + 1
                    for n in range(begin, end + 1):
                        k = n * skip
                        y = (k + _shift(k, disorder, key)) * step + at
                        if low <= y < high:
                            if sweep == 1:
                                group[total], number[total] = g, k
                                along[total] = flat[i, 0] + (y - low) / (high - low) * (flat[j, 0] - flat[i, 0])
                            total += 1
    return group, number, along, level, joined


@kernel("i4[::1], i8[::1], f8[::1], f8[::1]")
def course_rows(group, number, along, joined):
    """Crossings in order of group, line and place, taken two by two: the group and the number of the line of each stretch within,
    where it begins and where it ends. Stretches less than ``joined`` (G,) apart are one."""
    total = len(number)
    owner, rows = np.empty(total, np.int32), np.empty(total, np.int64)
    begins, ends = np.empty(total), np.empty(total)
    n, i = 0, 0
    while i + 1 < total:
        k, g = number[i], group[i]
        if number[i + 1] != k or group[i + 1] != g:
            i += 1  # a ring that does not close
            continue
        begin, end = along[i], along[i + 1]
        if n > 0 and rows[n - 1] == k and owner[n - 1] == g and begin - ends[n - 1] < joined[g]:
            ends[n - 1] = end
        elif end > begin:
            owner[n], rows[n], begins[n], ends[n] = g, k, begin, end
            n += 1
        i += 2
    return owner[:n].copy(), rows[:n].copy(), begins[:n].copy(), ends[:n].copy()


@device()
def _halvings(k):
    """How often a number can be halved."""
    if k == 0:
        return 40
    n = 0
    while k % 2 == 0:
        k //= 2
        n += 1
    return n


@device()
def _field_at(field, per_mm, x, y):
    i, j = int(y * per_mm[1]), int(x * per_mm[0])
    if i < 0 or j < 0 or i >= field.shape[0] or j >= field.shape[1]:
        return 0.0
    return field[i, j] / 255.0


@device()
def _wanted(k, x, y, from_end, level, suggested, dark, key, middle, field, per_mm, steps, drop):
    """Whether a mark of line k is drawn at a place: for how close lines lie there, how dark it is, and what is only suggested."""
    halved = _halvings(k)
    if halved < level + drop:
        return False
    if field.size > 0:
        found = int(np.floor(_field_at(field, per_mm, x, y) * (steps + 0.999)))
        if found == 0 or halved < level + drop + steps - found:
            return False
    if suggested > 0.0:
        u, v = (x - middle[0]) / PATCH[0], (y - middle[1]) / PATCH[1]
        patch = 0.5 + 0.5 * value_over(key, u, v)
        patch += 0.16 * (2.0 * share(key, np.uint64(np.int64(k * 7 + 900_001))) - 1.0)
        if patch + 0.5 * np.exp(-from_end / 4.5) + 0.45 * dark < 1.12 * suggested:
            return False
    return True


@kernel(
    "i4[::1], i8[::1], f8[::1], f8[::1], f8[:,:,::1], f8, f8, f8, f8[::1], f8, f8, f8, f8, i8[::1], f8, f8[::1], u8[::1], "
    "UniTuple(f8, 2), u1[:,::1], UniTuple(f8, 2), i8, i8[::1]",
)
def course_marks(
    owner, rows, begins, ends, papers, step, at, disorder, marks, along, slip, loose, least, levels, suggested, darks, keys, middle,
    field, per_mm, steps, drops,
):  # fmt: skip
    """What is drawn of the lines of a course: ends on paper (M, 4) in millimetres and the group of each (M,).

    ``papers`` take places along and across the course of each group to the paper. Lines that would come closer than ``least`` are
    left out by halves, place by place; ``drops`` leave out so many halves more, ``levels`` are how many are left out everywhere.
    """
    out = np.empty((max(2 * len(rows), 16), 4))
    line = np.empty(len(out), np.int64)
    n = 0
    whole = marks.sum()
    count = marks.size // 2
    for r in range(len(rows)):
        k, g = rows[r], owner[r]
        h, level, dark, key, drop = papers[g], levels[g], darks[g], keys[g], drops[g]
        b = (k + _shift(k, disorder, key)) * step + at
        begin, end = begins[r], ends[r]
        x0, y0 = _on_paper(h, begin, b)
        x1, y1 = _on_paper(h, end, b)
        paper = np.hypot(x1 - x0, y1 - y0)
        if paper < 0.05:
            continue
        gap0, _ = _apart(h, begin, b, step, 1e-3 * (end - begin) + 1e-9)
        gap1, _ = _apart(h, end, b, step, 1e-3 * (end - begin) + 1e-9)
        even = abs(gap0 - gap1) < 1e-3 * max(gap0, gap1)
        drawn_by_place = field.size > 0 or suggested > 0.0
        # Stretches short enough that what is drawn in them is the same.
        fine = 1 if even else min(max(int(paper / 3.0), 2), 400)
        pieces = max(int(paper / 1.1), 1) if drawn_by_place else fine
        if marks.size == 0:
            open_at, opened = 0.0, False
            for i in range(pieces + 1):
                if i < pieces:
                    # Evenly on paper, so that near and far are told alike.
                    f = (i + 0.5) / pieces
                    x, y = x0 + f * (x1 - x0), y0 + f * (y1 - y0)
                    a = begin + (end - begin) * _share_along(h, begin, end, b, f)
                    gap, _ = _apart(h, a, b, step, 1e-3 * (end - begin) + 1e-9)
                    own = 0
                    while gap * (1 << own) < least and own < 40:
                        own += 1
                    kept = _wanted(
                        k,
                        x,
                        y,
                        paper * min(f, 1.0 - f),
                        max(own, level),
                        suggested,
                        dark,
                        key,
                        middle,
                        field,
                        per_mm,
                        steps,
                        drop,
                    )
                else:
                    kept = False
                if kept and not opened:
                    open_at, opened = i / pieces, True
                elif opened and not kept:
                    opened = False
                    if n == len(out):
                        out, line = grown_rows(out, 2 * len(out)), grown(line)
                    f = i / pieces
                    out[n, 0], out[n, 1] = x0 + open_at * (x1 - x0), y0 + open_at * (y1 - y0)
                    out[n, 2], out[n, 3] = x0 + f * (x1 - x0), y0 + f * (y1 - y0)
                    line[n] = g
                    n += 1
            continue
        start = along + slip * k
        if loose > 0.0:
            start += whole * loose * share(key, np.uint64(k + 2_000_003))
        m = int(np.floor((begin - start) / whole)) - 1
        place = start + m * whole
        while place < end:
            for c in range(count):
                wide, gap = marks[2 * c], marks[2 * c + 1]
                number = np.uint64(np.int64((m + 1_000_000) * count + c) * 8191 + np.int64(k + 1_000_000) * 131)
                trim0 = trim1 = 0.0
                uneven = max(loose, disorder)
                if uneven > 0.0:
                    trim0 = uneven * wide * 0.45 * share(key, number) - uneven * gap * 0.4 * share(key, number + np.uint64(1))
                    trim1 = uneven * wide * 0.45 * share(key, number + np.uint64(2)) - uneven * gap * 0.4 * share(
                        key, number + np.uint64(3)
                    )
                p, q = max(place + trim0, begin), min(place + wide - trim1, end)
                place += wide + gap
                if q <= p:
                    continue
                xa, ya = _on_paper(h, p, b)
                xb, yb = _on_paper(h, q, b)
                long = np.hypot(xb - xa, yb - ya)
                if long < 0.12:
                    continue
                x, y = 0.5 * (xa + xb), 0.5 * (ya + yb)
                gap_here, unit = _apart(h, 0.5 * (p + q), b, step, 1e-3 * (q - p) + 1e-9)
                own = 0
                while gap_here * (1 << own) < least and own < 40:
                    own += 1
                # Marks that would be shorter than lines are apart are mush.
                if wide * unit < 0.6 * least:
                    continue
                near = min(np.hypot(x - x0, y - y0), np.hypot(x - x1, y - y1))
                if not _wanted(k, x, y, near, max(own, level), suggested, dark, key, middle, field, per_mm, steps, drop):
                    continue
                if n == len(out):
                    out, line = grown_rows(out, 2 * len(out)), grown(line)
                out[n, 0], out[n, 1], out[n, 2], out[n, 3] = xa, ya, xb, yb
                line[n] = g
                n += 1
            m += 1
    return out[:n].copy(), line[:n].copy()


@device()
def _share_along(h, begin, end, b, f):
    """Where a place that divides a line on paper by ``f`` divides it on its face."""
    w0 = h[2, 0] * begin + h[2, 1] * b + h[2, 2]
    w1 = h[2, 0] * end + h[2, 1] * b + h[2, 2]
    return f * w0 / (w1 + f * (w0 - w1)) if abs(w0 - w1) > 1e-15 else f


@device()
def _bands(points, first):
    """The sides of outlines by bands of y: (lowest y, bands to a unit, where each band begins, sides as first and last point)."""
    sides = len(points)
    low, high = np.inf, -np.inf
    for k in range(sides):
        low, high = min(low, points[k, 1]), max(high, points[k, 1])
    count = max(1, min(int(sides / 2), 4096))
    per = count / max(high - low, 1e-12)
    begin, end = np.empty(sides, np.int64), np.empty(sides, np.int64)
    n = 0
    for r in range(first.size - 1):
        p = first[r + 1] - 1
        for q in range(first[r], first[r + 1]):
            begin[n], end[n] = p, q
            p = q
            n += 1
    starts = np.zeros(count + 1, np.int64)
    held = np.empty(0, np.int64)
    for sweep in range(2):
        if sweep == 1:
            for k in range(count):
                starts[k + 1] += starts[k]
            held = np.empty(starts[count], np.int64)
            fill = starts[:-1].copy()
        for s in range(n):
            y0, y1 = points[begin[s], 1], points[end[s], 1]
            a = min(max(int((min(y0, y1) - low) * per), 0), count - 1)
            b = min(max(int((max(y0, y1) - low) * per), 0), count - 1)
            for k in range(a, b + 1):
                if sweep == 0:
                    starts[k + 1] += 1
                else:
                    held[fill[k]] = s
                    fill[k] += 1
    return low, per, starts, held, begin, end


@device()
def _within(points, bands, x, y):
    low, per, starts, held, begin, end = bands
    count = starts.size - 1
    k = int(np.floor((y - low) * per))
    if k < 0 or k > count:
        return False
    k = min(k, count - 1)
    found = False
    for s in held[starts[k] : starts[k + 1]]:
        p, q = begin[s], end[s]
        if (points[p, 1] <= y) != (points[q, 1] <= y):
            at = points[p, 0] + (y - points[p, 1]) / (points[q, 1] - points[p, 1]) * (points[q, 0] - points[p, 0])
            if at > x:
                found = not found
    return found


@device()
def inside(points, first, xy):
    """(N,) which places lie within outlines."""
    out = np.zeros(len(xy), np.bool_)
    if len(points):
        bands = _bands(points, first)
        for n in range(len(xy)):
            out[n] = _within(points, bands, xy[n, 0], xy[n, 1])
    return out


@kernel("f8[:,::1], i8[::1], f8[:,::1], f8, f8, b1")
def depth_within(points, first, xy, width, height, level):
    """(N,) how far places (N, 2) lie from the nearest surface: a side of the outlines within a paper ``width`` by ``height``, beyond
    which the paper ends, and, unless what is seen is ``level``, not one that what it fills lies above. Infinite where none is."""
    out = np.full(len(xy), np.inf)
    bands = _bands(points, first)
    for r in range(first.size - 1):
        p = first[r + 1] - 1
        for q in range(first[r], first[r + 1]):
            x0, y0, x1, y1 = points[p, 0], points[p, 1], points[q, 0], points[q, 1]
            p = q
            if (x0 < 0 and x1 < 0) or (y0 < 0 and y1 < 0) or (x0 > width and x1 > width) or (y0 > height and y1 > height):
                continue
            dx, dy = x1 - x0, y1 - y0
            size = dx * dx + dy * dy
            if not level and _within(points, bands, 0.5 * (x0 + x1), 0.5 * (y0 + y1) - 0.02):
                continue
            for n in range(len(xy)):
                ex, ey = xy[n, 0] - x0, xy[n, 1] - y0
                t = 0.0 if size == 0.0 else min(max((ex * dx + ey * dy) / size, 0.0), 1.0)
                ex -= t * dx
                ey -= t * dy
                out[n] = min(out[n], ex * ex + ey * ey)
    return np.sqrt(out)


@kernel("f8[:,::1], i8[::1], f8[:,::1], f8[::1]")
def kept_points(points, first, xy, reach):
    """(N,) which places (N, 2) lie within outlines, at least ``reach`` (N,) from every side."""
    out = np.zeros(len(xy), np.bool_)
    if not len(points):
        return out
    bands = _bands(points, first)
    low, per, starts, held, begin, end = bands
    count = starts.size - 1
    for n in range(len(xy)):
        x, y, r = xy[n, 0], xy[n, 1], reach[n]
        if not _within(points, bands, x, y):
            continue
        free = True
        a = min(max(int((y - r - low) * per), 0), count - 1)
        b = min(max(int((y + r - low) * per), 0), count - 1)
        for s in held[starts[a] : starts[b + 1]]:
            p, q = begin[s], end[s]
            dx, dy = points[q, 0] - points[p, 0], points[q, 1] - points[p, 1]
            size = dx * dx + dy * dy
            t = 0.0 if size == 0.0 else min(max(((x - points[p, 0]) * dx + (y - points[p, 1]) * dy) / size, 0.0), 1.0)
            if np.hypot(points[p, 0] + t * dx - x, points[p, 1] + t * dy - y) < r:
                free = False
                break
        out[n] = free
    return out


@kernel("f8[:,::1], i8[::1], f8[:,::1], i8[::1]")
def clipped(points, first, xy, begins):
    """What of polylines (``xy`` (V, 2), each from ``begins[s]`` to ``begins[s + 1]``) lies within outlines: points, where each
    piece begins, and the polyline that it is of."""
    room = 2 * len(xy) + 16
    out, starts, of = np.empty((room, 2)), np.empty(room, np.int64), np.empty(room, np.int64)
    n, pieces = 0, 0
    if not len(points):
        return out[:0].copy(), np.zeros(1, np.int64), of[:0].copy()
    bands = _bands(points, first)
    low, per, lists, held, begin, end = bands
    count = lists.size - 1
    cuts = np.empty(256)
    for s in range(begins.size - 1):
        opened = False
        for k in range(begins[s], begins[s + 1] - 1):
            x0, y0, x1, y1 = xy[k, 0], xy[k, 1], xy[k + 1, 0], xy[k + 1, 1]
            a = min(max(int((min(y0, y1) - low) * per), 0), count - 1)
            b = min(max(int((max(y0, y1) - low) * per), 0), count - 1)
            m = 0
            dx, dy = x1 - x0, y1 - y0
            for e in held[lists[a] : lists[b + 1]]:
                p, q = begin[e], end[e]
                ex, ey = points[q, 0] - points[p, 0], points[q, 1] - points[p, 1]
                across = dx * ey - dy * ex
                if across == 0.0:
                    continue
                gx, gy = points[p, 0] - x0, points[p, 1] - y0
                t, u = (gx * ey - gy * ex) / across, (gx * dy - gy * dx) / across
                if 0.0 < t < 1.0 and 0.0 <= u <= 1.0:
                    if m == cuts.size:
                        cuts = grown(cuts)
                    cuts[m] = t
                    m += 1
            for c in range(1, m):  # few, and a sort of the library's takes a second to compile
                value, place = cuts[c], c
                while place > 0 and cuts[place - 1] > value:
                    cuts[place] = cuts[place - 1]
                    place -= 1
                cuts[place] = value
            before = 0.0
            for c in range(m + 1):
                after = cuts[c] if c < m else 1.0
                if after - before > 1e-12:
                    mid = 0.5 * (before + after)
                    if _within(points, bands, x0 + mid * dx, y0 + mid * dy):
                        if n + 4 > room:
                            out, starts, of, room = grown_rows(out, 2 * room), grown(starts), grown(of), 2 * room
                        if not opened:
                            starts[pieces], of[pieces] = n, s
                            pieces += 1
                            out[n, 0], out[n, 1] = x0 + before * dx, y0 + before * dy
                            n += 1
                        out[n, 0], out[n, 1] = x0 + after * dx, y0 + after * dy
                        n += 1
                        opened = True
                    else:
                        opened = False
                before = after
    starts[pieces] = n
    return out[:n].copy(), starts[: pieces + 1].copy(), of[:pieces].copy()


@kernel("i8, i8")
def evenly_strewn(count, seed):
    """(count, 2) places on a torus of side 1 in an order of which every beginning lies evenly: each is the best of several that
    were tried, the one farthest from all before (Mitchell 1991)."""
    out = np.empty((count, 2))
    key = np.uint64(seed)
    grid = int(np.sqrt(count / 2.0)) + 1
    heads = np.full((grid, grid), -1, np.int64)
    after = np.full(count, -1, np.int64)
    tried = np.uint64(0)
    for n in range(count):
        best, best_x, best_y = -1.0, 0.0, 0.0
        reach = min(1.6 / np.sqrt(n + 1.0), 0.71)
        span = min(int(np.ceil(reach * grid)), grid // 2)
        for _ in range(14 if n > 0 else 1):
            tried += np.uint64(2)
            x, y = share(key, tried), share(key, tried + np.uint64(1))
            near = 2.0
            ci, cj = int(x * grid), int(y * grid)
            for di in range(-span, span + 1):
                for dj in range(-span, span + 1):
                    p = heads[(ci + di) % grid, (cj + dj) % grid]
                    while p >= 0:
                        dx, dy = abs(out[p, 0] - x), abs(out[p, 1] - y)
                        dx, dy = min(dx, 1.0 - dx), min(dy, 1.0 - dy)
                        near = min(near, dx * dx + dy * dy)
                        p = after[p]
            if near > best:
                best, best_x, best_y = near, x, y
        out[n, 0], out[n, 1] = best_x, best_y
        i, j = int(best_x * grid), int(best_y * grid)
        after[n] = heads[i, j]
        heads[i, j] = n
    return out
