"""Loops that tell what lies before an edge."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, sort_stretches
from warmgraphite.kernels.records import B1, F1, I1
from warmgraphite.passes.kernels.planes import between_sides
from warmgraphite.passes.kernels.records import Grid, Hiders, Pieces

__all__ = ["split_edges"]

#: Parameters along an edge that are one.
SAME = 1e-12
#: A stretch so short before a hidden one, as a parameter, is the rounding of where that begins.
ROUNDING = 1e-9
#: A way across rows of cells so short, in millimetres, runs along one.
LEVEL = 1e-12


class Edge(NamedTuple):
    """An edge from a to b, as deep as what may still hide it, and the model's triangles that it bounds."""

    ax: float
    ay: float
    az: float
    bx: float
    by: float
    bz: float
    own_0: int
    own_1: int


class Stretches(NamedTuple):
    """Stretches of an edge, parameters from ``low`` to ``high``."""

    low: F1
    high: F1


class Split(NamedTuple):
    """Rows (edge, begin, end, hidden, panes)."""

    edge: I1
    begin: F1
    end: F1
    hidden: B1
    panes: I1


@device()
def _with_room(out, rows):
    """The same with room for so many rows."""
    while rows > out.edge.size:
        out = Split(grown(out.edge), grown(out.begin), grown(out.end), grown(out.hidden), grown(out.panes))
    return out


@device(borrows=True)
def _put(out, row, edge, begin, end, hidden, panes):
    """Fill in a row; returns the number of the next."""
    out.edge[row] = edge
    out.begin[row] = begin
    out.end[row] = end
    out.hidden[row] = hidden
    out.panes[row] = panes
    return row + 1


@device(borrows=True)
def _covered(edge, f, touch):
    """The stretch of an edge that a triangle covers and lies in front of; empty as (1, 0)."""
    low, high = between_sides(f, edge, 0.0, 1.0, touch)
    if low >= high:
        return 1.0, 0.0
    fa = edge.az - (f[9] * edge.ax + f[10] * edge.ay + f[12])
    fb = edge.bz - (f[9] * edge.bx + f[10] * edge.by + f[12])
    if fa <= 0.0:
        if fb <= 0.0:
            return 1.0, 0.0
        low = max(low, fa / (fa - fb))
    elif fb < 0.0:
        high = min(high, fa / (fa - fb))
    return low, high


@device(borrows=True)
def _columns_in(edge, r, many, grid, touch):
    """The columns of a row of cells that an edge crosses, a little widened; none as (1, 0)."""
    ax, ay, bx, by = edge.ax, edge.ay, edge.bx, edge.by
    dx, dy = bx - ax, by - ay
    xa, xb = min(ax, bx), max(ax, bx)
    if many and abs(dy) > LEVEL:
        ta = (grid.top + r * grid.size - touch - ay) / dy
        tb = (grid.top + (r + 1) * grid.size + touch - ay) / dy
        ta, tb = max(0.0, min(ta, tb)), min(1.0, max(ta, tb))
        if ta > tb:
            return 1, 0
        xa = min(ax + ta * dx, ax + tb * dx)
        xb = max(ax + ta * dx, ax + tb * dx)
    c0 = max(0, int(np.floor((xa - touch - grid.left) / grid.size)))
    c1 = min(grid.columns - 1, int(np.floor((xb + touch - grid.left) / grid.size)))
    return c0, c1


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device()
def _hiding(e, edge, length, hiders, grid, touch, seen, hidden, panes):
    """What hides an edge, and what panes stand before it.
    (how many of each, whether it is hidden whole, both with room).
    """
    forms, source, pane, near = hiders.forms, hiders.source, hiders.pane, hiders.near
    begin_of, triangle = grid.start, grid.triangle
    deepest = max(edge.az, edge.bz)
    count = glass = 0
    front, back = 0.0, 1.0
    r0 = max(0, int(np.floor((min(edge.ay, edge.by) - touch - grid.top) / grid.size)))
    r1 = min(grid.rows - 1, int(np.floor((max(edge.ay, edge.by) + touch - grid.top) / grid.size)))
    for r in range(r0, r1 + 1):
        c0, c1 = _columns_in(edge, r, r1 > r0, grid, touch)
        for cell in range(r * grid.columns + c0, r * grid.columns + c1 + 1):
            for n in range(begin_of[cell], begin_of[cell + 1]):
                t = triangle[n]
                if near[t] >= deepest:
                    break
                if seen[t] == e:
                    continue
                seen[t] = e
                s = source[t]
                if s >= 0 and s in (edge.own_0, edge.own_1):
                    continue
                low, high = _covered(edge, forms[t], touch)
                if (high - low) * length <= touch:
                    continue
                if pane[t]:
                    if glass == panes.low.size:
                        panes = Stretches(grown(panes.low), grown(panes.high))
                    panes.low[glass], panes.high[glass] = low, high
                    glass += 1
                    continue
                if count == hidden.low.size:
                    hidden = Stretches(grown(hidden.low), grown(hidden.high))
                hidden.low[count], hidden.high[count] = low, high
                count += 1
                if low <= front:
                    front = max(front, high)
                if high >= back:
                    back = min(back, low)
                if front >= back:
                    return count, glass, True, hidden, panes
    return count, glass, False, hidden, panes


