"""What of a drawing fills in on paper.
Gaps between darks that close, and what is drawn in darks and cannot be told any more.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from warmgraphite.colour import encoded, lightness
from warmgraphite.progress import Progress, silent
from warmgraphite.proof.printer import PrintPaper, grown, printed_lightness
from warmgraphite.threads import in_stretches

__all__ = ["filled_in"]

#: Dots from which a place is dark: what lies between two of these closes.
DARK = 0.62
#: Steps of sRGB that are told apart: what differs by ``TOLD`` on the screen and by less than ``LOST`` on paper is lost.
TOLD, LOST = 0.055, 0.022
#: Millimetres within which something must differ to be drawn there.
NEAR = 0.5
#: Rows that are looked through at once.
STRETCH = 256


def filled_in(
    pixels: NDArray[np.uint8], paper: PrintPaper, per_mm: float, watch: Progress = silent
) -> NDArray[np.bool_]:
    """(h, w) where a picture (h, w, 3), of so many pixels to the millimetre, fills in on a paper.
    ``watch`` is told the share that is looked through, and may raise to stop.
    """
    out = np.empty(pixels.shape[:2], bool)
    reach, size = paper.gap * per_mm / 2, max(3, round(NEAR * per_mm) | 1)
    # What is beyond this tells nothing of a row.
    beyond = max(2 * math.floor(reach), size // 2)

    def rows(first: int, last: int) -> None:
        top = max(first - beyond, 0)
        out[first:last] = _filled(pixels[top : last + beyond], paper, reach, size)[first - top : last - top]

    in_stretches(rows, len(pixels), STRETCH, watch)
    return out


def _filled(pixels: NDArray[np.uint8], paper: PrintPaper, reach: float, size: int) -> NDArray[np.bool_]:
    """What fills in.
    Where a disc of ``reach`` pixels closes a gap, and where a square of ``size`` pixels tells nothing any more.
    """
    light = lightness(pixels)
    dark = grown(1 - light, paper.gain) >= DARK
    if not dark.any():
        return dark
    # A gap is as wide as what just fits in between: what a disc of half of it closes.
    closed = ~_spread(~_spread(dark, reach), reach) & ~dark
    before, after = encoded(light), encoded(printed_lightness(light, paper))
    told = ndimage.maximum_filter(before, size) - ndimage.minimum_filter(before, size)
    left = ndimage.maximum_filter(after, size) - ndimage.minimum_filter(after, size)
    lost = (told >= TOLD) & (left < LOST) & dark
    return np.asarray(closed | lost, bool)


def _spread(dark: NDArray[np.bool_], reach: float) -> NDArray[np.bool_]:
    """What is dark, grown by so many pixels, whole or not.
    A disc is laid row by row, the shortest first, for each is a part of the next.
    """
    out, row, wide = np.zeros_like(dark), dark.copy(), 0
    for down in range(min(math.floor(reach), len(dark) - 1), -1, -1):
        while (wide + 1) ** 2 + down**2 <= reach**2:
            wide += 1
            row[:, wide:] |= dark[:, :-wide]
            row[:, :-wide] |= dark[:, wide:]
        out[down:] |= row[: len(row) - down]
        out[: len(row) - down] |= row[down:]
    return out
