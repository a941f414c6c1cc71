"""Lifting a drawing for print: sheets that open its darks, laid so that lines stay lines in every format."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from warmgraphite.collage.adjusting import AdjustingTrace
from warmgraphite.collage.kinds.for_print import ForPrint
from warmgraphite.collage.trace import PixelTrace, Trace
from warmgraphite.errors import ViewError
from warmgraphite.study.changes import Change
from warmgraphite.study.document import StudyDocument
from warmgraphite.study.looks import change_look

__all__ = ["LIFTING", "lift_for_print", "lifted_by", "thinned"]

#: How the ids of the sheets begin.
LIFTING = "for-print-"


def lifted_by(traces: Sequence[Trace]) -> tuple[float, float] | None:
    """How much a look is lifted for print, and how light its darkest is; ``None`` where it is not."""
    for trace in traces:
        if isinstance(trace, ForPrint) and trace.id.startswith(LIFTING) and trace.on:
            return trace.lift, trace.black
    return None


def thinned(lift: float) -> float:
    """What all pens are multiplied by in a drawing that is lifted: gaps between lines stay open where lines are thinner."""
    return 1 - 0.25 * lift


def _is_tone(trace: Trace) -> bool:
    return isinstance(trace, PixelTrace) and not isinstance(trace, AdjustingTrace)


def lift_for_print(document: StudyDocument, lift: float, black: float) -> StudyDocument:
    """The document with the view on the desk lifted for print; a lift of 0 takes it away. All tones beneath what is inked are lifted by one sheet,
    and each sheet of ink by one of its own, which changes its colours and leaves its lines what they are; all pens are a little thinner."""
    traces = document.look.traces
    kept = [t for t in traces if not t.id.startswith(LIFTING)]
    changes: list[Change] = [Change(path=("traces", t.id), do="drop") for t in traces if t.id.startswith(LIFTING)]
    order: list[str] = [t.id for t in kept]
    if lift > 0:
        inked = next((n for n, t in enumerate(kept) if not isinstance(t, PixelTrace)), len(kept))
        order, number = [], 0

        def sheet(acts_on: str, name: str) -> None:
            nonlocal number
            number += 1
            row: dict[str, Any] = {"id": f"{LIFTING}{number}", "name": name[:60], "lift": lift, "black": black, "acts_on": acts_on, "bundle": "Lifted for print"}  # fmt: skip
            made = ForPrint(**row)
            changes.append(Change(path=("traces", made.id), value=made.model_dump(mode="json")))
            order.append(made.id)

        tones = any(_is_tone(t) and not t.ground for t in kept[:inked])
        for place, trace in enumerate(kept):
            if place == inked and tones:
                sheet("all beneath", "Tones, lifted")
            order.append(trace.id)
            if place >= inked and not isinstance(trace, AdjustingTrace) and not trace.ground:
                sheet("the sheet beneath", f"{trace.name}, lifted")
        if not number:
            raise ViewError("Nothing lies on this drawing that could be lifted; put a sheet on at the Collage bench first.")
    elif not changes:
        raise ViewError("This drawing is not lifted for print, so there is nothing to take away.")
    before = lifted_by(traces)
    weight = round(document.look.weight / thinned(before[0] if before else 0.0) * thinned(lift), 3)
    changes.append(Change(path=("weight",), value=weight))
    if order != [t.id for t in traces if not t.id.startswith(LIFTING)] or lift > 0:
        changes.append(Change(path=("traces",), do="order", value=order))
    return change_look(document, changes, everywhere=False)
