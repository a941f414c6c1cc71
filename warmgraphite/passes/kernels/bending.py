"""The loop that bends the normals of corners towards those of their neighbours."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["bent_rows"]


@kernel("i8, i8, i8[::1], i8[::1], i8[::1], i8[::1], i8, f8[:,::1], f8[:,::1], f8[::1], f4[:,::1]")
def bent_rows(first, last, welded, order, starts, sizes, most, area, unit, limit, out):
    """Fill corners ``first`` to ``last`` of ``out`` (3 T, 3) float32 with the mean, of length one, of the faces about each corner's
    vertex that bend less from its own than a cosine ``limit`` (3 T,) says.

    ``welded`` (3 T,) is the vertex of each corner, ``order`` (3 T,) the corners by their vertex, those of one from ``starts`` on,
    ``sizes`` of them, of which ``most`` are looked at; ``area`` (T, 3) are normals as long as faces are large, ``unit`` those of length
    one.
    """
    for corner in range(first, last):
        own, at = corner // 3, welded[corner]
        x = y = z = 0.0
        for k in range(starts[at], starts[at] + min(sizes[at], most)):
            other = order[k] // 3
            near = unit[own, 0] * unit[other, 0] + unit[own, 1] * unit[other, 1] + unit[own, 2] * unit[other, 2]
            if near > limit[corner]:
                x, y, z = x + area[other, 0], y + area[other, 1], z + area[other, 2]
        length = np.sqrt(x * x + y * y + z * z)
        if length > 1e-30:
            out[corner, 0], out[corner, 1], out[corner, 2] = x / length, y / length, z / length
        else:
            out[corner, 0], out[corner, 1], out[corner, 2] = unit[own, 0], unit[own, 1], unit[own, 2]
