"""The scene: the shown parts of a model, cut as the view says, with the frame they are drawn in."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.model.model import Model, select_parts
from warmgraphite.view.projection import NEAR, Projection, projection_of
from warmgraphite.view.specification import ViewSpecification

__all__ = ["Plane", "Scene", "build_scene", "clip_segments", "clip_triangles", "shown_parts", "uncut_parts"]

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Plane:
    """A half-space to remove: points p with ``normal · p > offset``. ``role`` is cut, limit or near."""

    normal: FloatArray
    offset: float
    role: str

    def side(self, points: FloatArray) -> FloatArray:
        """Signed metres beyond the plane, positive where removed."""
        return points @ self.normal - self.offset


@dataclass(frozen=True)
class Scene:
    """What a view shows of a model.

    ``corners`` (T, 3, 3) metres and ``source`` (T,) model triangle of each, after cutting (near plane included);
    ``part_shown`` (P,) says which parts are drawn, ``uncut`` (P,) which no ``cut`` plane goes into, and ``spared``
    (planes, P) which of them a plane leaves whole.
    """

    model: Model
    view: ViewSpecification
    projection: Projection
    planes: tuple[Plane, ...]
    near: Plane | None
    part_shown: NDArray[np.bool_]
    uncut: NDArray[np.bool_]
    spared: NDArray[np.bool_]
    corners: FloatArray
    source: NDArray[np.int32]

    @cached_property
    def part(self) -> NDArray[np.int32]:
        """(T,) part of each triangle."""
        return self.model.triangle_part[self.source]

    @cached_property
    def slack(self) -> float:
        """Metres below which two surfaces count as touching: GLB's single precision over the model's extent."""
        return max(2e-5, 3e-6 * self.model.extent)


def clip_triangles(corners: FloatArray, source: NDArray[np.int32], plane: Plane) -> tuple[FloatArray, NDArray[np.int32]]:
    """Triangles (T, 3, 3) less what lies beyond the plane. Neighbours stay joined: shared edges are cut at one point."""
    if not len(corners):
        return corners, source
    side = plane.side(corners)
    beyond = side > 0
    count = beyond.sum(1)
    whole = count == 0
    out_corners, out_source = [corners[whole]], [source[whole]]
    for removed in (1, 2):
        rows = np.flatnonzero(count == removed)
        if not len(rows):
            continue
        # Turn each triangle so that its odd corner comes first.
        odd = np.argmax(beyond[rows] if removed == 1 else ~beyond[rows], axis=1)
        turn = (odd[:, None] + np.arange(3)) % 3
        tri = np.take_along_axis(corners[rows], turn[:, :, None], 1)
        dist = np.take_along_axis(side[rows], turn, 1)
        crossing = []
        for i in (1, 2):
            # Always from the kept end to the removed end, so that both neighbours compute the same point.
            kept, gone = (i, 0) if removed == 1 else (0, i)
            t = dist[:, kept] / (dist[:, kept] - dist[:, gone])
            crossing.append(tri[:, kept] + t[:, None] * (tri[:, gone] - tri[:, kept]))
        if removed == 2:
            out_corners.append(np.stack([tri[:, 0], crossing[0], crossing[1]], 1))
            out_source.append(source[rows])
        else:
            out_corners.append(np.stack([crossing[0], tri[:, 1], tri[:, 2]], 1))
            out_corners.append(np.stack([crossing[0], tri[:, 2], crossing[1]], 1))
            out_source += [source[rows], source[rows]]
    return np.concatenate(out_corners), np.concatenate(out_source)


def clip_segments(start: FloatArray, end: FloatArray, plane: Plane) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """Segments (N, 3) shortened to what lies on the kept side, and (N,) whether anything is left."""
    a, b = plane.side(start), plane.side(end)
    left = ~((a > 0) & (b > 0))
    start, end = start.copy(), end.copy()
    cross = (a > 0) != (b > 0)
    t = np.where(cross, a / np.where(cross, a - b, 1.0), 0.0)[:, None]
    point = start + t * (end - start)
    start[cross & (a > 0)] = point[cross & (a > 0)]
    end[cross & (b > 0)] = point[cross & (b > 0)]
    return start, end, left


def shown_parts(model: Model, view: ViewSpecification) -> NDArray[np.bool_]:
    """(P,) the parts that a view shows: those of its part set, less what it hides by name.

    Raises :class:`ViewError` when the model has no such part set.
    """
    shown = model.present & ~select_parts(model, view.parts.hidden)
    if not view.parts.set:
        return shown
    chosen = model.in_set(view.parts.set)
    if chosen is None:
        raise ViewError(f"There is no part set “{view.parts.set}” in this model; choose another, or show all parts.")
    return shown & chosen


def uncut_parts(model: Model, view: ViewSpecification) -> NDArray[np.bool_]:
    """(P,) the parts that cutting planes leave whole: by their behaviour, or because the view says so."""
    return select_parts(model, view.parts.uncut) | ~model.part_is_cut


def build_scene(model: Model, view: ViewSpecification) -> Scene:
    """The scene of a view. Raises :class:`ViewError` when nothing is left to draw."""
    shown = shown_parts(model, view)
    uncut = uncut_parts(model, view)
    planes = []
    for cut in view.cuts:
        normal = np.array(cut.normal, float)
        normal /= np.linalg.norm(normal)
        planes.append(Plane(normal, float(normal @ np.array(cut.point, float)), cut.role))

    keep = shown[model.triangle_part]
    source = np.flatnonzero(keep).astype(np.int32)
    corners = model.vertices[model.triangles[source]]
    spared = np.zeros((len(planes), len(model.parts)), bool)
    for row, plane in enumerate(planes):
        if plane.role == "cut":
            # An uncut part is drawn whole where the plane runs through it, and goes where it lies wholly beyond.
            nearest = np.full(len(model.parts), np.inf)
            np.minimum.at(nearest, model.triangle_part[source], plane.side(corners).min(1))
            spared[row] = uncut & (nearest <= 0)
        held = spared[row][model.triangle_part[source]]
        cut_corners, cut_source = clip_triangles(corners[~held], source[~held], plane)
        corners, source = np.concatenate([corners[held], cut_corners]), np.concatenate([source[held], cut_source])

    projection = projection_of(view, corners.reshape(-1, 3))
    near = None
    if projection.eye is not None:
        near = Plane(-projection.sight, float(-projection.sight @ projection.eye - NEAR), "near")
        corners, source = clip_triangles(corners, source, near)
    if not len(corners):
        raise ViewError(f"View “{view.name}” shows no part at all; take its cuts back, show parts again or step back.")
    return Scene(model, view, projection, tuple(planes), near, shown, uncut, spared, corners, source)
