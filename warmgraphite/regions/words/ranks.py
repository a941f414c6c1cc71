"""Ranks of lines: which kind of line the eye should see first."""

from __future__ import annotations

from typing import Literal

from warmgraphite.passes.line_set import RANKS as NUMBERED
from warmgraphite.regions.words._word import Word, one_of

__all__ = ["RANKS", "Rank"]

Rank = Literal["cut", "outline", "edge", "surface", "figure", "detail"]

RANKS = Word(
    "ranks",
    tuple[Rank, ...],
    one_of("rank", NUMBERED),
    order=8,
    of=frozenset({"lines"}),
    head={
        "cut": "cut lines",
        "outline": "outlines",
        "edge": "edges",
        "surface": "surface joints",
        "figure": "outlines of figures",
        "detail": "lines within figures",
    },
    label="Ranks",
    options={"cut": "cut", "outline": "outlines", "edge": "edges", "surface": "joints"},
    shown=frozenset({"lines"}),
)
