"""How figures are drawn otherwise than in full: what is said of them becomes rules of ink, as a person would write them."""

from __future__ import annotations

from typing import TypeVar

from warmgraphite.figures.standing import Standing
from warmgraphite.ink.fills import GRAPHITE, Fill, Flat, Hatch
from warmgraphite.ink.rules import Ink, Pen, PenRule, SurfaceRule
from warmgraphite.regions.query import Match

__all__ = ["inked"]

_I = TypeVar("_I", bound=Ink)


def _pen_colour(ink: Ink) -> str:
    """The colour in which figures are drawn."""
    rules = (r for r in reversed(ink.pens) if r.on and r.pen.colour and isinstance(r.where, Match))
    return next((r.pen.colour for r in rules if "figure" in r.where.ranks and r.pen.colour), GRAPHITE)  # type: ignore[union-attr]


def inked(ink: _I, stood: Standing) -> _I:
    """Ink with rules for the figures that are drawn in a way of their own."""
    if not stood.drawn:
        return ink
    pens, surfaces, tone = list(ink.pens), list(ink.surfaces), _pen_colour(ink)
    for number, (name, drawn, hue, weight) in enumerate(stood.drawn, 1):
        if weight:
            where = Match(sets=(name,), ranks=("figure", "detail"), hidden=False)
            pens.append(PenRule(id=f"figures-{number}", where=where, pen=Pen(weight=weight)))
        fills: tuple[Fill, ...] = ()
        if drawn == "silhouette":
            fills = (Flat(colour=hue or tone, opacity=0.9 if hue else 0.32),)
        elif drawn == "stipple":
            fills = (Hatch(pattern="stipple", spacing=1.1, weight=0.2, colour=hue or tone, by="shade", steps=3, disorder=0.4),)
        elif drawn == "wash":
            fills = (
                Flat(colour=hue or "#aab48a", opacity=0.45),
                Hatch(
                    pattern="dots",
                    spacing=3.2,
                    weight=1.9,
                    colour=hue or "#aab48a",
                    opacity=0.4,
                    by="shade",
                    steps=2,
                    disorder=0.9,
                    least=0.0,
                ),
            )
        if fills:
            surfaces.append(SurfaceRule(id=f"figures-{number}", where=Match(sets=(name,)), fills=fills))
    return ink.model_copy(update={"pens": tuple(pens), "surfaces": tuple(surfaces)})
