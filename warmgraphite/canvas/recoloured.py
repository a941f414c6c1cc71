"""A canvas that draws on another one in other colours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.passing import Passing
from warmgraphite.canvas.protocol import Anchor, Canvas, Face, Gradient, Path, Ring, Stroke
from warmgraphite.colour import channels, written

__all__ = ["Recoloured"]


class Recoloured(Passing):
    """Draws on ``canvas``, with each colour as ``change`` makes it. Pictures are changed pixel by pixel."""

    def __init__(self, canvas: Canvas, change: Callable[[str], str]) -> None:
        super().__init__(canvas)
        self.change = change

    def path(
        self,
        path: Path,
        fill: str | Gradient | None = None,
        stroke: Stroke | None = None,
        rule: Literal["evenodd", "nonzero"] = "evenodd",
    ) -> None:
        if isinstance(fill, Gradient):
            fill = replace(fill, stops=tuple((at, self.change(colour), opacity) for at, colour, opacity in fill.stops))
        elif fill is not None:
            fill = self.change(fill)
        self.canvas.path(path, fill, stroke and self._pen(stroke), rule)

    def fill(self, rings: list[Ring], colour: str) -> None:
        self.canvas.fill(rings, self.change(colour))

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        self.canvas.stroke(lines, self._pen(stroke))

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        self.canvas.lines(xy, first, self._pen(stroke))

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        self.canvas.ribbons(xy, width, first, self.change(colour))

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        # A picture among lines has few colours, such as a mask in one tone.
        rows, number = np.unique(pixels.reshape(-1, 4), axis=0, return_inverse=True)
        changed = rows.copy()
        for row, own in zip(changed, rows, strict=True):
            if own[3]:
                straight = np.clip(np.round(own[:3] * (255.0 / own[3])), 0, 255).astype(int)
                row[:3] = [round(v * own[3] / 255) for v in channels(self.change(written(straight)))]
        self.canvas.image(changed[number.reshape(-1)].reshape(pixels.shape), x, y, width, height)

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        self.canvas.text(x, y, words, face, size, self.change(colour), anchor)

    def _pen(self, stroke: Stroke) -> Stroke:
        return replace(stroke, colour=self.change(stroke.colour))
