"""What passes read of model and view, as frozen records that several of them share.

Of the model only the parts count that are shown and not wholly taken away by a plane, and of those only what a pass
looks at: a part renamed or hidden, a colour changed, a role that behaves alike leave what does not show them fresh.
Beside what a key is made of a record may hold what that names (:func:`held`): arrays too large to be written into a
key.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.memory import derived
from warmgraphite.model.bodies import Bodies, bodies_seen
from warmgraphite.model.model import Model
from warmgraphite.passes.casters import Sunlit, sunlit
from warmgraphite.passes.colour import Painted
from warmgraphite.passes.light import Daylight
from warmgraphite.passes.packing import digest
from warmgraphite.passes.terrain import Levels
from warmgraphite.view.scene import cut_surfaces, shown_parts, uncut_parts
from warmgraphite.view.specification import Cut, Frame, Lines, Occlusion, ProjectionSpec, Shade, ViewSpecification
from warmgraphite.view.sun import Sun, to_sun
from warmgraphite.view.surfaces import CutSurface

__all__ = [
    "Casting",
    "Corners",
    "Drawn",
    "Filled",
    "Framed",
    "Lit",
    "Looks",
    "Nothing",
    "Placed",
    "Raster",
    "Sawn",
    "Shown",
    "Sight",
    "held",
]


def held() -> Any:
    """A field of what the other fields of its record name: no part of a key."""
    return field(metadata={"held": True}, repr=False, compare=False)


@dataclass(frozen=True)
class Nothing:
    """What a pass reads that is made of other passes alone."""


@dataclass(frozen=True)
class Placed:
    """Where the model lies, in metres: tolerances and the coordinates in a cutting plane stand on it.
    And how many parts it has.
    """

    anchor: tuple[float, ...]
    extent: float
    parts: int


@dataclass(frozen=True)
class Sawn:
    """The bodies that cutting planes go through, as they lie, and the planes."""

    placed: Placed
    shapes: str
    cuts: tuple[Cut, ...]
    bodies: Bodies = held()
    #: (P,) which those are.
    chosen: NDArray[np.bool_] = held()

    @property
    def surfaces(self) -> tuple[CutSurface, ...]:
        return cut_surfaces(self.cuts, self.bodies.anchor)


@dataclass(frozen=True)
class Filled:
    """What settles how the bodies that are cut share the room: material, order of materials, earth and void."""

    words: str
    bodies: Bodies = held()


@dataclass(frozen=True)
class Shown:
    """The bodies that are shown, as they lie, and the planes."""

    placed: Placed
    shapes: str
    cuts: tuple[Cut, ...]
    #: Whether each is glass, its material and role, and how it is filled where it is cut.
    words: str
    #: Why none is, where the view asks for what the model has not.
    problem: str
    bodies: Bodies = held()
    #: (P,) which those are, and which no plane goes into.
    shown: NDArray[np.bool_] = held()
    uncut: NDArray[np.bool_] = held()


@dataclass(frozen=True)
class Framed:
    """How one looks: all that says where on the paper something lies."""

    projection: ProjectionSpec
    paper: tuple[Any, ...]
    frame: Frame = held()


@dataclass(frozen=True)
class Drawn:
    """Which edges are lines, and where contours run."""

    lines: Lines
    levels: Levels | None


@dataclass(frozen=True)
class Raster:
    """The pixels.
    Width and height of the whole frame, and of the window of it that is asked for x, y, width and height.
    """

    size: tuple[int, int]
    window: tuple[int, int, int, int]


@dataclass(frozen=True)
class Casting:
    """What of a sun says who casts: whether what planes take away does, and which parts (P,) do not."""

    exempt: str
    #: Whether all that is opaque casts, and nothing else.
    plain: bool
    #: The bodies that planes have taken away, where they cast, too.
    off: str
    under: Sunlit = held()
    #: (P,) what is there to cast: what is shown, and what is taken away of it.
    there: NDArray[np.bool_] = held()


@dataclass(frozen=True)
class Lit:
    """What the light falls on, and from where."""

    sun: Any
    exempt: str
    shade: Shade
    day: Daylight = held()


@dataclass(frozen=True)
class Direction:
    """(3,) the way to the sun."""

    ray: tuple[float, float, float]
    sun: Sun = held()


@dataclass(frozen=True)
class Corners:
    """What makes corners dark, but for how strongly."""

    occlusion: Occlusion


@dataclass(frozen=True)
class Looks:
    """The colours of materials, and their pictures."""

    looks: tuple[Any, ...]
    pictures: str
    painted: Painted = held()


@dataclass(frozen=True, eq=False)
class Sight:
    """The records of one drawing, each made once; ``chosen`` (P,) are the parts that are seen at all."""

    model: Model
    view: ViewSpecification
    chosen: NDArray[np.bool_]

    @derived
    def _there(self) -> NDArray[np.int64]:
        """The parts that the view shows, whatever planes take away."""
        return (
            np.empty(0, np.int64) if self._problem else np.flatnonzero(shown_parts(self.model, self.view) & self.chosen)
        )

    @derived
    def _problem(self) -> str:
        try:
            shown_parts(self.model, self.view)
        except ViewError as error:
            return str(error)
        return ""

    @derived
    def _rows(self) -> tuple[NDArray[np.int64], NDArray[np.bool_], NDArray[np.int64]]:
        """The parts of which anything is left, (P,) which no plane goes into, and those that are cut."""
        there = self._there
        beyond, crossed = _against_planes(self.model, self.view, there)
        shown, crossed = there[~beyond], crossed[~beyond]
        uncut = uncut_parts(self.model, self.view)
        return shown, uncut, shown[crossed & ~uncut[shown]]

    @derived
    def _bodies(self) -> Bodies:
        return bodies_seen(self.model, self._there, self._rows[2])

    @derived
    def _placed(self) -> Placed:
        model = self.model
        return Placed(tuple(model.anchor.tolist()), float(model.extent), len(model.parts))

    @derived
    def _filled(self) -> tuple[NDArray[Any], ...]:
        sawn, bodies = self._rows[2], self._bodies
        return bodies.cut_as[sawn], bodies.cut_place[sawn], bodies.poche[sawn]

    @derived
    def sawn(self) -> Sawn:
        """The bodies that cutting planes go through."""
        sawn = self._rows[2]
        chosen = np.zeros(len(self.model.parts), bool)
        chosen[sawn] = True
        return Sawn(self._placed, digest(sawn, self.model.part_shape[sawn]), self.view.cuts, self._bodies, chosen)

    @derived
    def filled(self) -> Filled:
        """How they share the room."""
        return Filled(digest(*self._filled), self._bodies)

    @derived
    def shown(self) -> Shown:
        """The bodies that are shown."""
        rows, uncut, _ = self._rows
        bodies, model = self._bodies, self.model
        said = (
            bodies.is_glass,
            bodies.is_glazing,
            bodies.material,
            bodies.role,
            bodies.figure,
            bodies.crease,
            bodies.plain,
            bodies.quiet,
        )
        words = digest(*(column[rows] for column in said), *self._filled)
        shown = np.zeros(len(model.parts), bool)
        shown[rows] = True
        shapes = digest(rows, model.part_shape[rows], uncut[rows])
        return Shown(self._placed, shapes, self.view.cuts, words, self._problem, bodies, shown, uncut & shown)

    @derived
    def framed(self) -> Framed:
        """How one looks."""
        frame = self.view.frame
        return Framed(self.view.projection, (frame.width, frame.height, frame.scale, frame.shift), frame)

    @derived
    def drawn(self) -> Drawn:
        """Which edges are lines."""
        said = self.model.contours
        return Drawn(self.view.lines, Levels(said.interval, said.index, self.model.origin[2]) if said else None)

    @derived
    def _sunlit(self) -> Sunlit:
        return sunlit(self.model.parts, self.view.sun)

    @derived
    def casting(self) -> Casting:
        """Who casts."""
        rows, under, bodies = self._there, self._sunlit, self._bodies
        there = np.zeros(len(self.model.parts), bool)
        there[rows] = True
        if not self.view.sun.cast_off:
            cast = under.cast[self._rows[0]]
            return Casting(digest(cast), bool(cast.all()), "", under, there)
        off = digest(rows, self.model.part_shape[rows], bodies.is_glass[rows], bodies.is_glazing[rows])
        return Casting(digest(under.cast[rows]), False, off, under, there)

    @derived
    def direction(self) -> Direction:
        """Where the sun stands."""
        return Direction(tuple(to_sun(self.view.sun).tolist()), self.view.sun)

    @derived
    def lit(self) -> Lit:
        """What the light falls on, and from where."""
        rows, under = self._rows[0], self._sunlit
        sun = self.view.sun.model_dump(mode="json", exclude={"moment", "not_casting", "not_receiving"})
        exempt = digest(~under.cast[rows], ~under.receive[rows])
        return Lit(sun, exempt, self.view.shade, Daylight(under, self.view.shade))

    @derived
    def corners(self) -> Corners:
        """What makes corners dark. How strong they are does not make them stale: they are computed at full strength."""
        return Corners(self.view.occlusion.model_copy(update={"strength": 1.0}))

    @derived
    def looks(self) -> Looks:
        """The colours of materials."""
        model = self.model
        looks = tuple((m.colour, m.texture, m.size) for m in model.looks)
        pictured = any(m.texture for m in model.looks)
        return Looks(looks, model.body if pictured else "", Painted(model.looks, model.textures))


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
        slack = NEAR * model.extent
        with np.errstate(invalid="ignore"):
            beyond |= (low - cut.point) @ normal > max(depths) + slack
            if cut.role == "cut":
                reaches = (low - cut.point) @ normal <= max(depths) + slack
                crossed |= reaches & ((high - cut.point) @ normal >= min(depths) - slack)
    return beyond, crossed
