"""How figures are drawn otherwise than in full.
What is said of them becomes rules of ink, as a person would write them.
"""

from __future__ import annotations

from typing import TypeVar

from warmgraphite.figures.standing import Standing, Way
from warmgraphite.ink.fills import GRAPHITE, Fill, Flat, Hatch
from warmgraphite.ink.rules import Ink, Pen, PenRule, SurfaceRule
from warmgraphite.regions.query import Match

__all__ = ["inked"]

_I = TypeVar("_I", bound=Ink)


def _pen_colour(ink: Ink) -> str:
    """The colour in which figures are drawn."""
    rules = (r for r in reversed(ink.pens) if r.on and r.pen.colour and isinstance(r.where, Match))
    return next((r.pen.colour for r in rules if "figure" in r.where.ranks and r.pen.colour), GRAPHITE)  # type: ignore[union-attr]


def _fills(way: Way, tone: str) -> tuple[Fill, ...]:
    """What is laid onto figures that are drawn in a way of their own."""
    if way.drawn == "silhouette":
        return (Flat(colour=way.hue or tone, opacity=0.9 if way.hue else 0.32),)
    # One in wash is laid by a sheet of its own.
    if way.drawn == "stipple":
        return (
            Hatch(
                pattern="stipple", spacing=1.1, weight=0.2, colour=way.hue or tone, by="shade", steps=3, disorder=0.4
            ),
        )
    return ()


def inked(ink: _I, stood: Standing) -> _I:
    """Ink with rules for the figures that are drawn in a way of their own."""
    if not stood.drawn:
        return ink
    pens, surfaces, tone = list(ink.pens), list(ink.surfaces), _pen_colour(ink)
    for number, (name, way) in enumerate(stood.drawn, 1):
        if way.weight:
            where = Match(sets=(name,), ranks=("figure", "detail"), hidden=False)
            pens.append(PenRule(id=f"figures-{number}", where=where, pen=Pen(weight=way.weight, colour=way.colour)))
        fills = _fills(way, tone)
        if fills:
            surfaces.append(SurfaceRule(id=f"figures-{number}", where=Match(sets=(name,)), fills=fills))
    return ink.model_copy(update={"pens": tuple(pens), "surfaces": tuple(surfaces)})
