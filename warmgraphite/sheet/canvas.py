"""The drawing protocol between what is drawn and where it is drawn.

Every stage that makes marks calls these few methods in frame millimetres; each output format implements them once.
So the preview on the desk, the PDF and the SVG come from the same calls, and a new format is one new file.
"""

from __future__ import annotations

from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
from numpy.typing import NDArray

__all__ = ["BLEND_MODES", "Anchor", "BlendMode", "Canvas", "Face", "Stroke"]

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

Face = Literal["serif", "sans", "hand"]
Anchor = Literal["start", "middle", "end"]
Ring = NDArray[np.float64]


@dataclass(frozen=True)
class Stroke:
    """How a line is drawn: ``weight`` and ``dash`` in millimetres."""

    weight: float
    colour: str
    dash: tuple[float, ...] = ()


class Canvas(Protocol):
    """Where marks go. All lengths are millimetres from the frame's top left corner, y downwards."""

    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> AbstractContextManager[None]:
        """Marks made inside are one layer, laid down with this opacity and W3C blend mode."""

    def clip(self, x: float, y: float, width: float, height: float) -> AbstractContextManager[None]:
        """Marks made inside stay within a rectangle."""

    def fill(self, rings: list[Ring], colour: str) -> None:
        """Closed outlines (n, 2) filled by the even-odd rule."""

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        """Polylines (n, 2); one that ends where it begins is closed and gets a join there."""

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        """(h, w, 4) premultiplied RGBA laid over a rectangle."""

    def text(self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start") -> None:
        """One line of text on the baseline at y, ``size`` millimetres from ascender to descender (the em)."""
