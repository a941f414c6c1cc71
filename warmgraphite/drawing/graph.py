"""The graph of passes: one record for each, and what follows from the records.

A record says what a pass reads of model, view and ink, as a frozen record of exactly that, which passes it needs first, and how
it is computed. Its key is made of what it reads and of the keys of what it needs: it is fresh where its key is known. Order of
work, progress, freshness and the words on the screen all come from here; nothing repeats the list.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, fields, is_dataclass
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from warmgraphite.catalogue import Catalogue, objects_in
from warmgraphite.needs import Need, need
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays, pass_key
from warmgraphite.progress import Progress

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["PASSES", "Pass", "in_order", "is_slow", "key_of"]


@dataclass(frozen=True)
class Pass:
    """One pass.

    ``stage`` is what it is called while it is computed, ``weight`` its share of the time. ``reads`` gives, for a drawing and for
    what the pass is confined to, a frozen record of all that it reads beside the results of the passes that it ``needs``.
    ``compute`` makes its result, which ``pack`` and ``unpack`` turn into arrays for the store and back. One that is ``light`` is
    made of what it needs wherever it is asked for, and not stored. ``pixels`` is whether it has as many as the drawing; ``slow``
    whether a first, coarse picture does without it; ``of_where`` whether it is of what a query means, and of nothing else.
    """

    name: str
    stage: str
    weight: float
    reads: Callable[[Drawing, Any], Any]
    compute: Callable[[Drawing, Any, Progress], Any]
    unpack: Callable[[Arrays], Any]
    pack: Callable[[Any], Arrays] = as_arrays
    needs: Callable[[Drawing, Any], Iterable[str | Need]] = lambda _drawing, _where: ()
    light: bool = False
    pixels: bool = False
    slow: bool = False
    of_where: bool = False


#: All passes by name: those that the modules of :mod:`warmgraphite.drawing.records` have.
PASSES: Catalogue[Pass] = Catalogue(lambda: objects_in("warmgraphite.drawing.records", Pass), lambda p: p.name)


def _plain(value: Any) -> Any:
    """A record of inputs as JSON."""
    if isinstance(value, BaseModel):
        return _plain(value.model_dump(mode="json"))
    if is_dataclass(value) and not isinstance(value, type):
        return {f.name: _plain(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, dict):
        return {str(k): _plain(v) for k, v in value.items()}
    if isinstance(value, float) and value.is_integer():
        return int(value)  # 24 and 24.0 are read alike, and which of them is held depends on where it came from
    return [_plain(v) for v in value] if isinstance(value, list | tuple) else value


def key_of(drawing: Drawing, wanted: Need) -> str:
    """The key of a pass of a drawing."""
    record = PASSES[wanted.name]
    needed = [drawing.key(n) for n in record.needs(drawing, wanted.where)]
    return pass_key(record.name, _plain(record.reads(drawing, wanted.where)), needed)


def is_slow(drawing: Drawing, wanted: Need) -> bool:
    """Whether a pass, or one that it needs, takes longer than a first picture should."""
    if wanted.of is not None:
        other = drawing.veiled(wanted.of)
        return other is not None and is_slow(other, wanted.own)
    record = PASSES[wanted.name]
    return record.slow or any(is_slow(drawing, need(n)) for n in record.needs(drawing, wanted.where))


def in_order(drawing: Drawing, wanted: Iterable[Need | str]) -> list[Need]:
    """The needs with all that they need, each once and after what it needs; what a fresh one needed is left out."""
    found: dict[Need, None] = {}

    def visit(one: Need) -> None:
        if one in found or drawing.is_fresh(one):
            return
        if one.of is not None:  # the other drawing sees to what it needs
            found[one] = None
            return
        for other in PASSES[one.name].needs(drawing, one.where):
            visit(need(other))
        found[one] = None

    for one in wanted:
        visit(need(one))
    return list(found)
