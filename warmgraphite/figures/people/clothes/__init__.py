"""What people wear: one module each, found by being here.
A module's ``GARMENT`` has a name, a label, and what makes it of a body.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece

__all__ = ["GARMENTS", "Garment", "Wear"]


@dataclass(frozen=True)
class Wear:
    """How something is worn: its ``colour``, and what chance there is in it."""

    colour: str
    chance: np.random.Generator
    worn: frozenset[str]


@dataclass(frozen=True)
class Garment:
    """``covers`` says what of the body it hides: ``trunk``, ``legs`` (as far as the shin), ``arms``, ``head``."""

    name: str
    label: str
    make: Callable[[Skeleton, Wear], list[Piece]]
    covers: frozenset[str] = frozenset()
    #: From the skin outwards.
    order: int = 0


#: Each garment by its name, from the skin outwards.
GARMENTS: Catalogue[Garment] = Catalogue(
    lambda: constants_in(__name__, "GARMENT"), lambda g: g.name, lambda g: (g.order, g.name)
)
