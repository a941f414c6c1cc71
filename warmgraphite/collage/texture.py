"""What a texture is made of, as data: lengths in metres of the thing itself, colours, and unevenness.

A texture is a function of the place on its face, so that it has neither seam nor repeat. Each is one file in
:mod:`warmgraphite.collage.textures`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.kernels.filtering import NUMBERS, SORTS
from warmgraphite.colour import shares

__all__ = ["Layer", "Texture", "rgb_rows"]

#: Longer than anything that is laid: units that have no ends.
ENDLESS = 1e6


Group = Literal["walls", "timber", "roofs", "metal", "ground", "water and green", "cloth and paper"]
#: The groups in the order in which they are offered.
GROUPS: tuple[str, ...] = get_args(Group)


@dataclass(frozen=True)
class Layer:
    """Unevenness of tone.
    Blotches ``along`` by ``up`` metres large, so ``strong`` as a share, in so many ``octaves``.
    """

    along: float
    up: float
    strong: float
    octaves: int = 3


@dataclass(frozen=True)
class Texture:
    """One texture.

    ``sort``: ``units`` are laid in courses, ``length`` by ``height``, each course moved by ``bond`` of a length (−1: by
    chance) and its joints ``loose`` by a share; ``cells`` are stones of that size between joints; ``strewn`` are marks
    that grow upwards, one to a rectangle of that size, which must be as high as a mark is long, and lean by
    ``mark_turn`` degrees, in so many ``sheets``; ``ribs`` run upwards, ``length`` apart, with a seam where they have a
    ``joint``; ``mesh`` is wire; ``plain`` has only layers. ``rough`` are the metres that edges waver, ``bevel`` those
    that they are round, ``bulge`` how far units or ribs stand out; ``lap`` how dark it is under the edge of the next
    course; ``basket`` metres of a square in which units lie, every other one turned. ``unit_tone`` and ``unit_hue`` are
    how unlike units are, ``hue`` how much of the second colour lies in blotches of ``hue_cell`` metres. ``turned`` as a
    pattern's.
    """

    name: str
    label: str
    group: Group
    sort: Literal["plain", "units", "cells", "strewn", "ribs", "mesh"] = "plain"
    colour: str = "#cbbfae"
    second: str = "#b3a692"
    joints: str = "#d9d0c0"
    length: float = 1.0
    height: float = 1.0
    joint: float = 0.0
    bond: float = 0.0
    loose: float = 0.0
    rough: float = 0.0
    unit_tone: float = 0.0
    unit_hue: float = 0.0
    lap: float = 0.0
    bevel: float = 0.0
    bulge: float = 0.0
    basket: float = 0.0
    mark_length: float = 0.0
    mark_width: float = 0.0
    mark_turn: float = 0.0
    sheets: int = 1
    weather: float = 0.0
    hue_cell: float = 1.0
    hue: float = 0.0
    layers: tuple[Layer, ...] = ()
    turned: Literal["", "viewer", "along"] = ""

    def numbers(self, weather: float | None = None) -> NDArray[np.float64]:
        """As the loop has them; with another ``weather``."""
        said = {**vars(self), "sort": SORTS.index(self.sort), "layers": len(self.layers)}
        said["mark_turn"] = np.radians(self.mark_turn)
        if weather is not None:
            said["weather"] = weather
        return np.array([said[n] for n in NUMBERS], np.float64)

    def uneven(self) -> NDArray[np.float64]:
        """(L, 4) its layers as the loop has them."""
        return np.array([[y.along, y.up, y.strong, y.octaves] for y in self.layers], np.float64).reshape(-1, 4)


def rgb_rows(*colours: str) -> NDArray[np.float64]:
    """(N, 3) colours 0–1."""
    return shares(*colours)
