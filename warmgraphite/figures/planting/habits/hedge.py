"""A clipped hedge: a straight length, its faces alive with leaves; as wide as it is told."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import SHARP, WHOLE, Piece
from warmgraphite.figures.planting.foliage import lobes
from warmgraphite.figures.planting.habit import Growth, Habit, foliage_colour
from warmgraphite.model.solids import box


def _own(ask: Growth, habit: Habit) -> list[Piece]:
    chance, high, long = ask.chance, ask.height, ask.spread
    deep = float(np.clip(0.42 * high, 0.3, 0.9))
    lobe = ask.of(0.085, 0.12, 0.16, 0.3)
    faces = [
        ((long, high), (0, 1, 0)),
        ((long, high), (0, -1, 0)),
        ((deep, high), (1, 0, 0)),
        ((deep, high), (-1, 0, 0)),
        ((long, deep), (0, 0, 1)),
    ]
    places, normals = [], []
    for (a, b), normal in faces:
        count = int(a * b / (lobe**2) * 0.62 * ask.density)
        u, v = chance.uniform(-0.5, 0.5, count) * a, chance.uniform(0, 1, count) * b
        n = np.array(normal, float)
        if normal[2]:
            spot = np.column_stack([u, v - deep / 2, np.full(count, high)])
        elif normal[1]:
            spot = np.column_stack([u, np.full(count, normal[1] * deep / 2), v])
        else:
            spot = np.column_stack([np.full(count, normal[0] * long / 2), u, v])
        places.append(spot + n * chance.normal(0, 0.018, (count, 1)))
        normals.append(n + chance.normal(0, 0.32, (count, 3)))
    at, face = np.concatenate(places), np.concatenate(normals)
    colour = foliage_colour(habit, "summer" if ask.season == "bare" else ask.season, chance)
    leaves = lobes(at, face, chance.normal(size=at.shape), lobe * chance.uniform(0.75, 1.25, len(at)), 1.2, chance, 5)
    inner = box((-long / 2 + 0.03, -deep / 2 + 0.03, 0), (long / 2 - 0.03, deep / 2 - 0.03, high - 0.03))
    return [
        Piece.of("leaves", colour, leaves, crease=WHOLE, receives=False),
        Piece.of("inside", colour, inner, crease=SHARP, receives=False),
    ]  # fmt: skip


HABIT = Habit(
    "hedge", "Clipped hedge", "shrubs", 1.4, spread=2.0, own=_own, slow=6.0, evergreen=True, leaf={"summer": "#7f8e6b"}
)
