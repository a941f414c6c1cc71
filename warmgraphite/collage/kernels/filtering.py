"""What a pixel shows of things finer than itself.
Shares of it, not samples (A. Norton, A. Rockwood, P. Skolmoski, "Clamping", 1982).

And the numbers that a texture is made of, in the order in which the loops have them.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device
from warmgraphite.noise.kernels import smoothstep

__all__ = ["NUMBERS", "PIECE", "SORTS", "fading", "line", "lines", "seen"]

#: Pixels of a row that are worked on at once.
PIECE = 320

#: What a texture is made of, and the numbers that say how.
SORTS = ("plain", "units", "cells", "strewn", "ribs", "mesh")
NUMBERS = (
    "sort", "length", "height", "joint", "bond", "loose", "rough", "unit_tone", "unit_hue", "lap", "bevel", "bulge",
    "basket",
    "mark_length", "mark_width", "mark_turn", "sheets", "weather", "hue_cell", "hue", "layers",
)  # fmt: skip
SORT, LENGTH, HEIGHT, JOINT, BOND, LOOSE, ROUGH, TONE, HUE, LAP, BEVEL, BULGE, BASKET = range(13)
MARK_LENGTH, MARK_WIDTH, MARK_TURN, SHEETS, WEATHER, HUE_CELL, HUE_SHARE, LAYERS = range(13, 21)


@device(fast=True)
def fading(z):
    """About exp(−z), without asking for a function, so that several places go at once."""
    t = np.float32(1) / (np.float32(1) + z * np.float32(0.125))
    t *= t
    t *= t
    return t * t


@device(fast=True)
def line(away, half, foot, many):
    """Share of a pixel that a line takes.
    The pixel is ``foot`` wide, of which there are ``many`` to a metre; the line ``half`` wide to either side, ``away``
    from it.
    """
    low, high = max(away - 0.5 * foot, -half), min(away + 0.5 * foot, half)
    return max(high - low, 0.0) * many


@device(fast=True)
def lines(at, apart, half, foot, many):
    """The same of lines ``apart``, where ``at`` is the place between two of them."""
    if foot < 0.6 * apart:
        reach = half + 0.5 * foot
        if reach < at < apart - reach:
            return 0.0
        return line(at, half, foot, many) + line(apart - at, half, foot, many)
    near = line(at, half, foot, many) + line(apart - at, half, foot, many)
    return near + (2.0 * half / apart - near) * smoothstep(0.6, 1.2, foot / apart)


@device(fast=True)
def seen(size, many):
    """How much of a thing of this size a pixel shows: all of it, or nothing but its mean."""
    return min(max(size * many - 1.0, 0.0), 1.0)
