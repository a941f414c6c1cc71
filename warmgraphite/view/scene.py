"""The scene: the shown parts of a model, cut as the view says, with the frame they are drawn in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import NothingShown, ViewError
from warmgraphite.geometry.tolerances import Tolerances
from warmgraphite.model.bodies import Bodies, bodies_of
from warmgraphite.model.model import Model
from warmgraphite.view.projection import NEAR, Projection, projection_of
from warmgraphite.view.specification import Cut, Frame, ProjectionSpec, ViewSpecification
from warmgraphite.view.surfaces import CutSurface, Plane, clip_triangles, surfaces_of

__all__ = [
    "Remainder",
    "Scene",
    "build_scene",
    "cut_surfaces",
    "remainder_of",
    "scene_of",
    "shown_parts",
    "uncut_parts",
]

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Remainder:
    """What planes leave of the bodies that are shown, from wherever one looks.

    ``corners`` (T, 3, 3) metres and ``source`` (T,) triangle of the mesh of each, after cutting; ``surfaces`` are the
    cuts, the returns of stepped ones after all others; ``part_shown`` (P,) says which parts are drawn, ``uncut`` (P,)
    which no ``cut`` goes into, and ``spared`` (surfaces, P) which of them a surface leaves whole.
    """

    bodies: Bodies
    surfaces: tuple[CutSurface, ...]
    part_shown: NDArray[np.bool_]
    uncut: NDArray[np.bool_]
    spared: NDArray[np.bool_]
    corners: FloatArray
    source: NDArray[np.int32]

    def only(self, chosen: NDArray[np.bool_]) -> Remainder:
        """Nothing but the chosen parts (P,)."""
        rows = chosen[self.bodies.mesh.triangle_part[self.source]]
        return replace(self, part_shown=self.part_shown & chosen, corners=self.corners[rows], source=self.source[rows])


@dataclass(frozen=True)
class Scene:
    """What a view shows of bodies: their ``remainder`` in the frame of a ``projection``.

    ``corners`` (T, 3, 3) metres and ``source`` (T,) triangle of the mesh of each, after cutting, the ``near`` plane
    included, before which one sees nothing; the remainder has what lies behind the viewer, too, which the sun does see.
    """

    remainder: Remainder
    projection: Projection
    near: Plane | None
    corners: FloatArray
    source: NDArray[np.int32]

    @property
    def bodies(self) -> Bodies:
        return self.remainder.bodies

    @property
    def surfaces(self) -> tuple[CutSurface, ...]:
        """The cuts, the returns of stepped ones after all others."""
        return self.remainder.surfaces

    @property
    def part_shown(self) -> NDArray[np.bool_]:
        """(P,) which parts are drawn."""
        return self.remainder.part_shown

    @property
    def spared(self) -> NDArray[np.bool_]:
        """(surfaces, P) which parts a surface leaves whole."""
        return self.remainder.spared

    @cached_property
    def part(self) -> NDArray[np.int32]:
        """(T,) part of each triangle."""
        return self.bodies.mesh.triangle_part[self.source]

    @property
    def tolerances(self) -> Tolerances:
        """How near is the same, in this model."""
        return self.bodies.tolerances

    def only(self, chosen: NDArray[np.bool_]) -> Scene:
        """Nothing but the chosen parts (P,), in the same frame.
        Raises :class:`NothingShown` where nothing is left of them.
        """
        rows = chosen[self.part]
        if not rows.any():
            raise NothingShown
        return replace(
            self, remainder=self.remainder.only(chosen), corners=self.corners[rows], source=self.source[rows]
        )


def shown_parts(model: Model, view: ViewSpecification) -> NDArray[np.bool_]:
    """(P,) the parts that a view shows: those of its part set, less what it hides by name.

    Raises :class:`ViewError` when the model has no such part set.
    """
    shown = model.parts.present & ~model.parts.selected(view.parts.hidden)
    if not view.parts.set:
        return shown
    chosen = model.in_set(view.parts.set)
    if chosen is None:
        raise ViewError(f"There is no part set “{view.parts.set}” in this model; choose another, or show all parts.")
    # Figures stand in whatever part of the model is shown; they are hidden by themselves.
    return shown & (chosen | (model.parts.figure >= 0))


def uncut_parts(model: Model, view: ViewSpecification) -> NDArray[np.bool_]:
    """(P,) the parts that cutting planes leave whole: by their behaviour, or because the view says so."""
    cut = model.parts.is_cut.copy()
    for role, how in view.parts.roles.items():
        cut[model.parts.role == role] = how == "cut"
    return model.parts.selected(view.parts.uncut) | ~cut


def _of_whole_figures(bodies: Bodies, nearest: FloatArray) -> FloatArray:
    """(P,) what is nearest of each part, of parts of a figure what is nearest of all of it.
    A crown stays with its stem.
    """
    figure = bodies.figure
    mine = np.flatnonzero(figure >= 0)
    if not len(mine):
        return nearest
    of = np.full(int(figure.max()) + 1, np.inf)
    np.minimum.at(of, figure[mine], nearest[mine])
    found = nearest.copy()
    found[mine] = of[figure[mine]]
    return found


def cut_surfaces(cuts: Sequence[Cut], anchor: FloatArray) -> tuple[CutSurface, ...]:
    """The surfaces of cuts, the returns of stepped ones after all others.
    Their axes count from ``anchor`` (3,), in metres.
    """
    found = [surfaces_of(cut, number, anchor) for number, cut in enumerate(cuts)]
    return (*(f[0] for f in found), *(wall for f in found for wall in f[1:]))


def remainder_of(bodies: Bodies, cuts: Sequence[Cut], shown: NDArray[np.bool_], uncut: NDArray[np.bool_]) -> Remainder:
    """What cuts leave of the parts that are ``shown`` (P,), of which those that are ``uncut`` (P,) are left whole."""
    surfaces = cut_surfaces(cuts, bodies.anchor)
    mesh = bodies.mesh
    source = np.flatnonzero(shown[mesh.triangle_part]).astype(np.int32)
    corners = mesh.vertices[mesh.triangles[source]]
    spared = np.zeros((len(surfaces), bodies.count), bool)
    for row, surface in enumerate(surfaces):
        if surface.role == "return":
            spared[row] = uncut
            continue
        if surface.role == "cut":
            # An uncut part is drawn whole where the plane runs through it, and goes where it lies wholly beyond.
            nearest = np.full(bodies.count, np.inf)
            np.minimum.at(nearest, mesh.triangle_part[source], surface.side(corners).min(1))
            nearest = _of_whole_figures(bodies, nearest)
            spared[row] = uncut & (nearest <= 0)
        held = spared[row][mesh.triangle_part[source]]
        cut_corners, cut_source = surface.clip(corners[~held], source[~held])
        corners, source = np.concatenate([corners[held], cut_corners]), np.concatenate([source[held], cut_source])
    return Remainder(bodies, surfaces, shown, uncut, spared, corners, source)


def scene_of(remainder: Remainder, spec: ProjectionSpec, frame: Frame, projection: Projection | None = None) -> Scene:
    """The scene of a remainder.
    Looked at as ``spec`` and ``frame`` say, or as a ``projection`` does where one is given. Raises
    :class:`NothingShown` when nothing is left to draw.
    """
    corners, source, bodies = remainder.corners, remainder.source, remainder.bodies
    if projection is None:
        # No figure moves the frame.
        own = bodies.figure[bodies.mesh.triangle_part[source]] < 0
        projection = projection_of(spec, frame, (corners if own.all() else corners[own]).reshape(-1, 3))
    near = None
    if projection.eye is not None:
        near = Plane(-projection.sight, float(-projection.sight @ projection.eye - NEAR))
        corners, source = clip_triangles(corners, source, near)
    if not len(corners):
        raise NothingShown
    return Scene(remainder, projection, near, corners, source)


def build_scene(model: Model, view: ViewSpecification) -> Scene:
    """The scene of a view of a model. Raises :class:`NothingShown` when nothing is left to draw."""
    try:
        remainder = remainder_of(bodies_of(model), view.cuts, shown_parts(model, view), uncut_parts(model, view))
        return scene_of(remainder, view.projection, view.frame)
    except NothingShown:
        raise NothingShown(view.name) from None
