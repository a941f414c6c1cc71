"""What of a drawing fills in on paper: gaps between darks that close, and what is drawn in darks and cannot be told any more."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from warmgraphite.proof.printer import PrintPaper, from_linear, grown, lightness, printed_lightness

__all__ = ["filled_in"]

#: Dots from which a place is dark: what lies between two of these closes.
DARK = 0.62
#: Steps of sRGB that are told apart: what differs by ``TOLD`` on the screen and by less than ``LOST`` on paper is lost.
TOLD, LOST = 0.055, 0.022
#: Millimetres within which something must differ to be drawn there.
NEAR = 0.5


def filled_in(pixels: NDArray[np.uint8], paper: PrintPaper, per_mm: float) -> NDArray[np.bool_]:
    """(h, w) where a picture (h, w, 3), of so many pixels to the millimetre, fills in on a paper."""
    light = lightness(pixels.astype(np.float32) / np.float32(255))
    dots = grown(1 - light, paper.gain)
    dark = dots >= DARK
    # A gap is as wide as what just fits in between: what a disc of half of it closes.
    reach = paper.gap * per_mm / 2
    closing = _spread(dark, reach)
    closed = ~_spread(~closing, reach) & ~dark
    before, after = from_linear(light), from_linear(printed_lightness(light, paper))
    size = max(3, round(NEAR * per_mm) | 1)
    told = ndimage.maximum_filter(before, size) - ndimage.minimum_filter(before, size)
    left = ndimage.maximum_filter(after, size) - ndimage.minimum_filter(after, size)
    lost = (told >= TOLD) & (left < LOST) & dark
    return np.asarray(closed | lost, bool)


def _spread(dark: NDArray[np.bool_], reach: float) -> NDArray[np.bool_]:
    """What is dark, grown by so many pixels, whole or not."""
    if not dark.any():
        return dark
    return np.asarray(ndimage.distance_transform_edt(~dark) <= reach, bool)
