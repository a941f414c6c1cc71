"""Layers laid over an opaque picture, as maps of it: what several do to whatever lies below, as one.

Over an opaque backdrop B a layer of colour C (premultiplied) and alpha a gives, for each channel, B·p + q: normal (1 −
a, C), multiply (1 − a + C, 0), screen (1 − C, C), after the W3C's Compositing and Blending Level 1. Such maps put one
after another are such a map again, so a stack of them is laid down at the price of one layer.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.kernels.layers import over, then
from warmgraphite.threads import in_stretches

__all__ = ["LINEAR", "LayerMap"]

#: The blend modes that are such maps.
LINEAR = ("normal", "multiply", "screen")
_ONE = 65535.0


class LayerMap:
    """What layers of (h, w) pixels do to an opaque picture below them; none at first."""

    def __init__(self, height: int, width: int) -> None:
        self.scale = np.full((height, width, 3), _ONE, np.uint16)
        self.shift = np.zeros((height, width, 3), np.uint16)

    def then(self, layer: NDArray[np.uint8], opacity: float, blend: str) -> None:
        """Lay one more on top: (h, w, 4) premultiplied, with a blend mode of :data:`LINEAR`."""
        mode, share = LINEAR.index(blend), np.uint32(round(opacity * 257))
        in_stretches(lambda a, b: then(self.scale, self.shift, layer, share, mode, a, b), len(layer), 64)

    def over(self, below: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """(h, w, 4) an opaque picture with all of them over it."""
        out = np.empty_like(below)
        in_stretches(lambda a, b: over(self.scale, self.shift, below, a, b, out), len(below), 64)
        return out
