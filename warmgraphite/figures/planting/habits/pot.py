"""A plant in a pot."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.figures.planting.foliage import over_clumps, tuft
from warmgraphite.figures.planting.habit import Growth, Habit, foliage_colour
from warmgraphite.model.solids import lathe


def _own(ask: Growth, habit: Habit) -> list[Piece]:
    chance, high = ask.chance, ask.height
    r, tall = 0.24 * high, 0.42 * high
    pot = lathe(
        [
            (0, 0),
            (0.72 * r, 0),
            (0.98 * r, 0.86 * tall),
            (1.06 * r, 0.86 * tall),
            (1.06 * r, tall),
            (0.9 * r, tall),
            (0.86 * r, 0.9 * tall),
            (0, 0.9 * tall),
        ],
        20,
    )
    found = [Piece.of("pot", "#b0704c", pot, crease=40.0)]
    if ask.season == "bare" and not habit.evergreen:
        return found
    colour = foliage_colour(habit, ask.season, chance)
    if chance.random() < 0.35:
        blades = tuft(ask, 26, 0.5 * r, 0.62 * high, 0.03, 0.5)
        return [
            *found,
            Piece.of("leaves", colour, (blades[0] + [0, 0, 0.88 * tall], blades[1]), crease=WHOLE, receives=False),
        ]
    spots = chance.normal(0, 1, (9, 3)) * [0.42 * r, 0.42 * r, 0.11 * high] + [0, 0, 0.72 * high]
    leaves = over_clumps(
        spots,
        np.full(9, 0.14 * high),
        np.array([0, 0, 0.62 * high]),
        0.07 * high * ask.of(1.0, 1.3, 1.6, 2.2),
        1.1,
        0.0,
        1.3,
        chance,
        6,
    )
    return [*found, Piece.of("leaves", colour, leaves, crease=WHOLE, receives=False)]


HABIT = Habit(
    "pot", "In a pot", "low", 0.95, spread=0.6, own=_own, slow=2.0, evergreen=True, leaf={"summer": "#8e9d74"}
)
