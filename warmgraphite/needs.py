"""A pass that is wanted: what traces ask for, and what the graph of passes answers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

from pydantic import TypeAdapter, ValidationError

from warmgraphite.regions.query import Query
from warmgraphite.specification import Wanted

__all__ = ["Need", "need", "packed_need", "unpacked_need"]

_QUERY: TypeAdapter[Any] = TypeAdapter(Query)


class Need(NamedTuple):
    """A pass that is wanted: of all, of what ``where`` means, a query; or as a specification says.
    ``of`` is which other drawing in the same frame it is of.
    """

    name: str
    where: Query | Wanted | None = None
    of: Wanted | None = None

    @property
    def words(self) -> str:
        """The need as text, the same for the same need."""
        said = [self.name, *(w.model_dump_json(exclude_defaults=True) for w in (self.where, self.of) if w is not None)]
        return " ".join(said)

    @property
    def own(self) -> Need:
        """The same of the drawing that it is of."""
        return Need(self.name, self.where)


def need(wanted: Need | str) -> Need:
    """A need, from itself or from the name of its pass."""
    return Need(wanted) if isinstance(wanted, str) else wanted


def packed_need(one: Need) -> list[Any]:
    """A need as JSON: its name, and what it is of with the name of the specification where that is none of a query."""
    said = lambda w: None if w is None else [type(w).__name__, w.model_dump(mode="json")]
    return [one.name, said(one.where), *([said(one.of)] if one.of else [])]


def unpacked_need(row: Sequence[Any]) -> Need:
    """A need from JSON, also as it was written before specifications had names."""
    return Need(row[0], *(_unpacked(said) for said in row[1:]))


def _kinds(base: type[Wanted]) -> Iterator[type[Wanted]]:
    for kind in base.__subclasses__():
        yield kind
        yield from _kinds(kind)


def _unpacked(said: Any) -> Any:
    if said is None:
        return None
    kinds = {k.__name__: k for k in _kinds(Wanted)}
    if isinstance(said, dict):
        for kind in kinds.values():
            try:
                return _QUERY.validate_python(said) if "kind" in said else kind.model_validate(said)
            except ValidationError:
                continue
    name, fields = said
    return kinds[name].model_validate(fields) if name in kinds else _QUERY.validate_python(fields)
