"""Strokes: pieces of line put end to end as the pen would go, once it is known which pen draws them.

Pens are assigned before pieces are chained. So a rule that takes hold of some of the lines never breaks a stroke where
its pen does not change, and at a corner a stroke goes on along the line that has its own pen.
"""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts
from warmgraphite.geometry.tolerances import NO_LENGTH, ON_PAPER
from warmgraphite.ink.assign import Style, pens_of
from warmgraphite.ink.parted import Parted
from warmgraphite.ink.rules import PenRule
from warmgraphite.model.model import Model
from warmgraphite.passes.chains import JOIN, chained
from warmgraphite.passes.kernels import strokes as stroke_loops
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.store import Arrays

__all__ = ["StrokeIndex", "StrokeSet", "Strokes", "runs", "stroke_set"]

#: Sine of the turn below which a corner is none.
STRAIGHT = 1e-5
#: Millimetres of a cell in which lines are looked up by place.
CELL = 4.0


@dataclass(frozen=True)
class Strokes:
    """Strokes of one pen: ``lines`` are (n, 2) arrays of frame millimetres."""

    style: Style
    lines: list[NDArray[np.float64]]


@dataclass(frozen=True)
class StrokeIndex:
    """Which lines come near a place: cells of :data:`CELL` millimetres, ``across`` of them in a row.
    Those of cell k are ``held[first[k]:first[k + 1]]``.
    """

    across: int
    down: int
    first: NDArray[np.int64]
    held: NDArray[np.int32]

    def near(self, x: float, y: float, reach: float) -> NDArray[np.int32]:
        """The lines that may come within ``reach`` millimetres of a place."""
        # The lists are of a grid with a row and a column of cells before the frame's.
        i, j = (
            range(max(math.floor((at - reach) / CELL) + 1, 0), min(math.floor((at + reach) / CELL) + 1, most - 1) + 1)
            for at, most in ((x, self.across), (y, self.down))
        )
        cells = [
            self.held[self.first[k] : self.first[k + 1]] for row in j for col in i for k in (row * self.across + col,)
        ]
        return np.unique(np.concatenate(cells)) if cells else np.empty(0, np.int32)


@dataclass(frozen=True)
class StrokeSet:
    """Strokes (S) of a drawing in the order in which they are drawn.

    ``xy`` (V, 2) frame millimetres, of stroke s those from ``first[s]`` to ``first[s + 1]``; ``style`` (S,) into
    ``styles``; ``part`` (S,) whose line it is; ``pen`` (N,) the style of each of the lines, −1 where none draws it;
    ``index`` finds lines by place.
    """

    xy: NDArray[np.float64]
    first: NDArray[np.int64]
    style: NDArray[np.int32]
    part: NDArray[np.int32]
    pen: NDArray[np.int32]
    styles: tuple[Style, ...]
    index: StrokeIndex

    def work(self) -> list[Strokes]:
        """The strokes by pen."""
        lines = np.split(self.xy, self.first[1:-1]) if len(self.style) else []
        ends = np.searchsorted(self.style, np.arange(len(self.styles) + 1))
        return [Strokes(s, lines[a:b]) for s, a, b in zip(self.styles, ends, ends[1:], strict=False) if b > a]

    def packed(self) -> Arrays:
        """As arrays, for the store."""
        text = np.frombuffer(json.dumps([s.written() for s in self.styles]).encode(), np.uint8)
        grid = np.array([self.index.across, self.index.down])
        return {
            "xy": self.xy, "first": self.first, "style": self.style, "part": self.part, "pen": self.pen,
            "styles": text, "grid": grid, "cell": self.index.first, "held": self.index.held,
        }  # fmt: skip

    @staticmethod
    def unpacked(a: Arrays) -> StrokeSet:
        """From the arrays of the store."""
        styles = tuple(Style.read(s) for s in json.loads(a["styles"].tobytes() or b"[]"))
        index = StrokeIndex(int(a["grid"][0]), int(a["grid"][1]), a["cell"], a["held"])
        return StrokeSet(a["xy"], a["first"], a["style"], a["part"], a["pen"], styles, index)


def runs(found: LineSet, rows: NDArray[np.int64]) -> list[NDArray[np.float64]]:
    """The chosen rows (in rising order) as polylines (n, 2) in millimetres.
    Rows of one chain that follow one another are one. Corners that are none are left out; a stroke that comes back to
    where it began is closed.
    """
    xy, first, _ = _polylines(found.from_mm[rows], found.to_mm[rows], _breaks(rows, found.chain[rows]))
    return np.split(xy, first[1:-1]) if len(first) > 1 else []


