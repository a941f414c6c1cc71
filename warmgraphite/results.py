"""Results of passes, as they are handed to whoever draws with them.

A drawing answers for any pass and computes what is not there. Painting does not compute: before it begins, the results
of what it said that it needs are got, and it has nothing else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

from warmgraphite.errors import OurFault
from warmgraphite.needs import Need

__all__ = ["Results"]

T = TypeVar("T")


@dataclass(frozen=True)
class Results:
    """Results by need. ``key`` names one, ``of_pixels`` tells whether it has those of the drawing's window."""

    get: Callable[[Need], Any]
    key: Callable[[Need], str]
    of_pixels: Callable[[Need], bool]

    def __getitem__(self, wanted: Need) -> Any:
        return self.get(wanted)

    def only(self, needs: Iterable[Need], *, flat: bool = False) -> Results:
        """These, got now, and no way to any other; ``flat`` only those which have no pixels."""
        held = [n for n in dict.fromkeys(needs) if not (flat and self.of_pixels(n))]
        return Results(_of({n: self.get(n) for n in held}), _of({n: self.key(n) for n in held}), self.of_pixels)

    def of(self, change: Callable[[Need], Need]) -> Results:
        """Those of another drawing in the same frame."""
        return Results(
            lambda n: self.get(change(n)), lambda n: self.key(change(n)), lambda n: self.of_pixels(change(n))
        )


def _of(held: dict[Need, T]) -> Callable[[Need], T]:
    def found(wanted: Need) -> T:
        if wanted not in held:
            raise OurFault(f"what is drawn does not say that it needs {wanted.words}")
        return held[wanted]

    return found
