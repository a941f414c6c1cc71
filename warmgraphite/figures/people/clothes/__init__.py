"""What people wear: one module each, found by being here. A module's ``GARMENT`` has a name, a label, and what makes it of a body."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from pkgutil import iter_modules

import numpy as np

from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece

__all__ = ["Garment", "Wear", "garments"]


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


@cache
def garments() -> dict[str, Garment]:
    """Each garment by its name."""
    found = [import_module(f"{__name__}.{m.name}").GARMENT for m in iter_modules(__path__) if not m.name.startswith("_")]
    return {g.name: g for g in sorted(found, key=lambda g: (g.order, g.name))}
