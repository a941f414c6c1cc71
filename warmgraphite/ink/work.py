"""Ink as it is laid on the paper: lines of one width where the hand is still, ribbons where it is not."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.geometry.ragged import firsts_of, taken
from warmgraphite.ink.assign import Style
from warmgraphite.ink.fills import GRAPHITE
from warmgraphite.ink.hand import Hand, HandChange, corner_ends, drawn_by_hand, in_dashes, split_at_corners
from warmgraphite.ink.hatch_marks import DOT
from warmgraphite.ink.kernels import strokes as stroke_loops
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.surfaces import HatchSet, identities
from warmgraphite.passes.store import Arrays

__all__ = ["InkRow", "Work", "draw_rows", "hatch_work", "line_work", "line_work_of"]

Points = NDArray[np.float64]


@dataclass(frozen=True)
class InkRow:
    """Marks of one style: either polylines, of which ``width`` is ``None``, or ribbons ``width`` (V,) millimetres wide.
    Points ``xy`` (V, 2), of mark s those from ``first[s]`` to ``first[s + 1]``.
    """

    style: Style
    xy: NDArray
    width: NDArray | None
    first: NDArray[np.int64]


@dataclass(frozen=True)
class Work:
    """Rows of ink in the order in which they are laid down."""

    rows: tuple[InkRow, ...]

    def __iter__(self) -> Iterator[InkRow]:
        return iter(self.rows)

    def packed(self) -> Arrays:
        """As arrays, for the store."""
        about = [[r.style.written(), len(r.first), len(r.xy), r.width is not None] for r in self.rows]
        return {
            "about": np.frombuffer(json.dumps(about).encode(), np.uint8),
            "first": np.concatenate([np.empty(0, np.int64), *(r.first for r in self.rows)]),
            "xy": np.concatenate([np.empty((0, 2), np.float32), *(np.asarray(r.xy, np.float32) for r in self.rows)]),
            "width": np.concatenate([np.empty(0, np.float32), *(r.width for r in self.rows if r.width is not None)]),
        }

    @staticmethod
    def of_strokes(work: Sequence[Strokes]) -> Work:
        """Strokes as rows, before a hand draws them."""
        rows = [(s.style, s.lines) for s in work if s.lines]
        firsts = [firsts_of(lines) for _, lines in rows]
        return Work(
            tuple(InkRow(style, np.concatenate(lines), None, f) for (style, lines), f in zip(rows, firsts, strict=True))
        )

    def strokes(self) -> list[Strokes]:
        """Rows that no hand drew as strokes."""
        return [
            Strokes(r.style, [np.asarray(line, np.float64) for line in np.split(r.xy, r.first[1:-1])])
            for r in self.rows
            if r.width is None
        ]

    @staticmethod
    def unpacked(a: Arrays) -> Work:
        """From the arrays of the store."""
        rows, f, p, w = [], 0, 0, 0
        for style, firsts, points, is_ribbon in json.loads(a["about"].tobytes() or b"[]"):
            width = a["width"][w : w + points] if is_ribbon else None
            w += points if is_ribbon else 0
            rows.append(InkRow(Style.read(style), a["xy"][p : p + points], width, a["first"][f : f + firsts]))
            f, p = f + firsts, p + points
        return Work(tuple(rows))


def line_work_of(work: Sequence[Strokes], hand: Hand, middle: tuple[float, float]) -> Work:
    """Strokes by pen, as a hand draws them."""
    lines = [line for s in work for line in s.lines]
    style = np.repeat(np.arange(len(work), dtype=np.int32), [len(s.lines) for s in work])
    first = firsts_of(lines)
    return line_work(np.concatenate([np.empty((0, 2)), *lines]), first, style, [s.style for s in work], hand, middle)


def line_work(
    xy: Points,
    first: NDArray[np.int64],
    style: NDArray[np.int32],
    styles: Sequence[Style],
    hand: Hand,
    middle: tuple[float, float],
) -> Work:
    """Polylines (S), each of one of the ``styles``, in whose order they stand, as a hand draws them.
    ``middle`` is the middle of the drawing on the paper, by which strokes are known.
    """
    hands = [HandChange(**{n: v for n, v in s.hand if n != "seed"}).of(hand) for s in styles]  # type: ignore[arg-type]
    bent = np.array([bool(s.dash) or not h.is_still for s, h in zip(styles, hands, strict=True)], bool)
    if not bent.any():
        return Work(tuple(_still(xy, first, style, styles, hand)))
    xy, first = stroke_loops.oriented(np.ascontiguousarray(xy, np.float64), first)
    pieces, begins, of = split_at_corners(xy, first)
    corner = corner_ends(pieces, begins)
    # Dashes come before the hand: each mark is drawn by it.
    own = style[of]
    out: list[InkRow] = []
    for number, (pen, its_hand) in enumerate(zip(styles, hands, strict=True)):
        a, b = np.searchsorted(own, [number, number + 1])
        if a == b:
            continue
        if not bent[number]:
            first_of, last_of = np.searchsorted(style, [number, number + 1])
            out.append(_lines_of(xy, first, int(first_of), int(last_of), _coloured(pen, hand)))
            continue
        part, starts = pieces[begins[a] : begins[b]], begins[a : b + 1] - begins[a]
        corners, plain = corner[a:b], pen
        if pen.dash:
            part, starts, mark_of = in_dashes(part, starts, pen.dash)
            ends = np.zeros((len(mark_of), 2), bool)
            fresh = np.append(True, np.diff(mark_of) != 0) if len(mark_of) else np.empty(0, bool)
            ends[fresh, 0] = corners[mark_of[fresh], 0]
            ends[np.append(fresh[1:], True), 1] = corners[mark_of[np.append(fresh[1:], True)], 1]
            corners, plain = ends & False, replace(pen, dash=(), cap=pen.cap if pen.cap != "usual" else "butt")
        if its_hand.is_still:
            out.append(InkRow(_coloured(plain, hand), part, None, starts))
            continue
        count = len(starts) - 1
        found = drawn_by_hand(
            part, starts, np.full(count, pen.weight), identities(part, starts, middle), corners, [its_hand],
            np.zeros(count, np.int32)
        )  # fmt: skip
        out.append(InkRow(_coloured(plain, hand), found.xy, found.width, found.first))
    return Work(tuple(out))


def _coloured(style: Style, hand: Hand) -> Style:
    return replace(style, colour=hand.colour) if hand.colour and style.colour == GRAPHITE else style


def _lines_of(xy: Points, first: NDArray[np.int64], a: int, b: int, style: Style) -> InkRow:
    return InkRow(style, xy[first[a] : first[b]], None, first[a : b + 1] - first[a])


def _still(
    xy: Points, first: NDArray[np.int64], style: NDArray[np.int32], styles: Sequence[Style], hand: Hand
) -> Iterator[InkRow]:
    ends = np.searchsorted(style, np.arange(len(styles) + 1))
    for number, own in enumerate(styles):
        a, b = int(ends[number]), int(ends[number + 1])
        if b > a:
            yield _lines_of(xy, first, a, b, _coloured(own, hand))


#: What of a hand goes into hatches: they never leave their region at their ends, and are drawn once.
_IN_HATCHES = {"overrun": 0.0, "doubled": 0.0, "mismatch": 0.0, "breaks": 0.0}


def hatch_work(found: HatchSet, hand: Hand) -> Work:
    """The marks of hatches as a hand draws them; dots are small round ribbons."""
    order = np.argsort(found.style, kind="stable")
    ends = np.searchsorted(found.style[order], np.arange(len(found.styles) + 1))
    own = hand.model_copy(update={**_IN_HATCHES, "waver": 0.5 * hand.waver})
    out = []
    for number, style in enumerate(found.styles):
        rows = order[ends[number] : ends[number + 1]]
        for chosen, dots in ((rows[~found.dot[rows]], False), (rows[found.dot[rows]], True)):
            if not len(chosen):
                continue
            at, first = taken(found.first, chosen)
            xy = found.xy[at]
            pen = _coloured(style, hand)
            if dots:
                out.append(_dots(xy, pen))
            elif own.is_still:
                out.append(InkRow(replace(pen, cap="butt"), xy, None, first))
            else:
                drawn = drawn_by_hand(
                    xy, first, np.full(len(chosen), style.weight), found.identity[chosen],
                    np.zeros((len(chosen), 2), bool), [own],
                    np.zeros(len(chosen), np.int32),
                )  # fmt: skip
                out.append(InkRow(pen, drawn.xy, drawn.width, drawn.first))
    return Work(tuple(out))


def _dots(xy: Points, style: Style) -> InkRow:
    """Dots as ribbons of four points, which are octagons."""
    wide = DOT * style.weight
    along, across = np.array([-0.5, -0.207, 0.207, 0.5]) * wide, np.array([0.414, 1.0, 1.0, 0.414]) * wide
    points = np.repeat(xy, 4, axis=0)
    points[:, 0] += np.tile(along, len(xy))
    return InkRow(
        style,
        points.astype(np.float32),
        np.tile(across, len(xy)).astype(np.float32),
        4 * np.arange(len(xy) + 1, dtype=np.int64),
    )


def draw_rows(canvas: Canvas, work: Iterable[InkRow], what: str = "") -> None:
    """Draw rows of ink, each in a group that is called ``what`` and as its style is."""
    for row in work:
        with canvas.group(what + row.style.group if what != "lines " else row.style.named, row.style.opacity):
            if row.width is None:
                canvas.lines(row.xy, row.first, row.style.stroke)
            else:
                canvas.ribbons(row.xy, row.width, row.first, row.style.colour)
