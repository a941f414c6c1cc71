"""The loop that bends the normals of corners towards those of their neighbours."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NO_AREA
from warmgraphite.kernels import kernel
from warmgraphite.kernels.records import F1, F2, S2, W1

__all__ = ["Fans", "bent_rows"]


class Fans(NamedTuple):
    """Corners about vertices.
    ``welded`` (3 T,) the vertex of each corner, ``order`` (3 T,) the corners by their vertex, those of one from
    ``start`` on, ``size`` of them, of which ``most`` are looked at.
    """

    welded: W1
    order: W1
    start: W1
    size: W1
    most: int


@kernel(borrows=True)
def bent_rows(first: int, last: int, fans: Fans, area: F2, unit: F2, limit: F1, out: S2):
    """Fill corners ``first`` to ``last`` of ``out`` (3 T, 3) float32 with mean normals.
    They are filled with the mean, of length one, of the faces about each corner's vertex that bend less from its own
    than a cosine ``limit`` (3 T,) says.

    ``area`` (T, 3) are normals as long as faces are large, ``unit`` those of length one.
    """
    welded, order, starts, sizes, most = fans
    for corner in range(first, last):
        own, at = corner // 3, welded[corner]
        x = y = z = 0.0
        for k in range(starts[at], starts[at] + min(sizes[at], most)):
            other = order[k] // 3
            near = unit[own, 0] * unit[other, 0] + unit[own, 1] * unit[other, 1] + unit[own, 2] * unit[other, 2]
            if near > limit[corner]:
                x, y, z = x + area[other, 0], y + area[other, 1], z + area[other, 2]
        length = np.sqrt(x * x + y * y + z * z)
        if length > NO_AREA:
            out[corner, 0], out[corner, 1], out[corner, 2] = x / length, y / length, z / length
        else:
            out[corner, 0], out[corner, 1], out[corner, 2] = unit[own, 0], unit[own, 1], unit[own, 2]
