"""The habit of a species, as data: how it stands, branches and carries its leaves."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from warmgraphite.colour import channels, written
from warmgraphite.figures.piece import Piece

__all__ = ["SEASONS", "Growth", "Habit", "Season", "foliage_colour"]

Season = Literal["bare", "spring", "summer", "autumn"]
SEASONS: tuple[Season, ...] = ("bare", "spring", "summer", "autumn")


@dataclass(frozen=True)
class Growth:
    """What is asked of a habit.
    ``height`` and ``spread`` in metres, ``density`` of its foliage against the usual one, ``detail`` from 0, which is
    all, to 2; ``coarsely`` is that much with fewer faces.
    """

    height: float
    spread: float
    density: float
    season: Season
    detail: int
    coarsely: bool
    chance: np.random.Generator

    def of(self, finely: float, coarsely: float, fewer: float, least: float) -> float:
        """One of four numbers, by how much is told."""
        return (coarsely if self.coarsely else finely, fewer, least)[self.detail]


@dataclass(frozen=True)
class Habit:
    """Lengths as shares of the height.

    ``outline`` are half widths of the crown, as shares of half its spread, from its foot (0) to its top (1); ``clear``
    is how much of the stem is bare; ``spread`` how wide the crown is. ``leader`` is how far up one stem goes through.
    ``up`` is how far branches turn upwards (downwards below 0), ``hangs`` how long what hangs from their tips is.
    Foliage is in ``clumps`` of that size, of leaves in lobes of ``lobe`` size, that are ``long`` times as long as wide.
    ``own`` grows what no stem and crown is.
    """

    name: str
    label: str
    group: Literal["trees", "conifers", "shrubs", "low"]
    height: float
    spread: float = 0.7
    clear: float = 0.22
    outline: tuple[tuple[float, float], ...] = (
        (0.0, 0.35),
        (0.2, 0.85),
        (0.45, 1.0),
        (0.75, 0.8),
        (0.93, 0.4),
        (1.0, 0.1),
    )
    stems: int = 1
    lean: float = 0.03
    leader: float = 0.35
    trunk: float = 0.022
    up: float = 0.12
    wander: float = 0.12
    hangs: float = 0.0
    clumps: float = 0.085
    lobe: float = 0.042
    long: float = 1.25
    full: float = 1.0
    #: Corners of a lobe: twelve make four tufts.
    rim: int = 12
    #: Whether lobes lie level, one over another, as conifers' do.
    level: float = 0.0
    whorls: int = 0
    evergreen: bool = False
    leaf: dict[str, str] = field(
        default_factory=lambda: {"spring": "#b3bd8d", "summer": "#8f9d72", "autumn": "#c49a5c"}
    )
    bark: str = "#8b7d6b"
    #: Years until two thirds of its height.
    slow: float = 22.0
    #: Whether it stands in water, on the bed below it.
    wades: bool = False
    own: Callable[[Growth, Habit], list[Piece]] | None = None

    def at_age(self, years: float) -> float:
        """Its height in metres after so many years."""
        return self.height * 1.25 * (1 - float(np.exp(-years / self.slow)))


def foliage_colour(habit: Habit, season: Season, chance: np.random.Generator) -> str:
    """The colour of its leaves, a little unlike its neighbour's."""
    base = habit.leaf.get("summer" if habit.evergreen else season, "#93a074")
    rgb = np.array(channels(base)) + chance.normal(0, 4, 3) + chance.normal(0, 5)
    return written(np.floor(np.clip(rgb, 0, 255)))
