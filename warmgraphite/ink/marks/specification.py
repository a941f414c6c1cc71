"""What a mark says: its kind, its points, where it lies, its pen and its fills."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal, TypeAlias

from pydantic import Field, field_validator, model_validator

from warmgraphite.ink.fills import GRAPHITE, Fill, Flat, Hatch
from warmgraphite.regions.query import CELL_WORDS, Query, understood
from warmgraphite.regions.words._word import Number
from warmgraphite.specification import Colour, Specification, Words

__all__ = ["AnyMark", "Ground", "Mark", "MarkPen", "OnCut", "OnFace", "OnLevel", "OnPaper", "Plane", "with_mark_ids"]

Point: TypeAlias = tuple[Number, Number, Number]
Identity = Annotated[str, Field(pattern=r"^([a-z0-9-]{1,40})?$")]


class OnFace(Specification):
    """On the face of a ``part``, known by its path, that faces ``normal``."""

    lies: Literal["face"] = "face"
    part: str = Field(max_length=1000)
    normal: Point


class OnCut(Specification):
    """In a cutting plane with this ``normal``: it is there in every view that is cut there."""

    lies: Literal["cut"] = "cut"
    normal: Point


class OnLevel(Specification):
    """On a level, a storey's floor or any other."""

    lies: Literal["level"] = "level"


class OnPaper(Specification):
    """On the paper of one view: points are in millimetres from the middle of the drawing, to the right and down."""

    lies: Literal["paper"] = "paper"
    view: str = Field(default="", max_length=60)


Plane = Annotated[OnFace | OnCut | OnLevel | OnPaper, Field(discriminator="lies")]

#: How many points each kind has at least, and at most.
_POINTS: dict[str, tuple[int, int]] = {
    "line": (2, 2), "polyline": (2, 500), "rectangle": (2, 2), "polygon": (3, 500), "circle": (2, 2), "arc": (3, 3),
    "arrow": (2, 100),
    "stroke": (2, 4000), "brush": (1, 4000),
}  # fmt: skip


class MarkPen(Specification):
    """The pen of a mark; none draws where the ``weight``, in millimetres, is 0."""

    weight: float = Field(default=0.25, ge=0, le=5)
    colour: Colour = GRAPHITE
    dash: tuple[Annotated[float, Field(ge=0.05, le=100)], ...] = Field(default=(), max_length=8)
    opacity: float = Field(default=1.0, ge=0, le=1)

    @model_validator(mode="after")
    def _pairs(self) -> MarkPen:
        if len(self.dash) % 2:
            raise ValueError("a dash needs pairs of mark and gap")
        return self


class Mark(Specification):
    """One mark.
    ``points`` are in metres, on a plane of the model, or in millimetres on the paper: of a rectangle two corners, of a
    circle its middle and a place on it, of an arc three places on it. ``lift`` is how many metres it stands off its
    plane. What has an inside takes ``fills``; a brush lays the tone of its pen ``width`` wide, in the units of its
    points, with an edge as soft as ``softness`` says. ``where`` confines it to a region.
    """

    kind: Literal["line", "polyline", "rectangle", "polygon", "circle", "arc", "arrow", "stroke", "brush"]
    id: Identity = ""
    name: Words = Field(default="", max_length=60)
    on: bool = True
    points: tuple[Point, ...] = Field(max_length=4000)
    plane: Plane = OnPaper()
    lift: float = Field(default=0.0, ge=-100, le=100)
    pen: MarkPen = MarkPen()
    fills: tuple[Fill, ...] = Field(default=(), max_length=6)
    width: float = Field(default=1.0, gt=0, le=1000)
    softness: float = Field(default=0.6, ge=0, le=1)
    where: Query | None = None

    @field_validator("where")
    @classmethod
    def _of_regions(cls, where: Query | None) -> Query | None:
        return where and understood(where, CELL_WORDS | {"kept"}, "a region")

    @model_validator(mode="after")
    def _enough_points(self) -> Mark:
        least, most = _POINTS[self.kind]
        if not least <= len(self.points) <= most:
            wanted = str(least) if least == most else f"{least} to {most}"
            raise ValueError(f"a mark of the kind “{self.kind}” has {wanted} points, and this one {len(self.points)}")
        return self


_EARTH: tuple[Fill, ...] = (Hatch(pattern="earth", weight=0.11, colour="#5d5145"),)


class Ground(Specification):
    """A line of the ground, where the model has none or it stops short.
    At the height of its one point, or along its points, run on level from the last of them to the frame. Points that
    lie in one line in plan make a profile that holds for every view; others a ground between them. Below it there is
    earth to ``depth`` metres, with a ``straight``, ``rough`` or ``fading`` lower ``edge``; what stands in it, and rooms
    in that, stay free.
    """

    kind: Literal["ground"] = "ground"
    id: Identity = ""
    name: Words = Field(default="Ground", max_length=60)
    on: bool = True
    points: tuple[Point, ...] = Field(min_length=1, max_length=500)
    depth: float = Field(default=2.0, gt=0, le=200)
    edge: Literal["straight", "rough", "fading"] = "fading"
    pen: MarkPen = MarkPen(weight=0.5)
    fills: tuple[Fill, ...] = Field(default=_EARTH, max_length=6)


AnyMark = Annotated[Mark | Ground, Field(discriminator="kind")]


def with_mark_ids(marks: Sequence[Mark | Ground]) -> tuple[Mark | Ground, ...]:
    """The marks, each with an id: those that have none are numbered."""
    taken = {m.id for m in marks}
    free = (f"mark-{k}" for k in range(1, 2 * len(marks) + 2) if f"mark-{k}" not in taken)
    return tuple(m if m.id else m.model_copy(update={"id": next(free)}) for m in marks)


def faded(fills: Sequence[Fill], share: float) -> tuple[Fill, ...]:
    """Fills that are so much fainter."""
    return tuple(
        f.model_copy(update={"opacity": round(f.opacity * share, 4)}) for f in fills if isinstance(f, Flat | Hatch)
    )
