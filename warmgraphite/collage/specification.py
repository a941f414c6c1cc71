"""Traces as a drawing has them: a fresh set of them, and what forms offer for each kind."""

from __future__ import annotations

from typing import Any, Literal, get_args, get_origin

from annotated_types import Ge, Le

from warmgraphite.collage.kinds import KINDS, AnyTrace
from warmgraphite.collage.kinds.glass import Glass
from warmgraphite.collage.kinds.hatches import HatchesTrace
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.occlusion import Occlusion
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.shade import Shade
from warmgraphite.collage.kinds.shadow import Shadow
from warmgraphite.collage.kinds.sky import Sky
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.trace import Trace
from warmgraphite.specification import Specification

__all__ = ["KINDS", "AnyTrace", "KindForm", "Setting", "Trace", "default_traces", "form_of"]


class Setting(Specification):
    """One setting of a kind of trace as a form shows it. ``sort``: share, number, colour, choice, on or dash; ``low`` to ``high``
    is the range that is drawn along, ``initial`` what it is put back to."""

    field: str
    title: str
    about: str
    sort: Literal["share", "number", "colour", "choice", "on", "dash"]
    low: float
    high: float
    step: float
    unit: str
    options: tuple[str, ...]
    initial: Any


class KindForm(Specification):
    """What a form offers for one kind of trace; ``confines`` where it can be confined to some parts."""

    kind: str
    label: str
    about: str
    confines: bool
    settings: tuple[Setting, ...]


def form_of(kind: type[Trace]) -> KindForm:
    """The form of a kind, made from its fields."""
    rows = []
    for name, info in kind.model_fields.items():
        if name in Trace.model_fields:
            continue
        extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
        low = next((float(m.ge) for m in info.metadata if isinstance(m, Ge)), 0.0)  # type: ignore[arg-type]
        high = next((float(m.le) for m in info.metadata if isinstance(m, Le)), 1.0)  # type: ignore[arg-type]
        options: tuple[str, ...] = ()
        sort: Any = "number"
        if info.annotation is bool:
            sort = "on"
        elif get_origin(info.annotation) is Literal:
            sort, options = "choice", get_args(info.annotation)
        elif isinstance(info.default, str):
            sort = "colour"
        elif isinstance(info.default, tuple):
            sort = "dash"
        elif info.annotation is float and (low, high) == (0, 1):
            sort = "share"
        whole = info.annotation is int
        rows.append(
            Setting(
                field=name, title=info.title or name.replace("_", " ").capitalize(), about=info.description or "", sort=sort, low=low,
                high=float(extra.get("most", high)), step=1 if whole else 0.01, unit=str(extra.get("unit", "")), options=options,  # type: ignore[arg-type]
                initial=list(info.default) if isinstance(info.default, tuple) else info.default,
            )
        )  # fmt: skip
    return KindForm(
        kind=kind.model_fields["kind"].default, label=kind.label, about=kind.about, confines=kind.confines, settings=tuple(rows)
    )


def default_traces() -> tuple[Trace, ...]:
    """The traces of a fresh drawing, from the paper up."""
    return (
        Paper(id="paper", name="Paper"),
        Sky(id="sky", name="Sky wash", opacity=0.85, blend="multiply"),
        Tint(id="tint", name="Material tint", opacity=0.42, blend="multiply"),
        Glass(id="glass", name="Glass", opacity=0.55, blend="multiply"),
        Shade(id="shade", name="Shade", opacity=0.38, blend="multiply"),
        Shadow(id="shadow", name="Shadow", opacity=0.48, blend="multiply"),
        Occlusion(id="occlusion", name="Corners", opacity=0.42, blend="multiply"),
        HatchesTrace(id="hatches", name="Hatches"),
        PocheTrace(id="poche", name="Poche"),
        LinesTrace(id="lines", name="Lines"),
    )
