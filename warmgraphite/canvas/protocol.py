"""The drawing protocol between what is drawn and where it is drawn.

Every stage that makes marks calls these few methods in frame millimetres; each output format implements them once.
So the preview on the desk, the PDF and the SVG come from the same calls, and a new format is one new file.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "BLEND_MODES",
    "Anchor",
    "BlendMode",
    "Canvas",
    "Face",
    "Gradient",
    "Matrix",
    "Path",
    "Ring",
    "Stroke",
]

#: The modes of the W3C's Compositing and Blending Level 1, by their own names.
BlendMode = Literal[
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "hue",
    "saturation",
    "color",
    "luminosity",
]
BLEND_MODES: tuple[str, ...] = BlendMode.__args__  # type: ignore[attr-defined]

#: A face that ships with the application, serif, sans, hand or italic, or the path of a file of one's own.
Face = str
Anchor = Literal["start", "middle", "end"]
Ring = NDArray[np.float64]


#: a, b, c, d, e, f as in SVG: x' = a x + c y + e, y' = b x + d y + f.
Matrix = tuple[float, float, float, float, float, float]
Cap = Literal["usual", "butt", "round", "square"]
Join = Literal["round", "miter", "bevel"]


@dataclass(frozen=True)
class Stroke:
    """How a line is drawn: ``weight`` and ``dash`` in millimetres.
    The usual cap is round, and blunt where it is dashed.
    """

    weight: float
    colour: str
    dash: tuple[float, ...] = ()
    cap: Cap = "usual"
    join: Join = "round"

    @property
    def ends(self) -> str:
        """The cap by its name."""
        return ("butt" if self.dash else "round") if self.cap == "usual" else self.cap


@dataclass(frozen=True)
class Gradient:
    """A fill that changes along the way from ``start`` to ``end``.
    ``stops`` are places from 0 to 1 with colour and opacity.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    stops: tuple[tuple[float, str, float], ...]


@dataclass
class Path:
    """A path of straight and curved pieces.
    ``steps`` are M, L, C (cubic, two handles and an end) and Z with their points.
    """

    steps: list[tuple[str, tuple[float, ...]]] = field(default_factory=list)

    def move(self, x: float, y: float) -> Path:
        """Begin a piece."""
        return self._add("M", x, y)

    def line(self, x: float, y: float) -> Path:
        """Go straight to a point."""
        return self._add("L", x, y)

    def curve(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> Path:
        """Go to a point in a cubic curve with two handles."""
        return self._add("C", x1, y1, x2, y2, x, y)

    def close(self) -> Path:
        """End a piece where it began."""
        return self._add("Z")

    def _add(self, step: str, *numbers: float) -> Path:
        self.steps.append((step, tuple(float(n) for n in numbers)))
        return self

    @staticmethod
    def of(rings: Sequence[Ring]) -> Path:
        """Closed outlines (n, 2)."""
        path = Path()
        for ring in rings:
            for number, (x, y) in enumerate(ring.tolist()):
                (path.line if number else path.move)(x, y)
            path.close()
        return path


class Canvas(Protocol):
    """Where marks go.
    All lengths are millimetres from the frame's top left corner, y downwards. ``of_pixels`` is whether they end as
    pixels here, so that what only pixels can show is worth drawing.
    """

    of_pixels: bool

    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> AbstractContextManager[None]:
        """Marks made inside are one layer, laid down with this opacity and W3C blend mode."""

    def clip(self, x: float, y: float, width: float, height: float) -> AbstractContextManager[None]:
        """Marks made inside stay within a rectangle."""

    def clip_path(self, path: Path, rule: Literal["evenodd", "nonzero"] = "evenodd") -> AbstractContextManager[None]:
        """Marks made inside stay within a path."""

    def mask(
        self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float
    ) -> AbstractContextManager[None]:
        """Marks made inside are one layer, laid down by shares.
        It is that of which (h, w) 255 times a share is laid down over a rectangle, and nothing beside it.
        """

    def transform(self, matrix: Matrix) -> AbstractContextManager[None]:
        """Marks made inside are moved, turned and stretched."""

    def path(
        self,
        path: Path,
        fill: str | Gradient | None = None,
        stroke: Stroke | None = None,
        rule: Literal["evenodd", "nonzero"] = "evenodd",
    ) -> None:
        """A path filled with a colour or a gradient, and drawn along."""

    def fill(self, rings: list[Ring], colour: str) -> None:
        """Closed outlines (n, 2) filled by the even-odd rule."""

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        """Polylines (n, 2); one that ends where it begins is closed and gets a join there."""

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        """Very many polylines: points (V, 2), of line s those from ``first[s]`` to ``first[s + 1]``.
        One that ends where it begins is closed.
        """

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        """Very many ribbons.
        Filled strokes along polylines as in :meth:`lines`, ``width`` (V,) millimetres wide at each point.
        """

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        """(h, w, 4) premultiplied RGBA laid over a rectangle."""

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        """One line of text on the baseline at y, ``size`` millimetres from ascender to descender (the em)."""
