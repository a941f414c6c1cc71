"""A hat: a brim and a crown, a cap with a peak, or a knitted one."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import lathe, limb, rotation, stretched


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    h, turn = body.build.head, body.turns["head"]
    kind = wear.chance.choice(["brim", "cap", "knitted"], p=[0.45, 0.25, 0.3])
    crown = [(0, 0.10), (0.36, 0.10), (0.372, 0.16), (0.35, 0.34), (0.30, 0.47), (0.2, 0.53), (0, 0.535)]
    if kind == "brim":
        crown = [
            (0, 0.10),
            (0.60, 0.105),
            (0.61, 0.125),
            (0.372, 0.155),
            (0.345, 0.34),
            (0.315, 0.46),
            (0.22, 0.52),
            (0, 0.50),
        ]
    elif kind == "knitted":
        crown = [
            (0, 0.06),
            (0.37, 0.06),
            (0.385, 0.12),
            (0.365, 0.16),
            (0.36, 0.34),
            (0.29, 0.50),
            (0.15, 0.58),
            (0, 0.60),
        ]
    shell = stretched(lathe([(r * h, z * h) for r, z in crown], 18), (1.0, 1.18, 1.0))
    meshes = [shell]
    if kind == "cap":
        peak = np.array([[0, 0.30, 0.125], [0, 0.48, 0.12], [0, 0.62, 0.095]]) * h
        meshes.append(limb(peak, np.array([0.31, 0.28, 0.15]) * h, np.full(3, 0.018 * h), np.array([1.0, 0, 0]), 10))
    lean = 8.0 if kind != "knitted" else -6.0
    move = turn @ rotation(lean, "x")
    return [
        Piece.of(
            "hat", wear.colour, *((p @ move.T + body.head + turn @ np.array([0, -0.005 * h, 0]), t) for p, t in meshes)
        )
    ]


GARMENT = Garment("hat", "Hat", _make, frozenset({"head"}), 7)
