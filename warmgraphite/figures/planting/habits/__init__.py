"""Habits of species: one module each, found by being here. A module has a ``HABIT``."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from warmgraphite.figures.planting.habit import Habit

__all__ = ["habits"]


@cache
def habits() -> dict[str, Habit]:
    """Each habit by its name."""
    found = [import_module(f"{__name__}.{m.name}").HABIT for m in iter_modules(__path__) if not m.name.startswith("_")]
    order = ("trees", "conifers", "shrubs", "low")
    return {h.name: h for h in sorted(found, key=lambda h: (order.index(h.group), h.label))}
