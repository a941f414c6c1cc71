"""A skirt, to the knee or longer."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.clothes._flowing import hanging_rings
from warmgraphite.figures.people.flesh import torso_rings
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import loft


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    around = body.build.around(16, 2)
    long = float(wear.chance.uniform(0.55, 0.82)) * (0.8 if body.posture.seat is not None else 1.0)
    hanging = hanging_rings(body, long, 0.02, float(wear.chance.uniform(0.03, 0.10)), 0.05, wear.chance, around, 0.08)
    waist = torso_rings(body, 0.10, 0.40, 0.010, around)[::-1]
    return [Piece.of("skirt", wear.colour, loft(np.concatenate([waist, hanging])))]


GARMENT = Garment("skirt", "Skirt", _make, frozenset({"hips"}), 1)
