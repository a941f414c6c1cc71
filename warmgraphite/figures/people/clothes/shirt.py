"""A shirt or a pullover: to the hips, with sleeves."""

from __future__ import annotations

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.flesh import arm, trunk
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import united


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    rolled = 0.35 if wear.chance.random() < 0.3 and body.build.age > 8 else 0.95
    belly = 0.03 * float(wear.chance.random()) * (body.build.girth - 0.9) * 5
    ease = 0.012
    top = united(
        trunk(body, 0.0, 1.08, ease, belly=belly, hem=0.010),
        *(arm(body, side, ease, rolled, 1.12 if rolled > 0.5 else 1.0) for side in (0, 1)),
    )
    return [Piece.of("shirt", wear.colour, top)]


GARMENT = Garment("shirt", "Shirt", _make, frozenset({"trunk", "arms"}), 2)
