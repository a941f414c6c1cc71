"""The canvas as a list of what was drawn, which can be drawn again on any other."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Anchor, Canvas, Face, Gradient, Matrix, Path, Ring, Stroke

__all__ = ["Journal"]


@dataclass
class Journal:
    """Takes down every mark.
    ``rows`` are names of methods with what they were called with, ``end`` closes a group or clip.
    """

    rows: list[tuple[str, tuple[Any, ...]]] = field(default_factory=list)
    of_pixels: bool = False

    @contextmanager
    def _within(self, name: str, *words: Any) -> Iterator[None]:
        self.rows.append((name, words))
        try:
            yield
        finally:
            self.rows.append(("end", ()))

    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> Any:
        return self._within("group", name, opacity, blend)

    def clip(self, x: float, y: float, width: float, height: float) -> Any:
        return self._within("clip", x, y, width, height)

    def clip_path(self, path: Path, rule: str = "evenodd") -> Any:
        return self._within("clip_path", path, rule)

    def mask(self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> Any:
        return self._within("mask", share, x, y, width, height)

    def transform(self, matrix: Matrix) -> Any:
        return self._within("transform", matrix)

    def path(
        self, path: Path, fill: str | Gradient | None = None, stroke: Stroke | None = None, rule: str = "evenodd"
    ) -> None:
        self.rows.append(("path", (path, fill, stroke, rule)))

    def fill(self, rings: list[Ring], colour: str) -> None:
        self.rows.append(("fill", (rings, colour)))

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        self.rows.append(("stroke", (lines, stroke)))

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        self.rows.append(("lines", (xy, first, stroke)))

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        self.rows.append(("ribbons", (xy, width, first, colour)))

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        self.rows.append(("image", (pixels, x, y, width, height)))

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        self.rows.append(("text", (x, y, words, face, size, colour, anchor)))

    def play(self, canvas: Canvas) -> None:
        """Draw all of it on another canvas."""
        open_: list[ExitStack] = []
        for name, words in self.rows:
            if name == "end":
                open_.pop().close()
            elif name in ("group", "clip", "clip_path", "mask", "transform"):
                open_.append(ExitStack())
                open_[-1].enter_context(getattr(canvas, name)(*words))
            else:
                getattr(canvas, name)(*words)
