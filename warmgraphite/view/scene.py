"""The scene: the shown parts of a model, cut as the view says, with the frame they are drawn in."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.model.model import Model
from warmgraphite.model.welding import contact
from warmgraphite.view.projection import NEAR, Projection, projection_of
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.surfaces import CutSurface, Plane, clip_triangles, surfaces_of

__all__ = ["Scene", "build_scene", "only_parts", "shown_parts", "uncut_parts"]

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Scene:
    """What a view shows of a model.

    ``corners`` (T, 3, 3) metres and ``source`` (T,) model triangle of each, after cutting (near plane included); ``standing``
    the same two with what lies behind the viewer, who does not see it while the sun does;
    ``surfaces`` are its cuts, the returns of stepped ones after all others; ``part_shown`` (P,) says which parts are drawn,
    ``uncut`` (P,) which no ``cut`` goes into, and ``spared`` (surfaces, P) which of them a surface leaves whole.
    """

    model: Model
    view: ViewSpecification
    projection: Projection
    surfaces: tuple[CutSurface, ...]
    near: Plane | None
    part_shown: NDArray[np.bool_]
    uncut: NDArray[np.bool_]
    spared: NDArray[np.bool_]
    corners: FloatArray
    source: NDArray[np.int32]
    standing: tuple[FloatArray, NDArray[np.int32]]

    @cached_property
    def part(self) -> NDArray[np.int32]:
        """(T,) part of each triangle."""
        return self.model.triangle_part[self.source]

    @cached_property
    def slack(self) -> float:
        """Metres below which two surfaces count as touching."""
        return contact(self.model)


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


def _of_whole_figures(model: Model, nearest: FloatArray) -> FloatArray:
    """(P,) what is nearest of each part, of parts of a figure what is nearest of all of it: a crown stays with its stem."""
    figure = model.parts.figure
    mine = np.flatnonzero(figure >= 0)
    if not len(mine):
        return nearest
    of = np.full(int(figure.max()) + 1, np.inf)
    np.minimum.at(of, figure[mine], nearest[mine])
    found = nearest.copy()
    found[mine] = of[figure[mine]]
    return found


def only_parts(scene: Scene, chosen: NDArray[np.bool_]) -> Scene:
    """The scene with nothing but the chosen parts (P,), in the same frame."""
    rows = chosen[scene.part]
    corners, source = scene.standing
    standing = chosen[scene.model.triangle_part[source]]
    return replace(
        scene,
        part_shown=scene.part_shown & chosen,
        corners=scene.corners[rows],
        source=scene.source[rows],
        standing=(corners[standing], source[standing]),
    )


def build_scene(model: Model, view: ViewSpecification, projection: Projection | None = None) -> Scene:
    """The scene of a view, in the frame of a ``projection`` where one is given. Raises :class:`ViewError` when nothing is left to draw."""
    shown = shown_parts(model, view)
    uncut = uncut_parts(model, view)
    found = [surfaces_of(cut, number, model.anchor) for number, cut in enumerate(view.cuts)]
    surfaces = (*(f[0] for f in found), *(wall for f in found for wall in f[1:]))

    keep = shown[model.triangle_part]
    source = np.flatnonzero(keep).astype(np.int32)
    corners = model.vertices[model.triangles[source]]
    spared = np.zeros((len(surfaces), len(model.parts)), bool)
    for row, surface in enumerate(surfaces):
        if surface.role == "return":
            spared[row] = uncut
            continue
        if surface.role == "cut":
            # An uncut part is drawn whole where the plane runs through it, and goes where it lies wholly beyond.
            nearest = np.full(len(model.parts), np.inf)
            np.minimum.at(nearest, model.triangle_part[source], surface.side(corners).min(1))
            nearest = _of_whole_figures(model, nearest)
            spared[row] = uncut & (nearest <= 0)
        held = spared[row][model.triangle_part[source]]
        cut_corners, cut_source = surface.clip(corners[~held], source[~held])
        corners, source = np.concatenate([corners[held], cut_corners]), np.concatenate([source[held], cut_source])

    if projection is None:
        # No figure moves the frame.
        own = model.parts.figure[model.triangle_part[source]] < 0
        projection = projection_of(view, (corners if own.all() else corners[own]).reshape(-1, 3))
    near, standing = None, (corners, source)
    if projection.eye is not None:
        near = Plane(-projection.sight, float(-projection.sight @ projection.eye - NEAR))
        corners, source = clip_triangles(corners, source, near)
    if not len(corners):
        raise ViewError(f"View “{view.name}” shows no part at all; take its cuts back, show parts again or step back.")
    return Scene(model, view, projection, surfaces, near, shown, uncut, spared, corners, source, standing)
