"""Birds: one that sits, one in flight, and a flock with its own spread."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import Piece
from warmgraphite.figures.things import Chance, Thing
from warmgraphite.model.solids import Mesh, limb, loft, moved, stretched, turned, united

SIDE = np.array([1.0, 0, 0])


def _sitting(_c: Chance, colour: str) -> list[Piece]:
    path = np.array([(0, -0.17, 0.055), (0, -0.10, 0.08), (0, -0.02, 0.115), (0, 0.05, 0.15), (0, 0.075, 0.19)])
    body = limb(
        path, np.array([0.018, 0.035, 0.055, 0.05, 0.026]), np.array([0.006, 0.026, 0.052, 0.052, 0.028]), SIDE, 10
    )
    head = limb(
        np.array([(0, 0.04, 0.20), (0, 0.07, 0.215), (0, 0.105, 0.21), (0, 0.14, 0.20)]),
        np.array([0.015, 0.032, 0.022, 0.003]),
        np.array([0.015, 0.03, 0.022, 0.004]),
        SIDE,
        8,
    )
    legs = [
        limb(np.array([(s * 0.02, 0.0, 0.075), (s * 0.02, 0.01, 0.0)]), np.full(2, 0.005), np.full(2, 0.005), SIDE, 4)
        for s in (-1, 1)
    ]
    return [Piece.of("bird", colour, united(body, head), *legs)]


def _flying(beat: float) -> Mesh:
    """A bird of a metre's span, its wings lifted by ``beat`` from −1 to 1."""
    body = limb(
        np.array([(0, -0.26, 0), (0, -0.16, 0.005), (0, 0.0, 0.0), (0, 0.12, 0.01), (0, 0.19, 0.02), (0, 0.25, 0.012)]),
        np.array([0.05, 0.022, 0.05, 0.045, 0.028, 0.004]),
        np.array([0.004, 0.02, 0.045, 0.042, 0.028, 0.004]),
        SIDE,
        8,
    )
    wings = []
    for s in (-1, 1):
        x = np.array([0.02, 0.17, 0.33, 0.50])
        z = 0.02 + np.array([0.0, 0.10, 0.12 + 0.05 * beat, 0.10 + 0.16 * beat]) * (0.35 + 0.65 * beat)
        front, back = np.array([0.08, 0.12, 0.08, -0.06]), np.array([-0.06, -0.06, -0.09, -0.12])
        rows = [
            np.array([(s * a, f, h), (s * a, (f + b) / 2, h + 0.012), (s * a, b, h), (s * a, (f + b) / 2, h - 0.004)])
            for a, h, f, b in zip(x, z, front, back, strict=True)
        ]
        wings.append(loft(np.array(rows)))
    return united(body, *wings)


def _flight(chance: Chance, colour: str) -> list[Piece]:
    return [
        Piece.of("bird", colour, turned(_flying(float(chance.uniform(-0.7, 1.0))), float(chance.uniform(-14, 14)), "y"))
    ]


def _flock(chance: Chance, colour: str) -> list[Piece]:
    # A loose line with a bend in it, as they keep off one another.
    count = int(chance.integers(7, 13))
    meshes = []
    for k in range(count):
        t = k - (count - 1) / 2
        place = (
            t * 0.95 + float(chance.normal(0, 0.25)),
            -abs(t + 1.2) * 0.62 + float(chance.normal(0, 0.3)),
            0.22 * t + float(chance.normal(0, 0.32)),
        )
        size = float(chance.uniform(0.85, 1.12))
        one = stretched(_flying(float(chance.uniform(-0.8, 1.0))), (size, size, size))
        meshes.append(
            moved(turned(turned(one, float(chance.uniform(-20, 20)), "y"), float(chance.uniform(-16, 16))), place)
        )
    return [Piece.of("birds", colour, *meshes)]


BIRD = ("#4f4a45", "#6a635b")
THINGS = [
    Thing("bird", "Bird, sitting", "birds", 0.24, _sitting, BIRD),
    Thing("bird in flight", "Bird in flight", "birds", 0.25, _flight, BIRD, flies=True),
    Thing("flock", "Flock of birds", "birds", 3.0, _flock, BIRD, flies=True),
]
