"""Whether something is cut."""

from __future__ import annotations

from warmgraphite.regions.words._word import Word

CUT = Word(
    "cut",
    bool | None,
    lambda said, asked, _model: asked.cut == said,
    order=15,
    of=frozenset({"lines", "regions"}),
    unsaid=None,
    tail=lambda said: "cut" if said else "not cut",
)