@device()
def _united(low, high, count, gap):
    """Hidden stretches put in order and united in place, those left too short to see given up; how many are left."""
    if count == 0:
        return 0
    sort_stretches(low, high, count)
    united = 0
    for k in range(1, count):
        if low[k] <= high[united] + gap:
            high[united] = max(high[united], high[k])
        else:
            united += 1
            low[united], high[united] = low[k], high[k]
    kept = 0
    for k in range(united + 1):
        within = low[k] > 0.0 and high[k] < 1.0
        if not (within and high[k] - low[k] < gap):
            low[kept], high[kept] = low[k], high[k]
            kept += 1
    return kept


@device()
def _visible(out, rows, e, at, until, gap, panes, glass):
    """Add rows for a visible stretch, split where the panes before it change; returns the rows with room for more."""
    begin = at
    while at < until:
        stop = until
        through = 0
        for p in range(glass):
            if panes.low[p] <= at + SAME and panes.high[p] > at + SAME:
                through += 1
                stop = min(stop, panes.high[p])
            elif panes.low[p] > at + SAME:
                stop = min(stop, panes.low[p])
        if until - stop < ROUNDING:
            stop = until
        # Where two triangles of one pane meet, both cover a hair's breadth: what is on either side counts.
        if stop - at < gap and stop < until:
            at = stop
            continue
        rows = _put(out, rows, e, begin, stop, False, through)
        at = begin = stop
        out = _with_room(out, rows + 4)
    return out, rows


@kernel()
def split_edges(
    first: int, last: int, pieces: Pieces, hiders: Hiders, grid: Grid, touch: float, least: float, seen: I1
):  # fmt: skip
    """Edges ``first`` to ``last`` cut where their visibility changes.

    Returns rows (edge, from, to, hidden, panes): parameters along the edge, and the panes of glass in front. ``least``
    millimetres is the shortest stretch between two of the other kind that counts; ``seen`` (T,) is the thread's own
    memory of the edge that last met each triangle. Plainly: an edge is hidden where a triangle that it does not bound
    covers it on paper and lies nearer there.
    """
    hidden = Stretches(np.empty(64), np.empty(64))
    panes = Stretches(np.empty(64), np.empty(64))
    room = 4 * (last - first) + 64
    out = Split(
        np.empty(room, np.int32), np.empty(room), np.empty(room), np.empty(room, np.bool_), np.empty(room, np.int32)
    )  # fmt: skip
    rows = 0
    start, end, slack_a, slack_b, beside = pieces  # out of the record once: each time would be counted
    for e in range(first, last):
        az, bz = start[e, 2] - slack_a[e], end[e, 2] - slack_b[e]
        edge = Edge(start[e, 0], start[e, 1], az, end[e, 0], end[e, 1], bz, beside[e, 0], beside[e, 1])
        dx, dy = edge.bx - edge.ax, edge.by - edge.ay
        length = np.sqrt(dx * dx + dy * dy)
        if length < touch:
            continue
        count, glass, buried, hidden, panes = _hiding(e, edge, length, hiders, grid, touch, seen, hidden, panes)
        out = _with_room(out, rows + 2 * count + 2 * glass + 4)
        if buried:
            rows = _put(out, rows, e, 0.0, 1.0, True, 0)
            continue
        gap = least / length
        united = _united(hidden.low, hidden.high, count, gap)
        # Along the edge: hidden stretches, and between them visible ones.
        position = 0.0
        for k in range(united + 1):
            low = hidden.low[k] if k < united else 1.0
            high = hidden.high[k] if k < united else 1.0
            if low > position:
                out, rows = _visible(out, rows, e, position, low, gap, panes, glass)
            if low < 1.0:
                rows = _put(out, rows, e, max(low, position), min(high, 1.0), True, 0)
            position = max(position, high)
    return out.edge[:rows], out.begin[:rows], out.end[:rows], out.hidden[:rows], out.panes[:rows]
