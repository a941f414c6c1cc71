"""Palettes of ours: pigments that colours of materials are moved towards, so that a model's bright colours sit on one sheet.

Colours are compared in OKLab (B. Ottosson, "A perceptual color space for image processing", 2020): there a hue can be moved and a
tone kept.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colours import channels

__all__ = ["PALETTES", "Palette", "from_oklab", "moved", "to_oklab"]

Palette = Literal["as they are", "kiln", "pond", "chalk", "autumn", "sanguine"]

#: The pigments of each palette.
PALETTES: dict[str, tuple[str, ...]] = {
    "kiln": ("#d9a27e", "#c98f78", "#dfbd8c", "#c9c4b6", "#b9c0a0", "#a9bdc0", "#b7a692", "#e2d3b4", "#8f9aa0"),
    "pond": ("#a9c0bf", "#c1cbb4", "#d8ccb0", "#b6b3ad", "#93a9b4", "#cdb49c", "#dfd9c8"),
    "chalk": ("#d8cfc4", "#c6ccd0", "#d9d3b8", "#ccb8ad", "#b9c1b3", "#e6e0d6"),
    "autumn": ("#d59a62", "#c77f5c", "#d9b85f", "#a8aa6b", "#b9876e", "#cdbfa0", "#8fa3a0"),
    "sanguine": ("#c98672", "#d8a48e", "#b9705c", "#e3c6b4", "#a98f86"),
}

_LMS = np.array([[0.4122214708, 0.5363325363, 0.0514459929], [0.2119034982, 0.6806995451, 0.1073969566], [0.0883024619, 0.2817188376, 0.6299787005]])  # fmt: skip
_LAB = np.array([[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099], [0.0259040371, 0.7827717662, -0.8086757660]])  # fmt: skip


def to_oklab(colours: NDArray[np.floating]) -> NDArray[np.float64]:
    """(..., 3) lightness and two axes of hue, from sRGB 0–1."""
    c = np.asarray(colours, np.float64)
    linear = np.where(c <= 0.04045, c / 12.92, ((np.maximum(c, 0) + 0.055) / 1.055) ** 2.4)
    return np.asarray(np.cbrt(linear @ _LMS.T) @ _LAB.T)


def from_oklab(lab: NDArray[np.floating]) -> NDArray[np.float64]:
    """(..., 3) sRGB 0–1, brought into that range."""
    linear = (np.asarray(lab, np.float64) @ np.linalg.inv(_LAB).T) ** 3 @ np.linalg.inv(_LMS).T
    linear = np.clip(linear, 0, 1)
    return np.asarray(np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055))


def moved(colours: NDArray[np.floating], palette: str, share: float = 0.75, lightest: float = 0.7) -> NDArray[np.float64]:
    """(N, 3) colours 0–1 moved by ``share`` towards the pigment that is nearest in hue, and lifted so that none is darker than a wash
    of ``lightest`` would be; those of no palette are only lifted."""
    lab = to_oklab(colours)
    pigments = PALETTES.get(palette)
    if pigments:
        own = to_oklab(np.array([channels(p) for p in pigments], np.float64) / 255)
        # Hue says which pigment it is; a tone far off is no reason for another one.
        gap = ((lab[:, None] - own[None]) * [0.45, 1.0, 1.0]) ** 2
        nearest = own[np.argmin(gap.sum(-1), axis=1)]
        lab = lab + share * (nearest - lab) * [0.7, 1.0, 1.0]
    lab[:, 0] = np.where(lab[:, 0] < lightest, lightest - 0.35 * (lightest - lab[:, 0]), lab[:, 0])
    return from_oklab(lab)
