"""What a view is set up by: the storeys of a model, and the bearings of its fronts."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.triangles import normals
from warmgraphite.memory import share
from warmgraphite.model.model import Model

__all__ = ["Landmarks", "landmarks_of"]

#: Share of the largest floor that a level's floors must have together.
LEAST_FLOOR = 0.2
#: Metres that two storeys lie apart at least, and within which floors are of one storey.
STOREY = 1.8
#: Share of all upright faces that a front's must have together, and how many fronts are told.
LEAST_FRONT = 0.02
MOST_FRONTS = 12
#: Degrees within which upright faces are of one front.
FRONT = 0.5
BUILDING = ("structure", "envelope", "subject")


class Landmarks(NamedTuple):
    """``levels``: names and heights (metres) of the storeys, from below.
    ``fronts``: bearings, degrees clockwise from north, in which one looks squarely at the building's upright faces, the
    largest first.
    """

    levels: list[tuple[str, float]]
    fronts: list[float]


class _Faces(NamedTuple):
    """The building's triangles.
    ``part`` (T,), ``height`` (T,) of their middles, ``normal`` (T, 3) as long as ``area`` (T,).
    """

    part: NDArray[np.int32]
    height: NDArray[np.float64]
    normal: NDArray[np.float64]
    area: NDArray[np.float64]


def landmarks_of(model: Model) -> Landmarks:
    """The storeys and fronts of a model's building; none where it has no such faces.
    A model remembers them: levels ask at every look.
    """
    return share("landmarks", model, _found)


def _found(model: Model) -> Landmarks:
    rows = np.flatnonzero(np.isin(model.parts.role, BUILDING)[model.triangle_part])
    corners = model.vertices[model.triangles[rows]]
    normal = normals(corners) / 2
    faces = _Faces(model.triangle_part[rows], corners[:, :, 2].mean(1), normal, np.linalg.norm(normal, axis=1))
    return Landmarks(_levels(model, faces), _fronts(faces))


def _fronts(faces: _Faces) -> list[float]:
    """Faces in many directions, as of a round wall, are no front unless they add up to a share of all."""
    normal, area = faces.normal, faces.area
    upright = (np.abs(normal[:, 2]) < 0.02 * area) & (area > 0)
    way = -normal[upright, :2]
    turned = np.degrees(np.arctan2(way[:, 0], way[:, 1])) % 360
    step = np.round(turned / (FRONT / 5)).astype(np.int64)
    steps, at = np.unique(step, return_inverse=True)
    size = np.bincount(at, area[upright], len(steps))
    sum_x, sum_y = (np.bincount(at, way[:, k], len(steps)) for k in (0, 1))
    left = size.copy()
    found: list[float] = []
    while len(found) < MOST_FRONTS and left.size and left.max() > 0:
        off = np.abs((steps - steps[np.argmax(left)]) * (FRONT / 5))
        near = (np.minimum(off, 360 - off) <= FRONT) & (left > 0)
        if size[near].sum() < LEAST_FRONT * size.sum():
            break
        found.append(round(float(np.degrees(np.arctan2(sum_x[near].sum(), sum_y[near].sum()))) % 360, 2) % 360)
        left[near] = 0
    return found


def _levels(model: Model, faces: _Faces) -> list[tuple[str, float]]:
    """Where level faces that look up add up to a floor.

    A storey is called as the layer of most of its floor, where that says more than one layer of all; else by its
    number.
    """
    flat = (faces.normal[:, 2] > 0.999 * faces.area) & (faces.area > 0)
    if not flat.any():
        return []
    area, height, owner = faces.area[flat], faces.height[flat], faces.part[flat]
    step = np.round(height / 0.05).astype(np.int64)
    _, at = np.unique(step, return_inverse=True)
    whole = np.bincount(at, area)
    found: list[tuple[float, int]] = []
    for k in np.argsort(-whole, kind="stable"):
        if whole[k] < LEAST_FLOOR * whole.max():
            break
        here = float(np.average(height[at == k], weights=area[at == k]))
        if all(abs(here - other) >= STOREY for other, _ in found):
            found.append((here, int(k)))
    found.sort()
    layers = []
    for _, k in found:
        mine = owner[at == k]
        share = np.bincount(mine, area[at == k], len(model.parts))
        layers.append(model.parts[int(np.argmax(share))].layer.split("/")[0])
    telling = len(set(layers)) == len(layers) and all(layers)
    # The topmost is a roof where nothing of the building stands on it.
    top = model.bounds[1, 2]
    if len(found) > 1 and top - found[-1][0] < STOREY:
        found, layers = found[:-1], layers[:-1]
    return [(layers[i] if telling else f"Level {i}", round(z, 3)) for i, (z, _) in enumerate(found)]
