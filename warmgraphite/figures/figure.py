"""What every figure says: where it stands, how it is turned and lit; its kind says what it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.figures.cutouts import PictureSource
from warmgraphite.figures.piece import Piece
from warmgraphite.forms import number, setting
from warmgraphite.ink.entourage import FigureDrawn
from warmgraphite.model.behaviour import Role
from warmgraphite.specification import Colour, Specification, Words

__all__ = ["DRAWN", "Drawn", "Figure", "FigureItem", "OnSheet", "Point", "Seen", "with_figure_ids"]

Coordinate = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
Point = tuple[Coordinate, Coordinate, Coordinate]
Identity = Annotated[str, Field(pattern=r"^([a-z0-9-]{1,40})?$")]

#: How a figure may be drawn: as it is, with its outline alone or with marks of leaves in it, stippled or washed by its
#: shade, as a flat silhouette, or without its leaves.
Drawn = FigureDrawn
DRAWN: dict[str, str] = {
    "full": "in full", "outline": "outline only", "stipple": "outline and stipple", "wash": "in blots of wash",
    "silhouette": "as a silhouette",
    "bare": "without leaves",
}  # fmt: skip


class OnSheet(Specification):
    """A place on the paper of one view, in millimetres from the middle of the drawing.
    As seen from ``distance`` metres.
    """

    view: str = Field(default="", max_length=60)
    x: float = Field(default=0.0, ge=-5000, le=5000, allow_inf_nan=False)
    y: float = Field(default=0.0, ge=-5000, le=5000, allow_inf_nan=False)
    distance: float = Field(default=30.0, ge=0.1, le=1e5, allow_inf_nan=False)


@dataclass(frozen=True)
class Seen:
    """From where a figure is seen, as far as its shape goes by it.
    ``bearing`` in degrees of who looks, clockwise from north; whether one looks ``down`` on it; its ``detail``, from 0
    for all of it to 3 for a mark, whether that much is told ``coarsely``, with fewer faces; and where pictures of one's
    own are ``kept``.
    """

    bearing: float = 0.0
    down: bool = False
    slanting: bool = False
    detail: int = 0
    coarsely: bool = False
    kept: PictureSource | None = field(default=None, compare=False)


class FigureItem(Specification):
    """One figure of the stock: what it is offered under, and the figure itself, as JSON."""

    id: str
    sort: str
    label: str
    figure: dict[str, Any]

    @staticmethod
    def of(kind: str, name: str, sort: str, label: str, **said: Any) -> FigureItem:
        """A figure of a kind that is called so."""
        return FigureItem(id=f"{kind}-{name}".replace(" ", "-"), sort=sort, label=label, figure={"kind": kind, **said})


class Figure(Specification):
    """One figure.
    It stands ``at`` a point in metres, on its foot, and faces north, ``turn`` degrees to the left of it; or it is only
    on the paper of a view. Out of shadow and without one it is where it does not ``receive`` and does not ``cast``;
    planes go into it only when it is to be ``cut``. It stands in the place of the parts that it ``replaces``, by their
    paths. ``hue`` has all of it in one hue, ``weight`` draws its lines that heavy in millimetres, whatever its size.
    """

    #: What it is called where kinds are offered, and what group its parts are of where nothing is said.
    label: ClassVar[str] = ""
    plural: ClassVar[str] = ""
    role: ClassVar[Role] = "context"
    #: Millimetres of paper below which it is drawn with fewer lines, as a silhouette, and as a mark.
    least: ClassVar[tuple[float, float, float]] = (9.0, 4.5, 1.6)
    #: Whether it shows its pictures as cards, for which a finish has a sheet.
    cards: ClassVar[bool] = False

    #: Whether it is as natural turned any way.
    any_way: ClassVar[bool] = False
    #: How large the paper is that its sample is drawn on, against the usual one.
    sample: ClassVar[float] = 1.0
    #: The least and most metres that one is tall which stands in place of a modelled one.
    stature: ClassVar[tuple[float, float]] = (0.05, 60.0)

    kind: str = ""
    id: Identity = Field(default="", json_schema_extra={"hidden": True})
    name: Words = Field(default="", max_length=60, json_schema_extra={"hidden": True})
    group: Words = Field(default="", max_length=60, json_schema_extra={"hidden": True})
    on: bool = Field(default=True, json_schema_extra={"hidden": True})
    at: Point = Field(default=(0.0, 0.0, 0.0), json_schema_extra={"hidden": True})
    paper: OnSheet | None = Field(default=None, json_schema_extra={"hidden": True})
    turn: float = number(0.0, "Turned", "To the left of north", low=-360, high=360, unit="°", most=180)
    casts: bool = setting(True, "Casts a shadow")
    receives: bool = setting(True, "Shadow falls on it")
    cut: bool = setting(False, "Is cut by planes")
    drawn: Drawn | None = Field(default=None, title="Drawn", json_schema_extra={"hidden": True})
    hue: Colour | None = Field(default=None, title="In one hue", json_schema_extra={"hidden": True})
    weight: float | None = Field(default=None, ge=0.02, le=2, title="Line weight", json_schema_extra={"hidden": True})
    replaces: tuple[Annotated[str, Field(max_length=1000)], ...] = Field(
        default=(), max_length=200, json_schema_extra={"hidden": True}
    )

    @property
    def called(self) -> str:
        """What it is called: its name, or what it is."""
        return self.name or self.what

    @property
    def what(self) -> str:
        """What it is, in words."""
        return self.label

    @property
    def sort(self) -> str:
        """What of its kind it is: a pose, a habit, a thing."""
        return ""

    @property
    def on_water(self) -> Literal["none", "on", "under"]:
        """Whether it stands on water, or on the bed under it, or on neither."""
        return "none"

    @classmethod
    def stock(cls) -> list[FigureItem]:
        """Those that are offered."""
        return []

    def another(self, number: int, chance: np.random.Generator) -> dict[str, Any]:
        """What is otherwise in the next one that is like it."""
        return {"seed": (int(self.seed) + number) % 1_000_000} if hasattr(self, "seed") else {}

    def put_to(self, floors: Any) -> Figure:
        """The figure put to what it touches where it stands.
        ``floors`` are the :class:`~warmgraphite.figures.floors.Floors` of the model.
        """
        return self

    def in_place_of(self, tall: float, wide: float) -> dict[str, Any]:
        """What it says of itself where it stands in place of a modelled one of that size in metres."""
        return {"height": round(float(np.clip(tall, *self.stature)), 3)} if hasattr(self, "height") else {}

    @property
    def pictures(self) -> tuple[str, ...]:
        """The pictures of one's own that it shows, by their digests."""
        return ()

    @property
    def tall(self) -> float:
        """How tall it is, in metres."""
        raise NotImplementedError

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        """What it is made of, as it is seen: metres about its foot, facing north."""
        raise NotImplementedError

    #: How many times as tall as where it loses lines it is told with all its faces.
    fine: ClassVar[float] = 2.1

    def detail_at(self, mm: float) -> int:
        """How much of it is drawn where it is ``mm`` millimetres tall on paper."""
        return sum(mm < limit for limit in self.least)

    def shape_key(self, seen: Seen) -> Any:
        """What of where it is seen from its shape goes by."""
        return None

    @property
    def is_a(self) -> Role:
        """Its role."""
        return self.role

    def turned(self, seen: Seen) -> float:
        """Degrees by which it is turned to the left of north, as it is seen."""
        return self.turn


def with_figure_ids(figures: Sequence[Any]) -> tuple[Any, ...]:
    """The figures, each with an id: those that have none are numbered."""
    taken = {f.id for f in figures}
    free = (f"figure-{k}" for k in range(1, 2 * len(figures) + 2) if f"figure-{k}" not in taken)
    return tuple(f if f.id else f.model_copy(update={"id": next(free)}) for f in figures)


def turn_matrix(degrees: float) -> NDArray[np.float64]:
    """(3, 3) the turn about the upright."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])
