"""Loops that lay the triangles of a scene into a grid over the frame, and look through it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NO_SIZE
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import order_of
from warmgraphite.kernels.records import B1, F1, F2, F3, W1
from warmgraphite.passes.kernels.planes import depth_of, is_on
from warmgraphite.passes.kernels.records import Grid

__all__ = ["Prepared", "clip_segments", "lay_in_cells", "look_at", "panes_at", "prepare_triangles", "sort_cells"]


class Prepared(NamedTuple):
    """Triangles (T) in a frame.
    Corners, nearest and farthest depth, unit normal, and the linear forms that tests read.
    """

    frame: F3
    near: F1
    far: F1
    normal: F2
    forms: F2


@kernel()
def prepare_triangles(corners: F3, matrix: F2, central: bool, touch: float, first: int, last: int, out: Prepared):
    """Fill in, for triangles ``first`` to ``last``.
    Frame corners, nearest and farthest depth, unit normal, and what tests read.

    ``forms`` (T, 13): for each side a, b, c with a x + b y + c the millimetres inside it; then the depth as a x + b y +
    c, and another c with which a steep face lies as much deeper as it does within ``touch``: what it hides, it hides
    surely. A triangle seen edge-on, lower than ``touch``, covers nothing that can be drawn: its nearest depth is
    infinite.
    """
    frame, near, far, normal, forms = out
    for t in range(first, last):
        for i in range(3):
            p = corners[t, i]
            x = matrix[0, 0] * p[0] + matrix[0, 1] * p[1] + matrix[0, 2] * p[2] + matrix[0, 3]
            y = matrix[1, 0] * p[0] + matrix[1, 1] * p[1] + matrix[1, 2] * p[2] + matrix[1, 3]
            z = matrix[2, 0] * p[0] + matrix[2, 1] * p[1] + matrix[2, 2] * p[2] + matrix[2, 3]
            if central:
                w = matrix[3, 0] * p[0] + matrix[3, 1] * p[1] + matrix[3, 2] * p[2] + matrix[3, 3]
                x, y, z = x / w, y / w, z / w
            frame[t, i, 0], frame[t, i, 1], frame[t, i, 2] = x, y, z
        a, b, c = corners[t, 0], corners[t, 1], corners[t, 2]
        ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        size = max(np.sqrt(nx * nx + ny * ny + nz * nz), NO_SIZE)
        normal[t, 0], normal[t, 1], normal[t, 2] = nx / size, ny / size, nz / size

        f = frame[t]
        ux, uy, uz = f[1, 0] - f[0, 0], f[1, 1] - f[0, 1], f[1, 2] - f[0, 2]
        vx, vy, vz = f[2, 0] - f[0, 0], f[2, 1] - f[0, 1], f[2, 2] - f[0, 2]
        area = ux * vy - uy * vx
        turn = 1.0 if area > 0 else -1.0
        near[t] = min(f[0, 2], f[1, 2], f[2, 2])
        far[t] = max(f[0, 2], f[1, 2], f[2, 2])
        for i in range(3):
            j = (i + 1) % 3
            ex, ey = f[j, 0] - f[i, 0], f[j, 1] - f[i, 1]
            length = np.sqrt(ex * ex + ey * ey)
            if abs(area) <= touch * length or length == 0.0:
                near[t] = np.inf
                break
            forms[t, 3 * i] = -turn * ey / length
            forms[t, 3 * i + 1] = turn * ex / length
            forms[t, 3 * i + 2] = turn * (ey * f[i, 0] - ex * f[i, 1]) / length
        if near[t] < np.inf:
            gx = (uz * vy - uy * vz) / area
            gy = (ux * vz - uz * vx) / area
            forms[t, 9], forms[t, 10], forms[t, 11] = gx, gy, f[0, 2] - gx * f[0, 0] - gy * f[0, 1]
            forms[t, 12] = forms[t, 11] + 2.0 * touch * np.sqrt(gx * gx + gy * gy)


@device()
def _misses(form, x0, y0, x1, y1):
    """Whether a cell lies wholly beyond one side of a triangle."""
    for i in range(0, 9, 3):
        a, b = form[i], form[i + 1]
        if a * (x1 if a > 0 else x0) + b * (y1 if b > 0 else y0) + form[i + 2] < 0.0:
            return True
    return False


@device()
def _cells_of(f, grid, pad):
    """The rows and columns of cells that a triangle's box touches."""
    left, top, size, nx, ny = grid.left, grid.top, grid.size, grid.columns, grid.rows
    c0 = max(0, int(np.floor((min(f[0, 0], f[1, 0], f[2, 0]) - pad - left) / size)))
    c1 = min(nx - 1, int(np.floor((max(f[0, 0], f[1, 0], f[2, 0]) + pad - left) / size)))
    r0 = max(0, int(np.floor((min(f[0, 1], f[1, 1], f[2, 1]) - pad - top) / size)))
    r1 = min(ny - 1, int(np.floor((max(f[0, 1], f[1, 1], f[2, 1]) + pad - top) / size)))
    return c0, c1, r0, r1


