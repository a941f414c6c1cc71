"""Loops that tell what lies before an edge, and what lies on either side of it."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, sort_stretches

__all__ = ["EDGE", "JOINT", "OUTLINE", "SEAM", "rank_pieces", "split_edges"]

#: What a piece of line is, by what lies close to it on either side.
OUTLINE, EDGE, JOINT, SEAM = 0, 1, 2, 3
#: Millimetres beside a line at which a face that begins there must be seen.
HAIR = 5e-4


@device()
def _covered(ax, ay, az, bx, by, bz, f, touch):
    """The stretch of an edge from a to b that a triangle covers and lies in front of; empty as (1, 0)."""
    low, high = 0.0, 1.0
    for i in range(0, 9, 3):
        fa = f[i] * ax + f[i + 1] * ay + f[i + 2] + touch
        fb = f[i] * bx + f[i + 1] * by + f[i + 2] + touch
        if fa < 0.0:
            if fb < 0.0:
                return 1.0, 0.0
            low = max(low, fa / (fa - fb))
        elif fb < 0.0:
            high = min(high, fa / (fa - fb))
    if low >= high:
        return 1.0, 0.0
    fa = az - (f[9] * ax + f[10] * ay + f[12])
    fb = bz - (f[9] * bx + f[10] * by + f[12])
    if fa <= 0.0:
        if fb <= 0.0:
            return 1.0, 0.0
        low = max(low, fa / (fa - fb))
    elif fb < 0.0:
        high = min(high, fa / (fa - fb))
    return low, high


@kernel(
    "i8, i8, f8[:,::1], f8[:,::1], f8[::1], f8[::1], i4[:,::1], f8[:,::1], i4[::1], b1[::1], f8[::1], i8[::1], i4[::1], f8, "
    "f8, f8, i8, i8, f8, f8, i4[::1]",
)
def split_edges(
    first, last, start, end, slack_start, slack_end, beside, forms, tri_source, tri_pane, tri_near,
    cell_start, cell_tri, left, top, size, nx, ny, touch, least, seen,
):  # fmt: skip
    """Edges ``first`` to ``last`` cut where their visibility changes.

    Returns rows (edge, from, to, hidden, panes): parameters along the edge, and the panes of glass in front. ``least``
    millimetres is the shortest stretch between two of the other kind that counts; ``seen`` (T,) is the thread's own memory
    of the edge that last met each triangle.
    """
    lows = np.empty(64)
    highs = np.empty(64)
    pane_low = np.empty(64)
    pane_high = np.empty(64)
    room = 4 * (last - first) + 64
    out_edge = np.empty(room, np.int32)
    out_from = np.empty(room)
    out_to = np.empty(room)
    out_hidden = np.empty(room, np.bool_)
    out_panes = np.empty(room, np.int32)
    rows = 0
    for e in range(first, last):
        ax, ay, bx, by = start[e, 0], start[e, 1], end[e, 0], end[e, 1]
        az, bz = start[e, 2] - slack_start[e], end[e, 2] - slack_end[e]
        deepest = max(az, bz)
        dx = bx - ax
        dy = by - ay
        length = np.sqrt(dx * dx + dy * dy)
        if length < touch:
            continue
        own_0, own_1 = beside[e, 0], beside[e, 1]
        count = 0
        panes = 0
        front = 0.0
        back = 1.0
        buried = False
        r0 = max(0, int(np.floor((min(ay, by) - touch - top) / size)))
        r1 = min(ny - 1, int(np.floor((max(ay, by) + touch - top) / size)))
        for r in range(r0, r1 + 1):
            # The stretch of the edge inside this row of cells, a little widened, gives the columns to visit.
            xa = min(ax, bx)
            xb = max(ax, bx)
            if r1 > r0 and abs(dy) > 1e-12:
                ta = (top + r * size - touch - ay) / dy
                tb = (top + (r + 1) * size + touch - ay) / dy
                ta, tb = max(0.0, min(ta, tb)), min(1.0, max(ta, tb))
                if ta > tb:
                    continue
                xa = min(ax + ta * dx, ax + tb * dx)
                xb = max(ax + ta * dx, ax + tb * dx)
            c0 = max(0, int(np.floor((xa - touch - left) / size)))
            c1 = min(nx - 1, int(np.floor((xb + touch - left) / size)))
            for c in range(c0, c1 + 1):
                cell = r * nx + c
                for n in range(cell_start[cell], cell_start[cell + 1]):
                    t = cell_tri[n]
                    if tri_near[t] >= deepest:
                        break
                    if seen[t] == e:
                        continue
                    seen[t] = e
                    s = tri_source[t]
                    if s >= 0 and s in (own_0, own_1):
                        continue
                    low, high = _covered(ax, ay, az, bx, by, bz, forms[t], touch)
                    if (high - low) * length <= touch:
                        continue
                    if tri_pane[t]:
                        if panes == pane_low.size:
                            pane_low = grown(pane_low)
                            pane_high = grown(pane_high)
                        pane_low[panes] = low
                        pane_high[panes] = high
                        panes += 1
                        continue
                    if count == lows.size:
                        lows = grown(lows)
                        highs = grown(highs)
                    lows[count] = low
                    highs[count] = high
                    count += 1
                    if low <= front:
                        front = max(front, high)
                    if high >= back:
                        back = min(back, low)
                    if front >= back:
                        buried = True
                        break
                if buried:
                    break
            if buried:
                break
        while rows + 2 * count + 2 * panes + 4 > out_edge.size:
            out_edge = grown(out_edge)
            out_from = grown(out_from)
            out_to = grown(out_to)
            out_hidden = grown(out_hidden)
            out_panes = grown(out_panes)
        if buried:
            out_edge[rows] = e
            out_from[rows] = 0.0
            out_to[rows] = 1.0
            out_hidden[rows] = True
            out_panes[rows] = 0
            rows += 1
            continue
        gap = least / length
        # Hidden stretches united, those left too short to see given up.
        united = 0
        if count:
            sort_stretches(lows, highs, count)
            for k in range(1, count):
                if lows[k] <= highs[united] + gap:
                    highs[united] = max(highs[united], highs[k])
                else:
                    united += 1
                    lows[united], highs[united] = lows[k], highs[k]
            united += 1
            kept = 0
            for k in range(united):
                within = lows[k] > 0.0 and highs[k] < 1.0
                if not (within and highs[k] - lows[k] < gap):
                    lows[kept], highs[kept] = lows[k], highs[k]
                    kept += 1
            united = kept
        # Walk along the edge: hidden stretches, and between them visible ones, split where panes change.
        position = 0.0
        for k in range(united + 1):
            next_low = lows[k] if k < united else 1.0
            next_high = highs[k] if k < united else 1.0
            if next_low > position:
                at = position
                begin = at
                while at < next_low:
                    stop = next_low
                    through = 0
                    for p in range(panes):
                        if pane_low[p] <= at + 1e-12 and pane_high[p] > at + 1e-12:
                            through += 1
                            stop = min(stop, pane_high[p])
                        elif pane_low[p] > at + 1e-12:
                            stop = min(stop, pane_low[p])
                    if next_low - stop < 1e-9:
                        stop = next_low
                    # Where two triangles of one pane meet, both cover a hair's breadth: what is on either side counts.
                    if stop - at < gap and stop < next_low:
                        at = stop
                        continue
                    out_edge[rows] = e
                    out_from[rows] = begin
                    out_to[rows] = stop
                    out_hidden[rows] = False
                    out_panes[rows] = through
                    rows += 1
                    at = stop
                    begin = at
                    if rows + 4 > out_edge.size:
                        out_edge = grown(out_edge)
                        out_from = grown(out_from)
                        out_to = grown(out_to)
                        out_hidden = grown(out_hidden)
                        out_panes = grown(out_panes)
            if next_low < 1.0:
                out_edge[rows] = e
                out_from[rows] = max(next_low, position)
                out_to[rows] = min(next_high, 1.0)
                out_hidden[rows] = True
                out_panes[rows] = 0
                rows += 1
            position = max(position, next_high)
    return out_edge[:rows], out_from[:rows], out_to[:rows], out_hidden[:rows], out_panes[:rows]


@device()
def _depth(f, x, y):
    return f[9] * x + f[10] * y + f[11]


@device()
def _envelope(
    ax, ay, az, bx, by, bz, ox, oy, forms, tri_pane, tri_near, tri_far, cell_start, cell_tri, left, top, size, nx, ny, lows, highs, tris,
):  # fmt: skip
    """What is seen beside a line from a to b in the frame, moved by o, at its depth or behind it.

    Fills in stretches ``lows`` to ``highs`` and the triangle there (−1: nothing); returns how many, or −1 where the arrays
    are too short. Cell by cell along the line, nearest triangles first, until nothing farther can be seen in the cell. A
    triangle counts as nearer by its plane's depth on the line itself, so that a steep face beginning there does not.
    """
    room = lows.size
    dx, dy = bx - ax, by - ay
    shallowest = min(az, bz)
    ax, ay, bx, by = ax + ox, ay + oy, bx + ox, by + oy
    c = min(max(int(np.floor((ax - left) / size)), 0), nx - 1)
    r = min(max(int(np.floor((ay - top) / size)), 0), ny - 1)
    step_c = 1 if dx > 0 else -1
    step_r = 1 if dy > 0 else -1
    next_x = (left + (c + (1 if dx > 0 else 0)) * size - ax) / dx if abs(dx) > 1e-12 else np.inf
    next_y = (top + (r + (1 if dy > 0 else 0)) * size - ay) / dy if abs(dy) > 1e-12 else np.inf
    per_x = size / abs(dx) if abs(dx) > 1e-12 else np.inf
    per_y = size / abs(dy) if abs(dy) > 1e-12 else np.inf
    count = 0
    t0 = 0.0
    while t0 < 1.0:
        t1 = min(next_x, next_y, 1.0)
        if t1 > t0:
            base = count
            if count + 2 >= room:
                return -1
            lows[count], highs[count], tris[count] = t0, t1, -1
            count += 1
            worst = np.inf
            cell = r * nx + c
            for n in range(cell_start[cell], cell_start[cell + 1]):
                t = cell_tri[n]
                if tri_near[t] >= worst:
                    break
                if tri_far[t] < shallowest or tri_pane[t]:
                    continue
                f = forms[t]
                low, high = t0, t1
                for i in range(0, 9, 3):
                    fa = f[i] * ax + f[i + 1] * ay + f[i + 2] + 1e-7
                    fb = f[i] * bx + f[i + 1] * by + f[i + 2] + 1e-7
                    if fa < 0.0:
                        if fb < 0.0:
                            low = 2.0
                            break
                        low = max(low, fa / (fa - fb))
                    elif fb < 0.0:
                        high = min(high, fa / (fa - fb))
                if low >= high:
                    continue
                fa = _depth(f, ax - ox, ay - oy) - az
                fb = _depth(f, bx - ox, by - oy) - bz
                if fa < 0.0:
                    if fb < 0.0:
                        continue
                    low = max(low, fa / (fa - fb))
                elif fb < 0.0:
                    high = min(high, fa / (fa - fb))
                if high - low <= 1e-12:
                    continue
                changed = False
                k = base
                while k < count:
                    lo, hi = max(lows[k], low), min(highs[k], high)
                    if hi - lo <= 1e-12:
                        k += 1
                        continue
                    old = tris[k]
                    if old >= 0:
                        g = forms[old]
                        x, y = ax + lo * dx, ay + lo * dy
                        dl = _depth(f, x, y) - _depth(g, x, y)
                        x, y = ax + hi * dx, ay + hi * dy
                        dh = _depth(f, x, y) - _depth(g, x, y)
                        if dl >= -1e-12 and dh >= -1e-12:
                            k += 1
                            continue
                        if dl > 0.0:
                            lo = lo + dl / (dl - dh) * (hi - lo)
                        elif dh > 0.0:
                            hi = lo + dl / (dl - dh) * (hi - lo)
                        if hi - lo <= 1e-12:
                            k += 1
                            continue
                    # The new triangle takes the stretch lo to hi of this one.
                    if count + 2 >= room:
                        return -1
                    changed = True
                    before, after = lo - lows[k] > 1e-12, highs[k] - hi > 1e-12
                    more = (1 if before else 0) + (1 if after else 0)
                    if more:
                        for m in range(count - 1, k, -1):
                            lows[m + more], highs[m + more], tris[m + more] = lows[m], highs[m], tris[m]
                        count += more
                    begin, finish = lows[k], highs[k]
                    if before:
                        highs[k] = lo
                        k += 1
                    lows[k], highs[k], tris[k] = (lo if before else begin), (hi if after else finish), t
                    if after:
                        k += 1
                        lows[k], highs[k], tris[k] = hi, finish, old
                    k += 1
                if changed:
                    worst = -np.inf
                    for k in range(base, count):
                        if tris[k] < 0:
                            worst = np.inf
                            break
                        g = forms[tris[k]]
                        worst = max(
                            worst,
                            _depth(g, ax + lows[k] * dx, ay + lows[k] * dy),
                            _depth(g, ax + highs[k] * dx, ay + highs[k] * dy),
                        )
            # The same triangle goes on from the cell before, or from a stretch that was cut by one not seen any more.
            kept = max(base, 1)
            if base == 0:
                kept = 1
                k = 1
            else:
                k = base
            while k < count:
                if tris[k] == tris[kept - 1]:
                    highs[kept - 1] = highs[k]
                else:
                    lows[kept], highs[kept], tris[kept] = lows[k], highs[k], tris[k]
                    kept += 1
                k += 1
            count = kept
            t0 = t1
        if next_x <= next_y:
            next_x += per_x
            c = min(max(c + step_c, 0), nx - 1)
        else:
            next_y += per_y
            r = min(max(r + step_r, 0), ny - 1)
    return count


@device()
def _shows(x, y, own_0, own_1, z_low, forms, tri_source, tri_pane, tri_near, cell_start, cell_tri, left, top, size, nx, ny):
    """Whether, at a point, one of a line's own two faces is seen at its depth or behind it: the face's triangle, or −1."""
    cell = min(max(int(np.floor((y - top) / size)), 0), ny - 1) * nx + min(max(int(np.floor((x - left) / size)), 0), nx - 1)
    best = np.inf
    found = -1
    for n in range(cell_start[cell], cell_start[cell + 1]):
        t = cell_tri[n]
        if tri_near[t] >= best:
            break
        f = forms[t]
        if (
            tri_pane[t]
            or f[0] * x + f[1] * y + f[2] < -1e-9
            or f[3] * x + f[4] * y + f[5] < -1e-9
            or f[6] * x + f[7] * y + f[8] < -1e-9
        ):
            continue
        z = _depth(f, x, y)
        own = tri_source[t] >= 0 and tri_source[t] in (own_0, own_1)
        if z < best and (own or z >= z_low):
            best = z
            found = t if own else -1
    return found


@device()
def _metres(z, central):
    """Distance along the direction of sight for a depth in the frame."""
    return 1.0 / max(1.0 - z, 1e-12) if central else z


@kernel(
    "i8, i8, f8[:,::1], f8[:,::1], f8[::1], f8[::1], i4[:,::1], f8[:,::1], i4[::1], b1[::1], f8[::1], f8[::1], i4[::1], "
    "i8[::1], f8[:,::1], f8[::1], i8[::1], i4[::1], f8, f8, f8, i8, i8, f8[:,::1], b1, f8, f8, f8",
)
def rank_pieces(
    first, last, a, b, slack_a, slack_b, beside, forms, tri_source, tri_pane, tri_near, tri_far, tri_part, tri_alike, normal, height,
    cell_start, cell_tri, left, top, size, nx, ny, inverse, central, aside, outline_depth, flush,
):  # fmt: skip
    """Pieces ``first`` to ``last``, from a to b (N, 3) in the frame, split where what lies beside them changes.

    Either side is looked at ``aside`` millimetres away, past all that hides the piece. ``height`` (T,) is
    normal · corner of each triangle; ``flush`` the metres within which a line lies in a face; ``inverse`` the matrix back to
    metres. Returns rows (piece, from, to, what, metres to what lies behind, part at the left, part at the right).
    """
    room = 64
    left_low, left_high, left_tri = np.empty(room), np.empty(room), np.empty(room, np.int32)
    right_low, right_high, right_tri = np.empty(room), np.empty(room), np.empty(room, np.int32)
    size_out = 2 * (last - first) + 64
    out_piece = np.empty(size_out, np.int32)
    out_from = np.empty(size_out)
    out_to = np.empty(size_out)
    out_what = np.empty(size_out, np.int8)
    out_behind = np.empty(size_out)
    out_left = np.empty(size_out, np.int32)
    out_right = np.empty(size_out, np.int32)
    rows = 0
    ends = np.empty((2, 3))
    for p in range(first, last):
        ax, ay, az = a[p, 0], a[p, 1], a[p, 2]
        bx, by, bz = b[p, 0], b[p, 1], b[p, 2]
        dx, dy, dz = bx - ax, by - ay, bz - az
        length = np.sqrt(dx * dx + dy * dy)
        if length <= 0.0:
            continue
        ox, oy = -dy / length * aside, dx / length * aside
        low_a, low_b = az - slack_a[p], bz - slack_b[p]
        while True:
            # The paper's y runs down: what is added turns to the right of the way from a to b.
            rights = _envelope(
                ax, ay, low_a, bx, by, low_b, ox, oy, forms, tri_pane, tri_near, tri_far,
                cell_start, cell_tri, left, top, size, nx, ny, right_low, right_high, right_tri,
            )  # fmt: skip
            lefts = -1
            if rights >= 0:
                lefts = _envelope(
                    ax, ay, low_a, bx, by, low_b, -ox, -oy, forms, tri_pane, tri_near, tri_far,
                    cell_start, cell_tri, left, top, size, nx, ny, left_low, left_high, left_tri,
                )  # fmt: skip
            if lefts >= 0:
                break
            room *= 2
            left_low, left_high, left_tri = np.empty(room), np.empty(room), np.empty(room, np.int32)
            right_low, right_high, right_tri = np.empty(room), np.empty(room), np.empty(room, np.int32)
        while rows + 2 * (lefts + rights) + 8 > out_piece.size:
            out_piece = grown(out_piece)
            out_from = grown(out_from)
            out_to = grown(out_to)
            out_what = grown(out_what)
            out_behind = grown(out_behind)
            out_left = grown(out_left)
            out_right = grown(out_right)
        base = rows
        i = 0
        j = 0
        at = 0.0
        while i < lefts and j < rights:
            stop = min(left_high[i], right_high[j])
            tl, tr = left_tri[i], right_tri[j]
            if left_high[i] <= stop + 1e-12:
                i += 1
            if right_high[j] <= stop + 1e-12:
                j += 1
            if stop <= at:
                continue
            # How much farther than the line the farther side lies, at either end of the stretch.
            far = True
            turn = stop
            if tl >= 0 and tr >= 0:
                excess_0 = excess_1 = -np.inf
                for side in range(2):
                    g = forms[tl if side == 0 else tr]
                    sx, sy = (-ox, -oy) if side == 0 else (ox, oy)
                    over = _metres(_depth(g, ax + at * dx + sx, ay + at * dy + sy), central) - _metres(az + at * dz, central)
                    excess_0 = max(excess_0, over)
                    over = _metres(_depth(g, ax + stop * dx + sx, ay + stop * dy + sy), central) - _metres(
                        az + stop * dz, central
                    )
                    excess_1 = max(excess_1, over)
                far = excess_0 > outline_depth
                if far != (excess_1 > outline_depth):
                    low, high = at, stop
                    for _ in range(40):
                        middle = 0.5 * (low + high)
                        excess = -np.inf
                        for side in range(2):
                            g = forms[tl if side == 0 else tr]
                            sx, sy = (-ox, -oy) if side == 0 else (ox, oy)
                            z = _depth(g, ax + middle * dx + sx, ay + middle * dy + sy)
                            excess = max(excess, _metres(z, central) - _metres(az + middle * dz, central))
                        if (excess > outline_depth) == far:
                            low = middle
                        else:
                            high = middle
                    turn = low
            for half in range(2):
                begin, finish = (at, turn) if half == 0 else (turn, stop)
                if half == 1:
                    far = not far
                if finish - begin <= 1e-12:
                    continue
                middle = 0.5 * (begin + finish)
                behind = np.inf
                what = EDGE
                if tl >= 0 and tr >= 0:
                    zl = _depth(forms[tl], ax + middle * dx - ox, ay + middle * dy - oy)
                    zr = _depth(forms[tr], ax + middle * dx + ox, ay + middle * dy + oy)
                    behind = _metres(max(zl, zr), central)
                    if not far:
                        even = normal[tl, 0] * normal[tr, 0] + normal[tl, 1] * normal[tr, 1] + normal[tl, 2] * normal[tr, 2]
                        if abs(even) > 0.99995:
                            for k in range(2):
                                t = begin if k == 0 else finish
                                x, y, z = ax + t * dx, ay + t * dy, az + t * dz
                                w = inverse[3, 0] * x + inverse[3, 1] * y + inverse[3, 2] * z + inverse[3, 3]
                                for m in range(3):
                                    ends[k, m] = (inverse[m, 0] * x + inverse[m, 1] * y + inverse[m, 2] * z + inverse[m, 3]) / w
                            lies = True
                            for k in range(2):
                                for t in (tl, tr):
                                    off = (
                                        normal[t, 0] * ends[k, 0] + normal[t, 1] * ends[k, 1] + normal[t, 2] * ends[k, 2]
                                    ) - height[t]
                                    if abs(off) > flush:
                                        lies = False
                            # A face of the line's own that is seen, however narrow, is no flush surface.
                            for side in range(2):
                                if not lies:
                                    break
                                wide = (1.0 if side else -1.0) * HAIR / aside
                                t = _shows(
                                    ax + middle * dx + ox * wide, ay + middle * dy + oy * wide, beside[p, 0], beside[p, 1],
                                    low_a + middle * (low_b - low_a), forms, tri_source, tri_pane, tri_near,
                                    cell_start, cell_tri, left, top, size, nx, ny,
                                )  # fmt: skip
                                if t >= 0:
                                    even = (
                                        normal[tl, 0] * normal[t, 0] + normal[tl, 1] * normal[t, 1] + normal[tl, 2] * normal[t, 2]
                                    )
                                    lies = abs(even) > 0.99995
                            if lies:
                                what = SEAM if tri_alike[tl] == tri_alike[tr] else JOINT
                if far:
                    what = OUTLINE
                part_l = tri_part[tl] if tl >= 0 else -1
                part_r = tri_part[tr] if tr >= 0 else -1
                if rows > base and out_what[rows - 1] == what and out_left[rows - 1] == part_l and out_right[rows - 1] == part_r:
                    out_to[rows - 1] = finish
                    out_behind[rows - 1] = max(out_behind[rows - 1], behind)
                    continue
                out_piece[rows] = p
                out_from[rows] = begin
                out_to[rows] = finish
                out_what[rows] = what
                out_behind[rows] = behind
                out_left[rows] = part_l
                out_right[rows] = part_r
                rows += 1
            at = stop
        # A stretch shorter than the way to either side says more of that way than of the line: its neighbour takes it.
        least = 3.0 * aside / length
        kept = base
        for k in range(base, rows):
            short = out_to[k] - out_from[k] < least
            if kept > base and (
                short
                or (
                    out_what[k] == out_what[kept - 1]
                    and out_left[k] == out_left[kept - 1]
                    and out_right[k] == out_right[kept - 1]
                )
            ):
                out_to[kept - 1] = out_to[k]
                continue
            begin = out_from[k]
            if kept == base + 1 and out_to[base] - out_from[base] < least:
                begin = out_from[base]
                kept = base
            out_piece[kept] = p
            out_from[kept] = begin
            out_to[kept] = out_to[k]
            out_what[kept] = out_what[k]
            out_behind[kept] = out_behind[k]
            out_left[kept] = out_left[k]
            out_right[kept] = out_right[k]
            kept += 1
        rows = kept
        if rows > base:
            out_from[base] = 0.0
            out_to[rows - 1] = 1.0
    return out_piece[:rows], out_from[:rows], out_to[:rows], out_what[:rows], out_behind[:rows], out_left[:rows], out_right[:rows]
