"""The hand: strokes as filled ribbons that waver, run over corners, break off, press and let go.

All unevenness is a smooth function of the way along a stroke, of what the stroke is and of a seed, so that the same
line of the same drawing has the same hand wherever and whenever it is drawn. Dials are in millimetres of paper.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import Field
from scipy.spatial import cKDTree

from warmgraphite.geometry.ragged import firsts, numbers
from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.ink.kernels import strokes as stroke_loops
from warmgraphite.specification import Colour, Specification

__all__ = [
    "PRESETS",
    "STILL",
    "Hand",
    "HandChange",
    "Ribbons",
    "corner_ends",
    "drawn_by_hand",
    "in_dashes",
    "split_at_corners",
]

Points = NDArray[np.float64]

#: Degrees of a turn from which a stroke has a corner there; less is a curve.
CORNER = 35.0
#: Millimetres within which ends of strokes meet.
MEETS = 0.03


class Hand(Specification):
    """How a hand draws: the usual one is still, as with a ruler.

    ``waver`` is how far a stroke may leave its line, ``wave`` the length of its waves, ``overrun`` how far it may go
    past a real corner, ``mismatch`` how far its ends may lie beside it, all in millimetres. ``breaks`` is how often the
    pen is lifted, ``doubled`` how many strokes are drawn twice, ``pressure`` how much a stroke swells and tapers,
    ``grain`` how much of the paper stays bare in it where it is printed to pixels, as shares. ``colour`` takes the
    place of the usual graphite.
    """

    waver: float = Field(default=0.0, ge=0, le=2, title="Waver", json_schema_extra={"unit": "mm", "most": 0.5})
    wave: float = Field(default=11.0, ge=2, le=200, title="Wave", json_schema_extra={"unit": "mm", "most": 60})
    overrun: float = Field(
        default=0.0, ge=0, le=20, title="Overrun at corners", json_schema_extra={"unit": "mm", "most": 4}
    )
    mismatch: float = Field(
        default=0.0, ge=0, le=2, title="Mismatch at corners", json_schema_extra={"unit": "mm", "most": 0.6}
    )
    pressure: float = Field(default=0.0, ge=0, le=1, title="Pressure")
    breaks: float = Field(default=0.0, ge=0, le=1, title="Breaks")
    doubled: float = Field(default=0.0, ge=0, le=1, title="Drawn twice")
    grain: float = Field(default=0.0, ge=0, le=1, title="Grain of the paper")
    colour: Colour | None = Field(default=None, title="Graphite")
    seed: int = Field(default=1, ge=0, le=1_000_000, title="Seed")

    @property
    def is_still(self) -> bool:
        """Whether strokes stay lines of one width."""
        return not (self.waver or self.overrun or self.breaks or self.pressure or self.doubled or self.mismatch)


class HandChange(Specification):
    """What a rule changes of the hand; what it does not say stays."""

    waver: float | None = Field(default=None, ge=0, le=2)
    wave: float | None = Field(default=None, ge=2, le=200)
    overrun: float | None = Field(default=None, ge=0, le=20)
    mismatch: float | None = Field(default=None, ge=0, le=2)
    pressure: float | None = Field(default=None, ge=0, le=1)
    breaks: float | None = Field(default=None, ge=0, le=1)
    doubled: float | None = Field(default=None, ge=0, le=1)
    seed: int | None = Field(default=None, ge=0, le=1_000_000)

    def of(self, hand: Hand) -> Hand:
        """The hand with these changes."""
        said = {name: value for name, value in self if value is not None}
        return hand.model_copy(update=said) if said else hand


STILL = Hand()

#: Hands of ours to begin with, by name.
PRESETS: dict[str, Hand] = {
    "Still": STILL,
    "Calm pencil": Hand(waver=0.09, wave=14, overrun=0.7, mismatch=0.05, pressure=0.5, breaks=0.04, doubled=0.02),
    "Soft graphite": Hand(
        waver=0.14,
        wave=18,
        overrun=1.2,
        mismatch=0.08,
        pressure=0.75,
        breaks=0.12,
        doubled=0.10,
        grain=0.55,
        colour="#544d46",
    ),
    "Brush": Hand(waver=0.20, wave=26, overrun=0.3, pressure=1.0, breaks=0.05),
}


@dataclass(frozen=True)
class Ribbons:
    """Ribbons (R): their middle lines ``xy`` (V, 2) with the ``width`` (V,) at each point, in frame millimetres.
    Of ribbon r those from ``first[r]`` to ``first[r + 1]``; ``of`` (R,) is the stroke each belongs to, in rising order.
    """

    xy: NDArray[np.float32]
    width: NDArray[np.float32]
    first: NDArray[np.int64]
    of: NDArray[np.int32]

    def __len__(self) -> int:
        return len(self.of)

    def only(self, begin: int, end: int) -> Ribbons:
        """Those from number ``begin`` to ``end``."""
        a, b = int(self.first[begin]), int(self.first[end])
        return Ribbons(self.xy[a:b], self.width[a:b], self.first[begin : end + 1] - a, self.of[begin:end])


def split_at_corners(xy: Points, first: NDArray[np.int64]) -> tuple[Points, NDArray[np.int64], NDArray[np.int32]]:
    """Polylines (S) cut in two wherever they turn.
    Points, where each piece begins, and the polyline that each is of.
    """
    return stroke_loops.split_at_corners(np.ascontiguousarray(xy), first, np.cos(np.radians(CORNER)))  # type: ignore[no-any-return]


def corner_ends(xy: Points, first: NDArray[np.int64]) -> NDArray[np.bool_]:
    """(S, 2) whether begin and end of each polyline lie in a real corner.
    Where others end too, none of which goes on with it, and where nothing goes straight through. An end on another
    line, or behind something, is none.
    """
    count = len(first) - 1
    if not count:
        return np.zeros((0, 2), bool)
    last = first[1:] - 1
    ends = np.stack([xy[first[:-1]], xy[last]], 1).reshape(-1, 2)
    inner = np.stack([xy[first[:-1] + 1], xy[last - 1]], 1).reshape(-1, 2)
    way = inner - ends
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), NO_LENGTH)
    pairs = cKDTree(ends).query_pairs(MEETS, output_type="ndarray")
    both = np.concatenate([pairs, pairs[:, ::-1]])
    both = both[np.argsort(both[:, 0], kind="stable")]
    begins = np.searchsorted(both[:, 0], np.arange(len(ends) + 1))
    found = stroke_loops.corners(way, begins, np.ascontiguousarray(both[:, 1]))
    return np.asarray(found).reshape(count, 2)


def in_dashes(
    xy: Points, first: NDArray[np.int64], dash: Sequence[float]
) -> tuple[Points, NDArray[np.int64], NDArray[np.int32]]:
    """Polylines in marks and gaps.
    ``dash`` in millimetres, stretched a little so that each begins and ends with a mark: points, where each mark
    begins, and the polyline that each is of.
    """
    return stroke_loops.dashed(np.ascontiguousarray(xy), first, np.array(dash, float))  # type: ignore[no-any-return]


def drawn_by_hand(
    xy: Points,
    first: NDArray[np.int64],
    weight: NDArray[np.float64],
    identity: NDArray[np.uint64],
    corner: NDArray[np.bool_],
    hands: Sequence[Hand],
    hand: NDArray[np.int32],
) -> Ribbons:
    """Polylines (S) as ribbons: each of ``weight`` (S,) millimetres, drawn by the hand that ``hand`` (S,) numbers.
    ``identity`` (S,) tells them apart, ``corner`` (S, 2) is where they may run over.
    """
    dials = np.array([[getattr(h, d) for d in stroke_loops.Dial._fields] for h in hands]).reshape(
        -1, len(stroke_loops.Dial._fields)
    )
    seeds = np.array([h.seed for h in hands], np.uint64)
    length = stroke_loops.lengths(xy, first)
    room = stroke_loops.room(length, first, dials, hand)
    slot = firsts(room)
    out, width = np.empty((int(slot[-1]), 2), np.float32), np.empty(int(slot[-1]), np.float32)
    begins = np.zeros(int(slot[-1]), np.bool_)
    used = np.zeros(len(room), np.int64)
    drawn = stroke_loops.Strokes(
        np.ascontiguousarray(xy, np.float64), first, length, np.asarray(weight, float), identity, corner, hand
    )
    stroke_loops.ribbons(drawn, stroke_loops.Hands(dials, seeds), slot, stroke_loops.Ribbon(out, width, begins), used)
    kept = numbers(slot[:-1], used)
    starts = np.append(np.flatnonzero(begins[kept]), len(kept))
    alone = starts[:-1][np.diff(starts) < 2]  # a point between two lifts is no stroke
    kept, begins[kept[alone]] = np.delete(kept, alone), False
    begins = begins[kept]
    of = np.repeat(np.arange(len(room), dtype=np.int32), used)
    of = np.delete(of, alone)[begins]
    return Ribbons(out[kept], width[kept], np.append(np.flatnonzero(begins), len(kept)), of)
