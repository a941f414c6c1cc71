"""A dress in one piece, with short sleeves."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.clothes._flowing import hanging_rings
from warmgraphite.figures.people.flesh import arm, torso_rings
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import loft, united


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    around = body.build.around(16, 2)
    long = float(wear.chance.uniform(0.5, 0.72)) * (0.85 if body.posture.seat is not None else 1.0)
    hanging = hanging_rings(body, long, 0.022, float(wear.chance.uniform(0.05, 0.12)), 0.06, wear.chance, around, 0.10)
    upper = torso_rings(body, 0.14, 1.07, 0.010, around)[::-1]
    gown = loft(np.concatenate([upper, hanging]))
    return [Piece.of("dress", wear.colour, united(gown, *(arm(body, side, 0.010, 0.0) for side in (0, 1))))]


GARMENT = Garment("dress", "Dress", _make, frozenset({"trunk", "hips"}), 2)
