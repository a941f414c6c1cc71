"""Whether a line is hidden."""

from __future__ import annotations

from warmgraphite.regions.words._word import Word

HIDDEN = Word(
    "hidden",
    bool | None,
    lambda said, asked, _model: asked.hidden == said,
    order=10,
    of=frozenset({"lines"}),
    unsaid=None,
    label="Seen or hidden",
    options={"yes": "hidden", "no": "seen"},
    shown=frozenset({"lines"}),
)
