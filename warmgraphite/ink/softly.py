"""Drawing softly: of lines what a share leaves, cut and thinned as vectors; of all else a share of it.

A line keeps its width where it is wholly meant, grows thinner with its share, and ends where that is too thin to be
drawn. So what lies under a disc or a painted mask is as sharp in print as any other line.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.journal import Journal
from warmgraphite.canvas.protocol import Canvas, Ring, Stroke
from warmgraphite.geometry.ragged import firsts, firsts_of, ordinals, row_of
from warmgraphite.ink.hand import in_dashes

__all__ = ["Share", "draw_softly", "soft_pixels", "thinned"]

#: Millimetres between the places at which a share is asked along a line, and the share below which it ends.
STEP, LEAST = 0.5, 0.04

Points = NDArray[np.float64]


class Share(Protocol):
    """How much of each place is meant."""

    def at(self, xy: Points) -> NDArray[np.float32]:
        """(n,) shares at points (n, 2) in millimetres."""

    def pixels(self, width: int, height: int, x: float, y: float, across: float, down: float) -> NDArray[np.uint8]:
        """(height, width) 255 times the share of each pixel of a picture over a rectangle in millimetres."""


def draw_softly(
    canvas: Canvas,
    share: Share,
    size: tuple[int, int],
    place: tuple[float, float, float, float],
    draw: Callable[[Canvas], None],
) -> None:
    """Draw something softly.
    Its lines cut and thinned, what lies between them through masks of ``size`` pixels over a ``place``.
    """
    journal = Journal(of_pixels=canvas.of_pixels)
    draw(journal)
    mask: list[NDArray[np.uint8]] = []

    def masked(parts: list[_Part]) -> None:
        if all(p.name == "image" for p in parts):
            for part in parts:
                pixels, x, y, width, height = part.words
                share_of = share.pixels(pixels.shape[1], pixels.shape[0], x, y, width, height)
                canvas.image(soft_pixels(pixels, share_of), x, y, width, height)
            return
        if not mask:
            mask.append(share.pixels(*size, *place))
        with canvas.mask(mask[0], *place):
            for part in parts:
                part.play(canvas)

    def thin(part: _Part) -> None:
        left = Journal(of_pixels=canvas.of_pixels)
        part.play(_Lines(left, share))
        for own in _parts_of(left):  # of which groups that nothing is left of are gone
            own.play(canvas)

    _play(_parts_of(journal), canvas, thin, masked)


_LINES = {"stroke", "lines", "ribbons"}


@dataclass
class _Part:
    """A mark, or what holds others: the name of its method, with what it is called with.
    ``lines`` and ``areas`` are what it has.
    """

    name: str
    words: tuple[Any, ...]
    parts: list[_Part] | None
    lines: bool
    areas: bool

    def play(self, canvas: Canvas) -> None:
        if self.parts is None:
            getattr(canvas, self.name)(*self.words)
            return
        with getattr(canvas, self.name)(*self.words):
            for part in self.parts:
                part.play(canvas)


def _parts_of(journal: Journal) -> list[_Part]:
    """What was drawn as a tree; what holds nothing is left out."""
    nest: list[tuple[str, tuple[Any, ...], list[_Part]]] = [("", (), [])]
    for name, words in journal.rows:
        if name == "end":
            own, said, parts = nest.pop()
            if parts:
                nest[-1][2].append(_Part(own, said, parts, any(p.lines for p in parts), any(p.areas for p in parts)))
        elif name in ("group", "clip", "clip_path", "mask", "transform"):
            nest.append((name, words, []))
        else:
            nest[-1][2].append(_Part(name, words, None, name in _LINES, name not in _LINES))
    return nest[0][2]


def _play(
    parts: list[_Part], canvas: Canvas, thin: Callable[[_Part], None], masked: Callable[[list[_Part]], None]
) -> None:
    """Draw parts in their order: runs of areas through one mask, lines thinned, what has both part by part."""
    for has_lines, run in groupby(parts, lambda p: p.lines):
        if not has_lines:
            masked(list(run))
            continue
        for part in run:
            if not part.areas:
                thin(part)
                continue
            assert part.parts is not None
            with getattr(canvas, part.name)(*part.words):
                _play(part.parts, canvas, thin, masked)


def thinned(
    xy: Points, width: NDArray, first: NDArray[np.int64], share: Share
) -> tuple[NDArray[np.bool_], Points, NDArray, NDArray[np.int64]]:
    """Of polylines (S) with points (V, 2), ``width`` (V,) wide.
    (S,) which are meant from end to end, and of the others what is left as ribbons: points, widths, and where each
    begins.
    """
    points, wide, own, of = _finely(np.asarray(xy, np.float64), np.asarray(width, np.float64), first)
    found = share.at(points)
    lines = len(first) - 1
    least = np.full(lines, 1.0, np.float32)
    np.minimum.at(least, of, found)
    whole = least > 0.995
    left = (found > LEAST) & ~whole[of]
    # Of straight stretches that are wholly meant, only the ends say anything.
    full = found > 0.995
    inner = np.zeros(len(found), bool)
    inner[1:-1] = full[1:-1] & full[:-2] & full[2:] & ~own[1:-1] & (of[1:-1] == of[:-2]) & (of[1:-1] == of[2:])
    kept = np.flatnonzero(left & ~inner)
    if not len(kept):
        return whole, np.empty((0, 2)), np.empty(0), np.zeros(1, np.int64)
    # A piece ends where a place in between is left out for being too thin, or where the line does.
    gone = np.cumsum(~left)
    begins = np.append(True, (gone[kept[1:]] != gone[kept[:-1]]) | (of[kept[1:]] != of[kept[:-1]]))
    starts = np.append(np.flatnonzero(begins), len(kept)).astype(np.int64)
    long = np.diff(starts) > 1
    rows = kept[np.repeat(long, np.diff(starts))]
    count = np.diff(starts)[long]
    return whole, points[rows], (wide * found)[rows], firsts(count)


def _finely(
    xy: Points, width: NDArray, first: NDArray[np.int64]
) -> tuple[Points, NDArray, NDArray[np.bool_], NDArray[np.int64]]:
    """Points with others between them, no farther apart than :data:`STEP`.
    Their widths, which are the line's own, and the line of each.
    """
    of = np.repeat(np.arange(len(first) - 1), np.diff(first))
    same = of[1:] == of[:-1]
    gap = np.hypot(*(xy[1:] - xy[:-1]).T)
    parts = np.where(same, np.maximum(1, np.ceil(gap / STEP)), 1).astype(np.int64)
    count = np.append(parts, 1) if len(xy) else np.empty(0, np.int64)
    row = row_of(count)
    t = (ordinals(count) / count[row])[:, None]
    after = np.minimum(row + 1, max(len(xy) - 1, 0))
    joined = np.append(same, False)[row][:, None]
    points = np.where(joined, xy[row] * (1 - t) + xy[after] * t, xy[row])
    wide = np.where(joined[:, 0], width[row] * (1 - t[:, 0]) + width[after] * t[:, 0], width[row])
    return points, wide, t[:, 0] == 0, of[row]


class _Lines:
    """Draws lines cut and thinned."""

    def __init__(self, canvas: Canvas, share: Share) -> None:
        self.canvas, self.share, self.of_pixels = canvas, share, canvas.of_pixels

    def __getattr__(self, name: str) -> Any:
        return getattr(self.canvas, name)  # groups, clips and masks are those of the canvas

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        if lines:
            first = firsts_of(lines)
            self.lines(np.concatenate(lines), first, stroke)

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        whole, points, width, starts = thinned(xy, np.full(len(xy), stroke.weight), first, self.share)
        if stroke.dash and len(starts) > 1:
            # Marks and gaps are those of the line as it was before it was cut.
            marks, begins, _ = in_dashes(*_of(xy, first, ~whole), stroke.dash)
            meant, points, width, starts = thinned(marks, np.full(len(marks), stroke.weight), begins, self.share)
            own, own_first = _of(marks, begins, meant)
            self.canvas.lines(own, own_first, Stroke(stroke.weight, stroke.colour, (), stroke.ends, stroke.join))  # type: ignore[arg-type]
        if whole.any():
            self.canvas.lines(*_of(xy, first, whole), stroke)
        if len(starts) > 1:
            self.canvas.ribbons(points, width, starts, stroke.colour)

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        whole, points, left, starts = thinned(xy, width, first, self.share)
        if whole.any():
            own, own_first = _of(xy, first, whole)
            self.canvas.ribbons(own, width[np.repeat(whole, np.diff(first))], own_first, colour)
        if len(starts) > 1:
            self.canvas.ribbons(points, left, starts, colour)


def _of(xy: NDArray, first: NDArray[np.int64], chosen: NDArray[np.bool_]) -> tuple[NDArray, NDArray[np.int64]]:
    """The chosen (S,) of polylines."""
    count = np.diff(first)
    return xy[np.repeat(chosen, count)], firsts(count[chosen])


def soft_pixels(pixels: NDArray[np.uint8], share: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w, 4) premultiplied pixels, of which 255 times a share (h, w) is left."""
    found = np.multiply(pixels, share[..., None], dtype=np.uint16)
    found += 127
    found //= 255
    return found.astype(np.uint8)
