"""How far away something is: the nearest and farthest metres from the viewer, or from the nearest cut."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.regions.words._word import Asked, Number, Word

Span = tuple[Number | None, Number | None]


def _within(said: tuple[float | None, float | None], asked: Asked, _model: Model) -> NDArray[np.bool_]:
    near, far = said
    return (asked.depth >= (-np.inf if near is None else near)) & (asked.depth < (np.inf if far is None else far))


def _words(said: tuple[float | None, float | None]) -> str:
    near, far = said
    if far is None:
        return f"from {near or 0:g} m on"
    return f"{near:g} to {far:g} m away" if near else f"up to {far:g} m away"


DEPTH = Word("depth", Span | None, _within, order=10, of=frozenset({"lines", "regions"}), unsaid=None, tail=_words)
