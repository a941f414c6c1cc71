"""The language in which regions, lines and cut masses are asked for.
Data, not text, so that it is kept, sent and edited as it is.

A :class:`Match` is one of which everything that it says is so; :class:`All`, :class:`Any` and :class:`Not` put matches
together. What a query names is looked up in the model as it is now: it follows the model, and no shape is kept. What is
asked (cells of a map, lines, parts that are cut) has columns for the words that mean something of it; the other words
are refused.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, Literal
from typing import Any as Any_

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, create_model, field_validator

from warmgraphite.errors import NotThere, ViewError
from warmgraphite.model.model import Model
from warmgraphite.regions.words import WORDS
from warmgraphite.regions.words._word import Of, PartCells, Table
from warmgraphite.specification import Specification
from warmgraphite.specification import Words as Text

__all__ = [
    "CELL_WORDS",
    "LINE_WORDS",
    "PART_WORDS",
    "All",
    "Any",
    "Kept",
    "Match",
    "NamedRegion",
    "Not",
    "PartCells",
    "Query",
    "Table",
    "Through",
    "answer",
    "asked_words",
    "depth_bounds",
    "named_parts",
    "resolved",
    "understood",
    "with_parts",
]


def _asked_of(of: Of) -> frozenset[str]:
    return frozenset(w.name for w in WORDS.values() if of in w.of)


#: Words of a match that every asked thing has an answer to, because it belongs to a part; and those that lines, and
#: those that cells of a map, have one to.
PART_WORDS, LINE_WORDS, CELL_WORDS = _asked_of("parts"), _asked_of("lines"), _asked_of("regions")

#: How deeply queries may be put into each other.
DEEPEST = 24

if TYPE_CHECKING:

    class Match(Specification):
        """What all that is said here is so of; where several things are said by a word, any of them."""

        kind: Literal["match"] = "match"

        def __init__(self, **said: Any_) -> None: ...
        def __getattr__(self, word: str) -> Any_: ...

else:
    Match = create_model(
        "Match",
        __base__=Specification,
        __module__=__name__,
        __doc__="What all that is said here is so of; where several things are said by a word, any of them.",
        kind=(Literal["match"], "match"),
        **{w.name: (w.says, w.unsaid) for w in WORDS.values()},
    )


class All(Specification):
    """Regions that every one of these queries means."""

    kind: Literal["all"] = "all"
    of: tuple[Query, ...] = Field(min_length=1, max_length=100)


class Any(Specification):
    """Regions that at least one of these queries means."""

    kind: Literal["any"] = "any"
    of: tuple[Query, ...] = Field(min_length=1, max_length=100)


class Not(Specification):
    """Regions that this query does not mean."""

    kind: Literal["not"] = "not"
    of: Query


class Kept(Specification):
    """What a kept region means, by its name in the study."""

    kind: Literal["kept"] = "kept"
    name: Text = Field(max_length=100)


class Through(Specification):
    """What the discs and painted masks of a name show of the view that has them; nothing in one that has none."""

    kind: Literal["through"] = "through"
    name: Text = Field(max_length=60)


Query = Annotated[Match | All | Any | Not | Kept | Through, Field(discriminator="kind")]
_Query = Match | All | Any | Not | Kept | Through
All.model_rebuild()
Any.model_rebuild()
Not.model_rebuild()


def _inner(query: _Query) -> tuple[_Query, ...]:
    """The queries that one is put together of."""
    return query.of if isinstance(query, All | Any) else (query.of,) if isinstance(query, Not) else ()


def _height(query: _Query) -> int:
    return 1 + max((_height(q) for q in _inner(query)), default=0)


class NamedRegion(Specification):
    """A query kept under a name. It follows the model and every view of it."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: Text = Field(min_length=1, max_length=100)
    query: Query

    @field_validator("query")
    @classmethod
    def _of_regions(cls, query: _Query) -> _Query:
        return understood(query, CELL_WORDS, "a region")


def asked_words(query: _Query) -> set[str]:
    """The words of matches that a query says something by.
    ``kept`` where it means a kept region, ``through`` where a window.
    """
    if isinstance(query, Match):
        return {n for n in query.model_fields_set if n in WORDS and getattr(query, n) != WORDS[n].unsaid}
    if isinstance(query, Kept | Through):
        return {query.kind}
    return {word for q in _inner(query) for word in asked_words(q)}


def depth_bounds(query: _Query) -> list[float]:
    """The bounds of depth, in metres, that a query says anything about."""
    if isinstance(query, Match):
        return [b for b in query.depth or () if b is not None]
    return [b for q in _inner(query) for b in depth_bounds(q)]


def understood(query: _Query, words: frozenset[str] | set[str], what: str) -> _Query:
    """The query, if it says nothing but ``words``.
    Raises :class:`ValueError` where it asks of ``what`` something it has not.
    """
    if _height(query) > DEEPEST:
        raise ValueError(f"is put together more than {DEEPEST} deep; say it more plainly")
    other = sorted(asked_words(query) - words)
    if other:
        raise ValueError(f"says “{other[0]}”, which {what} has not; take it out")
    return query


def resolved(query: _Query, regions: tuple[NamedRegion, ...]) -> _Query:
    """The query with kept regions taken for what they mean.
    Raises :class:`NotThere` for one that is not kept any more.
    """
    if isinstance(query, Kept):
        for region in regions:
            if region.name == query.name:
                return region.query
        raise NotThere(f"There is no kept region “{query.name}” in this study; choose another, or keep it anew.")
    return _rebuilt(query, lambda q: resolved(q, regions))


def _rebuilt(query: _Query, change: Callable[[_Query], _Query]) -> _Query:
    """The query with each of those that it is put together of changed."""
    if isinstance(query, Not):
        return query.model_copy(update={"of": change(query.of)})
    if isinstance(query, All | Any):
        return query.model_copy(update={"of": tuple(change(q) for q in query.of)})
    return query


def named_parts(query: _Query) -> set[str]:
    """The names and patterns of parts that a query holds."""
    if isinstance(query, Match):
        return {*query.parts, *({query.face.part} if query.face else ())}
    return {name for q in _inner(query) for name in named_parts(q)}


def with_parts(query: _Query, followed: Callable[[tuple[str, ...]], tuple[str, ...]]) -> _Query:
    """The query with its names and patterns of parts taken for what they are called now."""
    if isinstance(query, Match):
        changes: dict[str, object] = {"parts": followed(query.parts)}
        if query.face:
            changes["face"] = query.face.model_copy(update={"part": followed((query.face.part,))[0]})
        return query.model_copy(update=changes)
    return _rebuilt(query, lambda q: with_parts(q, followed))


def _match(query: Match, asked: Table, model: Model) -> NDArray[np.bool_]:
    found = np.ones(len(asked), bool)
    for name in sorted(asked_words(query)):
        found &= WORDS[name].test(getattr(query, name), asked, model)
    return found


def answer(query: _Query, asked: Table, model: Model) -> NDArray[np.bool_]:
    """(N,) which rows of what is asked a query means.
    Raises :class:`NotThere` for a part set that the model has not.
    """
    if isinstance(query, Match):
        return _match(query, asked, model)
    if isinstance(query, Kept):
        raise NotThere(f"There is no kept region “{query.name}” here; keep it in the study first.")
    if isinstance(query, Through):
        raise ViewError(f"“{query.name}” is a soft window, which has no part in a region; confine a trace to it.")
    rows = [answer(q, asked, model) for q in _inner(query)]
    if isinstance(query, Not):
        return ~rows[0]
    return np.logical_and.reduce(rows) if isinstance(query, All) else np.logical_or.reduce(rows)
