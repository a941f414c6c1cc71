"""A pass that is wanted: what traces ask for, and what the graph of passes answers."""

from __future__ import annotations

from typing import NamedTuple

from warmgraphite.regions.query import Query
from warmgraphite.specification import Wanted

__all__ = ["Need", "need"]


class Need(NamedTuple):
    """A pass that is wanted: of all, of what ``where`` means, a query; or as a specification says."""

    name: str
    where: Query | Wanted | None = None

    @property
    def words(self) -> str:
        """The need as text, the same for the same need."""
        return self.name if self.where is None else f"{self.name} {self.where.model_dump_json(exclude_defaults=True)}"


def need(wanted: Need | str) -> Need:
    """A need, from itself or from the name of its pass."""
    return Need(wanted) if isinstance(wanted, str) else wanted
