"""Traces as a drawing has them: a fresh set of them, and what forms offer for each kind."""

from __future__ import annotations

from warmgraphite.collage.kinds import KINDS, AnyTrace
from warmgraphite.collage.kinds.glass import Glass
from warmgraphite.collage.kinds.hatches import HatchesTrace
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.marks import MarksTrace
from warmgraphite.collage.kinds.occlusion import Occlusion
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.shade import Shade
from warmgraphite.collage.kinds.shadow import Shadow
from warmgraphite.collage.kinds.sky import Sky
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.trace import PixelTrace, Trace
from warmgraphite.forms import Setting, settings_of
from warmgraphite.specification import Specification

__all__ = ["KINDS", "AnyTrace", "KindForm", "Setting", "Trace", "default_traces", "form_of"]


class KindForm(Specification):
    """What a form offers for one kind of trace; ``confines`` where it can be confined to some parts."""

    kind: str
    label: str
    about: str
    confines: bool
    by_tones: bool
    settings: tuple[Setting, ...]
    #: Of its edge, where it can have one.
    edges: tuple[Setting, ...]


def form_of(kind: type[Trace]) -> KindForm:
    """The form of a kind, made from its fields."""
    return KindForm(
        kind=kind.model_fields["kind"].default, label=kind.label, about=kind.about, confines=kind.confines,
        by_tones=kind.by_tones, settings=settings_of(kind, PixelTrace.model_fields),
        edges=settings_of(PixelTrace, Trace.model_fields) if issubclass(kind, PixelTrace) and kind.confines else (),
    )  # fmt: skip


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
        MarksTrace(id="marks", name="Marks"),
    )
