"""A rowing boat with its thwarts and oars."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import Piece
from warmgraphite.figures.things import Chance, Thing
from warmgraphite.figures.things._wheels import stick
from warmgraphite.model.solids import bar, loft


def _make(_chance: Chance, colour: str) -> list[Piece]:
    stations = np.linspace(-1.75, 1.85, 11)
    outer, inner = [], []
    for y in stations:
        t = (y + 1.75) / 3.6
        half = 0.68 * float(np.sin(np.pi * np.clip(0.18 + 0.80 * t, 0, 1)) ** 0.75) + 0.02
        keel, rail = -0.10 + 0.28 * max(0.0, t - 0.75) ** 2 * 10, 0.36 + 0.22 * (2 * t - 0.9) ** 2
        angle = np.linspace(-np.pi / 2, np.pi / 2, 9)
        curve = np.column_stack([half * np.sin(angle), np.full(9, y), rail - (rail - keel) * np.cos(angle) ** 0.7])
        outer.append(curve)
        inner.append(curve * [0.93, 1.0, 1.0] + [0, 0, 0.03 * 1.0])
    outer_, inner_ = np.array(outer), np.array(inner)
    inner_[:, [0, -1], 2] = outer_[:, [0, -1], 2]
    hull = loft(np.concatenate([outer_, inner_[:, ::-1]], axis=1))
    seats = [bar((-0.58, y, 0.24), (0.58, y, 0.24), 0.22, 0.03) for y in (-0.85, 0.1)]
    oars = [stick((s * 0.25, -1.2, 0.30), (s * 0.42, 1.15, 0.36), 0.045) for s in (-1, 1)]
    blades = [bar((s * 0.42, 1.1, 0.36), (s * 0.455, 1.6, 0.37), 0.14, 0.02) for s in (-1, 1)]
    return [
        Piece.of("hull", colour, hull, crease=40.0),
        Piece.of("thwarts", "#b08d63", *seats, *oars, *blades, crease=40.0),
    ]


THINGS = [Thing("boat", "Rowing boat", "vehicles", 0.62, _make, ("#7c8f8c", "#c6bda8", "#8f5f48"), floats=True)]
