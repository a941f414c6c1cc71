"""Contours: level lines on the ground, exact on its triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import numbers, row_of
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.model.bodies import Bodies

__all__ = ["Contour", "Levels", "contours_of", "is_index"]

#: Faces steeper than this share of the upright carry no contour: the sides of a block of earth are no slope.
STEEPEST = 0.06


@dataclass(frozen=True)
class Levels:
    """Level lines ``interval`` metres apart, every ``index``-th a stronger one.
    ``base`` is the height of the bodies' zero, in metres.
    """

    interval: float
    index: int
    base: float


@dataclass(frozen=True)
class Contour:
    """Segments (N) of level lines: ends in metres, and the model triangle that each lies on."""

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    face: NDArray[np.int32]


def contours_of(bodies: Bodies, shown: NDArray[np.bool_], levels: Levels | None) -> Contour:
    """The level lines on those of the ``shown`` (P,) parts that are ground."""
    nothing = Contour(np.empty((0, 3)), np.empty((0, 3)), np.empty(0, np.int32))
    if levels is None:
        return nothing
    mesh = bodies.mesh
    rows = np.flatnonzero((shown & (bodies.role == "ground"))[mesh.triangle_part])
    corners = mesh.vertices[mesh.triangles[rows]]
    normal = normals(corners)
    slope = np.abs(normal[:, 2]) > STEEPEST * np.linalg.norm(normal, axis=1)
    rows, corners = rows[slope], corners[slope]
    step, base = levels.interval, levels.base
    # Between which levels each face lies; a corner on a level counts as above it, so that lines neither end nor double.
    level = np.floor((corners[:, :, 2] + base) / step)
    first, last = level.min(1) + 1, level.max(1)
    count = np.maximum(last - first + 1, 0).astype(np.int64)
    face = row_of(count)
    if not len(face):
        return nothing
    height = numbers(first, count) * step - base
    points = corners[face]
    above = points[:, :, 2] >= height[:, None]
    odd = np.argmax(np.where((above.sum(1) == 1)[:, None], above, ~above), axis=1)
    turned = np.take_along_axis(points, ((odd[:, None] + np.arange(3)) % 3)[:, :, None], 1)
    ends = []
    for i in (1, 2):
        rise = turned[:, i, 2] - turned[:, 0, 2]
        t = (height - turned[:, 0, 2]) / np.where(rise == 0, 1.0, rise)
        ends.append(turned[:, 0] + t[:, None] * (turned[:, i] - turned[:, 0]))
        ends[-1][:, 2] = height
    long = np.linalg.norm(ends[1] - ends[0], axis=1) > ROUNDING
    return Contour(ends[0][long], ends[1][long], rows[face[long]].astype(np.int32))


def is_index(levels: Levels | None, height: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(N,) whether level lines at these heights (metres, of the bodies) are stronger ones."""
    if levels is None:
        return np.zeros(len(height), bool)
    return np.round((height + levels.base) / levels.interval).astype(np.int64) % levels.index == 0
