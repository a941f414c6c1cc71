"""A canvas that draws all on another one: what filters change is theirs, the rest is passed on."""

from __future__ import annotations

from contextlib import AbstractContextManager
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Anchor, Canvas, Face, Gradient, Matrix, Path, Ring, Stroke

__all__ = ["Passing"]


class Passing:
    """Passes every mark on to ``canvas``."""

    def __init__(self, canvas: Canvas) -> None:
        self.canvas, self.of_pixels = canvas, canvas.of_pixels

    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> AbstractContextManager[None]:
        return self.canvas.group(name, opacity, blend)

    def clip(self, x: float, y: float, width: float, height: float) -> AbstractContextManager[None]:
        return self.canvas.clip(x, y, width, height)

    def clip_path(self, path: Path, rule: Literal["evenodd", "nonzero"] = "evenodd") -> AbstractContextManager[None]:
        return self.canvas.clip_path(path, rule)

    def mask(
        self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float
    ) -> AbstractContextManager[None]:
        return self.canvas.mask(share, x, y, width, height)

    def transform(self, matrix: Matrix) -> AbstractContextManager[None]:
        return self.canvas.transform(matrix)

    def path(
        self,
        path: Path,
        fill: str | Gradient | None = None,
        stroke: Stroke | None = None,
        rule: Literal["evenodd", "nonzero"] = "evenodd",
    ) -> None:
        self.canvas.path(path, fill, stroke, rule)

    def fill(self, rings: list[Ring], colour: str) -> None:
        self.canvas.fill(rings, colour)

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        self.canvas.stroke(lines, stroke)

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        self.canvas.lines(xy, first, stroke)

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        self.canvas.ribbons(xy, width, first, colour)

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        self.canvas.image(pixels, x, y, width, height)

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        self.canvas.text(x, y, words, face, size, colour, anchor)
