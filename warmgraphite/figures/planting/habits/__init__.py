"""Habits of species: one module each, found by being here. A module has a ``HABIT``."""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.figures.planting.habit import Habit

__all__ = ["HABITS"]

_ORDER = ("trees", "conifers", "shrubs", "low")

#: Each habit by its name, in the order of their groups and labels.
HABITS: Catalogue[Habit] = Catalogue(
    lambda: constants_in(__name__, "HABIT"), lambda h: h.name, lambda h: (_ORDER.index(h.group), h.label)
)
