"""Sheets that figures bring with them: one for the pictures of cut-outs, one for those drawn in wash."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from warmgraphite.collage.kinds.cut_outs import CutOutsTrace
from warmgraphite.collage.kinds.wash import Wash
from warmgraphite.collage.trace import Trace
from warmgraphite.figures.standing import WASHED
from warmgraphite.regions.query import Match
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.study.finish import Finish

__all__ = ["with_sheets"]


@dataclass(frozen=True)
class _Sheet:
    """A sheet: the trace itself, whether a finish has it already, and whether figures of a study need it there."""

    trace: Trace
    there: Callable[[Trace], bool]
    needed: Callable[[StudyDocument, Finish], bool]


def _washes(document: StudyDocument, finish: Finish) -> bool:
    """Whether any figure is drawn in wash where a finish is worn."""
    own = [c for v in document.views if v.finish == finish.id for c in v.changes if c.path[:1] == ("entourage",)]
    return bool(document.figures) and (
        any(f.drawn == "wash" for f in document.figures) or any(r.drawn == "wash" for r in finish.entourage)
        or any("wash" in repr(c.value) for c in own)
    )  # fmt: skip


_IN_WASH = Match(sets=(WASHED,))
_SHEETS = (
    _Sheet(
        Wash(
            id="figure-washes", name="Washes of figures", where=_IN_WASH, colours="of materials", holds="materials",
            wet=0.7, flow=0.55,
            pools=7.0, rim=0.7, rim_width=0.35, bloom=0.45, granulation=0.25, white=0.0, density=1.15,
        ),
        lambda t: t.kind == "wash" and t.where == _IN_WASH,
        _washes,
    ),
    _Sheet(
        CutOutsTrace(id="cut-outs", name="Cut-outs"), lambda t: t.kind == "cut-outs", lambda d,
        _: any(f.pictures and f.cards for f in d.figures)
    ),
)  # fmt: skip


def with_sheets(document: StudyDocument, before: StudyDocument | None = None) -> StudyDocument:
    """The document with the sheets that its figures need, in every finish that needs them.
    A finish that needed one ``before``, too, and has none had it taken out, and stays without.
    """
    if not document.figures:
        return document
    known = {f.id: f for f in before.finishes} if before is not None else {}
    finishes = []
    for finish in document.finishes:
        for sheet in _SHEETS:
            had = before is not None and finish.id in known and sheet.needed(before, known[finish.id])
            if not had and sheet.needed(document, finish) and not any(sheet.there(t) for t in finish.traces):
                finish = _laid(finish, sheet.trace)
        finishes.append(finish)
    return document if tuple(finishes) == document.finishes else replaced(document, finishes=tuple(finishes))


def _laid(finish: Finish, trace: Trace) -> Finish:
    """A finish with a sheet under its lines."""
    taken = {t.id for t in finish.traces}
    identity = next(n for n in (trace.id, *(f"{trace.id}-{k}" for k in range(2, 100))) if n not in taken)
    place = next((n for n, t in enumerate(finish.traces) if t.kind in ("hatches", "lines")), len(finish.traces))
    own = trace.model_copy(update={"id": identity})
    return finish.model_copy(update={"traces": (*finish.traces[:place], own, *finish.traces[place:])})
