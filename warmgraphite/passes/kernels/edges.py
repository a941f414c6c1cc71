"""Loops that find the edges of welded triangles, and how sharply the surface bends there."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import numpy as np
from numba import types
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_SIZE
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import order_of
from warmgraphite.kernels.records import B1, F1, F2, I1, I2, S1, T1, W1

__all__ = [
    "Edges",
    "Looked",
    "Matched",
    "by_corner",
    "doubled_faces",
    "edge_folds",
    "fold_degrees",
    "matched_edges",
    "seen_edges",
    "sliver_sides",
]

#: Cosine below which a face is seen from its edge.
EDGEWAYS = 1e-7


@kernel("i4[::1], i8")
def by_corner(corner, count):
    """Rows listed by the corner number of each: (start of each corner's stretch (count + 1,), rows in that order)."""
    start = np.zeros(count + 1, np.int64)
    for i in range(corner.size):
        if corner[i] >= 0:
            start[corner[i] + 1] += 1
    for c in range(count):
        start[c + 1] += start[c]
    rows = np.empty(start[count], np.int32)
    fill = start[:count].copy()
    for i in range(corner.size):
        c = corner[i]
        if c >= 0:
            rows[fill[c]] = i
            fill[c] += 1
    return start, rows


@device()
def _sorted_by(keys, rows):
    """``rows`` in the order of their keys; short ones by insertion, long ones by a proper sort."""
    n = rows.size
    if n <= 24:
        for i in range(1, n):
            k, r = keys[i], rows[i]
            j = i - 1
            while j >= 0 and (keys[j] > k or (keys[j] == k and rows[j] > r)):
                keys[j + 1], rows[j + 1] = keys[j], rows[j]
                j -= 1
            keys[j + 1], rows[j + 1] = k, r
        return
    order = order_of(keys)
    keys_then, rows_then = keys.copy(), rows.copy()
    for i in range(n):
        keys[i], rows[i] = keys_then[order[i]], rows_then[order[i]]


@kernel("i4[:,::1]")
def doubled_faces(welded):
    """(F,) which faces are no faces: fewer than three corners, or given once before, front or back."""
    n = len(welded)
    gone = np.zeros(n, np.bool_)
    least = np.empty(n, np.int32)
    top = 0
    for f in range(n):
        a, b, c = welded[f, 0], welded[f, 1], welded[f, 2]
        top = max(top, a, b, c)
        if a == b or b == c or c == a:
            gone[f] = True
            least[f] = -1
        else:
            least[f] = min(a, b, c)
    start, rows = by_corner(least, top + 1)
    for v in range(top + 1):
        first, last = start[v], start[v + 1]
        if last - first < 2:
            continue
        keys = np.empty(last - first, np.int64)
        for k in range(first, last):
            f = rows[k]
            total = np.int64(welded[f, 0]) + welded[f, 1] + welded[f, 2] - v
            most = max(welded[f, 0], welded[f, 1], welded[f, 2])
            keys[k - first] = most * np.int64(top + 1) + (total - most)
        own = rows[first:last]
        _sorted_by(keys, own)
        for k in range(1, last - first):
            if keys[k] == keys[k - 1]:
                gone[own[k]] = True
    return gone


@kernel("i4[:,::1], i8[::1], i4[::1], i8, i8")
def matched_edges(welded, start, rows, first_corner, last_corner):
    """Edges whose lower corner lies in a stretch of corners.

    ``rows`` list the half-edges (3 · face + side) by lower corner. Returns (lower, higher corner, count of faces, where
    the edge's half-edges begin in the last array, the half-edges, edge by edge in the order of the model).
    """
    room = start[last_corner] - start[first_corner]
    low = np.empty(room, np.int32)
    high = np.empty(room, np.int32)
    count = np.empty(room, np.int32)
    begin = np.empty(room, np.int64)
    halves = np.empty(room, np.int32)
    n = 0
    filled = 0
    keys = np.empty(64, np.int64)
    for v in range(first_corner, last_corner):
        first, last = start[v], start[v + 1]
        if first == last:
            continue
        if keys.size < last - first:
            keys = np.empty(2 * (last - first), np.int64)
        for k in range(first, last):
            h = rows[k]
            f = h // 3
            s = h - 3 * f
            a, b = welded[f, s], welded[f, (s + 1) % 3]
            keys[k - first] = max(a, b)
        own = rows[first:last].copy()
        _sorted_by(keys[: last - first], own)
        for k in range(last - first):
            if k == 0 or keys[k] != keys[k - 1]:
                low[n] = v
                high[n] = keys[k]
                count[n] = 0
                begin[n] = filled
                n += 1
            count[n - 1] += 1
            halves[filled] = own[k]
            filled += 1
    return low[:n], high[:n], count[:n], begin[:n], halves[:filled]


@device()
def fold_degrees(start, end, wing, other):
    """Degrees between the face with far corner ``wing`` and the continuation of the other.
    Whatever way either is wound.
    """
    ux, uy, uz = end[0] - start[0], end[1] - start[1], end[2] - start[2]
    uu = max(ux * ux + uy * uy + uz * uz, NO_SIZE)
    ax, ay, az = wing[0] - start[0], wing[1] - start[1], wing[2] - start[2]
    bx, by, bz = other[0] - start[0], other[1] - start[1], other[2] - start[2]
    t = (ax * ux + ay * uy + az * uz) / uu
    ax, ay, az = ax - t * ux, ay - t * uy, az - t * uz
    t = (bx * ux + by * uy + bz * uz) / uu
    bx, by, bz = bx - t * ux, by - t * uy, bz - t * uz
    cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    # The angle from sine and cosine: an arc cosine alone cannot tell a flat fold from a thousandth of a degree.
    return np.degrees(np.arctan2(np.sqrt(cx * cx + cy * cy + cz * cz), -(ax * bx + ay * by + az * bz)))


@kernel("f8[:,::1], i4[:,::1], f8")
def sliver_sides(points, triangles, reach):
    """(F,) for each face that is lower than ``reach`` over its longest side, that side (0 to 2).
    −1 for proper faces.
    """
    found = np.full(len(triangles), -1, np.int8)
    for f in range(len(triangles)):
        a, b, c = points[triangles[f, 0]], points[triangles[f, 1]], points[triangles[f, 2]]
        ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        wx, wy, wz = c[0] - b[0], c[1] - b[1], c[2] - b[2]
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        uu, vv, ww = ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz
        longest = max(uu, vv, ww)
        if nx * nx + ny * ny + nz * nz < reach * reach * longest:
            found[f] = 0 if longest == uu else 1 if longest == ww else 2
    return found


class Matched(NamedTuple):
    """Edges (E) of welded triangles.
    ``low`` and ``high`` corner, how many half-edges each has, from where on in ``halves``; ``of`` tells the edge of
    each half-edge.
    """

    low: I1
    high: I1
    count: I1
    begin: W1
    halves: I1
    of: I1


@kernel()
def edge_folds(
    points: F2, triangles: I2, edges: Matched, sliver: Annotated[NDArray[np.int8], types.int8[::1]], first: int,
    last: int, half: I2, fold: S1
):  # fmt: skip
    """Fill in, for edges ``first`` to ``last``, what lies beside them and the fold.
    Two half-edges (E, 2) whose faces lie beside it (−1: none) and the fold.

    A sliver has no direction of its own: across its longest side it goes on flat, and at its other sides the face
    beyond the longest one stands for it.
    """
    low, high, count, begin, halves, edge_of = edges
    for e in range(first, last):
        half[e, 0] = -1
        half[e, 1] = -1
        flat = False
        best = -1.0
        a, b = points[low[e]], points[high[e]]
        for k in range(count[e]):
            h = halves[begin[e] + k]
            for _ in range(4):
                f = h // 3
                s = sliver[f]
                if s < 0:
                    break
                if s == h - 3 * f:
                    flat = True
                    break
                beyond = edge_of[3 * f + s]
                other = -1
                for m in range(count[beyond]):
                    if halves[begin[beyond] + m] != 3 * f + s:
                        other = halves[begin[beyond] + m]
                if other < 0:
                    break
                h = other
            if k == 0:
                half[e, 0] = h
                continue
            f0, f1 = half[e, 0] // 3, h // 3
            wing = points[triangles[f0, (half[e, 0] - 3 * f0 + 2) % 3]]
            other_wing = points[triangles[f1, (h - 3 * f1 + 2) % 3]]
            # Where more than two faces meet, the edge is as sharp as the sharpest pair with the first.
            turn = fold_degrees(a, b, wing, other_wing)
            if turn > best:
                best = turn
                half[e, 1] = h
        fold[e] = 0.0 if flat and count[e] > 1 else 180.0 if count[e] == 1 else best


class Edges(NamedTuple):
    """Edges (E) of a mesh.
    The numbers of both ends (E, 2), two half-edges beside each (E, 2), how many faces meet there, the fold in degrees,
    the part.
    """

    points: F2
    triangles: I2
    ends: I2
    half: I2
    count: I1
    fold: S1
    part: I1


class Looked(NamedTuple):
    """How edges are looked at: which parts are ``shown`` (P,), the degrees of each from which on it has a ``crease``.
    From an ``eye``, if it is ``central``, or along ``sight``.
    """

    shown: B1
    crease: F1
    eye: F1
    sight: F1
    central: bool


@kernel()
def seen_edges(edges: Edges, looked: Looked, first: int, last: int, kind: T1):
    """Fill in for edges ``first`` to ``last`` whether it is seen as 1 a silhouette, 2 a border, 3 a crease; 0 no line.

    A silhouette has both faces on one side of it, as seen: the surface turns away there. Edge-on faces go with either
    side.
    """
    points, triangles, ends, half, count, fold, part = edges
    shown, crease, eye, sight, central = looked
    for e in range(first, last):
        kind[e] = 0
        if not shown[part[e]]:
            continue
        if count[e] == 1:
            kind[e] = 2
            continue
        if fold[e] <= 0.05:
            continue
        a, b = points[ends[e, 0]], points[ends[e, 1]]
        ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        if central:
            sx, sy, sz = a[0] - eye[0], a[1] - eye[1], a[2] - eye[2]
        else:
            sx, sy, sz = sight[0], sight[1], sight[2]
        nx, ny, nz = uy * sz - uz * sy, uz * sx - ux * sz, ux * sy - uy * sx
        size = np.sqrt(nx * nx + ny * ny + nz * nz)
        lean_0 = lean_1 = 0.0
        for k in range(2):
            h = half[e, k]
            if h < 0:
                continue
            f = h // 3
            w = points[triangles[f, (h - 3 * f + 2) % 3]]
            wx, wy, wz = w[0] - a[0], w[1] - a[1], w[2] - a[2]
            far = np.sqrt(wx * wx + wy * wy + wz * wz) * size
            lean = (wx * nx + wy * ny + wz * nz) / max(far, NO_SIZE)
            if abs(lean) < EDGEWAYS:
                lean = 0.0
            if k == 0:
                lean_0 = lean
            else:
                lean_1 = lean
        if lean_0 * lean_1 > 0.0 or (lean_0 == 0.0) != (lean_1 == 0.0):
            kind[e] = 1
        elif fold[e] > crease[part[e]]:
            kind[e] = 3
