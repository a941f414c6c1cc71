"""Contours: level lines on the ground, exact on its triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.model import Model

__all__ = ["Contour", "contours_of", "is_index"]

#: Faces steeper than this share of the upright carry no contour: the sides of a block of earth are no slope.
STEEPEST = 0.06


@dataclass(frozen=True)
class Contour:
    """Segments (N) of level lines: ends in metres, and the model triangle that each lies on."""

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    face: NDArray[np.int32]


def contours_of(model: Model, shown: NDArray[np.bool_]) -> Contour:
    """The level lines of the model's contours on those of the ``shown`` (P,) parts that are ground."""
    nothing = Contour(np.empty((0, 3)), np.empty((0, 3)), np.empty(0, np.int32))
    if model.contours is None:
        return nothing
    rows = np.flatnonzero((shown & (model.parts.role == "ground"))[model.triangle_part])
    corners = model.vertices[model.triangles[rows]]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    slope = np.abs(normal[:, 2]) > STEEPEST * np.linalg.norm(normal, axis=1)
    rows, corners = rows[slope], corners[slope]
    step, base = model.contours.interval, model.origin[2]
    # Between which levels each face lies; a corner on a level counts as above it, so that lines neither end nor double.
    level = np.floor((corners[:, :, 2] + base) / step)
    first, last = level.min(1) + 1, level.max(1)
    count = np.maximum(last - first + 1, 0).astype(np.int64)
    face = np.repeat(np.arange(len(rows)), count)
    if not len(face):
        return nothing
    within = np.arange(len(face)) - np.repeat(np.cumsum(count) - count, count)
    height = (first[face] + within) * step - base
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
    long = np.linalg.norm(ends[1] - ends[0], axis=1) > 1e-9
    return Contour(ends[0][long], ends[1][long], rows[face[long]].astype(np.int32))


def is_index(model: Model, height: NDArray[np.float64]) -> NDArray[np.bool_]:
    """(N,) whether contours at these heights (metres, in the model) are index contours."""
    if model.contours is None:
        return np.zeros(len(height), bool)
    return np.round((height + model.origin[2]) / model.contours.interval).astype(np.int64) % model.contours.index == 0
