"""Which role a part most likely has, read from its names and its material.

Nothing here is certain, so the guess is only a starting point that a user can overrule.
"""

from __future__ import annotations

import re

from warmgraphite.model.palette import SEE_THROUGH, Material

__all__ = ["guess_role"]

# The first pattern that is found in "layer/name/material" decides; order matters (a glass table is furniture).
_WORDS: tuple[tuple[str, str], ...] = (
    ("people", r"\b(people|person|figures?|human)\b"),
    ("planting", r"\b(plant(s|ing)?|trees?|shrubs?|hedges?|grass|reeds?)\b"),
    (
        "furniture",
        r"\b(furnitur\w*|furnishing\w*|chairs?|tables?|bench(es)?|shelf|shelves|desks?|sofas?|beds?|stools?|pots?)\b",
    ),
    ("water", r"\b(water|ponds?|pools?|river|lake)\b"),
    ("ground", r"\b(ground(?!\s*(floor|level|store?y))|earth|terrain|site|soil|topography|slope)\b"),
    ("context", r"\b(context|neighbou?rs?|surroundings?)\b"),
    ("glass", r"\b(glass|glazing|panes?)\b"),
    ("envelope", r"\b(roof\w*|cladding|facade|façade|covering|envelope|skin)\b"),
)
_PATTERNS = tuple((role, re.compile(words, re.IGNORECASE)) for role, words in _WORDS)


def guess_role(layer: str, name: str, material: Material) -> str:
    """The role suggested by a part's names and material; ``structure`` when nothing speaks."""
    text = re.sub(r"[_\-.]+", " ", f"{layer} / {name}")
    text = re.sub(r"(?<=[a-z])(?=[A-Z0-9])", " ", text)
    for role, pattern in _PATTERNS:
        if pattern.search(text):
            return role
    return "glass" if material.opacity < SEE_THROUGH else "structure"
