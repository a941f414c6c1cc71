"""Polygons in space, concave or with holes, as triangles."""

from __future__ import annotations

from collections.abc import Sequence

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts_of

__all__ = ["triangles_of"]


def triangles_of(rings: Sequence[NDArray[np.float64]]) -> list[tuple[int, int, int]]:
    """Triangles of one face as places in its rings (n, 3) laid end to end, wound as the first of them is.
    The others are holes.
    """
    outer = rings[0]
    if len(rings) == 1 and len(outer) == 3:
        return [(0, 1, 2)]
    normal = np.cross(outer, np.roll(outer, -1, axis=0)).sum(0)  # Newell's normal, twice the area
    axis = int(np.argmax(np.abs(normal)))
    if len(rings) == 1:
        flat = np.delete(outer, axis, axis=1)
        one, two = np.roll(flat, -1, 0) - flat, np.roll(flat, -2, 0) - np.roll(flat, -1, 0)
        turn = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
        if (turn >= 0).all() or (turn <= 0).all():
            return [(0, i, i + 1) for i in range(1, len(outer) - 1)]
    points = np.concatenate(rings)
    flat = np.ascontiguousarray(np.delete(points, axis, axis=1))
    ends = firsts_of(rings)[1:].astype(np.uint32)
    out = []
    for a, b, c in mapbox_earcut.triangulate_float64(flat, ends).reshape(-1, 3).astype(int).tolist():
        if np.dot(np.cross(points[b] - points[a], points[c] - points[a]), normal) < 0:
            b, c = c, b
        out.append((a, b, c))
    return out
