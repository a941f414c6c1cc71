"""Whether a pane lies in front."""

from __future__ import annotations

from warmgraphite.regions.words._word import Word

GLASS = Word(
    "glass",
    bool | None,
    lambda said, asked, _model: (asked.panes > 0) == said,
    order=14,
    of=frozenset({"lines", "regions"}),
    unsaid=None,
    label="Behind glass",
    options={"yes": "behind glass", "no": "not behind"},
    shown=frozenset({"lines", "regions"}),
)
