"""What every note says; its kind says what it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.needs import Need
from warmgraphite.notes.written import Box, Mark
from warmgraphite.specification import Specification, Words
from warmgraphite.view.specification import ViewSpecification

if TYPE_CHECKING:
    from warmgraphite.model.model import Model
    from warmgraphite.notes.labels import LabelRequest
    from warmgraphite.notes.setting import Setting

__all__ = ["Companion", "Drawn", "Handle", "Keyed", "Lies", "Note", "OfPoints", "Point", "Spot", "numbered_notes"]

Coordinate = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Point: TypeAlias = tuple[Coordinate, Coordinate, Coordinate]
Offset: TypeAlias = tuple[
    Annotated[float, Field(ge=-5000, le=5000, allow_inf_nan=False)],
    Annotated[float, Field(ge=-5000, le=5000, allow_inf_nan=False)],
]
#: In metres of the model, or in millimetres to the right and down from the middle of the drawing.
Lies = Literal["model", "paper"]
_HIDDEN: dict[str, Any] = {"hidden": True}


@dataclass(frozen=True)
class Companion:
    """Another view of the same study: its letter and what it shows."""

    mark: str
    view: ViewSpecification


@dataclass(frozen=True)
class Handle:
    """A place by which a note is moved: ``index`` of its point, or −1 for its text."""

    index: int
    at: tuple[float, float]


@dataclass(frozen=True)
class Spot:
    """A place that was pointed at: its ``point`` in metres, or none where nothing of the model is there.
    ``flat``, in millimetres from the middle of the drawing; the ``part`` and the ``layer`` there, and how thick that is
    in metres.
    """

    point: Point | None
    flat: tuple[float, float]
    part: str = ""
    layer: str = ""
    thickness: float = 0.0

    @property
    def on_paper(self) -> Point:
        return self.flat[0], self.flat[1], 0.0


@dataclass(frozen=True)
class Keyed:
    """A line of the key: a sign, what it means, and the colour of both."""

    sign: str
    words: str
    colour: str
    theme: str = ""


@dataclass
class Drawn:
    """What a note is drawn of: its ``marks``; what is ``asked`` for is placed with all other labels.
    What is ``keyed`` stands in the key. ``boxes`` are the rooms that its texts take, ``size`` the height of its
    capitals, ``told`` one sentence of what is not as one expects.
    """

    marks: list[Mark] = field(default_factory=list)
    asked: list[LabelRequest] = field(default_factory=list)
    keyed: list[Keyed] = field(default_factory=list)
    boxes: list[Box] = field(default_factory=list)
    handles: list[Handle] = field(default_factory=list)
    told: str = ""


class Note(Specification):
    """One note of a view, in the colour of its ``theme``.
    ``size`` is the height of its capitals in millimetres where it is not that of the lettering.
    """

    label: ClassVar[str] = ""
    #: How it is drawn as a sign, in a box of 20 by 16, and what it is offered among.
    sign: ClassVar[str] = "M3 8H17"
    group: ClassVar[str] = "From the model"
    #: What a hint says while it is placed.
    hint: ClassVar[str] = ""
    #: How many points it is placed by at least, and at most.
    takes: ClassVar[tuple[int, int]] = (0, 0)
    #: The theme that a fresh one has.
    about: ClassVar[str] = ""
    #: What is laid out first: what cannot stand elsewhere, then what can.
    rank: ClassVar[int] = 1
    #: Whether paper lies behind its texts.
    patched: ClassVar[bool] = True

    id: str = Field(default="", pattern=r"^([a-z0-9-]{1,40})?$", json_schema_extra=_HIDDEN)
    name: Words = Field(default="", max_length=60, json_schema_extra=_HIDDEN)
    on: bool = Field(default=True, json_schema_extra=_HIDDEN)
    theme: str = Field(default="", max_length=40, json_schema_extra=_HIDDEN)
    size: float | None = Field(default=None, ge=0.5, le=60, json_schema_extra=_HIDDEN)

    @property
    def called(self) -> str:
        """What it is called: its name, or what it is."""
        return self.name or self.label

    def needs(self) -> tuple[Need, ...]:
        """The passes that it is made of."""
        return ()

    def settled(self, others: Sequence[Companion]) -> Note:
        """The note with what it says of other views."""
        return self

    def draw(self, there: Setting) -> Drawn:
        """What it is drawn of."""
        raise NotImplementedError

    @classmethod
    def placed(cls, spots: Sequence[Spot]) -> Note:
        """A fresh one, put on these places."""
        return cls()

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        """The note with what is taken hold of by a handle moved to a place."""
        return self

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        """The note where the model is measured otherwise, by a 4×4 matrix."""
        return self

    def renamed(self, followed: Callable[[str], str]) -> Note:
        """The note where parts are called otherwise now."""
        return self

    def following(self, old: Model, new: Model) -> Note:
        """The note in a newer version of the model."""
        return self


def by_matrix(point: Point, matrix: NDArray[np.float64]) -> Point:
    """A point where the model is measured otherwise."""
    x, y, z = (matrix[:3, :3] @ np.array(point) + matrix[:3, 3]).tolist()
    return x, y, z


class OfPoints(Note):
    """A note that is placed by points."""

    points: tuple[Point, ...] = Field(default=(), max_length=400, json_schema_extra=_HIDDEN)
    lies: Lies = Field(default="model", json_schema_extra=_HIDDEN)

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        if self.lies == "paper":
            return self
        return self.model_copy(update={"points": tuple(by_matrix(p, matrix) for p in self.points)})

    @classmethod
    def placed(cls, spots: Sequence[Spot]) -> Note:
        in_model = [s.point for s in spots if s.point is not None]
        whole = len(in_model) == len(spots)
        said: dict[str, Any] = {
            "points": tuple(in_model) if whole else tuple(s.on_paper for s in spots),
            "lies": "model" if whole else "paper",
        }
        if "parts" in cls.model_fields:
            said["parts"] = tuple(s.part for s in spots)
        return cls(**said)

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        if not 0 <= index < len(self.points):
            return self
        if self.lies == "model" and spot.point is None:
            # Nothing of the model is there: all of it lies on the paper from now on.
            flat = there.at(self.points) - np.array(there.plate.middle)
            rows: list[Point] = [(float(x), float(y), 0.0) for x, y in flat.tolist()]
            rows[index] = spot.on_paper
            return self.model_copy(update={"points": tuple(rows), "lies": "paper"})
        point = spot.on_paper if self.lies == "paper" else spot.point
        changed: dict[str, Any] = {"points": tuple(point if k == index else p for k, p in enumerate(self.points))}
        parts = getattr(self, "parts", None)
        if parts is not None and index < len(parts):
            changed["parts"] = tuple(spot.part if k == index else p for k, p in enumerate(parts))
        return self.model_copy(update=changed)

    def enough(self) -> bool:
        """Whether it has as many points as it needs."""
        return len(self.points) >= self.takes[0]


def numbered_notes(notes: Sequence[Any]) -> tuple[Any, ...]:
    """The notes, each with an id: those that have none are numbered."""
    taken = {n.id for n in notes}
    free = (f"note-{k}" for k in range(1, 2 * len(notes) + 2) if f"note-{k}" not in taken)
    return tuple(n if n.id else n.model_copy(update={"id": next(free)}) for n in notes)