@kernel()
def lay_in_cells(laid: Prepared, grid: Grid, pad: float, first: int, last: int, at: W1):
    """Lay the triangles ``first`` to ``last`` into the cells they touch.
    Each at the place ``at`` (cells,), which moves on.

    With no room for triangles in the grid nothing is written: ``at``, begun at 0, then tells how many touch each cell.
    """
    frame, near, forms, items = laid.frame, laid.near, laid.forms, grid.triangle
    left, top, size, nx = grid.left, grid.top, grid.size, grid.columns
    for t in range(first, last):
        if near[t] == np.inf:
            continue
        c0, c1, r0, r1 = _cells_of(frame[t], grid, pad)
        check = c1 > c0 and r1 > r0
        for r in range(r0, r1 + 1):
            y0 = top + r * size - pad
            for c in range(c0, c1 + 1):
                x0 = left + c * size - pad
                if not (check and _misses(forms[t], x0, y0, x0 + size + 2 * pad, y0 + size + 2 * pad)):
                    cell = r * nx + c
                    if items.size:
                        items[at[cell]] = t
                    at[cell] += 1


@kernel()
def sort_cells(grid: Grid, near: F1, first: int, last: int):
    """Put the triangles of cells ``first`` to ``last`` in the order of their nearest depth."""
    start, items = grid.start, grid.triangle
    for c in range(first, last):
        n = start[c + 1] - start[c]
        own = items[start[c] : start[c + 1]]
        if n > 40:
            depth = np.empty(n)
            for k in range(n):
                depth[k] = near[own[k]]
            order, then = order_of(depth), own.copy()
            for k in range(n):
                own[k] = then[order[k]]
            continue
        for i in range(1, n):
            t = own[i]
            z = near[t]
            j = i - 1
            while j >= 0 and near[own[j]] > z:
                own[j + 1] = own[j]
                j -= 1
            own[j + 1] = t


@device(inline="always")
def _cell_at(grid, x, y):
    """The cell that a place on paper lies in; the nearest where it lies beyond all."""
    c = min(max(int(np.floor((x - grid.left) / grid.size)), 0), grid.columns - 1)
    r = min(max(int(np.floor((y - grid.top) / grid.size)), 0), grid.rows - 1)
    return r * grid.columns + c


@kernel()
def look_at(points: F2, forms: F2, pane: B1, glass: B1, near: F1, grid: Grid):
    """At each frame point (N, 2): the nearest triangle that is no pane, its depth, and whether glass lies before it."""
    found = np.full(len(points), -1, np.int32)
    depth = np.full(len(points), np.inf)
    behind = np.zeros(len(points), np.bool_)
    start, triangle = grid.start, grid.triangle
    for i in range(len(points)):
        x, y = points[i, 0], points[i, 1]
        cell = _cell_at(grid, x, y)
        front = np.inf
        for n in range(start[cell], start[cell + 1]):
            t = triangle[n]
            if near[t] >= depth[i]:
                break
            f = forms[t]
            if not is_on(f, x, y):
                continue
            z = depth_of(f, x, y)
            if pane[t]:
                if glass[t]:
                    front = min(front, z)
            elif z < depth[i]:
                depth[i] = z
                found[i] = t
        behind[i] = front < depth[i]
    return found, depth, behind


@kernel()
def panes_at(points: F2, depth: F1, forms: F2, glass: B1, near: F1, grid: Grid):
    """How many panes of glass lie before a depth (N,) at frame points (N, 2)."""
    found = np.zeros(len(points), np.uint8)
    start, triangle = grid.start, grid.triangle
    for i in range(len(points)):
        x, y = points[i, 0], points[i, 1]
        cell = _cell_at(grid, x, y)
        for n in range(start[cell], start[cell + 1]):
            t = triangle[n]
            if near[t] >= depth[i]:
                break
            f = forms[t]
            if (
                glass[t]
                and f[0] * x + f[1] * y + f[2] >= 0.0
                and f[3] * x + f[4] * y + f[5] >= 0.0
                and f[6] * x + f[7] * y + f[8] >= 0.0
                and f[9] * x + f[10] * y + f[11] < depth[i]
                and found[i] < 255
            ):
                found[i] += 1
    return found


@kernel()
def clip_segments(start: F2, end: F2, normal: F2, offset: F1, first: int, last: int, kept: B1):
    """Shorten segments ``first`` to ``last`` (N, 3), in place, to where normal · p ≤ offset for every plane.
    ``kept`` says of which something is left.
    """
    for s in range(first, last):
        kept[s] = True
        for k in range(len(offset)):
            a = normal[k, 0] * start[s, 0] + normal[k, 1] * start[s, 1] + normal[k, 2] * start[s, 2] - offset[k]
            b = normal[k, 0] * end[s, 0] + normal[k, 1] * end[s, 1] + normal[k, 2] * end[s, 2] - offset[k]
            if a > 0.0 and b > 0.0:
                kept[s] = False
                break
            if (a > 0.0) != (b > 0.0):
                t = a / (a - b)
                for m in range(3):
                    at = start[s, m] + t * (end[s, m] - start[s, m])
                    if a > 0.0:
                        start[s, m] = at
                    else:
                        end[s, m] = at
