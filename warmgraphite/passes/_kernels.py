"""Compiled inner loops. They release the interpreter lock, so callers run them on threads, chunk by chunk.

The idea in plain words, for each kernel, is in the docstring of the module that calls it.
"""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = [
    "bin_triangles",
    "cross_pairs",
    "lit_points",
    "look_at",
    "rim_pixels",
    "split_edges",
    "subtract_doubles",
    "winding",
]


@njit(nogil=True, cache=True)
def _overlaps_cell(tri, x0, y0, x1, y1):
    """Whether a projected triangle may touch a cell: separating lines along the triangle's sides."""
    for i in range(3):
        j = (i + 1) % 3
        k = (i + 2) % 3
        nx = tri[j, 1] - tri[i, 1]
        ny = tri[i, 0] - tri[j, 0]
        inner = nx * (tri[k, 0] - tri[i, 0]) + ny * (tri[k, 1] - tri[i, 1])
        if inner < 0.0:
            nx = -nx
            ny = -ny
        far = nx * ((x1 if nx > 0 else x0) - tri[i, 0]) + ny * ((y1 if ny > 0 else y0) - tri[i, 1])
        if far < 0.0:
            return False
    return True


@njit(nogil=True, cache=True)
def bin_triangles(tri, order, left, top, size, nx, ny, pad):
    """Cells of a uniform grid with the triangles that touch them, nearest first, as (cell_start, cell_triangle)."""
    cells = nx * ny
    start = np.zeros(cells + 1, np.int64)
    items = np.empty(0, np.int32)
    for sweep in range(2):
        if sweep == 1:
            for c in range(cells):
                start[c + 1] += start[c]
            items = np.empty(start[cells], np.int32)
            fill = start[:cells].copy()
        for n in range(order.size):
            t = order[n]
            x0 = min(tri[t, 0, 0], tri[t, 1, 0], tri[t, 2, 0]) - pad
            x1 = max(tri[t, 0, 0], tri[t, 1, 0], tri[t, 2, 0]) + pad
            y0 = min(tri[t, 0, 1], tri[t, 1, 1], tri[t, 2, 1]) - pad
            y1 = max(tri[t, 0, 1], tri[t, 1, 1], tri[t, 2, 1]) + pad
            c0 = max(0, int(np.floor((x0 - left) / size)))
            c1 = min(nx - 1, int(np.floor((x1 - left) / size)))
            r0 = max(0, int(np.floor((y0 - top) / size)))
            r1 = min(ny - 1, int(np.floor((y1 - top) / size)))
            check = (c1 - c0) * (r1 - r0) > 0
            for r in range(r0, r1 + 1):
                for c in range(c0, c1 + 1):
                    if check and not _overlaps_cell(
                        tri[t],
                        left + c * size - pad,
                        top + r * size - pad,
                        left + (c + 1) * size + pad,
                        top + (r + 1) * size + pad,
                    ):
                        continue
                    cell = r * nx + c
                    if sweep == 0:
                        start[cell + 1] += 1
                    else:
                        items[fill[cell]] = t
                        fill[cell] += 1
    return start, items


@njit(nogil=True, cache=True)
def _grow(array):
    bigger = np.empty(array.size * 2, array.dtype)
    bigger[: array.size] = array
    return bigger


