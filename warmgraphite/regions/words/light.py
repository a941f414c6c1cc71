"""What light falls on a place."""

from __future__ import annotations

from typing import Literal

from warmgraphite.regions.words._word import Word, one_of
from warmgraphite.wording import listed

__all__ = ["LIGHT", "LIGHTS"]

Light = Literal["lit", "shadow", "shade", "none"]
LIGHTS: tuple[str, ...] = Light.__args__  # type: ignore[attr-defined]
_CALLED = {"lit": "lit", "shadow": "in cast shadow", "shade": "in shade", "none": "neither lit nor dark"}

LIGHT = Word(
    "light",
    tuple[Light, ...],
    one_of("light", LIGHTS),
    order=11,
    of=frozenset({"regions"}),
    tail=lambda said: listed([_CALLED[w] for w in said], "or"),
    label="Light",
    options={"lit": "lit", "shadow": "cast shadow", "shade": "shade"},
    shown=frozenset({"regions"}),
)
