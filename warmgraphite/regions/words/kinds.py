"""Kinds of lines: what they are the edges of."""

from __future__ import annotations

from typing import Literal

from warmgraphite.passes.line_set import KINDS as NUMBERED
from warmgraphite.regions.words._word import Word, one_of

Kind = Literal["cut", "silhouette", "border", "crease", "intersection", "material", "smooth", "terrain", "line"]

KINDS = Word(
    "kinds",
    tuple[Kind, ...],
    one_of("kind", NUMBERED),
    order=9,
    of=frozenset({"lines"}),
    head={
        "cut": "cut lines",
        "silhouette": "turning edges",
        "border": "free edges",
        "crease": "bends",
        "intersection": "intersections",
        "material": "changes of material",
        "smooth": "smooth edges",
        "terrain": "ground contours",
        "line": "line elements",
    },
)
