"""A dog, a cat and a cow."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import Piece
from warmgraphite.figures.things import Chance, Thing
from warmgraphite.model.solids import Mesh, limb, united

SIDE = np.array([1.0, 0, 0])


def _run(
    points: list[tuple[float, float, float]], wide: list[float], deep: list[float] | None = None, around: int = 10
) -> Mesh:
    w = np.array(wide)
    return limb(np.array(points, float), w, w if deep is None else np.array(deep), SIDE, around)


def _legs(at: list[tuple[float, float, float, float]], top: float, thick: float, hock: float) -> list[Mesh]:
    """Legs at (x, y of the top, y of the foot, which way its knee bends)."""
    out = []
    for x, y, foot, bend in at:
        path = [
            (x * 0.8, y, top + 0.02),
            (x, y + bend * 0.3 * hock, top * 0.62),
            (x, y + (foot - y) * 0.6 + bend * hock, top * 0.36),
            (x, foot, 0.03 * top / 0.4),
            (x, foot + 0.05 * top / 0.4, 0.0),
        ]
        out.append(_run(path, [thick * 1.9, thick * 1.5, thick * 0.85, thick * 0.75, thick * 0.85], None, 8))
    return out


def dog(chance: Chance, colour: str, scale: float = 1.0) -> list[Piece]:
    """A dog that walks, half a metre at the shoulder, nose ahead."""
    body = _run(
        [(0, -0.40, 0.46), (0, -0.33, 0.47), (0, -0.12, 0.455), (0, 0.10, 0.44), (0, 0.24, 0.46), (0, 0.31, 0.48)],
        [0.04, 0.085, 0.078, 0.10, 0.095, 0.05],
        [0.05, 0.10, 0.088, 0.125, 0.115, 0.06],
    )
    neck = _run([(0, 0.18, 0.50), (0, 0.30, 0.60), (0, 0.36, 0.67)], [0.075, 0.062, 0.055], [0.08, 0.066, 0.058])
    skull = _run(
        [(0, 0.30, 0.70), (0, 0.36, 0.715), (0, 0.43, 0.70), (0, 0.48, 0.672), (0, 0.56, 0.655), (0, 0.60, 0.652)],
        [0.03, 0.062, 0.06, 0.042, 0.032, 0.018],
        [0.03, 0.058, 0.055, 0.038, 0.03, 0.018],
    )
    ears = [
        _run(
            [(s * 0.045, 0.36, 0.76), (s * 0.075, 0.355, 0.73), (s * 0.08, 0.36, 0.66)],
            [0.014, 0.03, 0.012],
            [0.016, 0.03, 0.014],
            6,
        )
        for s in (-1, 1)
    ]
    lift = float(chance.uniform(0.0, 0.16))
    tail = _run(
        [(0, -0.38, 0.48), (0, -0.50, 0.50 + lift * 0.6), (0, -0.62, 0.50 + lift * 1.6)], [0.026, 0.02, 0.01], None, 6
    )
    legs = _legs(
        [
            (-0.075, 0.20, 0.30, -0.2),
            (0.075, 0.20, 0.12, -0.2),
            (-0.075, -0.30, -0.42, 1.0),
            (0.075, -0.30, -0.22, 1.0),
        ],
        0.40,
        0.03,
        0.05,
    )
    mesh = united(body, neck, skull, *ears, tail, *legs)
    return [Piece.of("dog", colour, (mesh[0] * scale, mesh[1]))]


def _cat(_c: Chance, colour: str) -> list[Piece]:
    # It sits, its tail round its feet.
    body = _run(
        [(0, -0.13, 0.03), (0, -0.11, 0.08), (0, -0.05, 0.17), (0, 0.02, 0.25), (0, 0.05, 0.30)],
        [0.05, 0.085, 0.075, 0.058, 0.035],
        [0.05, 0.09, 0.085, 0.062, 0.035],
    )
    skull = _run(
        [(0, 0.0, 0.335), (0, 0.035, 0.345), (0, 0.085, 0.335), (0, 0.115, 0.325)],
        [0.02, 0.05, 0.046, 0.016],
        [0.02, 0.045, 0.042, 0.016],
    )
    ears = [
        _run([(s * 0.03, 0.035, 0.375), (s * 0.036, 0.035, 0.42)], [0.022, 0.003], [0.012, 0.003], 6) for s in (-1, 1)
    ]
    legs = [
        _run(
            [(s * 0.035, 0.03, 0.22), (s * 0.038, 0.06, 0.10), (s * 0.038, 0.075, 0.015), (s * 0.038, 0.105, 0.012)],
            [0.03, 0.021, 0.02, 0.016],
            None,
            6,
        )
        for s in (-1, 1)
    ]
    haunch = [
        _run([(s * 0.06, -0.10, 0.09), (s * 0.075, -0.01, 0.07), (s * 0.07, 0.04, 0.015)], [0.055, 0.05, 0.02], None, 8)
        for s in (-1, 1)
    ]
    tail = _run(
        [(0, -0.15, 0.02), (0.09, -0.12, 0.018), (0.13, 0.0, 0.016), (0.09, 0.1, 0.014)],
        [0.02, 0.018, 0.016, 0.008],
        None,
        6,
    )
    return [Piece.of("cat", colour, united(body, skull, *ears, *legs, *haunch, tail))]


def _cow(_c: Chance, colour: str) -> list[Piece]:
    body = _run(
        [
            (0, -1.02, 1.12),
            (0, -0.95, 1.06),
            (0, -0.6, 1.0),
            (0, -0.1, 0.96),
            (0, 0.4, 1.0),
            (0, 0.72, 1.06),
            (0, 0.86, 1.12),
        ],
        [0.10, 0.25, 0.31, 0.34, 0.30, 0.24, 0.12],
        [0.14, 0.33, 0.36, 0.40, 0.38, 0.32, 0.16],
        12,
    )
    neck = _run([(0, 0.62, 1.16), (0, 0.92, 1.12), (0, 1.14, 1.02)], [0.19, 0.15, 0.12], [0.27, 0.21, 0.15])
    skull = _run(
        [(0, 1.06, 1.16), (0, 1.16, 1.10), (0, 1.30, 0.92), (0, 1.42, 0.74), (0, 1.46, 0.68)],
        [0.07, 0.125, 0.105, 0.085, 0.06],
        [0.07, 0.12, 0.10, 0.085, 0.06],
    )
    ears = [
        _run(
            [(s * 0.10, 1.08, 1.14), (s * 0.20, 1.06, 1.12), (s * 0.27, 1.05, 1.08)],
            [0.03, 0.05, 0.015],
            [0.02, 0.035, 0.01],
            6,
        )
        for s in (-1, 1)
    ]
    horns = [
        _run([(s * 0.07, 1.06, 1.21), (s * 0.15, 1.06, 1.27), (s * 0.16, 1.10, 1.36)], [0.025, 0.02, 0.006], None, 6)
        for s in (-1, 1)
    ]
    legs = _legs(
        [(-0.19, 0.55, 0.62, -0.1), (0.19, 0.55, 0.46, -0.1), (-0.19, -0.80, -0.92, 0.6), (0.19, -0.80, -0.74, 0.6)],
        0.80,
        0.058,
        0.09,
    )
    tail = _run(
        [(0, -1.02, 1.26), (0, -1.10, 1.1), (0, -1.09, 0.62), (0, -1.10, 0.45)], [0.03, 0.025, 0.02, 0.045], None, 6
    )
    udder = _run([(0, -0.55, 0.66), (0, -0.45, 0.60), (0, -0.3, 0.64)], [0.08, 0.13, 0.06], None, 8)
    return [Piece.of("cow", colour, united(body, neck, skull, *ears, *horns, *legs, tail, udder))]


THINGS = [
    Thing("dog", "Dog", "animals", 0.77, dog, ("#7a6148", "#b59b74", "#5b544c", "#cfc4b0")),
    Thing("cat", "Cat", "animals", 0.42, _cat, ("#6e675f", "#a98355", "#4e4a46")),
    Thing("cow", "Cow", "animals", 1.48, _cow, ("#8f6647", "#d6cbb8", "#6d5a4a")),
]
