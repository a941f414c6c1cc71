"""What a word is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.model.model import Model

__all__ = ["ALL", "Asked", "Names", "Number", "Of", "PartCells", "Table", "Word", "of_parts", "one_of"]

#: What can be asked: parts, which all else belongs to; lines of a drawing; cells of a region map.
Of = Literal["parts", "lines", "regions"]
ALL: frozenset[Of] = frozenset({"parts", "lines", "regions"})

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
Names = Annotated[tuple[Annotated[str, Field(max_length=1000)], ...], Field(max_length=500)]


class Table(Protocol):
    """What is asked (N rows): the ``part`` of each, −1 for none, and a column for each word that it can be asked by."""

    @property
    def part(self) -> NDArray[np.int32]: ...
    def __len__(self) -> int: ...


@dataclass(frozen=True)
class PartCells:
    """The parts themselves (P), as what a query asks; ``material`` (P,) is what each counts as."""

    part: NDArray[np.int32]
    material: NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.part)

    @staticmethod
    def of(model: Model, cut: bool = False) -> PartCells:
        """All parts; ``cut`` as what they are filled as where they are cut."""
        return PartCells(
            np.arange(len(model.parts), dtype=np.int32),
            model.parts.cut_as if cut else model.parts.material.astype(np.int64),
        )


Asked = Any  # a table with the columns that the word reads
#: What is said by a word, what is asked, and the model: which rows (N,) it is so of.
Test = Callable[[Any, Asked, Model], NDArray[np.bool_]]


def of_parts(chosen: Callable[[Any, Asked, Model], NDArray[np.bool_]]) -> Test:
    """The test of a word that means parts (P,), of whatever belongs to them."""
    return lambda said, asked, model: (asked.part >= 0) & chosen(said, asked, model)[asked.part]


def one_of(column: str, words: tuple[str, ...]) -> Test:
    """The test of a word that names some of ``words``, whose numbers are in a column."""
    return lambda said, asked, _model: np.isin(getattr(asked, column), [words.index(w) for w in said])


@dataclass(frozen=True)
class Word:
    """A word: its ``name`` in files, what may be said by it (``says``, a type), and its ``test``.

    Where it is ``unsaid``, nothing is asked by it. ``of`` is what can be asked by it. In a sentence it stands in the
    row of those that ``head`` it, of ``names``, or behind these as a ``tail``; ``order`` is its place among those that
    stand alike. A form shows it as ``label`` with its ``options``, for the things that it is ``shown`` for.
    """

    name: str
    says: Any
    test: Test
    order: int
    of: frozenset[Of] = ALL
    unsaid: Any = ()
    head: Mapping[str, str] = field(default_factory=dict)
    names: Callable[[Any], Iterable[str]] | None = None
    tail: Callable[[Any], str] | None = None
    label: str = ""
    options: Mapping[str, str] = field(default_factory=dict)
    shown: frozenset[Of] = frozenset()
