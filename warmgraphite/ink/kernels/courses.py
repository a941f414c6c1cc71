"""Loops over the courses of a hatch: lines within outlines, and the marks along them.

Outlines are closed rings: points (V, 2), of ring r those from ``first[r]`` to ``first[r + 1]``. What lies within is
told by counting crossings, whatever the order and direction of the rings, so that rings of neighbours together are one
shape.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.ink.kernels.records import Dashes, Groups, Look, Outlines, Rows, Spacing
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, grown_rows
from warmgraphite.kernels.records import F1, F2, I1, W1
from warmgraphite.noise.kernels import share, value_over

__all__ = ["PATCH", "course_crossings", "course_marks", "course_rows"]

#: Share of a line, or of a gap between lines, that is looked at as a point of it, or is no difference.
NEARLY = 1e-3

#: Millimetres of paper between stretches of a line that are drawn as one.
JOINED = 2e-3

#: Depths over which a share needs no correction: they are one in double precision.
EVEN = 1e-15

#: Millimetres across and down of what is drawn out, or left, of a pattern that is only suggested.
PATCH = (16.0, 11.0)
#: Millimetres of a line, and of a mark, below which none is drawn.
SHORTEST_LINE, SHORTEST_MARK = 0.05, 0.12
#: Most halvings of lines that come too close: as many as leave one of a million million.
MOST_HALVINGS = 40


class _Line(NamedTuple):
    """A stretch of line ``number`` of a group, and where that is on paper.
    It goes from ``begin`` to ``end`` along the course at ``across``.
    """

    group: int
    number: int
    across: float
    begin: float
    end: float
    x0: float
    y0: float
    x1: float
    y1: float
    paper: float
    level: int
    drop: int
    dark: float
    key: np.uint64


class _Drawn(NamedTuple):
    """Marks: ends on paper (M, 4) and the group of each."""

    ends: F2
    group: W1


@device(borrows=True)
def _shift(k, disorder, key):
    """How far line k lies from its place, in steps."""
    return disorder * 0.38 * (2.0 * share(key, np.uint64(k + 1_000_003)) - 1.0) if disorder > 0.0 else 0.0


@device(borrows=True)
def _on_paper(h, a, b):
    w = h[2, 0] * a + h[2, 1] * b + h[2, 2]
    return (h[0, 0] * a + h[0, 1] * b + h[0, 2]) / w, (h[1, 0] * a + h[1, 1] * b + h[1, 2]) / w


@device(borrows=True)
def _apart(h, a, b, step, unit):
    """Millimetres between a line and the next at a place of it, and of paper to a ``unit`` along it."""
    x, y = _on_paper(h, a, b)
    x1, y1 = _on_paper(h, a + unit, b)
    x2, y2 = _on_paper(h, a, b + step)
    tx, ty = x1 - x, y1 - y
    size = max(np.hypot(tx, ty), NO_LENGTH)
    return abs(tx * (y2 - y) - ty * (x2 - x)) / size, size / unit


@device(borrows=True)
def _flattened(outlines, g, back, paper, spacing, flat):
    """Lay a group's points along and across its course into ``flat``.
    (lowest and highest across, widest gap of lines, finest unit).
    """
    points, first, group = outlines.points, outlines.first, outlines.group
    low, high, widest, finest = np.inf, -np.inf, 0.0, np.inf
    for k in range(first[group[g]], first[group[g + 1]]):
        a, b = _on_paper(back, points[k, 0], points[k, 1])
        flat[k, 0], flat[k, 1] = a, b
        low, high = min(low, b), max(high, b)
        gap, per = _apart(paper, a, b, spacing.step, spacing.unit)
        widest, finest = max(widest, gap), min(finest, per)
    return low, high, widest, finest


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(borrows=True)
def _crossed(outlines, flat, g, skip, key, spacing, group, number, along, total):
    """Add where lines of a group, each ``skip``-th, cross its outlines; with no room they are only counted.
    How many there are then.
    """
    first, step, at = outlines.first, spacing.step, spacing.at
    for r in range(outlines.group[g], outlines.group[g + 1]):
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
                y = (k + _shift(k, spacing.disorder, key)) * step + at
                if low <= y < high:
                    if group.size:
                        group[total], number[total] = g, k
                        along[total] = flat[i, 0] + (y - low) / (high - low) * (flat[j, 0] - flat[i, 0])
                    total += 1
    return total


@kernel()
def course_crossings(outlines: Outlines, groups: Groups, spacing: Spacing, most: float):
    """Where lines of a course cross outlines, group by group: the group, the number of the line, and how far along it.
    And for each group how often lines are halved everywhere, and how near stretches must be to be one.

    Lines come no closer than they may anywhere, and are no more than ``most`` in a group.
    """
    size = outlines.group.size - 1
    level, joined = np.zeros(size, np.int64), np.zeros(size)
    flat = np.empty_like(outlines.points)
    for g in range(size):
        low, high, widest, finest = _flattened(outlines, g, groups.back[g], groups.paper[g], spacing, flat)
        while widest * (1 << level[g]) < spacing.least and level[g] < 30:
            level[g] += 1
        while (high - low) / spacing.step > most * float(1 << (level[g] + groups.drop[g])) and level[g] < MOST_HALVINGS:
            level[g] += 1
        joined[g] = JOINED / max(finest, ROUNDING)
    group, number, along = np.empty(0, np.int32), np.empty(0, np.int64), np.empty(0)
    total = 0
    for sweep in range(2):
        if sweep == 1:
            group, number, along = np.empty(total, np.int32), np.empty(total, np.int64), np.empty(total)
            if total == 0:
                break
            total = 0
        for g in range(size):
            skip = 1 << (level[g] + groups.drop[g])
            total = _crossed(outlines, flat, g, skip, groups.key[g], spacing, group, number, along, total)
    return group, number, along, level, joined


@kernel()
def course_rows(group: I1, number: W1, along: F1, joined: F1):
    """Crossings in order of group, line and place, taken two by two.
    The group and the number of the line of each stretch within, where it begins and where it ends. Stretches less than
    ``joined`` (G,) apart are one.
    """
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


@device(borrows=True)
def _halvings(k):
    """How often a number can be halved."""
    if k == 0:
        return MOST_HALVINGS
    n = 0
    while k % 2 == 0:
        k //= 2
        n += 1
    return n


@device(borrows=True)
def _field_at(look, x, y):
    i, j = int(y * look.per_y), int(x * look.per_x)
    if i < 0 or j < 0 or i >= look.field.shape[0] or j >= look.field.shape[1]:
        return 0.0
    return look.field[i, j] / 255.0


@device(borrows=True)
def _level_at(line, h, a, step, least, unit):
    """How often lines are halved at a place of a line, and the paper to a ``unit`` along it there."""
    gap, per = _apart(h, a, line.across, step, unit)
    own = 0
    while gap * (1 << own) < least and own < MOST_HALVINGS:
        own += 1
    return max(own, line.level), per


@device(borrows=True)
def _wanted(line, x, y, from_end, level, look):
    """Whether a mark of a line is drawn at a place.
    For how close lines lie there, how dark it is, and what is only suggested.
    """
    k = line.number
    halved = _halvings(k)
    if halved < level + line.drop:
        return False
    if look.field.size > 0:
        found = int(np.floor(_field_at(look, x, y) * (look.steps + 0.999)))
        if found == 0 or halved < level + line.drop + look.steps - found:
            return False
    if look.suggested > 0.0:
        u, v = (x - look.middle_x) / PATCH[0], (y - look.middle_y) / PATCH[1]
        patch = 0.5 + 0.5 * value_over(line.key, u, v)
        patch += 0.16 * (2.0 * share(line.key, np.uint64(np.int64(k * 7 + 900_001))) - 1.0)
        if patch + 0.5 * np.exp(-from_end / 4.5) + 0.45 * line.dark < 1.12 * look.suggested:
            return False
    return True


@device(borrows=True)
def _share_along(h, line, f):
    """Where a place that divides a line on paper by ``f`` divides it on its face."""
    w0 = h[2, 0] * line.begin + h[2, 1] * line.across + h[2, 2]
    w1 = h[2, 0] * line.end + h[2, 1] * line.across + h[2, 2]
    return f * w0 / (w1 + f * (w0 - w1)) if abs(w0 - w1) > EVEN else f


@device()
def _put(out, n, group, x0, y0, x1, y1):
    """The marks with one more in place ``n``."""
    if n == len(out.ends):
        out = _Drawn(grown_rows(out.ends, 2 * n), grown(out.group))
    out.ends[n, 0], out.ends[n, 1], out.ends[n, 2], out.ends[n, 3] = x0, y0, x1, y1
    out.group[n] = group
    return out


@device(borrows=True)
def _drawn_at(line, h, f, spacing, look):
    """Whether a whole line is drawn where a place divides it by ``f`` on paper."""
    x, y = line.x0 + f * (line.x1 - line.x0), line.y0 + f * (line.y1 - line.y0)
    a = line.begin + (line.end - line.begin) * _share_along(h, line, f)
    level, _ = _level_at(line, h, a, spacing.step, spacing.least, NEARLY * (line.end - line.begin) + ROUNDING)
    return _wanted(line, x, y, line.paper * min(f, 1.0 - f), level, look)


@device()
def _whole_line(line, h, spacing, look, out, n):
    """Add what is drawn of a line without dashes: (marks, how many)."""
    gap0, _ = _apart(h, line.begin, line.across, spacing.step, NEARLY * (line.end - line.begin) + ROUNDING)
    gap1, _ = _apart(h, line.end, line.across, spacing.step, NEARLY * (line.end - line.begin) + ROUNDING)
    even = abs(gap0 - gap1) < NEARLY * max(gap0, gap1)
    # Stretches short enough that what is drawn in them is the same.
    pieces = 1 if even else min(max(int(line.paper / 3.0), 2), 400)
    if look.field.size > 0 or look.suggested > 0.0:
        pieces = max(int(line.paper / 1.1), 1)
    dx, dy = line.x1 - line.x0, line.y1 - line.y0
    begun = -1
    for i in range(pieces + 1):
        # Evenly on paper, so that near and far are told alike.
        kept = i < pieces and _drawn_at(line, h, (i + 0.5) / pieces, spacing, look)
        if kept and begun < 0:
            begun = i
        elif begun >= 0 and not kept:
            e, f = begun / pieces, i / pieces
            out = _put(out, n, line.group, line.x0 + e * dx, line.y0 + e * dy, line.x0 + f * dx, line.y0 + f * dy)
            n += 1
            begun = -1
    return out, n


@device(borrows=True)
def _uneven(key, number, wide, gap, uneven):
    """How much of either end of a mark a loose hand leaves, or goes on."""
    if uneven <= 0.0:
        return 0.0, 0.0
    one = np.uint64(1)
    begin = uneven * wide * 0.45 * share(key, number) - uneven * gap * 0.4 * share(key, number + one)
    end = uneven * wide * 0.45 * share(key, number + np.uint64(2)) - uneven * gap * 0.4 * share(
        key, number + np.uint64(3)
    )
    return begin, end


@device(borrows=True)
def _shown(line, h, p, q, wide, spacing, look):
    """Whether a mark from p to q along a line is drawn, and where its ends are on paper."""
    xa, ya = _on_paper(h, p, line.across)
    xb, yb = _on_paper(h, q, line.across)
    if np.hypot(xb - xa, yb - ya) < SHORTEST_MARK:
        return False, xa, ya, xb, yb
    x, y = 0.5 * (xa + xb), 0.5 * (ya + yb)
    level, unit = _level_at(line, h, 0.5 * (p + q), spacing.step, spacing.least, NEARLY * (q - p) + ROUNDING)
    # Marks that would be shorter than lines are apart are mush.
    if wide * unit < 0.6 * spacing.least:
        return False, xa, ya, xb, yb
    near = min(np.hypot(x - line.x0, y - line.y0), np.hypot(x - line.x1, y - line.y1))
    return _wanted(line, x, y, near, level, look), xa, ya, xb, yb


@device()
def _dashed_line(line, h, dashes, whole, spacing, look, out, n):
    """Add the marks along a line: (marks, how many).
    ``whole`` is how long they are with their gaps before they come again.
    """
    marks = dashes.marks
    count = marks.size // 2
    start = dashes.along + dashes.slip * line.number
    if dashes.loose > 0.0:
        start += whole * dashes.loose * share(line.key, np.uint64(line.number + 2_000_003))
    m = int(np.floor((line.begin - start) / whole)) - 1
    place = start + m * whole
    while place < line.end:
        for c in range(count):
            wide, gap = marks[2 * c], marks[2 * c + 1]
            number = np.uint64(np.int64((m + 1_000_000) * count + c) * 8191 + np.int64(line.number + 1_000_000) * 131)
            trim0, trim1 = _uneven(line.key, number, wide, gap, max(dashes.loose, spacing.disorder))
            p, q = max(place + trim0, line.begin), min(place + wide - trim1, line.end)
            place += wide + gap
            if q <= p:
                continue
            shown, xa, ya, xb, yb = _shown(line, h, p, q, wide, spacing, look)
            if shown:
                out = _put(out, n, line.group, xa, ya, xb, yb)
                n += 1
        m += 1
    return out, n


@kernel()
def course_marks(rows: Rows, groups: Groups, levels: W1, spacing: Spacing, dashes: Dashes, look: Look):
    """What is drawn of the lines of a course: ends on paper (M, 4) in millimetres and the group of each (M,).

    Lines that would come closer than they may are left out by halves, place by place; ``levels`` are how many are left
    out everywhere.
    """
    size = max(2 * len(rows.number), 16)
    out = _Drawn(np.empty((size, 4)), np.empty(size, np.int64))
    n = 0
    whole = dashes.marks.sum()
    group, number, begins, ends = rows  # out of their records once: each time would be counted
    papers, drops, darks, keys = groups.paper, groups.drop, groups.dark, groups.key
    for r in range(len(number)):
        k, g = number[r], group[r]
        h, key = papers[g], keys[g]
        b = (k + _shift(k, spacing.disorder, key)) * spacing.step + spacing.at
        begin, end = begins[r], ends[r]
        x0, y0 = _on_paper(h, begin, b)
        x1, y1 = _on_paper(h, end, b)
        paper = np.hypot(x1 - x0, y1 - y0)
        if paper < SHORTEST_LINE:
            continue
        line = _Line(g, k, b, begin, end, x0, y0, x1, y1, paper, levels[g], drops[g], darks[g], key)
        if dashes.marks.size == 0:
            out, n = _whole_line(line, h, spacing, look, out, n)
        else:
            out, n = _dashed_line(line, h, dashes, whole, spacing, look, out, n)
    return out.ends[:n].copy(), out.group[:n].copy()