@njit(nogil=True, cache=True)
def _covered(a, b, slack_a, slack_b, tri, touch):
    """The stretch of the edge from a to b that a triangle covers and lies in front of; empty as (1, 0)."""
    area = (tri[1, 0] - tri[0, 0]) * (tri[2, 1] - tri[0, 1]) - (tri[1, 1] - tri[0, 1]) * (tri[2, 0] - tri[0, 0])
    turn = 1.0 if area > 0 else -1.0
    low, high = 0.0, 1.0
    for i in range(3):
        j = (i + 1) % 3
        ex = tri[j, 0] - tri[i, 0]
        ey = tri[j, 1] - tri[i, 1]
        length = np.sqrt(ex * ex + ey * ey)
        if length == 0.0 or abs(area) < touch * length:
            return 1.0, 0.0  # seen edge-on: it covers nothing that can be drawn
        fa = turn * (ex * (a[1] - tri[i, 1]) - ey * (a[0] - tri[i, 0])) / length + touch
        fb = turn * (ex * (b[1] - tri[i, 1]) - ey * (b[0] - tri[i, 0])) / length + touch
        if fa < 0.0 and fb < 0.0:
            return 1.0, 0.0
        if fa < 0.0:
            low = max(low, fa / (fa - fb))
        elif fb < 0.0:
            high = min(high, fa / (fa - fb))
    if low >= high:
        return 1.0, 0.0
    ux, uy, uz = tri[1, 0] - tri[0, 0], tri[1, 1] - tri[0, 1], tri[1, 2] - tri[0, 2]
    vx, vy, vz = tri[2, 0] - tri[0, 0], tri[2, 1] - tri[0, 1], tri[2, 2] - tri[0, 2]
    gx = (uz * vy - uy * vz) / area
    gy = (ux * vz - uz * vx) / area
    fa = a[2] - slack_a - (tri[0, 2] + gx * (a[0] - tri[0, 0]) + gy * (a[1] - tri[0, 1]))
    fb = b[2] - slack_b - (tri[0, 2] + gx * (b[0] - tri[0, 0]) + gy * (b[1] - tri[0, 1]))
    if fa <= 0.0 and fb <= 0.0:
        return 1.0, 0.0
    if fa < 0.0:
        low = max(low, fa / (fa - fb))
    elif fb < 0.0:
        high = min(high, fa / (fa - fb))
    return low, high


@njit(nogil=True, cache=True)
def split_edges(
    first, last, start, end, slack_start, slack_end, beside, tri, tri_source, tri_pane, tri_near,
    cell_start, cell_tri, left, top, size, nx, ny, touch,
):  # fmt: skip
    """Edges ``first`` to ``last`` cut where their visibility changes.

    Returns rows (edge, from, to, hidden, panes): parameters along the edge, and the panes of glass in front.
    """
    seen = np.full(len(tri), -1, np.int32)
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
        a = start[e]
        b = end[e]
        deepest = max(a[2], b[2])
        dx = b[0] - a[0]
        dy = b[1] - a[1]
        length = np.sqrt(dx * dx + dy * dy)
        if length < touch:
            continue
        count = 0
        panes = 0
        buried = False
        r0 = max(0, int(np.floor((min(a[1], b[1]) - touch - top) / size)))
        r1 = min(ny - 1, int(np.floor((max(a[1], b[1]) + touch - top) / size)))
        for r in range(r0, r1 + 1):
            # The stretch of the edge inside this row of cells, a little widened, gives the columns to visit.
            xa = min(a[0], b[0])
            xb = max(a[0], b[0])
            if abs(dy) > 1e-12:
                ta = (top + r * size - touch - a[1]) / dy
                tb = (top + (r + 1) * size + touch - a[1]) / dy
                ta, tb = max(0.0, min(ta, tb)), min(1.0, max(ta, tb))
                if ta > tb:
                    continue
                xa = min(a[0] + ta * dx, a[0] + tb * dx)
                xb = max(a[0] + ta * dx, a[0] + tb * dx)
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
                    if s >= 0 and (s == beside[e, 0] or s == beside[e, 1]):
                        continue
                    low, high = _covered(a, b, slack_start[e], slack_end[e], tri[t], touch)
                    if (high - low) * length <= touch:
                        continue
                    if tri_pane[t]:
                        if panes == pane_low.size:
                            pane_low = _grow(pane_low)
                            pane_high = _grow(pane_high)
                        pane_low[panes] = low
                        pane_high[panes] = high
                        panes += 1
                        continue
                    if low <= 0.0 and high >= 1.0:
                        buried = True
                        break
                    if count == lows.size:
                        lows = _grow(lows)
                        highs = _grow(highs)
                    lows[count] = low
                    highs[count] = high
                    count += 1
                if buried:
                    break
            if buried:
                break
        while rows + 2 * count + 2 * panes + 4 > out_edge.size:
            out_edge = _grow(out_edge)
            out_from = _grow(out_from)
            out_to = _grow(out_to)
            out_hidden = _grow(out_hidden)
            out_panes = _grow(out_panes)
        if buried:
            out_edge[rows] = e
            out_from[rows] = 0.0
            out_to[rows] = 1.0
            out_hidden[rows] = True
            out_panes[rows] = 0
            rows += 1
            continue
        order = np.argsort(lows[:count])
        # Walk along the edge: united hidden stretches, and between them visible ones, split where panes change.
        position = 0.0
        n = 0
        gap = touch / length
        while position < 1.0:
            next_low, next_high = 1.0, 1.0
            if n < count:
                next_low = lows[order[n]]
                next_high = highs[order[n]]
                n += 1
                while n < count and lows[order[n]] <= next_high + gap:
                    next_high = max(next_high, highs[order[n]])
                    n += 1
            if next_low - position > gap:
                marks = np.empty(2 * panes + 2)
                marks[0] = position
                marks[1] = next_low
                used = 2
                for p in range(panes):
                    for value in (pane_low[p], pane_high[p]):
                        if position + gap < value < next_low - gap:
                            marks[used] = value
                            used += 1
                marks = np.sort(marks[:used])
                for m in range(used - 1):
                    if marks[m + 1] - marks[m] <= gap and used > 2:
                        if m + 2 < used:
                            marks[m + 1] = marks[m]
                        continue
                    middle = (marks[m] + marks[m + 1]) / 2
                    through = 0
                    for p in range(panes):
                        if pane_low[p] <= middle <= pane_high[p]:
                            through += 1
                    out_edge[rows] = e
                    out_from[rows] = marks[m]
                    out_to[rows] = marks[m + 1]
                    out_hidden[rows] = False
                    out_panes[rows] = through
                    rows += 1
            if next_low < 1.0:
                out_edge[rows] = e
                out_from[rows] = max(next_low, position)
                out_to[rows] = min(next_high, 1.0)
                out_hidden[rows] = True
                out_panes[rows] = 0
                rows += 1
            position = max(position, next_high)
    return out_edge[:rows], out_from[:rows], out_to[:rows], out_hidden[:rows], out_panes[:rows]


