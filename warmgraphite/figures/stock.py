"""What figures there are to take: each with what it is, in the order in which they are offered."""

from __future__ import annotations

from warmgraphite.figures.figure import FigureItem
from warmgraphite.figures.kinds import KINDS

__all__ = ["figure_stock"]


def figure_stock() -> list[FigureItem]:
    """The stock of figures: people by what they do, planting by habit, things, and what any other kind offers."""
    return [item for kind in KINDS.values() for item in kind.stock()]
