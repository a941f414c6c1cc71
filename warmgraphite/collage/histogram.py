"""How light and dark a picture is, and how much of it would fill in when it is printed."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import luminance
from warmgraphite.specification import Specification

__all__ = ["FILLS_IN", "Histogram", "histogram_of"]

#: Dots of ink spread by about a fifth on uncoated paper: what is darker than this comes out black.
FILLS_IN = 0.17
#: The share of a picture that may do so before it is worth a word: lines and poche always do.
WORTH_A_WORD = 0.12
BINS = 64


class Histogram(Specification):
    """``bins`` from black to white as shares of the picture.
    ``darkest`` is the tone that a hundredth of it is darker than, ``lightest`` the one that a hundredth is lighter
    than; ``fills_in`` the share that print would close, ``warning`` a sentence where that is a lot.
    """

    bins: tuple[float, ...]
    darkest: float
    lightest: float
    fills_in: float
    warning: str


def histogram_of(pixels: NDArray[np.uint8]) -> Histogram:
    """The histogram of a picture (h, w, 3 or 4)."""
    light = luminance(pixels[..., :3]) / 255
    counts, _ = np.histogram(light, BINS, (0, 1))
    low, high = np.quantile(light, (0.01, 0.99))
    closed = float((light < FILLS_IN).mean())
    warning = (
        f"{closed * 100:.0f} % of the drawing is so dark that it fills in when it is printed; lay “Lighten for print” "
        f"over it."
        if closed > WORTH_A_WORD
        else ""
    )
    return Histogram(
        bins=tuple((counts / light.size).round(5).tolist()), darkest=round(float(low), 3),
        lightest=round(float(high), 3),
        fills_in=round(closed, 4), warning=warning,
    )  # fmt: skip
