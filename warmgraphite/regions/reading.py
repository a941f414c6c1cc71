"""What a query reads of a model: the same for queries that mean the same, whatever parts are called."""

from __future__ import annotations

from typing import Any

from warmgraphite.errors import NotThere
from warmgraphite.model.model import Model
from warmgraphite.passes.packing import digest
from warmgraphite.regions.query import PART_WORDS, Kept, Match, PartCells, Query, Through, answer, asked_words

__all__ = ["of_parts", "read_of"]


def of_parts(query: Query | None) -> bool:
    """Whether a query is answered by what parts are, so that neither lines nor a map have to be asked.
    None means all.
    """
    return query is None or asked_words(query) <= PART_WORDS


def read_of(query: Query | None, model: Model) -> Any:
    """All that says what a query means, as JSON: the parts that it means, and the words that are not of parts."""
    if query is None or isinstance(query, Kept | Through):
        return query and query.name
    if isinstance(query, Match):
        said = asked_words(query)
        parts = ""
        if said & PART_WORDS:
            alone = query.model_copy(update={w: Match.model_fields[w].default for w in said - PART_WORDS})
            try:
                parts = digest(answer(alone, PartCells.of(model), model))
            except NotThere:
                parts = "nothing"
        rest = query.model_dump(mode="json", include=said - PART_WORDS)
        return [parts, rest]
    inner = query.of if isinstance(query.of, tuple) else (query.of,)
    return [query.kind, [read_of(q, model) for q in inner]]
