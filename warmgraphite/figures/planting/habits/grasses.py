"""A tuft of tall grass, bent over, with fine heads."""

from __future__ import annotations

from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.figures.planting.foliage import tuft
from warmgraphite.figures.planting.habit import Growth, Habit, foliage_colour


def _own(ask: Growth, habit: Habit) -> list[Piece]:
    count = int(ask.of(44, 20, 14, 8))
    colour = "#c3b184" if ask.season in ("bare", "autumn") else foliage_colour(habit, ask.season, ask.chance)
    body = tuft(ask, count, ask.spread * 0.16, 0.82 * ask.height, 0.022, 0.75)
    heads = tuft(ask, count // 4, ask.spread * 0.12, 1.15 * ask.height, 0.016, 0.3)
    return [Piece.of("leaves", colour, body, heads, crease=WHOLE, receives=False)]


HABIT = Habit(
    "grasses", "Grasses", "low", 0.9, spread=0.9, own=_own, slow=1.5, leaf={"spring": "#b6bd88", "summer": "#adb083"}
)
