"""What every kind of trace has: how it is laid down, the passes that it shows, and how it draws itself.

A kind is one module in :mod:`warmgraphite.collage.kinds`. Its fields are its settings: title, range, unit and what they
are about stand in the field itself, and the form on the screen is made from them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field, field_validator, model_validator

from warmgraphite.canvas.protocol import BlendMode, Canvas
from warmgraphite.collage.edges import Edge, edge_share
from warmgraphite.collage.grain import value_noise
from warmgraphite.collage.plate import Plate
from warmgraphite.colour import channels
from warmgraphite.ink.assign import Style
from warmgraphite.ink.confine import confined
from warmgraphite.ink.rules import Dash
from warmgraphite.ink.strokes import Strokes
from warmgraphite.needs import Need
from warmgraphite.regions.query import CELL_WORDS, Query, understood
from warmgraphite.regions.reading import of_parts
from warmgraphite.regions.soft import parted, window_names
from warmgraphite.specification import Colour, Specification, Words
from warmgraphite.view.specification import ViewSpecification

__all__ = [
    "Dash",
    "Flat",
    "LineTrace",
    "Mottle",
    "PixelTrace",
    "ToneTrace",
    "Trace",
    "draw_strokes",
    "grained",
    "rgb",
    "tone",
]

Mottle = Annotated[float, Field(ge=0, le=1, title="Mottle", description="How unevenly the wash lies.")]

#: How a trace is laid down; the rest of its fields is what it shows.
LAID = {"id", "name", "on", "opacity", "blend", "where", "bundle"}


class Trace(Specification):
    """One trace. ``where`` confines it to what a query means."""

    #: What the kind is called where one is chosen, and what it shows.
    label: ClassVar[str] = ""
    about: ClassVar[str] = ""
    #: The passes that it shows; another one of these is another picture.
    passes: ClassVar[tuple[str, ...]] = ()
    #: Whether it is the ground under all: it reaches to the paper's edge, and is left out where no paper is wanted.
    ground: ClassVar[bool] = False
    #: Whether it can be confined to some of the drawing.
    confines: ClassVar[bool] = True
    #: Whether it is a tone, which is laid beneath what is inked, or lies over that.
    under_ink: ClassVar[bool] = False
    #: Whether it stands behind all else, so that it is laid first of all that lies on the paper.
    stands_behind: ClassVar[bool] = False
    #: Whether it is poured into regions when it comes from stock, or laid over all at once.
    pours: ClassVar[bool] = True
    #: Where it lies in stock.
    stock_group: ClassVar[Any] = "sheets"
    #: What it is shown on where it lies in stock: a wall, a house seen from above, or one before the open.
    sample: ClassVar[Literal["wall", "house", "open"]] = "house"
    #: Whether it is set by how light and dark the drawing is, so that its form shows that.
    by_tones: ClassVar[bool] = False

    kind: str
    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: Words = Field(max_length=60)
    on: bool = True
    opacity: float = Field(default=1.0, ge=0, le=1)
    blend: BlendMode = "normal"
    where: Query | None = None
    #: The name under which it is shown with others as one.
    bundle: Words = Field(default="", max_length=60)

    @field_validator("where")
    @classmethod
    def _of_regions(cls, where: Query | None) -> Query | None:
        return where and understood(where, CELL_WORDS | {"kept", "through"}, "a region")

    @property
    def shown_picture(self) -> str:
        """The digest of the picture of the stock that it shows: what a kind has as its ``picture``."""
        return str(getattr(self, "picture", ""))

    def remarks(self, view: ViewSpecification, kept: Callable[[str], bool]) -> tuple[str, ...]:
        """What is to be said of it on this view, where a picture is ``kept`` in the stock or not."""
        found = []
        if self.shown_picture and not kept(self.shown_picture):
            found.append("Its picture is not in the stock here, so that its place stays empty; drop it in again.")
        missing = [n for n in sorted(window_names(self.where)) if not view.windows(n)] if self.where else []
        found += [f"This view has no disc or mask “{n}”, so that nothing is shown through it here." for n in missing]
        return tuple(found)

    def places(self, plate: Plate) -> dict[str, float]:
        """Where what of it is moved on the drawing lies, in frame millimetres, by the names that its handles go by."""
        return {}

    def needs(self) -> tuple[Need, ...]:
        """The passes that its kind shows."""
        return tuple(Need(name) for name in self.passes)

    def own_needs(self) -> tuple[Need, ...]:
        """The passes that it shows, as its kind and as what it is confined to has an edge."""
        return self.needs()

    def needs_on(self, plate: Plate) -> tuple[Need, ...]:
        """The passes that it shows besides for what this plate is drawn with, and how it is laid apart."""
        return ()

    def vector_needs(self) -> tuple[Need, ...]:
        """The passes that it shows besides where it stays vectors."""
        return ()

    def all_needs(self) -> tuple[Need, ...]:
        """All passes that it shows, as its kind and as it is confined."""
        return (*self.plain.own_needs(), *((Need("reach", self.soft),) if self.soft else ()))

    @property
    def plain(self) -> Self:
        """The trace confined to what of its region has an edge: so it draws itself.
        What is :attr:`soft` of it is laid over that.
        """
        hard, soft = parted(self.where)
        return self if soft is None else self.model_copy(update={"where": hard})

    @property
    def soft(self) -> Query | None:
        """What of its confinement is told by discs and painted masks."""
        return parted(self.where)[1]

    def shows(self) -> dict[str, Any]:
        """All of its settings that change what it shows at full strength, but for what it is confined to."""
        return {n: v for n, v in self.model_dump(mode="json").items() if n not in LAID}

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        """Draw what it shows, at full strength."""
        raise NotImplementedError

    def draw_over(self, canvas: Canvas, plate: Plate) -> None:
        """Draw what it lays over all traces, where it :meth:`lies_over`."""

    def lies_over(self) -> bool:
        """Whether it lays something over all other traces."""
        return False


def rgb(colour: str) -> NDArray[np.float32]:
    return np.array(channels(colour), np.float32)


def tone(colour: NDArray, alpha: NDArray) -> NDArray[np.uint8]:
    """(h, w, 4) premultiplied from a colour (3,) or (h, w, 3) in 0–255 and alpha (h, w) in 0–1."""
    out = np.empty((*alpha.shape, 4), np.uint8)
    np.multiply(np.broadcast_to(colour, (*alpha.shape, 3)), alpha[..., None], out=out[..., :3], casting="unsafe")
    np.multiply(alpha, 255, out=out[..., 3], casting="unsafe")
    return out


@dataclass(frozen=True)
class Flat:
    """One tone with sharp edges: closed outlines (n, 2) in frame millimetres, filled by the even-odd rule."""

    rings: list[NDArray[np.float64]]
    colour: str

    @staticmethod
    def of(shape: Any, colour: str) -> Flat:
        """Of a shape on the paper."""
        return Flat([shapely.get_coordinates(r) for r in shapely.get_rings(shapely.get_parts(shape))], colour)


class PixelTrace(Trace):
    """A trace made of pixels. Its edge is that of what it is confined to."""

    under_ink: ClassVar[bool] = True

    edge: Edge = Field(default="clean", title="Edge", description="How it ends where its region does.")
    edge_reach: float = Field(default=2.0, ge=0.05, le=100, title="Reach", description="How wide its edge is.",
        json_schema_extra={"unless": {"edge": ["clean"]}, "unit": "mm", "most": 15})  # fmt: skip
    outward: bool = Field(
        default=False,
        title="Outwards",
        description="Whether its edge goes beyond its region, or into it.",
        json_schema_extra={"unless": {"edge": ["clean"]}},
    )

    @property
    def has_edge(self) -> bool:
        """Whether it ends otherwise than its region does."""
        return self.where is not None and self.edge != "clean"

    @property
    def runs_over(self) -> bool:
        """Whether it reaches beyond its region."""
        return self.has_edge and self.outward

    def own_needs(self) -> tuple[Need, ...]:
        return (*self.needs(), *((Need("borders", self.where),) if self.has_edge else ()))

    def needs(self) -> tuple[Need, ...]:
        return (*super().needs(), *((Need("mask", self.where),) if self.where and not self.runs_over else ()))

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        """(h, w, 4) premultiplied, as large as the plate's window."""
        raise NotImplementedError

    def flat(self, plate: Plate) -> Flat | None:
        """What it is where it is one tone with sharp edges, so that a document has it as a shape.
        ``None`` where it is not.
        """
        return None

    def confined(self, plate: Plate) -> NDArray[np.uint8]:
        """(h, w, 4) premultiplied: its pixels where its region is."""
        found = self.pixels(plate)
        if self.where and not self.runs_over:
            found = np.round(found * (plate.of("mask", self.where)[..., None] / np.float32(255))).astype(np.uint8)
        return found

    def _lies_beside(self, plate: Plate) -> bool:
        """Whether its region does not reach into a plate's window."""
        mask = Need("mask", self.where)
        return self.where is not None and mask in self.needs() and not plate.results[mask].any()

    def finished(self, plate: Plate) -> NDArray[np.uint8]:
        """(h, w, 4) premultiplied: its pixels with the edge of its region."""
        if self._lies_beside(plate):
            return np.zeros((plate.raster.height, plate.raster.width, 4), np.uint8)
        found = self.confined(plate)
        if self.has_edge:
            share = edge_share(plate.ground, plate.of("borders", self.where), self.edge, self.edge_reach, self.outward)
            found = np.round(found * share[..., None]).astype(np.uint8)
        return found

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        found = None if canvas.of_pixels or self.has_edge else self.flat(plate)
        if found is None:
            canvas.image(plate.painted(self.finished), *plate.place)
        elif found.rings:
            canvas.fill(found.rings, found.colour)


