"""A scarf, once round the neck, with an end that hangs."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import limb


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    unit, chest = body.build.stature, body.turns["chest"]
    middle = body.neck + chest @ np.array([0, 0.006 * unit, 0.006 * unit])
    angle = np.linspace(0, 2 * np.pi, 15)
    ring = (
        np.column_stack(
            [0.042 * np.cos(angle), 0.044 * np.sin(angle), 0.010 * np.cos(2 * angle) - 0.008 * np.sin(angle)]
        )
        * unit
    )
    thick = np.full(15, 0.021 * unit)
    side = 1 if wear.chance.random() < 0.5 else -1
    ahead = 0.066 * unit + (0.03 if wear.worn & {"coat"} else 0.014)
    end = (
        np.array(
            [
                [0.01, 0.052, 0.0],
                [0.022, ahead / unit, -0.04],
                [0.03, ahead / unit + 0.004, -0.12],
                [0.034, ahead / unit + 0.002, -0.19],
            ]
        )
        * unit
    )
    end[:, 0] *= side
    wide = np.array([0.018, 0.026, 0.028, 0.030]) * unit
    return [
        Piece.of(
            "scarf", wear.colour, limb(middle + ring @ chest.T, thick, thick * 0.9, np.array([0, 0, 1.0]), 8),
            limb(middle + end @ chest.T, wide, wide * 0.34, chest @ np.array([1.0, 0, 0]), 8),
        )
    ]  # fmt: skip


GARMENT = Garment("scarf", "Scarf", _make, frozenset(), 6)
