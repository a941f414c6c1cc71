"""Trousers, cut straight at the hem."""

from __future__ import annotations

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.flesh import leg, trunk
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import united


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    hem = 0.012 + 0.014 * float(wear.chance.random())
    short = body.build.age < 12 and wear.chance.random() < 0.35
    legs = (leg(body, side, 0.012, until=0.0 if short else 0.96, hem=hem) for side in (0, 1))
    return [Piece.of("trousers", wear.colour, united(trunk(body, -0.19, 0.30, 0.006), *legs))]


GARMENT = Garment("trousers", "Trousers", _make, frozenset({"legs"}), 1)