@njit(nogil=True, cache=True)
def winding(points, start, end):
    """Signed and absolute crossings of a ray to the right from each point (N, 2) with directed segments (S, 2)."""
    signed = np.zeros(len(points), np.int64)
    crossed = np.zeros(len(points), np.int64)
    for i in range(len(points)):
        x = points[i, 0]
        y = points[i, 1]
        for s in range(len(start)):
            ay = start[s, 1]
            by = end[s, 1]
            if (ay > y) == (by > y):
                continue
            at = start[s, 0] + (y - ay) / (by - ay) * (end[s, 0] - start[s, 0])
            if at > x:
                crossed[i] += 1
                signed[i] += 1 if by > ay else -1
    return signed, crossed


@njit(nogil=True, cache=True)
def _span(tri, dist, origin, direction):
    """The stretch along a line that a triangle crossing its plane occupies, from signed corner distances."""
    low = np.inf
    high = -np.inf
    for i in range(3):
        j = (i + 1) % 3
        if (dist[i] > 0.0) != (dist[j] > 0.0):
            t = dist[i] / (dist[i] - dist[j])
            value = 0.0
            for k in range(3):
                value += (tri[i, k] + t * (tri[j, k] - tri[i, k]) - origin[k]) * direction[k]
            low = min(low, value)
            high = max(high, value)
    return low, high


@njit(nogil=True, cache=True)
def _near_box(first, low, high, box_low, box_high):
    """Those of the triangles ``first`` whose own box meets a box."""
    kept = np.empty_like(first)
    count = 0
    for n in range(first.size):
        t = first[n]
        if (
            low[t, 0] <= box_high[0] and low[t, 1] <= box_high[1] and low[t, 2] <= box_high[2]
            and high[t, 0] >= box_low[0] and high[t, 1] >= box_low[1] and high[t, 2] >= box_low[2]
        ):  # fmt: skip
            kept[count] = t
            count += 1
    return kept[:count]


