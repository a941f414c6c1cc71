"""Wheels, and bodies of vehicles."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import SHARP, Piece
from warmgraphite.model.solids import Mesh, lathe, limb, moved, turned

__all__ = ["hoop", "spoked", "stick", "tyre"]


def hoop(centre: tuple[float, float, float], radius: float, thick: float, axis: str = "x", around: int = 24) -> Mesh:
    """A ring about an axis."""
    angle = 2 * np.pi * np.arange(4) / 4
    profile = [(radius + thick * float(np.cos(a)), thick * float(np.sin(a))) for a in angle]
    ring = lathe([*profile, profile[0]], around)
    return moved(turned(ring, 90, "y") if axis == "x" else ring, centre)


def stick(a: tuple[float, float, float], b: tuple[float, float, float], thick: float, around: int = 6) -> Mesh:
    """A round stick from a to b, ``thick`` across."""
    path = np.array([a, b], float)
    way = path[1] - path[0]
    side = np.array([1.0, 0, 0]) if abs(way[0]) < 0.9 * np.linalg.norm(way) else np.array([0, 0, 1.0])
    return limb(path, np.full(2, thick / 2), np.full(2, thick / 2), side, around)


def spoked(centre: tuple[float, float, float], radius: float, thick: float, spokes: int = 8) -> list[Mesh]:
    """A wheel with spokes that turns about x."""
    found = [hoop(centre, radius - thick, thick), hoop(centre, 0.03, 0.012, around=10)]
    for k in range(spokes):
        a = 2 * np.pi * k / spokes + 0.2
        rim = (
            centre[0],
            centre[1] + (radius - thick) * float(np.cos(a)),
            centre[2] + (radius - thick) * float(np.sin(a)),
        )
        found.append(stick(centre, rim, 0.006, 3))
    return found


def tyre(centre: tuple[float, float, float], radius: float, wide: float) -> list[Piece]:
    """A wheel of a car, which turns about x: the tyre, and its disc."""
    rubber = lathe(
        [
            (0, -wide / 2),
            (radius * 0.9, -wide / 2),
            (radius, -wide * 0.3),
            (radius, wide * 0.3),
            (radius * 0.9, wide / 2),
            (0, wide / 2),
        ],
        24,
    )
    out = 1 if centre[0] > 0 else -1
    plate = lathe([(0, -0.01), (radius * 0.62, -0.01), (radius * 0.6, 0.012), (0, 0.02)], 20)
    return [
        Piece.of("tyres", "#4a4845", moved(turned(rubber, 90, "y"), centre), crease=40.0),
        Piece.of(
            "discs",
            "#b9b6ae",
            moved(turned(plate, 90 * out, "y"), (centre[0] + out * wide / 2, centre[1], centre[2])),
            crease=SHARP,
        ),
    ]
