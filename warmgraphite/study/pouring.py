"""Pouring at the collage bench.
What is in the hand is laid into each region that is tapped, as one trace whose region grows.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any as Any_

from warmgraphite.collage.trace import Trace
from warmgraphite.errors import ViewError
from warmgraphite.regions.query import Any, Match, Query
from warmgraphite.study.changes import Change
from warmgraphite.study.document import StudyDocument
from warmgraphite.study.looks import change_look

__all__ = ["lay_trace", "pour_trace"]

#: What lies over washes and textures: a poured trace goes beneath the lowest of these.
INKED = ("hatches", "cut-shadow", "poche", "lines", "marks")
#: Regions that one trace is poured into at most.
MOST = 100


def _grown(held: Query | None, where: Query) -> Query | None:
    """What a trace is confined to after one more tap: with the region, or without it where it was in.
    ``None`` for nothing.
    """
    rows: list[Query] = [] if held is None else list(held.of) if isinstance(held, Any) else [held]
    rows = [r for r in rows if r != where] if where in rows else [*rows, where]
    if len(rows) > MOST:
        raise ViewError(f"This trace is poured into {MOST} regions already; tap with a wider aim, such as a material.")
    return None if not rows else rows[0] if len(rows) == 1 else Any(of=tuple(rows))


def _as_laid(trace: Trace) -> dict[str, Any_]:
    found: dict[str, Any_] = trace.model_dump(mode="json")
    return found


def lay_trace(document: StudyDocument, trace: Trace, *, everywhere: bool) -> StudyDocument:
    """The document with a trace laid over all.
    What stands behind on the papers, tones beneath what is inked, other sheets on top.
    """
    traces = document.look.traces
    if any(t.id == trace.id for t in traces):
        raise ViewError("A trace with that id lies there already; take it from the stock again.")
    changes: list[Change] = [Change(path=("traces", trace.id), value=_as_laid(trace))]
    place = next((n for n, t in enumerate(traces) if t.kind in INKED), len(traces))
    if trace.stands_behind:
        place = max((n + 1 for n, t in enumerate(traces) if t.ground or t.stands_behind), default=0)
    if place < len(traces) and trace.under_ink:
        order = [t.id for t in traces]
        changes.append(Change(path=("traces",), do="order", value=[*order[:place], trace.id, *order[place:]]))
    return change_look(document, changes, everywhere)


def pour_trace(document: StudyDocument, trace: Trace, where: Match | Any, *, everywhere: bool) -> StudyDocument:
    """The document with a trace poured into a region.
    One with this id grows by it, or loses it where it was in, and goes with the last; where there is none it is laid.
    """
    held = _found(document.look.traces, trace.id)
    if held is None:
        return lay_trace(document, trace.model_copy(update={"where": where}), everywhere=everywhere)
    grown = _grown(held.where, where)
    if grown is None:
        return change_look(document, [Change(path=("traces", trace.id), do="drop")], everywhere)
    value = grown.model_dump(mode="json")
    return change_look(document, [Change(path=("traces", trace.id, "where"), value=value)], everywhere)


def _found(traces: Sequence[Trace], identity: str) -> Trace | None:
    return next((t for t in traces if t.id == identity), None)