@njit(nogil=True, cache=True)
def cross_pairs(tri, low_tri, high_tri, first, second, box_low, box_high, slack):
    """Where the triangles ``first`` and ``second`` (indices) run through each other: rows of (a, b, start, end).

    Möller's interval test ("A fast triangle-triangle intersection test", 1997); corners nearer to the other plane
    than ``slack`` count as touching, so that bodies which only stand on each other give nothing.
    """
    first = _near_box(first, low_tri, high_tri, box_low, box_high)
    second = _near_box(second, low_tri, high_tri, box_low, box_high)
    room = 64
    ia = np.empty(room, np.int32)
    ib = np.empty(room, np.int32)
    ends = np.empty((room, 6))
    rows = 0
    da = np.empty(3)
    db = np.empty(3)
    for m in range(first.size):
        a = tri[first[m]]
        la = low_tri[first[m]]
        ha = high_tri[first[m]]
        na = np.cross(a[1] - a[0], a[2] - a[0])
        size_a = np.sqrt(na[0] ** 2 + na[1] ** 2 + na[2] ** 2)
        if size_a == 0.0:
            continue
        na = na / size_a
        for n in range(second.size):
            lb = low_tri[second[n]]
            hb = high_tri[second[n]]
            if (
                lb[0] > ha[0] or lb[1] > ha[1] or lb[2] > ha[2]
                or hb[0] < la[0] or hb[1] < la[1] or hb[2] < la[2]
            ):  # fmt: skip
                continue
            b = tri[second[n]]
            for i in range(3):
                db[i] = na[0] * (b[i, 0] - a[0, 0]) + na[1] * (b[i, 1] - a[0, 1]) + na[2] * (b[i, 2] - a[0, 2])
            if min(db[0], db[1], db[2]) > -slack or max(db[0], db[1], db[2]) < slack:
                continue
            nb = np.cross(b[1] - b[0], b[2] - b[0])
            size_b = np.sqrt(nb[0] ** 2 + nb[1] ** 2 + nb[2] ** 2)
            if size_b == 0.0:
                continue
            nb = nb / size_b
            for i in range(3):
                da[i] = nb[0] * (a[i, 0] - b[0, 0]) + nb[1] * (a[i, 1] - b[0, 1]) + nb[2] * (a[i, 2] - b[0, 2])
            if min(da[0], da[1], da[2]) > -slack or max(da[0], da[1], da[2]) < slack:
                continue
            line = np.cross(na, nb)
            size = np.sqrt(line[0] ** 2 + line[1] ** 2 + line[2] ** 2)
            if size < 1e-6:
                continue
            line = line / size
            # A point on both planes near the first triangle.
            for i in range(3):
                j = (i + 1) % 3
                if (da[i] > 0.0) != (da[j] > 0.0):
                    t = da[i] / (da[i] - da[j])
                    origin = a[i] + t * (a[j] - a[i])
            low_1, high_1 = _span(a, da, origin, line)
            low_2, high_2 = _span(b, db, origin, line)
            low = max(low_1, low_2)
            high = min(high_1, high_2)
            if high - low <= slack:
                continue
            if rows == ia.size:
                ia = _grow(ia)
                ib = _grow(ib)
                wider = np.empty((2 * rows, 6))
                wider[:rows] = ends
                ends = wider
            ia[rows] = first[m]
            ib[rows] = second[n]
            ends[rows, :3] = origin + low * line
            ends[rows, 3:] = origin + high * line
            rows += 1
    return ia[:rows], ib[:rows], ends[:rows]


