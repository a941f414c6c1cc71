"""Palettes of ours.
Pigments that colours of materials are moved towards, so that a model's bright colours sit on one sheet.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import from_oklab, shares, to_oklab

__all__ = ["PALETTES", "Palette", "moved"]

Palette = Literal["as they are", "kiln", "pond", "chalk", "autumn", "sanguine"]

#: The pigments of each palette.
PALETTES: dict[str, tuple[str, ...]] = {
    "kiln": ("#d9a27e", "#c98f78", "#dfbd8c", "#c9c4b6", "#b9c0a0", "#a9bdc0", "#b7a692", "#e2d3b4", "#8f9aa0"),
    "pond": ("#a9c0bf", "#c1cbb4", "#d8ccb0", "#b6b3ad", "#93a9b4", "#cdb49c", "#dfd9c8"),
    "chalk": ("#d8cfc4", "#c6ccd0", "#d9d3b8", "#ccb8ad", "#b9c1b3", "#e6e0d6"),
    "autumn": ("#d59a62", "#c77f5c", "#d9b85f", "#a8aa6b", "#b9876e", "#cdbfa0", "#8fa3a0"),
    "sanguine": ("#c98672", "#d8a48e", "#b9705c", "#e3c6b4", "#a98f86"),
}


def moved(
    colours: NDArray[np.floating], palette: str, share: float = 0.75, lightest: float = 0.7
) -> NDArray[np.float64]:
    """(N, 3) colours 0–1 moved by ``share`` towards the pigment that is nearest in hue.
    They are lifted so that none is darker than a wash of ``lightest`` would be; those of no palette are only lifted.
    """
    lab = to_oklab(colours)
    pigments = PALETTES.get(palette)
    if pigments:
        own = to_oklab(shares(*pigments))
        # Hue says which pigment it is; a tone far off is no reason for another one.
        gap = ((lab[:, None] - own[None]) * [0.45, 1.0, 1.0]) ** 2
        nearest = own[np.argmin(gap.sum(-1), axis=1)]
        lab = lab + share * (nearest - lab) * [0.7, 1.0, 1.0]
    lab[:, 0] = np.where(lab[:, 0] < lightest, lightest - 0.35 * (lightest - lab[:, 0]), lab[:, 0])
    return from_oklab(lab)
