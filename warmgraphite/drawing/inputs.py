"""What passes read of model and view, as frozen records that several of them share.

Of the model only the parts count that are shown and not wholly taken away by a plane, and of those only what a pass looks at: a
part renamed or hidden, a colour changed, a role that behaves alike leave what does not show them fresh.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.model.model import Model
from warmgraphite.passes.casters import without_casting, without_shadow
from warmgraphite.passes.packing import digest
from warmgraphite.view.scene import shown_parts, uncut_parts
from warmgraphite.view.specification import Cut, Lines, Occlusion, Shade, ViewSpecification

__all__ = ["Bodies", "Corners", "Drawn", "Framed", "Lit", "Nothing", "Painted", "Placed", "Raster", "Sawn", "Seen"]


@dataclass(frozen=True)
class Nothing:
    """What a pass reads that is made of other passes alone."""


@dataclass(frozen=True)
class Placed:
    """Where the model lies, in metres: tolerances and the coordinates in a cutting plane stand on it."""

    anchor: tuple[float, ...]
    extent: float


@dataclass(frozen=True)
class Sawn:
    """The bodies that cutting planes go through, as they lie, and the planes."""

    placed: Placed
    shapes: str
    cuts: tuple[Cut, ...]


@dataclass(frozen=True)
class Filled:
    """What settles how the bodies that are cut share the room: material, order of materials, earth and void."""

    words: str


@dataclass(frozen=True)
class Bodies:
    """The bodies that are shown, as they lie, and the planes."""

    placed: Placed
    shapes: str
    cuts: tuple[Cut, ...]
    #: Whether each is glass, its material and role, and how it is filled where it is cut.
    words: str


@dataclass(frozen=True)
class Framed:
    """The bodies in their frame: all that says which line, and which surface, is seen where."""

    bodies: Bodies
    projection: Any
    paper: tuple[Any, ...]


@dataclass(frozen=True)
class Drawn:
    """What the lines read."""

    framed: Framed
    lines: Lines
    contours: Any


@dataclass(frozen=True)
class Raster:
    """The pixels: width and height of the whole frame, and of the window of it that is asked for x, y, width and height."""

    size: tuple[int, int]
    window: tuple[int, int, int, int]


@dataclass(frozen=True)
class Seen:
    """What the pixels see."""

    framed: Framed
    raster: Raster


@dataclass(frozen=True)
class Lit:
    """What the light falls on, and from where. ``around`` names the light of the whole, where a part set is seen alone."""

    framed: Framed
    sun: Any
    exempt: str
    shade: Shade
    around: str


@dataclass(frozen=True)
class Corners:
    """What makes corners dark, but for how strongly."""

    occlusion: Occlusion
    around: str


@dataclass(frozen=True)
class Painted:
    """The colours of materials, and their pictures."""

    looks: tuple[Any, ...]
    pictures: str


class Sight:
    """The records of one drawing, each made once; ``chosen`` (P,) are the parts that are seen at all, ``pinned`` names the frame that
    it has of another."""

    def __init__(self, model: Model, view: ViewSpecification, chosen: NDArray[np.bool_], around: str, pinned: str = "") -> None:
        self.model, self.view, self.around = model, view, around
        try:
            shown = np.flatnonzero(shown_parts(model, view) & chosen)
        except ViewError:  # said when the scene is asked for; until then there is nothing to name
            shown = np.empty(0, np.int64)
        beyond, crossed = _against_planes(model, view, shown)
        shown, crossed = shown[~beyond], crossed[~beyond]
        uncut = uncut_parts(model, view)[shown]
        sawn = shown[crossed & ~uncut]
        placed = Placed(tuple(model.anchor.tolist()), float(model.extent))
        order = np.unique(model.parts.cut_rank[model.parts.cut_as[sawn]], return_inverse=True)[1]
        filled = (model.parts.cut_as[sawn], order, model.parts.poche[sawn])
        self.sawn = Sawn(placed, digest(sawn, model.part_shape[sawn]), view.cuts)
        self.filled = Filled(digest(*filled))
        words = digest(
            model.parts.is_glass[shown],
            model.parts.is_glazing[shown],
            model.parts.material[shown],
            model.parts.role[shown],
            model.parts.figure[shown],
            model.parts.crease[shown],
            model.parts.plain[shown],
            model.parts.quiet[shown],
            *filled,
        )
        self.bodies = Bodies(placed, digest(shown, model.part_shape[shown], uncut), view.cuts, words)
        frame = view.frame
        self.framed = Framed(
            self.bodies,
            (view.projection, pinned) if pinned else view.projection,
            (frame.width, frame.height, frame.scale, frame.shift),
        )
        contours = (model.contours.interval, model.contours.index) if model.contours else None
        self.drawn = Drawn(self.framed, view.lines, contours)
        sun = view.sun.model_dump(mode="json", exclude={"moment", "not_casting", "not_receiving"})
        exempt = digest(without_casting(model, view.sun)[shown], without_shadow(model, view.sun)[shown])
        self.lit = Lit(self.framed, sun, exempt, view.shade, around)
        # How strong it is does not make it stale: it is computed at full strength.
        self.corners = Corners(view.occlusion.model_copy(update={"strength": 1.0}), around)
        looks = tuple((m.colour, m.texture, m.size) for m in model.looks)
        self.painted = Painted(looks, model.body if any(m.texture for m in model.looks) else "")

    def seen(self, size: tuple[int, int], window: tuple[int, int, int, int]) -> Seen:
        """What pixels of a ``window`` read."""
        return Seen(self.framed, Raster(size, window))


def _boxes(model: Model) -> NDArray[np.float64]:
    """(P, 2, 3) the bounds of parts, of parts of a figure those of all of it."""
    figure = model.parts.figure
    mine = np.flatnonzero(figure >= 0)
    if not len(mine):
        return model.part_bounds
    count = int(figure.max()) + 1
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, figure[mine], model.part_bounds[mine, 0])
    np.maximum.at(high, figure[mine], model.part_bounds[mine, 1])
    found = model.part_bounds.copy()
    found[mine] = np.stack([low, high], 1)[figure[mine]]
    return found


def _against_planes(
    model: Model, view: ViewSpecification, parts: NDArray[np.int64]
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(N,) which of the parts lie wholly on the removed side of a plane, and (N,) which reach a plane that cuts."""
    boxes = _boxes(model)[parts]
    beyond, crossed = np.zeros(len(parts), bool), np.zeros(len(parts), bool)
    for cut in view.cuts:
        normal = np.array(cut.normal, float)
        normal /= np.linalg.norm(normal)
        depths = [0.0, *(jog.by for jog in cut.jogs)]
        low = np.where(normal > 0, boxes[:, 0], boxes[:, 1])
        high = np.where(normal > 0, boxes[:, 1], boxes[:, 0])
        slack = 1e-6 * model.extent
        with np.errstate(invalid="ignore"):
            beyond |= (low - cut.point) @ normal > max(depths) + slack
            if cut.role == "cut":
                reaches = (low - cut.point) @ normal <= max(depths) + slack
                crossed |= reaches & ((high - cut.point) @ normal >= min(depths) - slack)
    return beyond, crossed
