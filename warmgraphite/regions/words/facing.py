"""Which way a face looks."""

from __future__ import annotations

from typing import Literal

from warmgraphite.regions.words._word import Word, one_of
from warmgraphite.wording import listed

__all__ = ["FACING", "FACINGS"]

Facing = Literal["up", "down", "north", "east", "south", "west", "sloping"]
FACINGS: tuple[str, ...] = Facing.__args__  # type: ignore[attr-defined]

FACING = Word(
    "facing",
    tuple[Facing, ...],
    one_of("facing", FACINGS),
    order=12,
    of=frozenset({"regions"}),
    tail=lambda said: f"facing {listed(list(said), 'or')}",
    label="Facing",
    options={"up": "up", "down": "down", "north": "N", "east": "E", "south": "S", "west": "W", "sloping": "sloping"},
    shown=frozenset({"regions"}),
)
