"""A climber on a wall: it grows on the plane behind it, facing ahead, thick at the foot, in tongues at its edge."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.figures.planting.foliage import lobes
from warmgraphite.figures.planting.habit import Growth, Habit, foliage_colour
from warmgraphite.model.solids import limb


def _own(ask: Growth, habit: Habit) -> list[Piece]:
    chance, high, wide = ask.chance, ask.height, ask.spread
    shoots = max(int(wide * 2.2), 5)
    stems, at = [], []
    for k in range(shoots):
        x0 = (k + 0.5) / shoots * wide - wide / 2
        reach = high * float(np.clip(chance.normal(0.78, 0.2), 0.3, 1.02)) * (1 - 0.45 * abs(2 * x0 / wide) ** 2)
        z = np.arange(0, reach, 0.14)
        x = x0 * 0.45 + x0 * 0.55 * (z / high) ** 0.6 + np.cumsum(chance.normal(0, 0.05, len(z)))
        path = np.column_stack([x, np.full(len(z), 0.025), z])
        if len(path) > 3:
            stems.append(
                limb(
                    path[::3], np.full(len(path[::3]), 0.014), np.full(len(path[::3]), 0.014), np.array([1.0, 0, 0]), 3
                )
            )
        full = 1 if ask.season == "bare" else int(ask.of(7, 5, 4, 2))
        for _ in range(full):
            at.append(
                path
                + np.column_stack(
                    [chance.normal(0, 0.15, len(z)), chance.uniform(0.02, 0.15, len(z)), chance.normal(0, 0.1, len(z))]
                )
            )
    spots = np.concatenate(at)
    spots[:, 2] = np.maximum(spots[:, 2], 0.04)
    size = np.full(len(spots), ask.of(0.075, 0.09, 0.10, 0.16)) * chance.uniform(0.7, 1.3, len(spots))
    face = np.add(chance.normal(0, 0.35, spots.shape), (0, 1.0, 0.25))
    leaves = lobes(spots, face, np.add(chance.normal(size=spots.shape), (0, 0, -1.0)), size, 1.3, chance, 5)
    wood = [Piece.of("wood", habit.bark, *stems, crease=120.0)]
    if ask.season == "bare":
        return wood
    return [*wood, Piece.of("leaves", foliage_colour(habit, ask.season, chance), leaves, crease=WHOLE, receives=False)]


HABIT = Habit(
    "climber",
    "Climber on a wall",
    "shrubs",
    3.0,
    spread=0.9,
    own=_own,
    slow=5.0,
    leaf={"spring": "#aeb988", "summer": "#84946a", "autumn": "#b06a4a"},
)
