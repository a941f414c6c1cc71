"""Whether a place is of the building, of the sky, or of the ground beyond."""

from __future__ import annotations

from typing import Literal

from warmgraphite.regions.words._word import Word, one_of

__all__ = ["PLACES", "WHERE"]

Where = Literal["building", "sky", "outside"]
PLACES: tuple[str, ...] = Where.__args__  # type: ignore[attr-defined]

WHERE = Word(
    "where",
    tuple[Where, ...],
    one_of("where", PLACES),
    order=13,
    of=frozenset({"regions"}),
    head={"building": "the building", "sky": "the sky", "outside": "the ground beyond"},
    label="Beyond",
    options={"sky": "sky", "outside": "ground beyond"},
    shown=frozenset({"regions"}),
)
