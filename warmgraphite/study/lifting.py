"""Lifting a drawing for print: sheets that open its darks, laid so that lines stay lines in every format."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TypeVar

from warmgraphite.collage.adjusting import AdjustingTrace
from warmgraphite.collage.kinds.for_print import ForPrint
from warmgraphite.collage.trace import PixelTrace, Trace
from warmgraphite.errors import ViewError
from warmgraphite.study.changes import Change
from warmgraphite.study.document import StudyDocument
from warmgraphite.study.finish import Look
from warmgraphite.study.looks import change_look

__all__ = ["LIFTING", "lift_for_print", "lifted_by", "lifted_look", "lifted_traces", "thinned"]

L = TypeVar("L", bound=Look)

#: How the ids of the sheets begin.
LIFTING = "for-print-"


def lifted_by(traces: Sequence[Trace]) -> tuple[float, float] | None:
    """How much a look is lifted for print, and how light its darkest is; ``None`` where it is not."""
    for trace in traces:
        if isinstance(trace, ForPrint) and trace.id.startswith(LIFTING) and trace.on:
            return trace.lift, trace.black
    return None


def thinned(lift: float) -> float:
    """What all pens are multiplied by in a drawing that is lifted.
    Gaps between lines stay open where lines are thinner.
    """
    return 1 - 0.25 * lift


def _is_tone(trace: Trace) -> bool:
    return isinstance(trace, PixelTrace) and not isinstance(trace, AdjustingTrace)


def _without(traces: Sequence[Trace]) -> list[Trace]:
    return [t for t in traces if not (isinstance(t, ForPrint) and t.id.startswith(LIFTING))]


def lifted_traces(traces: Sequence[Trace], lift: float, black: float) -> tuple[Trace, ...]:
    """Traces lifted so much, and no more what they were before; a ``lift`` of 0 takes the sheets away.
    All tones beneath what is inked are lifted by one sheet, and each sheet of ink by one of its own, which changes its
    colours and leaves its lines what they are.
    """
    kept = _without(traces)
    if lift <= 0:
        return tuple(kept)
    inked = next((n for n, t in enumerate(kept) if not isinstance(t, PixelTrace)), len(kept))
    out: list[Trace] = []
    number = 0

    def sheet(acts_on: str, name: str) -> None:
        nonlocal number
        number += 1
        row: dict[str, Any] = {"id": f"{LIFTING}{number}", "name": name[:60], "lift": lift, "black": black,
            "acts_on": acts_on, "bundle": "Lifted for print"}  # fmt: skip
        out.append(ForPrint(**row))

    tones = any(_is_tone(t) and not t.ground for t in kept[:inked])
    for place, trace in enumerate(kept):
        if place == inked and tones:
            sheet("all beneath", "Tones, lifted")
        out.append(trace)
        if place >= inked and not isinstance(trace, AdjustingTrace) and not trace.ground:
            sheet("the sheet beneath", f"{trace.name}, lifted")
    return tuple(out)


def _weight(look: Look, lift: float) -> float:
    """What all pens of a look are multiplied by once it is lifted so much."""
    before = lifted_by(look.traces)
    return round(look.weight / thinned(before[0] if before else 0.0) * thinned(lift), 3)


def lifted_look(look: L, lift: float, black: float) -> L:
    """A look as it is drawn where it is lifted: by so much, or by more where it is itself."""
    before = lifted_by(look.traces) or (0.0, 0.0)
    lift, black = max(lift, before[0]), max(black, before[1])
    if (lift, black) == before:
        return look
    return look.model_copy(update={"traces": lifted_traces(look.traces, lift, black), "weight": _weight(look, lift)})


def lift_for_print(document: StudyDocument, lift: float, black: float) -> StudyDocument:
    """The document with the view on the desk lifted for print; a lift of 0 takes it away.
    All pens are a little thinner then, too.
    """
    traces = document.look.traces
    kept = _without(traces)
    made = lifted_traces(traces, lift, black)
    if lift > 0 and len(made) == len(kept):
        raise ViewError("Nothing lies on this drawing that could be lifted; put a sheet on at the Collage bench first.")
    if lift <= 0 and len(kept) == len(traces):
        raise ViewError("This drawing is not lifted for print, so there is nothing to take away.")
    changes = [Change(path=("traces", t.id), do="drop") for t in traces if t not in kept]
    changes += [Change(path=("traces", t.id), value=t.model_dump(mode="json")) for t in made if t not in kept]
    changes.append(Change(path=("weight",), value=_weight(document.look, lift)))
    changes.append(Change(path=("traces",), do="order", value=[t.id for t in made]))
    return change_look(document, changes, everywhere=False)
