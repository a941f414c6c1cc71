"""The graph of passes: one record for each, and what follows from the records.

A pass says, as a frozen record, all that it reads of what is drawn; which passes it needs first; and how its result is
computed of that record and of theirs. It is handed nothing else, so that it can see nothing else. Its key is made of
the record, of the keys of what it needs, and of the sources that it is computed by: it is fresh where its key is known,
and nobody says by hand that something is computed otherwise now. Order of work, progress, freshness and the words on
the screen all come from here; nothing repeats the list.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any, Generic, Literal, TypeVar

from warmgraphite.catalogue import Catalogue, objects_in
from warmgraphite.errors import OurFault
from warmgraphite.keys import key_of
from warmgraphite.needs import Need
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.sources import digest_of

if TYPE_CHECKING:
    from warmgraphite.drawing.specification import DrawingSpec

__all__ = ["PASSES", "Given", "Level", "Pass"]

In = TypeVar("In")
Out = TypeVar("Out")

#: How exactly a drawing is wanted: as it follows the hand, as the desk shows it, as paper has it.
Level = Literal["draft", "desk", "paper"]

#: What passes are written down with, and nothing is computed by: what these stand on is no source of a pass.
PLUMBING = (
    "warmgraphite.drawing.graph", "warmgraphite.drawing.inputs", "warmgraphite.drawing.specification",
    "warmgraphite.needs", "warmgraphite.keys",
    "warmgraphite.progress", "warmgraphite.passes.store", "warmgraphite.catalogue", "warmgraphite.errors",
    "warmgraphite.memory",
    "warmgraphite.threads",
)  # fmt: skip


class Given:
    """The results of what a pass needs; asked for anything else, it has nothing.

    A name stands for the need that is called so, of whichever drawing it is. ``remember`` holds what one pass makes
    piece by piece, by all that each piece is made of: with one line of a rule changed, most pieces are as they were.
    """

    def __init__(
        self,
        needs: Iterable[Need],
        get: Callable[[Need], Any],
        key: Callable[[Need], str],
        remember: Callable[[str, Callable[[], Any]], Any],
    ) -> None:
        self._needs, self._get, self._key, self._remember = frozenset(needs), get, key, remember

    def __getitem__(self, wanted: str | Need) -> Any:
        return self._get(self._known(wanted))

    def key(self, wanted: str | Need) -> str:
        """The name of a result."""
        return self._key(self._known(wanted))

    def remember(self, made_of: Any, make: Callable[[], Any]) -> Any:
        """A piece by what it is made of, as JSON, made where it is not held."""
        return self._remember(key_of("piece", made_of), make)

    def _known(self, wanted: str | Need) -> Need:
        one = Need(wanted) if isinstance(wanted, str) else wanted
        if one in self._needs:
            return one
        named = [n for n in self._needs if n.name == wanted]
        if len(named) != 1:
            raise OurFault(f"the pass does not say that it needs {one.words}")
        return named[0]


def _never_kept(_arrays: Arrays) -> Any:
    raise TypeError("what is light is not kept")


@dataclass(frozen=True)
class Pass(Generic[In, Out]):
    """One pass, from a record ``In`` of what it reads to its result ``Out``.

    ``stage`` is what it is called while it is computed, ``weight`` its share of the time. ``reads`` gives, for what is
    drawn and for what the pass is confined to, a frozen record of all that it reads beside the results of the passes
    that it ``needs``. ``compute`` makes its result, which ``pack`` and ``unpack`` turn into arrays for the store and
    back. One that is ``light`` is made of what it needs wherever it is asked for, and not stored; a ``tool`` is light,
    too, and only there for other passes to be computed with: where nothing is computed there are none. ``pixels`` is
    whether it has as many as the drawing; ``slow`` whether a first, coarse picture does without it; ``of_where``
    whether it is of what a query means, and of nothing else. ``draft`` is another pass that stands for it while the
    hand moves; without one it is the same at all levels.
    """

    name: str
    stage: str
    weight: float
    reads: Callable[[DrawingSpec, Any], In]
    compute: Callable[[In, Given, Progress], Out]
    unpack: Callable[[Arrays], Out] = _never_kept
    pack: Callable[[Out], Arrays] = as_arrays
    needs: Callable[[DrawingSpec, Any], Iterable[str | Need]] = lambda _spec, _where: ()
    light: bool = False
    tool: bool = False
    pixels: bool = False
    slow: bool = False
    of_where: bool = False
    draft: str = ""

    @property
    def stored(self) -> bool:
        """Whether its result is kept on disk."""
        return not (self.light or self.tool)

    @cached_property
    def sources(self) -> str:
        """A digest of the sources that it is computed by.
        Of the file that it stands in, and of all that this one stands on.
        """
        return digest_of(self.reads.__module__, without=PLUMBING)


#: All passes by name: those that the modules of :mod:`warmgraphite.drawing.records` have.
PASSES: Catalogue[Pass[Any, Any]] = Catalogue(
    lambda: objects_in("warmgraphite.drawing.records", Pass), lambda p: p.name
)