class ToneTrace(PixelTrace):
    """One tone, as strong at each pixel as a share says."""

    colour: Colour = Field(default="#6f5c4c", title="Tone")
    mottle: Mottle = 0.4

    def share(self, plate: Plate) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of each pixel that has the tone."""
        raise NotImplementedError

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        share = self.share(plate).astype(np.float32) / 255
        share = share * (1 - 0.10 * self.mottle * (1 + value_noise(plate.ground, 22, 3, 31)))
        return tone(rgb(self.colour), np.clip(share, 0, 1))


class LineTrace(Trace):
    """Lines in a pen of its own."""

    passes: ClassVar[tuple[str, ...]] = ("lines",)

    weight: float = Field(default=0.13, ge=0.02, le=5, title="Weight", json_schema_extra={"unit": "mm", "most": 0.9})
    colour: Colour = Field(default="#2e2a27", title="Colour")
    dash: Dash = Field(default=(), title="Dash", description="Mark, gap, … in millimetres of paper.")

    @model_validator(mode="after")
    def _pairs(self) -> LineTrace:
        if len(self.dash) % 2:
            raise ValueError("a dash needs pairs of mark and gap")
        return self

    def needs(self) -> tuple[Need, ...]:
        return (*super().needs(), *((Need("room", self.where),) if self.where and not of_parts(self.where) else ()))

    def shows(self) -> dict[str, Any]:
        return {**super().shows(), "where": self.where and self.where.model_dump(mode="json")}

    def lines(self, plate: Plate, chosen: NDArray[np.bool_]) -> Sequence[NDArray[np.float64]]:
        """Polylines (n, 2) in frame millimetres, of the ``chosen`` (P,) parts."""
        raise NotImplementedError

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        style, room = Style(self.kind, self.weight, self.colour, self.dash), plate.room(self.where)
        work = [Strokes(style, list(self.lines(plate, plate.parts_in(self.where))))]
        draw_strokes(canvas, work if room is None else confined(work, room))


def draw_strokes(canvas: Canvas, work: Sequence[Strokes]) -> None:
    """Draw strokes, each pen's in a group of its own."""
    for strokes in work:
        with canvas.group(strokes.style.named, strokes.style.opacity):
            canvas.stroke(strokes.lines, strokes.style.stroke)


@contextmanager
def grained(canvas: Canvas, plate: Plate) -> Iterator[None]:
    """Where ink ends as pixels, what is drawn within has as much of the paper's grain in it as the hand leaves bare."""
    grain = plate.ink.hand.grain
    if not (grain and canvas.of_pixels):
        yield
        return
    tooth = 0.6 * value_noise(plate.ground, 0.55, 2, 57) + 0.4 * value_noise(plate.ground, 3.1, 2, 58)
    share = np.clip(1.0 - grain * np.clip(1.1 * tooth + 0.2, 0, 1), 0, 1)
    with canvas.mask(np.round(255 * share).astype(np.uint8), *plate.place):
        yield
