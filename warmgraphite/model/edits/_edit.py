"""What every change to a model is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Annotated

from pydantic import Field

from warmgraphite.errors import EditError
from warmgraphite.model.model import Model
from warmgraphite.model.parts import Part
from warmgraphite.specification import Specification

__all__ = ["Edit", "Metres", "Name", "Numbers", "checked_parts", "with_parts"]

Numbers = Annotated[tuple[int, ...], Field(min_length=1, max_length=2_000_000)]
Metres = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=200)]


class Edit(Specification):
    """A change to a model; ``do`` is its name in files and over the wire."""

    do: str

    def apply(self, model: Model) -> Model:
        """The model as it is then. Raises :class:`EditError` with one sentence for what is not right."""
        raise NotImplementedError

    def called(self, what: str) -> str:
        """What it is called beside Undo; ``what`` names the parts that it is about."""
        raise NotImplementedError


def checked_parts(model: Model, parts: Sequence[int]) -> list[int]:
    """The parts that are there, each once. Raises :class:`EditError` when one is not of this model."""
    found = sorted(set(parts))
    if found and not 0 <= found[0] <= found[-1] < len(model.parts):
        raise EditError("A part was meant that this model does not have; look at the list again.")
    return [p for p in found if not model.parts[p].absent]


def with_parts(model: Model, parts: Sequence[int], change: Callable[[Part], Part]) -> Model:
    """The model with some of its parts changed."""
    rows = list(model.parts)
    for number in checked_parts(model, parts):
        rows[number] = change(rows[number])
    return model.said(parts=tuple(rows))
