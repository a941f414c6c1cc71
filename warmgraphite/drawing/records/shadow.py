"""The edges of light."""

from __future__ import annotations

from dataclasses import dataclass

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Lit
from warmgraphite.drawing.specification import WHOLE
from warmgraphite.needs import Need
from warmgraphite.passes.cut import CutSet
from warmgraphite.passes.shadow import LightEdges, LightSaid, light_edges
from warmgraphite.progress import Progress

__all__ = ["SHADOW"]


@dataclass(frozen=True)
class _Edges:
    lit: Lit
    crease: float


def _edges(read: _Edges, given: Given, progress: Progress) -> LightEdges:
    of = lambda name: given[Need(name, None, WHOLE)]
    day = read.lit.day
    return light_edges(
        given[Need("scene")], given["hiders"], of("sunlight"), of("casters"), of("scene"),
        CutSet(of("cut"), of("settled"), of("masses")),
        LightSaid(day.under, day.shade.steps, read.crease), progress,
    )  # fmt: skip


SHADOW = Pass(
    name="shadow",
    stage="Following the edges of shadow",
    weight=0.1,
    reads=lambda s, _: _Edges(s.sight.lit, s.view.lines.crease_angle),
    compute=_edges,
    unpack=lambda a: LightEdges(**a),
    needs=lambda _s, _: (
        "scene",
        "hiders",
        *(Need(n, None, WHOLE) for n in ("sunlight", "casters", "scene", "cut", "settled", "masses")),
    ),
)
