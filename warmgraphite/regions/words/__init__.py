"""The words by which regions, lines and parts are asked for: one file each, found by being here.

A word says what may be said by it, of what it can be asked, which columns it reads and what of them it means, and how
it reads in a sentence and stands in a form.
"""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, objects_in
from warmgraphite.regions.words._word import Word

__all__ = ["WORDS"]

#: All words by name.
WORDS: Catalogue[Word] = Catalogue(
    lambda: objects_in("warmgraphite.regions.words", Word), lambda w: w.name, lambda w: (w.order, w.name)
)