def _breaks(rows: NDArray[np.int64], chain: NDArray[np.int32]) -> NDArray[np.int64]:
    """Where a new polyline begins."""
    return (
        np.append(0, np.flatnonzero((np.diff(rows) != 1) | (np.diff(chain) != 0)) + 1)
        if len(rows)
        else np.empty(0, np.int64)
    )


def _polylines(
    start: NDArray, end: NDArray, begins: NDArray[np.int64]
) -> tuple[NDArray, NDArray[np.int64], NDArray[np.int64]]:
    """Points (V, 2) of the polylines, where each begins among them (S + 1,), and the row each begins with (S,)."""
    if not len(start):
        return np.empty((0, 2)), np.zeros(1, np.int64), begins
    last = np.append(begins[1:], len(start)) - 1
    step = end - start
    step /= np.maximum(np.linalg.norm(step, axis=1, keepdims=True), NO_LENGTH)
    turns = np.ones(len(start), bool)
    turns[1:] = np.abs(step[1:, 0] * step[:-1, 1] - step[1:, 1] * step[:-1, 0]) > STRAIGHT
    turns[begins] = True
    count = np.add.reduceat(turns, begins) + 1
    first = firsts(count)
    xy = np.empty((first[-1], 2))
    ends = first[1:] - 1
    inner = np.ones(len(xy), bool)
    inner[ends] = False
    xy[inner] = start[turns]
    xy[ends] = end[last]
    closed = (count > 3) & (np.abs(xy[first[:-1]] - xy[ends]).max(1) <= JOIN)
    xy[ends[closed]] = xy[first[:-1][closed]]
    return xy, first, begins


def stroke_set(
    lines: LineSet, model: Model, rules: Sequence[PenRule], frame: tuple[float, float], heavier: float = 1.0,
    pieces: Parted | None = None, thin: NDArray[np.float64] | None = None, lost: NDArray[np.bool_] | None = None,
) -> StrokeSet:  # fmt: skip
    """The strokes of the lines of a drawing, each with the pen that the rules give it.
    They are ``heavier`` times as heavy; ``pieces`` are what is drawn in their place, where something changes along
    them, ``thin`` (N,) how thin the layers are, in millimetres, that lines of cuts part. Those that are ``lost`` (N,)
    no pen draws.
    """
    found, whole = lines, lines
    if pieces is not None:
        found = replace(lines.only(pieces.rows), from_mm=pieces.from_mm, to_mm=pieces.to_mm)
        thin = None if thin is None else thin[pieces.rows]
    pen, styles = pens_of(found, model, rules, heavier, pieces, thin)
    if lost is not None:
        pen[lost if pieces is None else lost[pieces.rows]] = -1
    rows = np.flatnonzero(pen >= 0)
    place, turned, chain = chained(found.from_mm[rows], found.to_mm[rows], pen[rows].astype(np.int64))
    # Chains come in any order; what is drawn first stands first.
    order = np.argsort(pen[rows[place]], kind="stable")
    rows, turned, chain = rows[place[order]], turned[order][:, None], chain[order]
    start = np.where(turned, found.to_mm[rows], found.from_mm[rows])
    end = np.where(turned, found.from_mm[rows], found.to_mm[rows])
    begins = np.append(0, np.flatnonzero(np.diff(chain)) + 1) if len(rows) else np.empty(0, np.int64)
    xy, first, begins = _polylines(start, end, begins)
    part = found.part[rows[begins]]
    style = pen[rows[begins]]
    if pieces is not None:  # a line is asked as a whole: by the first of its pieces that is drawn
        drawn = np.flatnonzero(pen >= 0)[::-1]
        own, pen = pen, np.full(len(whole), -1, np.int32)
        pen[pieces.rows[drawn]] = own[drawn]
    return StrokeSet(
        xy=xy, first=first, style=style, part=part, pen=pen, styles=tuple(styles), index=_index(whole, frame)
    )


def _index(found: LineSet, frame: tuple[float, float]) -> StrokeIndex:
    across, down = int(frame[0] / CELL) + 3, int(frame[1] / CELL) + 3
    first, held = stroke_loops.pieces_in_cells(found.from_mm, found.to_mm, across, down, CELL, ON_PAPER)
    return StrokeIndex(across, down, first[:: stroke_loops.WAYS], held)
