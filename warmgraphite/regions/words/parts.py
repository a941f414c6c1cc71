"""Parts by their paths, as globs."""

from __future__ import annotations

from warmgraphite.regions.words._word import Names, Word, of_parts

PARTS = Word(
    "parts",
    Names,
    of_parts(lambda said, _asked, model: model.parts.selected(said)),
    order=3,
    names=lambda said: [path.rpartition("/")[2] for path in said],
)
