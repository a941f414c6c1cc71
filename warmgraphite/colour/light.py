"""How light a colour is, and what of it is light.

Two things are told apart. The **luminance** of coded values is their weighted sum, as the W3C's Filter Effects Module
Level 1 has it for grey and saturation: quick, and what adjusting sheets and thresholds go by. **Linear light** is what
adds up on paper and in the eye: sRGB decoded by its transfer function (IEC 61966-2-1); its weighted sum is the
**lightness**, Y of CIE 1931.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour.text import shares

__all__ = ["LUMINANCE", "encoded", "is_light", "lightness", "linear", "luminance"]

#: Shares of red, green and blue in how light a colour is (ITU-R BT.709-6, 3.2, rounded as in IEC 61966-2-1).
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
#: Luminance above which dark ink is read on a colour, and below which pale ink is.
HALF = 0.43


def luminance(colours: NDArray[Any]) -> NDArray[np.float32]:
    """(…) the luminance of coded colours (…, 3), in their unit."""
    return np.asarray(np.asarray(colours, np.float32) @ LUMINANCE, np.float32)


def is_light(colour: str) -> bool:
    """Whether dark ink is read on ``#rrggbb``."""
    return bool(luminance(shares(colour))[0] > HALF)


def linear(coded: NDArray[Any]) -> NDArray[Any]:
    """(…) linear light of sRGB, both 0 to 1."""
    c = _real(coded)
    return np.asarray(np.where(c <= 0.04045, c / 12.92, ((np.maximum(c, 0) + 0.055) / 1.055) ** 2.4), c.dtype)


def encoded(light: NDArray[Any]) -> NDArray[Any]:
    """(…) sRGB from 0 to 1 of linear light, brought into that range."""
    own = np.clip(_real(light), 0, 1)
    return np.asarray(np.where(own <= 0.0031308, 12.92 * own, 1.055 * own ** (1 / 2.4) - 0.055), own.dtype)


def _real(values: NDArray[Any]) -> NDArray[Any]:
    """Values in the precision that they have, which is enough for pixels in single."""
    found = np.asarray(values)
    return found if found.dtype.kind == "f" else found.astype(np.float64)


def lightness(pixels: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(…) the linear lightness of pixels (…, 3), 0 to 1."""
    return np.asarray(STEPS[pixels] @ LUMINANCE, np.float32)


#: Linear light of the steps of eight bits.
STEPS = linear(np.arange(256, dtype=np.float32) / np.float32(255))
