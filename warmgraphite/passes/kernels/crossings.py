"""Loops that find where triangles run through each other."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NO_SIZE
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown_rows
from warmgraphite.kernels.records import B1, B2, F1, F2, I1, I2, W1

__all__ = ["LEAF", "Boxes", "Faces", "box_tree", "crossings", "morton_codes", "triangle_boxes"]

#: Triangles in a leaf of the tree of boxes.
LEAF = 4
#: Sine of the angle below which planes meet in no line that could be told.
PARALLEL = 1e-6


@kernel("f8[:,::1], i4[:,::1], f8[:,::1], f8[:,::1], i8, i8")
def triangle_boxes(points, triangles, low, high, first, last):
    """Fill in the boxes (T, 3) of triangles ``first`` to ``last``."""
    for t in range(first, last):
        for k in range(3):
            a, b, c = points[triangles[t, 0], k], points[triangles[t, 1], k], points[triangles[t, 2], k]
            low[t, k] = min(a, b, c)
            high[t, k] = max(a, b, c)


@kernel("f8[:,::1], f8[:,::1], f8[::1], f8")
def morton_codes(low, high, corner, size):
    """(T,) the place of each box along a curve that fills space, so that neighbours in it are neighbours in space."""
    n = len(low)
    found = np.empty(n, np.uint64)
    scale = (2**20 - 1) / max(size, NO_SIZE)
    for t in range(n):
        code = np.uint64(0)
        for k in range(3):
            v = np.uint64(min(max(((low[t, k] + high[t, k]) / 2 - corner[k]) * scale, 0.0), 1048575.0))
            v = (v | (v << np.uint64(32))) & np.uint64(0x1F00000000FFFF)
            v = (v | (v << np.uint64(16))) & np.uint64(0x1F0000FF0000FF)
            v = (v | (v << np.uint64(8))) & np.uint64(0x100F00F00F00F00F)
            v = (v | (v << np.uint64(4))) & np.uint64(0x10C30C30C30C30C3)
            v = (v | (v << np.uint64(2))) & np.uint64(0x1249249249249249)
            code |= v << np.uint64(k)
        found[t] = code
    return found


@kernel("f8[:,::1], f8[:,::1], i4[::1]")
def box_tree(low, high, order):
    """Boxes over stretches of ``order``.
    Leaves of LEAF triangles first, then level by level the boxes of two neighbours.

    Returns (boxes (N, 6) low and high corners, where each level begins).
    """
    levels = np.zeros(40, np.int64)
    width = (order.size + LEAF - 1) // LEAF
    total = 0
    depth = 0
    while True:
        levels[depth] = total
        total += width
        depth += 1
        if width <= 1:
            break
        width = (width + 1) // 2
    levels[depth] = total
    boxes = np.empty((total, 6))
    boxes[:, :3] = np.inf
    boxes[:, 3:] = -np.inf
    for n in range(order.size):
        t = order[n]
        box = boxes[n // LEAF]
        for k in range(3):
            box[k] = min(box[k], low[t, k])
            box[k + 3] = max(box[k + 3], high[t, k])
    for level in range(1, depth):
        for n in range(levels[level - 1], levels[level]):
            box = boxes[levels[level] + (n - levels[level - 1]) // 2]
            for k in range(3):
                box[k] = min(box[k], boxes[n, k])
                box[k + 3] = max(box[k + 3], boxes[n, k + 3])
    return boxes, levels[: depth + 1]


@device(borrows=True)
def _normal(a, b, c, out):
    """The unit normal of a triangle into ``out``; whether it has one."""
    ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    size = np.sqrt(nx * nx + ny * ny + nz * nz)
    if size == 0.0:
        return False
    out[0], out[1], out[2] = nx / size, ny / size, nz / size
    return True


@device(borrows=True)
def _heights(tri, points, normal, origin, slack, out):
    """Heights of a triangle's corners over a plane, those within ``slack`` made 0.
    How many corners lie on and above it.
    """
    on = 0
    above = 0
    for i in range(3):
        p = points[tri[i]]
        h = normal[0] * (p[0] - origin[0]) + normal[1] * (p[1] - origin[1]) + normal[2] * (p[2] - origin[2])
        if abs(h) <= slack:
            h = 0.0
            on += 1
        if h >= 0.0:
            above += 1
        out[i] = h
    return on, above


@device(borrows=True)
def _lying_side(heights):
    """The side of a triangle with two corners in a plane that lies in it."""
    for i in range(3):
        if heights[i] == 0.0 and heights[(i + 1) % 3] == 0.0:
            return i
    return 0


@device(borrows=True)
def _span(tri, points, heights, origin, way):
    """The stretch along a line that a triangle crossing its plane occupies."""
    low = np.inf
    high = -np.inf
    for i in range(3):
        j = (i + 1) % 3
        if (heights[i] >= 0.0) != (heights[j] >= 0.0):
            t = heights[i] / (heights[i] - heights[j])
            value = 0.0
            for k in range(3):
                p = points[tri[i], k]
                value += (p + t * (points[tri[j], k] - p) - origin[k]) * way[k]
            low = min(low, value)
            high = max(high, value)
    return low, high


class Faces(NamedTuple):
    """Triangles (T): their points, parts, and ``flat_side`` (T, 3), which of their sides are no edges."""

    points: F2
    triangles: I2
    part: I1
    flat_side: B2


class Boxes(NamedTuple):
    """Boxes of triangles (T, 3), and the tree over them.
    Their ``order``, and the ``boxes`` (N, 6) of each of its ``levels``.
    """

    low: F2
    high: F2
    order: I1
    boxes: F2
    levels: W1


class _Room(NamedTuple):
    """Room for two normals and heights, the way along which planes meet, and a place on it."""

    na: F1
    nb: F1
    ha: F1
    hb: F1
    way: F1
    origin: F1


@device(borrows=True)
def _boxes_apart(box, own, slack):
    """Whether two boxes of the tree are farther from each other than ``slack``."""
    return (
        box[0] > own[3] + slack or box[1] > own[4] + slack or box[2] > own[5] + slack
        or box[3] < own[0] - slack or box[4] < own[1] - slack or box[5] < own[2] - slack
    )  # fmt: skip


@device(borrows=True)
def _are_apart(low, high, a, b, slack):
    """Whether the boxes of two triangles are farther from each other than ``slack``."""
    return (
        low[b, 0] > high[a, 0] + slack or low[b, 1] > high[a, 1] + slack or low[b, 2] > high[a, 2] + slack
        or high[b, 0] < low[a, 0] - slack or high[b, 1] < low[a, 1] - slack or high[b, 2] < low[a, 2] - slack
    )  # fmt: skip


@device(borrows=True)
def _meeting(faces, a, b, slack, room):
    """The stretch, along ``room.way`` from ``room.origin``, in which two triangles run through each other.
    Empty as (0, 0). ``room.na`` is the normal of the first.
    """
    points, triangles, part, flat_side = faces.points, faces.triangles, faces.part, faces.flat_side
    na, nb, ha, hb, way, origin = room
    on_b, above_b = _heights(triangles[b], points, na, points[triangles[a, 0]], slack, hb)
    if above_b == 0 or above_b == 3:
        return 0.0, 0.0
    if not _normal(points[triangles[b, 0]], points[triangles[b, 1]], points[triangles[b, 2]], nb):
        return 0.0, 0.0
    on_a, above_a = _heights(triangles[a], points, nb, points[triangles[b, 0]], slack, ha)
    if above_a == 0 or above_a == 3:
        return 0.0, 0.0
    if on_b == 2 and not flat_side[b, _lying_side(hb)]:
        return 0.0, 0.0
    if on_a == 2 and (not flat_side[a, _lying_side(ha)] or (on_b == 2 and part[a] == part[b])):
        return 0.0, 0.0  # two faces of one part that meet in a side are neighbours
    way[0] = na[1] * nb[2] - na[2] * nb[1]
    way[1] = na[2] * nb[0] - na[0] * nb[2]
    way[2] = na[0] * nb[1] - na[1] * nb[0]
    size = np.sqrt(way[0] * way[0] + way[1] * way[1] + way[2] * way[2])
    if size < PARALLEL:
        return 0.0, 0.0
    for k in range(3):
        way[k] /= size
    for i in range(3):
        j = (i + 1) % 3
        if (ha[i] >= 0.0) != (ha[j] >= 0.0):
            t = ha[i] / (ha[i] - ha[j])
            for k in range(3):
                p = points[triangles[a, i], k]
                origin[k] = p + t * (points[triangles[a, j], k] - p)
    low_1, high_1 = _span(triangles[a], points, ha, origin, way)
    low_2, high_2 = _span(triangles[b], points, hb, origin, way)
    return max(low_1, low_2), min(high_1, high_2)


@kernel()
def crossings(faces: Faces, tree: Boxes, slack: float, touched: B1, first: int, last: int):
    """Where triangles of the leaves ``first`` to ``last`` run through triangles of these or later leaves.
    (pairs, ends).

    Möller's interval test ("A fast triangle-triangle intersection test", 1997). A corner within ``slack`` of the other
    plane lies in it and counts as above. So bodies that only touch give nothing, and one that passes through with a row
    of corners exactly in the surface is still found, once: from below; but where that row is a real edge, the edge
    itself is drawn and nothing is added. ``touched`` (T,) is set for triangles whose box comes within ``slack`` of one
    of another part.
    """
    low, high, order, boxes, levels = tree
    points, triangles, part = faces.points, faces.triangles, faces.part
    pairs = np.empty((64, 2), np.int32)
    ends = np.empty((64, 6))
    rows = 0
    room = _Room(np.empty(3), np.empty(3), np.empty(3), np.empty(3), np.empty(3), np.empty(3))
    stack_level = np.empty(128, np.int64)
    stack_at = np.empty(128, np.int64)
    for leaf in range(first, last):
        stack_level[0] = levels.size - 2
        stack_at[0] = 0
        top = 1
        while top > 0:
            top -= 1
            level, at = stack_level[top], stack_at[top]
            if ((at + 1) << level) <= leaf or _boxes_apart(boxes[levels[level] + at], boxes[leaf], slack):
                continue
            if level > 0:
                for child in range(2 * at, 2 * at + 2):
                    if levels[level - 1] + child < levels[level]:
                        stack_level[top] = level - 1
                        stack_at[top] = child
                        top += 1
                continue
            for m in range(leaf * LEAF, min((leaf + 1) * LEAF, order.size)):
                a = order[m]
                known = False
                for n in range(max(at * LEAF, m + 1), min((at + 1) * LEAF, order.size)):
                    b = order[n]
                    if _are_apart(low, high, a, b, slack):
                        continue
                    if part[a] != part[b]:
                        touched[a] = True
                        touched[b] = True
                    if not known:
                        if not _normal(
                            points[triangles[a, 0]], points[triangles[a, 1]], points[triangles[a, 2]], room.na
                        ):
                            break
                        known = True
                    begin, finish = _meeting(faces, a, b, slack, room)
                    if finish - begin <= slack:
                        continue
                    if rows == len(pairs):
                        pairs, ends = grown_rows(pairs, 2 * rows), grown_rows(ends, 2 * rows)
                    pairs[rows, 0] = a
                    pairs[rows, 1] = b
                    for k in range(3):
                        ends[rows, k] = room.origin[k] + begin * room.way[k]
                        ends[rows, k + 3] = room.origin[k] + finish * room.way[k]
                    rows += 1
    return pairs[:rows], ends[:rows]
