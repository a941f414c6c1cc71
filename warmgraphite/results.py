"""Results of passes, as they are handed to whoever draws with them.

A drawing answers for any pass and computes what is not there (:class:`Asked`). Painting does not compute: before it
begins it is handed a bundle of what it said that it needs (:class:`Bundle`), and has nothing else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from warmgraphite.errors import OurFault
from warmgraphite.needs import Need

__all__ = ["Asked", "Bundle", "Results"]


@dataclass(frozen=True)
class Asked:
    """The results of a drawing, each got when it is asked for.
    ``key`` names one, ``of_pixels`` tells whether it has those of the drawing's window.
    """

    get: Callable[[Need], Any]
    key: Callable[[Need], str]
    of_pixels: Callable[[Need], bool]

    def __getitem__(self, wanted: Need) -> Any:
        return self.get(wanted)

    def bundle(self, needs: Iterable[Need], *, flat: bool = False) -> Bundle:
        """These results, got now; ``flat`` ones only, which have no pixels."""
        held = [n for n in dict.fromkeys(needs) if not (flat and self.of_pixels(n))]
        return Bundle({n: self.get(n) for n in held}, {n: self.key(n) for n in held}, self.of_pixels)

    def of(self, change: Callable[[Need], Need]) -> Asked:
        """Those of another drawing in the same frame."""
        return Asked(lambda n: self.get(change(n)), lambda n: self.key(change(n)), lambda n: self.of_pixels(change(n)))


@dataclass(frozen=True)
class Bundle:
    """Some results and their names, and no way to any other."""

    results: Mapping[Need, Any]
    keys: Mapping[Need, str]
    of_pixels: Callable[[Need], bool]

    def __getitem__(self, wanted: Need) -> Any:
        return self.results[self._known(wanted)]

    def key(self, wanted: Need) -> str:
        """The name of a result."""
        return self.keys[self._known(wanted)]

    def _known(self, wanted: Need) -> Need:
        if wanted not in self.results:
            raise OurFault(f"what is drawn does not say that it needs {wanted.words}")
        return wanted

    def bundle(self, needs: Iterable[Need], *, flat: bool = False) -> Bundle:
        """Fewer of them."""
        held = [n for n in dict.fromkeys(needs) if not (flat and self.of_pixels(n))]
        return Bundle({n: self[n] for n in held}, {n: self.key(n) for n in held}, self.of_pixels)

    def of(self, change: Callable[[Need], Need]) -> Asked:
        """Those of another drawing in the same frame."""
        return Asked(lambda n: self[change(n)], lambda n: self.key(change(n)), lambda n: self.of_pixels(change(n)))


Results = Asked | Bundle
