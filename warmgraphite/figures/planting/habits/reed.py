"""Reed: a stand of stalks with hanging blades and plumes."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.figures.planting.foliage import blades, lobes, tuft
from warmgraphite.figures.planting.habit import Growth, Habit, foliage_colour


def _own(ask: Growth, habit: Habit) -> list[Piece]:
    chance, high, half = ask.chance, ask.height, ask.spread / 2
    count = int(ask.of(26, 11, 9, 6))
    turn, r = chance.uniform(0, 2 * np.pi, count), half * np.sqrt(chance.uniform(0, 1, count))
    foot = np.column_stack([r * np.cos(turn), r * np.sin(turn), np.full(count, -0.12)])
    wind = chance.uniform(0, 2 * np.pi)
    lean = wind + chance.normal(0, 0.5, count)
    way, tall = np.column_stack([np.cos(lean), np.sin(lean)]), high * chance.uniform(0.72, 1.05, count)
    bend = chance.uniform(0.05, 0.22, count)
    stalks = blades(foot, way, tall, np.full(count, 0.03), bend, 3)
    tops = foot + np.column_stack([way * (bend * tall)[:, None], tall * (1 - 0.35 * bend)])
    plumed = chance.uniform(0, 1, count) < 0.6
    plumes = lobes(
        tops[plumed],
        chance.normal(size=(int(plumed.sum()), 3)),
        np.column_stack([way, np.full(count, 0.8)])[plumed],
        np.full(int(plumed.sum()), 0.075),
        3.2,
        chance,
        5,
    )
    low = tuft(ask, count, half, 0.62 * high, 0.045, 0.45)
    colour = "#b9a87a" if ask.season in ("bare", "autumn") else foliage_colour(habit, ask.season, chance)
    return [
        Piece.of("leaves", colour, stalks, low, crease=WHOLE, receives=False),
        Piece.of("plumes", "#a58f6c", plumes, crease=WHOLE, receives=False),
    ]


HABIT = Habit(
    "reed",
    "Reed",
    "low",
    1.8,
    spread=0.5,
    own=_own,
    slow=1.5,
    wades=True,
    leaf={"spring": "#b2b684", "summer": "#a4a878"},
)
