"""Pixels with an opacity.
They are **straight**, where the colour is the colour, and **premultiplied**, where it is as much as shows (Porter and
Duff, "Compositing digital images", 1984). All are eight bits, rounded to the nearest step.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["premultiplied", "straighten", "straightened"]

Pixels = NDArray[np.uint8]
#: Rows that are worked on at a time, so that sums of sixteen bits take little room.
ROWS = 256


def premultiplied(straight: Pixels) -> Pixels:
    """(h, w, 4) straight pixels with their colours times their alpha; the same where nothing is seen through."""
    if straight.size and straight[..., 3].min() == 255:
        return straight
    out = straight.copy()
    for first in range(0, len(out), ROWS):
        part = out[first : first + ROWS]
        part[..., :3] = (part[..., :3].astype(np.uint16) * part[..., 3:] + 127) // 255
    return out


def straighten(pixels: Pixels, order: tuple[int, int, int] = (0, 1, 2)) -> None:
    """Divide premultiplied pixels (h, w, 4) by their alpha, in place.
    ``order`` is where red, green and blue stand, and they are put into that order.
    """
    swapped = order != (0, 1, 2)
    for first in range(0, len(pixels), ROWS):
        part = pixels[first : first + ROWS]
        if swapped:
            part[..., :3] = part[..., list(order)]
        alpha = part[..., 3:].astype(np.uint16)
        if (alpha == 255).all():
            continue
        part[..., :3] = np.minimum((part[..., :3] * np.uint16(255) + alpha // 2) // np.maximum(alpha, 1), 255)


def straightened(pixels: Pixels) -> Pixels:
    """(h, w, 4) premultiplied pixels divided by their alpha."""
    out = pixels.copy()
    straighten(out)
    return out
