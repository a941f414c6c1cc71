"""What hatches are made of: the outlines that are filled, how they lie, and the marks on paper."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts, joined
from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.kernels import within
from warmgraphite.ink.kernels.strewing import evenly_strewn
from warmgraphite.ink.pattern import Mark, Scatter
from warmgraphite.memory import remembered
from warmgraphite.noise.hashing import unit_share

__all__ = [
    "BEYOND",
    "CELLS",
    "DOT",
    "FINEST",
    "MOST",
    "STREWN",
    "Asked",
    "Lie",
    "Marks",
    "Place",
    "Points",
    "Rings",
    "ToneField",
    "cut_marks",
    "evenly",
    "joined_marks",
    "laid_marks",
    "marks_at",
    "sizes",
    "turn_matrix",
]


def cut_marks(rings: Rings, xy: Points, begins: NDArray[np.int64], weight: float) -> Marks:
    """Polylines cut at outlines, but for specks."""
    xy, first, _ = within.clipped(rings.points, rings.first, np.ascontiguousarray(xy), begins)
    count = len(first) - 1
    return Marks(xy, first, np.full(count, weight), np.zeros(count, bool))


def laid_marks(
    asked: Asked, mark: Mark, place: Points, size: Points, turn: Points, matrix: Points, weight: float
) -> Marks:
    """One mark at places (N, 2) of the plane, each of its own size and turned its own way."""
    if not len(place):
        return joined_marks([])
    rings, shape = asked.rings, np.array(mark)
    c, s = (np.cos(turn) * size)[:, None], (np.sin(turn) * size)[:, None]
    points = np.stack(
        [place[:, :1] + c * shape[:, 0] - s * shape[:, 1], place[:, 1:] + s * shape[:, 0] + c * shape[:, 1]], 2
    )
    flat = points.reshape(-1, 2) @ matrix[:, :2].T + matrix[:, 2]
    xy = np.ascontiguousarray(flat[:, :2] / flat[:, 2:])
    if len(shape) == 1:
        reach = np.full(len(xy), max(0.5 * DOT * asked.hatch.weight * weight - BEYOND, 0.0))
        xy = xy[within.kept_points(rings.points, rings.first, xy, reach)]
        count = len(xy)
        return Marks(xy, np.arange(count + 1, dtype=np.int64), np.full(count, weight), np.ones(count, bool))
    begins = np.arange(len(place) + 1, dtype=np.int64) * len(shape)
    return cut_marks(rings, xy, begins, weight)


Points = NDArray[np.float64]


#: How many places a tile of strewn marks has.
STREWN = 2048


#: Lines, or strewn marks, of one hatch on one face; more are no hatch, and are thinned.
MOST = 400_000


#: Millimetres of paper from crest to crest below which a wave is none.
FINEST = 0.3


#: Cells along the longer side of a shape in which one tells roughly what lies near it.
CELLS = 240


#: A dot is so many times as wide as a line.
DOT = 2.0


#: Millimetres that ink may go beyond its region.
BEYOND = 0.04


@dataclass(frozen=True)
class Rings:
    """Closed outlines and holes: points (V, 2), of ring r those from ``first[r]`` to ``first[r + 1]``.
    What lies within is told by even-odd.
    """

    points: Points
    first: NDArray[np.int64]

    @staticmethod
    def of(rings: Iterable[Points]) -> Rings:
        rows = [np.asarray(r, np.float64)[:, :2] for r in rings]
        return Rings(
            *joined(rows, np.empty((0, 2))),
        )

    def under(self, matrix: NDArray) -> Points:
        """The points under a 3×3 collineation."""
        moved = self.points @ matrix[:, :2].T + matrix[:, 2]
        return np.ascontiguousarray(moved[:, :2] / moved[:, 2:])


@dataclass(frozen=True)
class Lie:
    """How a pattern lies: ``matrix`` takes (along its level, up, 1) to homogeneous frame millimetres.
    On the ``paper`` its unit is the millimetre and lines are as close as they are asked to be; else it is the metre.
    """

    matrix: Points
    paper: bool


@dataclass(frozen=True)
class ToneField:
    """A tone over the frame: (h, w) 255 times how dark it is, ``per_mm`` pixels to a millimetre down and across."""

    tone: NDArray[np.uint8]
    per_mm: tuple[float, float]


@dataclass(frozen=True)
class Marks:
    """Marks (S) on paper.
    Polylines ``xy`` (V, 2) in frame millimetres, of mark s those from ``first[s]`` to ``first[s + 1]``; ``weight`` (S,)
    is in shares of the hatch's; ``dot`` (S,) whether one is a dot, which has one point.
    """

    xy: Points
    first: NDArray[np.int64]
    weight: NDArray[np.float64]
    dot: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.weight)


def joined_marks(rows: list[Marks]) -> Marks:
    """All marks as one."""
    rows = [r for r in rows if len(r)]
    counts = np.concatenate([np.diff(r.first) for r in rows]) if rows else np.empty(0, np.int64)
    return Marks(
        np.concatenate([np.empty((0, 2)), *(r.xy for r in rows)]),
        firsts(counts),
        np.concatenate([np.empty(0), *(r.weight for r in rows)]),
        np.concatenate([np.empty(0, bool), *(r.dot for r in rows)]),
    )


def turn_matrix(degrees: float) -> Points:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def sizes(matrix: Points, at: Points, along: float, across: float) -> tuple[Points, Points]:
    """(N,) at places of the plane.
    Millimetres of paper between lines ``across`` apart, and of a step ``along`` them.
    """

    def flat(points: Points) -> Points:
        moved = points @ matrix[:, :2].T + matrix[:, 2]
        return moved[:, :2] / moved[:, 2:]

    here, there, over = flat(at), flat(at + np.array([along, 0.0])), flat(at + np.array([0.0, across]))
    way, side = there - here, over - here
    size = np.maximum(np.linalg.norm(way, axis=1), NO_LENGTH)
    return np.abs(way[:, 0] * side[:, 1] - way[:, 1] * side[:, 0]) / size, size


@dataclass(frozen=True)
class Place:
    """One thing that is hatched: its ``rings``, how the pattern lies in it, and what is there.
    ``key`` is what disorder is made of, ``dark`` how dark it is, ``drop`` by how many halvings marks are thinned.
    """

    rings: Rings
    lie: Lie
    key: int = 1
    dark: float = 0.0
    drop: int = 0
    #: Width and height of the paper: outlines beyond it are where the paper ends.
    paper: tuple[float, float] = (np.inf, np.inf)
    #: Whether what is filled is seen from above, so that no side of it is its underside.
    level: bool = False


@dataclass(frozen=True)
class Asked:
    """What is asked of each kind of mark; ``unit`` is the spacing."""

    hatch: Hatch
    place: Place
    unit: float
    middle: tuple[float, float]
    field: ToneField

    @property
    def rings(self) -> Rings:
        return self.place.rings

    @property
    def lie(self) -> Lie:
        return self.place.lie

    @property
    def dark(self) -> float:
        return self.place.dark

    @property
    def least(self) -> float:
        return 0.0 if self.lie.paper else self.hatch.least


@remembered("patterns")
def evenly(seed: int) -> Points:
    return np.asarray(evenly_strewn(STREWN, 17 + seed))


def marks_at(
    asked: Asked, scatter: Scatter, place: Points, xy: Points, number: NDArray[np.uint64], matrix: Points
) -> Marks:
    """Marks at places of the plane, turned and sized by their number, and cut at the outlines."""
    hatch, rows = asked.hatch, []
    which = (number % np.uint64(len(scatter.marks))).astype(int)
    size = asked.unit * (1 + scatter.vary * (2 * unit_share(number ^ np.uint64(21)) - 1))
    turn = np.radians(scatter.turn) * (2 * unit_share(number ^ np.uint64(33)) - 1)
    shift = hatch.disorder * 0.5 * asked.unit * np.stack([unit_share(number ^ np.uint64(k)) - 0.5 for k in (41, 43)], 1)
    for k, mark in enumerate(scatter.marks):
        chosen = np.flatnonzero(which == k)
        rows.append(
            laid_marks(asked, mark, place[chosen] + shift[chosen], size[chosen], turn[chosen], matrix, scatter.weight)
        )
    return joined_marks(rows)