@njit(nogil=True, cache=True)
def subtract_doubles(start, end, cell, reach, gap):
    """Pieces (N, 2) in falling strength, each less what stronger ones already draw: rows (piece, from, to).

    Pieces are hashed by direction and distance from the frame's corner; only near neighbours are compared.
    """
    n = len(start)
    keys = np.empty(n, np.int64)
    tables = 1 << 20
    head = np.full(tables, -1, np.int32)
    link = np.full(n, -1, np.int32)
    room = n + 64
    out_piece = np.empty(room, np.int32)
    out_from = np.empty(room)
    out_to = np.empty(room)
    rows = 0
    for i in range(n):
        dx = end[i, 0] - start[i, 0]
        dy = end[i, 1] - start[i, 1]
        length = np.sqrt(dx * dx + dy * dy)
        if length <= 0.0:
            keys[i] = -1
            continue
        ux, uy = dx / length, dy / length
        if ux < 0 or (ux == 0 and uy < 0):
            ux, uy = -ux, -uy
        # A midpoint and a direction fix the line; the direction's own error grows with 1/length, hence coarse bins.
        mx = (start[i, 0] + end[i, 0]) / 2
        my = (start[i, 1] + end[i, 1]) / 2
        angle = int(np.floor(np.arctan2(uy, ux) / 0.01))
        offset = int(np.floor((mx * -uy + my * ux) / cell))
        lows = np.empty(16)
        highs = np.empty(16)
        count = 0
        for da in range(-1, 2):
            for do in range(-1, 2):
                slot = ((angle + da) * 73856093 ^ (offset + do) * 19349663) & (tables - 1)
                j = head[slot]
                while j >= 0:
                    # Distance of the stronger piece's ends from this piece's line, and its stretch along it.
                    near = True
                    p0 = (start[j, 0] - start[i, 0]) * dx + (start[j, 1] - start[i, 1]) * dy
                    p1 = (end[j, 0] - start[i, 0]) * dx + (end[j, 1] - start[i, 1]) * dy
                    q0 = (start[j, 0] - start[i, 0]) * -dy + (start[j, 1] - start[i, 1]) * dx
                    q1 = (end[j, 0] - start[i, 0]) * -dy + (end[j, 1] - start[i, 1]) * dx
                    p0 /= length * length
                    p1 /= length * length
                    q0 /= length
                    q1 /= length
                    if p0 > p1:
                        p0, p1 = p1, p0
                        q0, q1 = q1, q0
                    low = max(0.0, p0)
                    high = min(1.0, p1)
                    if (high - low) * length > gap and p1 > p0:
                        # Only where both run together within reach.
                        ql = q0 + (q1 - q0) * (low - p0) / (p1 - p0)
                        qh = q0 + (q1 - q0) * (high - p0) / (p1 - p0)
                        near = abs(ql) <= reach and abs(qh) <= reach
                        if near:
                            if count == lows.size:
                                lows = _grow(lows)
                                highs = _grow(highs)
                            lows[count] = low
                            highs[count] = high
                            count += 1
                    j = link[j]
        slot = (angle * 73856093 ^ offset * 19349663) & (tables - 1)
        link[i] = head[slot]
        head[slot] = i
        order = np.argsort(lows[:count])
        position = 0.0
        while rows + count + 2 > out_piece.size:
            out_piece = _grow(out_piece)
            out_from = _grow(out_from)
            out_to = _grow(out_to)
        for k in range(count):
            low = lows[order[k]]
            if (low - position) * length > gap:
                out_piece[rows] = i
                out_from[rows] = position
                out_to[rows] = low
                rows += 1
            position = max(position, highs[order[k]])
        if (1.0 - position) * length > gap:
            out_piece[rows] = i
            out_from[rows] = position
            out_to[rows] = 1.0
            rows += 1
    return out_piece[:rows], out_from[:rows], out_to[:rows]


@njit(nogil=True, cache=True)
def look_at(points, tri, tri_pane, tri_glass, tri_near, cell_start, cell_tri, left, top, size, nx, ny):
    """At each frame point (N, 2): the nearest triangle that is no pane, its depth, and whether glass lies before it."""
    found = np.full(len(points), -1, np.int32)
    depth = np.full(len(points), np.inf)
    glass = np.zeros(len(points), np.bool_)
    for i in range(len(points)):
        x = points[i, 0]
        y = points[i, 1]
        c = min(max(int(np.floor((x - left) / size)), 0), nx - 1)
        r = min(max(int(np.floor((y - top) / size)), 0), ny - 1)
        cell = r * nx + c
        pane = np.inf
        for n in range(cell_start[cell], cell_start[cell + 1]):
            t = cell_tri[n]
            if tri_near[t] >= depth[i]:
                break
            ux, uy = tri[t, 1, 0] - tri[t, 0, 0], tri[t, 1, 1] - tri[t, 0, 1]
            vx, vy = tri[t, 2, 0] - tri[t, 0, 0], tri[t, 2, 1] - tri[t, 0, 1]
            area = ux * vy - uy * vx
            if area == 0.0:
                continue
            px, py = x - tri[t, 0, 0], y - tri[t, 0, 1]
            p = (px * vy - py * vx) / area
            q = (ux * py - uy * px) / area
            if p < -1e-9 or q < -1e-9 or p + q > 1.0 + 1e-9:
                continue
            z = tri[t, 0, 2] + p * (tri[t, 1, 2] - tri[t, 0, 2]) + q * (tri[t, 2, 2] - tri[t, 0, 2])
            if tri_pane[t]:
                if tri_glass[t]:
                    pane = min(pane, z)
            elif z < depth[i]:
                depth[i] = z
                found[i] = t
        glass[i] = pane < depth[i]
    return found, depth, glass


