"""The loop that follows a line through the grid and tells what is seen beside it, stretch by stretch."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.kernels import device
from warmgraphite.kernels.arrays import grown
from warmgraphite.kernels.records import F1, I1
from warmgraphite.passes.kernels.planes import between_sides, depth_of

__all__ = ["beam", "envelope", "stretches_for", "wider"]

#: Parameters along a line, and depths, that are one.
SAME = 1e-12
#: Millimetres by which a side of a triangle reaches over, so that two that meet leave no gap.
OVERLAP = 1e-7


class Beam(NamedTuple):
    """A line where it is looked at: from a to b in the frame, by d.
    The depths at its ends from which on something counts; and how it was moved there from where it is.
    """

    ax: float
    ay: float
    az: float
    bx: float
    by: float
    bz: float
    dx: float
    dy: float
    ox: float
    oy: float


class Stretches(NamedTuple):
    """Stretches of a line, parameters from ``low`` to ``high``, and the triangle seen there, −1 for none."""

    low: F1
    high: F1
    triangle: I1


@device()
def stretches_for(room):
    """Room for so many stretches."""
    return Stretches(np.empty(room), np.empty(room), np.empty(room, np.int32))


@device()
def wider(out):
    """Room for twice as many stretches."""
    return Stretches(grown(out.low), grown(out.high), grown(out.triangle))


@device(borrows=True)
def beam(ax, ay, az, bx, by, bz, ox, oy):
    """A line from a to b, looked at moved by o."""
    return Beam(ax + ox, ay + oy, az, bx + ox, by + oy, bz, bx - ax, by - ay, ox, oy)


@device(borrows=True, inline="always")
def _within(line, f, low, high):
    """Of a stretch what lies inside a triangle on paper and not before the line itself; empty as (1, 0)."""
    low, high = between_sides(f, line, low, high, OVERLAP)
    if low >= high:
        return 1.0, 0.0
    ax, ay, bx, by = line.ax, line.ay, line.bx, line.by
    fa = depth_of(f, ax - line.ox, ay - line.oy) - line.az
    fb = depth_of(f, bx - line.ox, by - line.oy) - line.bz
    if fa < 0.0:
        if fb < 0.0:
            return 1.0, 0.0
        low = max(low, fa / (fa - fb))
    elif fb < 0.0:
        high = min(high, fa / (fa - fb))
    return low, high


@device(borrows=True, inline="always")
def _nearer(line, f, g, lo, hi):
    """Of a stretch what a triangle ``f`` lies nearer in than ``g``; empty as (1, 0)."""
    x, y = line.ax + lo * line.dx, line.ay + lo * line.dy
    dl = depth_of(f, x, y) - depth_of(g, x, y)
    x, y = line.ax + hi * line.dx, line.ay + hi * line.dy
    dh = depth_of(f, x, y) - depth_of(g, x, y)
    if dl >= -SAME and dh >= -SAME:
        return 1.0, 0.0
    if dl > 0.0:
        lo = lo + dl / (dl - dh) * (hi - lo)
    elif dh > 0.0:
        hi = lo + dl / (dl - dh) * (hi - lo)
    return lo, hi


@device(borrows=True)
def _take(out, k, count, lo, hi, t):
    """Give a triangle a stretch out of stretch ``k``: (how many there are then, the next one to look at)."""
    lows, highs, tris = out.low, out.high, out.triangle
    old = tris[k]
    before, after = lo - lows[k] > SAME, highs[k] - hi > SAME
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
    return count, k + 1


@device(borrows=True)
def _farthest(line, out, base, count, forms):
    """How deep something may still begin to be seen among stretches ``base`` to ``count``."""
    worst = -np.inf
    for k in range(base, count):
        if out.triangle[k] < 0:
            return np.inf
        g = forms[out.triangle[k]]
        worst = max(
            worst,
            depth_of(g, line.ax + out.low[k] * line.dx, line.ay + out.low[k] * line.dy),
            depth_of(g, line.ax + out.high[k] * line.dx, line.ay + out.high[k] * line.dy),
        )
    return worst


@device(borrows=True)
def _in_cell(line, cell, t0, t1, hiders, grid, out, base):
    """Lay what is seen in a cell, from t0 to t1 along the line, behind ``base`` stretches.
    How many there are, −1 for want of room.
    """
    forms, pane, near, far = hiders.forms, hiders.pane, hiders.near, hiders.far
    lows, highs, tris = out.low, out.high, out.triangle
    room = lows.size
    shallowest = min(line.az, line.bz)
    count = base
    if count + 2 >= room:
        return -1
    lows[count], highs[count], tris[count] = t0, t1, -1
    count += 1
    worst = np.inf
    for n in range(grid.start[cell], grid.start[cell + 1]):
        t = grid.triangle[n]
        if near[t] >= worst:
            break
        if far[t] < shallowest or pane[t]:
            continue
        f = forms[t]
        low, high = _within(line, f, t0, t1)
        if high - low <= SAME:
            continue
        changed = False
        k = base
        while k < count:
            lo, hi = max(lows[k], low), min(highs[k], high)
            if hi - lo > SAME and tris[k] >= 0:
                lo, hi = _nearer(line, f, forms[tris[k]], lo, hi)
            if hi - lo <= SAME:
                k += 1
                continue
            if count + 2 >= room:
                return -1
            changed = True
            count, k = _take(out, k, count, lo, hi, t)
        if changed:
            worst = _farthest(line, out, base, count, forms)
    return count


@device(borrows=True)
def _joined(out, base, count):
    """Unite stretches in place where a triangle goes on.
    It goes on from the cell before, or from one cut by what is not seen any more.
    """
    lows, highs, tris = out.low, out.high, out.triangle
    kept = max(base, 1)
    for k in range(kept, count):
        if tris[k] == tris[kept - 1]:
            highs[kept - 1] = highs[k]
        else:
            lows[kept], highs[kept], tris[kept] = lows[k], highs[k], tris[k]
            kept += 1
    return kept


@device(borrows=True)
def envelope(line, hiders, grid, out):
    """What is seen beside a line, at its depth or behind it.
    Fills in stretches and returns how many, or −1 for want of room.

    Cell by cell along the line, nearest triangles first, until nothing farther can be seen in the cell. A triangle
    counts as nearer by its plane's depth on the line itself, so that a steep face beginning there does not.
    """
    dx, dy = line.dx, line.dy
    ax, ay, left, top, size, nx, ny = line.ax, line.ay, grid.left, grid.top, grid.size, grid.columns, grid.rows
    c = min(max(int(np.floor((ax - left) / size)), 0), nx - 1)
    r = min(max(int(np.floor((ay - top) / size)), 0), ny - 1)
    step_c = 1 if dx > 0 else -1
    step_r = 1 if dy > 0 else -1
    next_x = (left + (c + (1 if dx > 0 else 0)) * size - ax) / dx if abs(dx) > SAME else np.inf
    next_y = (top + (r + (1 if dy > 0 else 0)) * size - ay) / dy if abs(dy) > SAME else np.inf
    per_x = size / abs(dx) if abs(dx) > SAME else np.inf
    per_y = size / abs(dy) if abs(dy) > SAME else np.inf
    count = 0
    t0 = 0.0
    while t0 < 1.0:
        t1 = min(next_x, next_y, 1.0)
        if t1 > t0:
            found = _in_cell(line, r * nx + c, t0, t1, hiders, grid, out, count)
            if found < 0:
                return -1
            count = _joined(out, count, found)
            t0 = t1
        if next_x <= next_y:
            next_x += per_x
            c = min(max(c + step_c, 0), nx - 1)
        else:
            next_y += per_y
            r = min(max(r + step_r, 0), ny - 1)
    return count
