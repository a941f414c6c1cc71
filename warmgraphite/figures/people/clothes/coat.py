"""A coat that is open a little at the hem, lapped in front from the collar down."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.clothes._flowing import hanging_rings
from warmgraphite.figures.people.flesh import arm, torso_rings
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import limb, loft, united


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    long = float(wear.chance.uniform(0.36, 0.6)) * (0.6 if body.posture.seat is not None else 1.0)
    around = body.build.around(16, 4)
    upper = torso_rings(body, 0.12, 1.11, 0.030, around)[::-1]
    rings = np.concatenate([upper, hanging_rings(body, long, 0.042, 0.05, 0.03, wear.chance, around, 0.10)])
    # One front lies over the other: a step from the collar to the hem.
    front = around // 4
    middle = rings.mean(1)
    out = rings[:, front] - middle
    out /= np.linalg.norm(out, axis=1, keepdims=True)
    rings[:, front] += out * 0.014
    rings[:, front - 1] = rings[:, front] - out * 0.016 + (rings[:, front - 1] - rings[:, front]) * 0.10
    # At the hem it falls open.
    rings[-1, front] += (rings[-3, front] - rings[-1, front]) * 0.35
    rings[-1, front - 1] += (rings[-3, front - 1] - rings[-1, front - 1]) * 0.35
    cloth = united(loft(rings), *(arm(body, side, 0.024, 0.97, 1.35) for side in (0, 1)))
    chest, unit = body.turns["chest"], body.build.stature
    low = body.neck + chest @ np.array([0, 0.012 * unit, -0.022 * unit])
    collar = limb(
        np.array([low, low + chest @ np.array([0, 0.002, 0.026 * unit])]), np.array([0.047, 0.040]) * unit,
        np.array([0.045, 0.038]) * unit,
        chest @ np.array([1.0, 0, 0]), 14,
    )  # fmt: skip
    return [Piece.of("coat", wear.colour, united(cloth, collar))]


GARMENT = Garment("coat", "Coat", _make, frozenset({"trunk", "arms", "hips"}), 4)