@njit(nogil=True, cache=True)
def lit_points(points, triangle, frame, normal, source, inverse, eye, sight, central, model_corner, smooth, ray, lift, middle):
    """For frame points (N, 2) on triangles: start of the sun ray (float32, lifted), how the face and its curve face the sun.

    ``facing`` is the flat normal's cosine to the sun, −2 where nothing or a cut is seen; ``tone`` the smooth normal's.
    """
    n = len(points)
    start = np.zeros((n, 3), np.float32)
    facing = np.full(n, -2.0, np.float32)
    tone = np.zeros(n, np.float32)
    for i in range(n):
        t = triangle[i]
        if t < 0 or source[t] < 0:
            continue
        a = frame[t, 0]
        ux, uy = frame[t, 1, 0] - a[0], frame[t, 1, 1] - a[1]
        vx, vy = frame[t, 2, 0] - a[0], frame[t, 2, 1] - a[1]
        area = ux * vy - uy * vx
        if area == 0.0:
            continue
        px, py = points[i, 0] - a[0], points[i, 1] - a[1]
        p = (px * vy - py * vx) / area
        q = (ux * py - uy * px) / area
        z = a[2] + p * (frame[t, 1, 2] - a[2]) + q * (frame[t, 2, 2] - a[2])
        w = inverse[3, 0] * points[i, 0] + inverse[3, 1] * points[i, 1] + inverse[3, 2] * z + inverse[3, 3]
        at = np.empty(3)
        for k in range(3):
            at[k] = (inverse[k, 0] * points[i, 0] + inverse[k, 1] * points[i, 1] + inverse[k, 2] * z + inverse[k, 3]) / w
        away = 0.0
        for k in range(3):
            away += normal[t, k] * ((at[k] - eye[k]) if central else sight[k])
        turn = -1.0 if away > 0 else 1.0
        # Where the point lies on the whole triangle that this one was cut from.
        corner = model_corner[source[t]]
        uu = uv = vv = wu = wv = 0.0
        for k in range(3):
            u = corner[1, k] - corner[0, k]
            v = corner[2, k] - corner[0, k]
            d = at[k] - corner[0, k]
            uu += u * u
            uv += u * v
            vv += v * v
            wu += d * u
            wv += d * v
        det = uu * vv - uv * uv
        if det <= 0.0:
            continue
        b1 = min(max((vv * wu - uv * wv) / det, 0.0), 1.0)
        b2 = min(max((uu * wv - uv * wu) / det, 0.0), 1.0)
        b0 = max(1.0 - b1 - b2, 0.0)
        length = 0.0
        flat = 0.0
        bent = 0.0
        for k in range(3):
            s = b0 * smooth[source[t], 0, k] + b1 * smooth[source[t], 1, k] + b2 * smooth[source[t], 2, k]
            length += s * s
            bent += s * ray[k]
            flat += normal[t, k] * ray[k]
            start[i, k] = at[k] + turn * normal[t, k] * lift - middle[k]
        facing[i] = turn * flat
        tone[i] = turn * bent / np.sqrt(max(length, 1e-30))
    return start, facing, tone


@njit(nogil=True, cache=True)
def rim_pixels(code, triangle, normal, bend):
    """(h, w) pixels beside one with another code, or whose surface faces more than ``bend`` (per axis) another way."""
    height, width = code.shape
    rim = np.zeros((height, width), np.bool_)
    for r in range(height):
        for c in range(width):
            for step in range(2):
                r2 = r + step
                c2 = c + 1 - step
                if r2 >= height or c2 >= width:
                    continue
                differ = code[r, c] != code[r2, c2]
                if not differ:
                    s = triangle[r, c]
                    t = triangle[r2, c2]
                    if s >= 0 and t >= 0 and s != t:
                        for k in range(3):
                            if abs(normal[s, k] - normal[t, k]) > bend:
                                differ = True
                if differ:
                    rim[r, c] = True
                    rim[r2, c2] = True
    return rim
