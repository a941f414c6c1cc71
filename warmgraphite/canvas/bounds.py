"""The canvas that draws nothing and knows how far what was drawn reaches."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.compact import outlines
from warmgraphite.canvas.lettering import measured
from warmgraphite.canvas.protocol import Anchor, Face, Gradient, Matrix, Path, Ring, Stroke

__all__ = ["Bounds"]

Box = tuple[float, float, float, float]


def _reach(path: Path) -> Box:
    """A box about the points and handles of a path; curves never leave it."""
    points = np.array([n for _, numbers in path.steps for n in numbers]).reshape(-1, 2)
    (left, top), (right, bottom) = (points.min(0), points.max(0)) if len(points) else (np.zeros(2), np.zeros(2))
    return float(left), float(top), float(right), float(bottom)


class Bounds:
    """``box`` is left, top, right and bottom in millimetres of all that was drawn, strokes with their weight.
    ``None`` of nothing.
    """

    of_pixels = False

    def __init__(self) -> None:
        self.box: Box | None = None
        self._clips: list[Box] = []
        self._matrix = np.eye(3)

    def _moved(self, left: float, top: float, right: float, bottom: float) -> Box:
        corners = np.array([(left, top, 1), (right, top, 1), (right, bottom, 1), (left, bottom, 1)]) @ self._matrix.T
        (x0, y0), (x1, y1) = corners[:, :2].min(0), corners[:, :2].max(0)
        return float(x0), float(y0), float(x1), float(y1)

    def _add(self, left: float, top: float, right: float, bottom: float) -> None:
        left, top, right, bottom = self._moved(left, top, right, bottom)
        for box in self._clips:
            left, top, right, bottom = max(left, box[0]), max(top, box[1]), min(right, box[2]), min(bottom, box[3])
        if left <= right and top <= bottom:
            b = self.box or (left, top, right, bottom)
            self.box = (min(b[0], left), min(b[1], top), max(b[2], right), max(b[3], bottom))

    def _add_lines(self, lines: list[Ring], wide: float) -> None:
        for line in lines:
            if len(line):
                (left, top), (right, bottom) = line.min(0), line.max(0)
                self._add(float(left) - wide, float(top) - wide, float(right) + wide, float(bottom) + wide)

    @contextmanager
    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> Iterator[None]:
        yield

    @contextmanager
    def clip(self, x: float, y: float, width: float, height: float) -> Iterator[None]:
        self._clips.append(self._moved(x, y, x + width, y + height))
        try:
            yield
        finally:
            self._clips.pop()

    @contextmanager
    def clip_path(self, path: Path, rule: str = "evenodd") -> Iterator[None]:
        left, top, right, bottom = _reach(path)
        with self.clip(left, top, right - left, bottom - top):
            yield

    @contextmanager
    def mask(self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> Iterator[None]:
        with self.clip(x, y, width, height):
            yield

    @contextmanager
    def transform(self, matrix: Matrix) -> Iterator[None]:
        before = self._matrix
        a, b, c, d, e, f = matrix
        self._matrix = before @ np.array([(a, c, e), (b, d, f), (0, 0, 1)])
        try:
            yield
        finally:
            self._matrix = before

    def path(
        self, path: Path, fill: str | Gradient | None = None, stroke: Stroke | None = None, rule: str = "evenodd"
    ) -> None:
        left, top, right, bottom = _reach(path)
        wide = stroke.weight / 2 if stroke else 0.0
        self._add(left - wide, top - wide, right + wide, bottom + wide)

    def fill(self, rings: list[Ring], colour: str) -> None:
        self._add_lines(rings, 0.0)

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        self._add_lines(lines, stroke.weight / 2)

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        self._add_lines([xy] if len(xy) else [], stroke.weight / 2)

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        points, _ = outlines(xy, width, first)
        self._add_lines([np.asarray(points, np.float64)] if len(points) else [], 0.0)

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        self._add(x, y, x + width, y + height)

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        wide = measured(words, face, size)
        left = x - {"start": 0.0, "middle": wide / 2, "end": wide}[anchor]
        self._add(left, y - size, left + wide, y + size / 4)
