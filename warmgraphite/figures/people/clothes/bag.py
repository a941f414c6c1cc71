"""A bag at the hip, with a strap across the body."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.flesh import on_trunk
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import SHARP, Piece
from warmgraphite.model.solids import box, limb


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    side = 1 if wear.chance.random() < 0.5 else -1
    unit = body.build.unit
    ease = 0.055 if wear.worn & {"coat"} else 0.032
    # From the hip over the chest to the other shoulder, and down the back.
    heights = np.array([0.05, 0.35, 0.65, 0.92, 1.07, 0.92, 0.65, 0.35, 0.05])
    angles = np.array([0, 50, 85, 120, 180, 240, 275, 310, 360])
    strap = on_trunk(body, heights, angles if side > 0 else 180 - angles, ease)
    thin = np.full(len(strap), 0.016 * unit)
    turn = body.turns["hip"]
    thick, long, tall = (v * unit for v in (0.06, 0.16, 0.26))
    points, faces = box((-thick / 2, -long, -tall), (thick / 2, long, 0.0))
    place = strap[0] + turn @ np.array([side * thick * 0.6, 0, 0.01])
    return [
        Piece.of("bag", wear.colour, limb(strap, thin, thin * 0.35, np.array([0, 0, 1.0]), 4), crease=60.0),
        Piece.of("bag", wear.colour, (points @ turn.T + place, faces), crease=SHARP),
    ]


GARMENT = Garment("bag", "Bag", _make, frozenset(), 8)
