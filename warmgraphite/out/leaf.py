"""A page that is written: as marks on any canvas, as pixels, and as pictures that lie on each other."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Canvas

__all__ = ["Leaf", "Sheet"]

Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Sheet:
    """One of those that lie on each other, from the lowest up.
    ``draw`` draws it at full strength, and it is laid down with an opacity and a W3C blend mode.
    """

    name: str
    opacity: float
    blend: str
    draw: Callable[[Canvas], None]


@dataclass(frozen=True)
class Leaf:
    """One page.
    Its size in millimetres, what draws it, its pixels (h, w, 4) of a size (width, height), premultiplied and in the
    library's order, and its sheets. ``holds_drawings`` is whether what lies on it are drawings with traces of their
    own.
    """

    size: tuple[float, float]
    draw: Callable[[Canvas], None]
    pixels: Callable[[tuple[int, int]], Pixels]
    sheets: Callable[[], Iterable[Sheet]]
    holds_drawings: bool = False

    def pixels_at(self, resolution: float) -> tuple[int, int]:
        """Width and height in pixels at so many to the inch."""
        width, height = (max(1, round(mm / 25.4 * resolution)) for mm in self.size)
        return width, height
