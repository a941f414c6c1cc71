"""A square metre of meadow: short blades, some taller, and flowers."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.figures.planting.foliage import lobes, tuft
from warmgraphite.figures.planting.habit import Growth, Habit, foliage_colour


def _own(ask: Growth, habit: Habit) -> list[Piece]:
    chance, half = ask.chance, ask.spread / 2
    count = int(ask.of(70, 34, 24, 12) * ask.density)
    low, tall = (
        tuft(ask, count, half, 0.6 * ask.height, 0.02, 0.5),
        tuft(ask, count // 5, half, 1.1 * ask.height, 0.014, 0.25),
    )
    flowers = max(count // 7, 2)
    spots = np.column_stack(
        [chance.uniform(-half, half, (flowers, 2)) * 0.8, chance.uniform(0.6, 1.0, flowers) * ask.height]
    )
    heads = lobes(
        spots,
        np.add(chance.normal(0, 0.3, spots.shape), (0, 0, 1.0)),
        chance.normal(size=spots.shape),
        np.full(flowers, 0.028),
        1.0,
        chance,
        5,
    )
    bloom = str(chance.choice(["#d9c27a", "#c9a0a0", "#e6e0d2"]))
    out = [
        Piece.of(
            "leaves",
            foliage_colour(habit, "summer" if ask.season == "bare" else ask.season, chance),
            low,
            tall,
            crease=WHOLE,
            receives=False,
        )
    ]
    return (
        out
        if ask.season in ("bare", "autumn")
        else [*out, Piece.of("flowers", bloom, heads, crease=WHOLE, receives=False)]
    )


HABIT = Habit(
    "meadow",
    "Meadow",
    "low",
    0.45,
    spread=2.4,
    own=_own,
    slow=1.0,
    leaf={"spring": "#b4bd88", "summer": "#a6ae7f", "autumn": "#bfae80"},
)
