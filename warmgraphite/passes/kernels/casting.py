"""Loops that follow the edges of what stands in the light to where their shadow falls."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, grown_rows
from warmgraphite.kernels.records import F2
from warmgraphite.passes.kernels.nearest import beam, envelope, stretches_for, wider
from warmgraphite.passes.kernels.planes import depth_of
from warmgraphite.passes.kernels.records import Grid, Hiders

__all__ = ["fallen", "tone_lines"]


@device(borrows=True)
def _deeper(f, piece, low, high, slack):
    """Of a stretch of a piece (a, d) what a triangle lies behind.
    Empty as (1, 0), also where it is nowhere deeper than ``slack``.
    """
    ax, ay, az, dx, dy, dz = piece
    deep_low = depth_of(f, ax + low * dx, ay + low * dy) - (az + low * dz)
    deep_high = depth_of(f, ax + high * dx, ay + high * dy) - (az + high * dz)
    if max(deep_low, deep_high) <= slack:
        return 1.0, 0.0
    if deep_low < 0.0:
        low += deep_low / (deep_low - deep_high) * (high - low)
    elif deep_high < 0.0:
        high = low + deep_low / (deep_low - deep_high) * (high - low)
    return low, high


@kernel()
def fallen(first: int, last: int, a: F2, b: F2, slack: float, hiders: Hiders, grid: Grid, aside: float):
    """Where pieces ``first`` to ``last``, from a to b (N, 3) in the sun's frame, fall.
    Rows (piece, from, to, triangle).

    On either side of a piece the first triangle beyond it is looked for, ``aside`` millimetres away; where it lies
    deeper than the piece by more than ``slack``, the edge of the shadow runs over it.
    """
    found = stretches_for(64)
    size_out = 2 * (last - first) + 64
    out_piece = np.empty(size_out, np.int32)
    out_from = np.empty(size_out)
    out_to = np.empty(size_out)
    out_tri = np.empty(size_out, np.int32)
    rows = 0
    for p in range(first, last):
        ax, ay, az = a[p, 0], a[p, 1], a[p, 2]
        bx, by, bz = b[p, 0], b[p, 1], b[p, 2]
        dx, dy, dz = bx - ax, by - ay, bz - az
        length = np.sqrt(dx * dx + dy * dy)
        if length < aside:
            continue
        for side in range(2):
            way = (1.0 if side else -1.0) * aside / length
            looked = beam(ax, ay, az - slack, bx, by, bz - slack, -dy * way, dx * way)
            count = envelope(looked, hiders, grid, found)
            while count < 0:
                found = wider(found)
                count = envelope(looked, hiders, grid, found)
            for k in range(count):
                t = found.triangle[k]
                if t < 0:
                    continue
                low, high = _deeper(hiders.forms[t], (ax, ay, az, dx, dy, dz), found.low[k], found.high[k], slack)
                if high <= low:
                    continue
                if rows == out_piece.size:
                    out_piece, out_tri = grown(out_piece), grown(out_tri)
                    out_from, out_to = grown(out_from), grown(out_to)
                out_piece[rows] = p
                out_from[rows] = low
                out_to[rows] = high
                out_tri[rows] = t
                rows += 1
    return out_piece[:rows], out_from[:rows], out_to[:rows], out_tri[:rows]


@kernel("f8[:,:,::1], f8[:,::1], f8[::1], i8, i8")
def tone_lines(corners, tone, levels, first, last):
    """Where an even tone (T, 3) of corners crosses ``levels`` on triangles ``first`` to ``last``.
    Ends (N, 3), triangle.
    """
    room = 64
    start = np.empty((room, 3))
    end = np.empty((room, 3))
    row = np.empty(room, np.int32)
    rows = 0
    at = np.empty((2, 3))
    for t in range(first, last):
        low = min(tone[t, 0], tone[t, 1], tone[t, 2])
        high = max(tone[t, 0], tone[t, 1], tone[t, 2])
        for level in levels:
            if not low < level < high:
                continue
            found = 0
            for i in range(3):
                j = (i + 1) % 3
                u, v = tone[t, i] - level, tone[t, j] - level
                if (u > 0.0) != (v > 0.0) and found < 2:
                    for m in range(3):
                        at[found, m] = corners[t, i, m] + u / (u - v) * (corners[t, j, m] - corners[t, i, m])
                    found += 1
            if found < 2:
                continue
            if rows == row.size:
                start, end, row = grown_rows(start, 2 * rows), grown_rows(end, 2 * rows), grown(row)
            for m in range(3):
                start[rows, m], end[rows, m] = at[0, m], at[1, m]
            row[rows] = t
            rows += 1
    return start[:rows], end[:rows], row[:rows]
