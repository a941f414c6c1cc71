"""Lines, and wire: what is drawn of the bodies before it is known with which pen."""

from __future__ import annotations

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Drawn, Nothing
from warmgraphite.passes.cut import CutSet
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.lines import lines
from warmgraphite.passes.wire import Wire, wire
from warmgraphite.progress import Progress

__all__ = ["LINES", "WIRE"]


def _lines(read: Drawn, given: Given, progress: Progress) -> LineSet:
    cut = CutSet(given["cut"], given["settled"], given["masses"])
    return lines(given["scene"], given["hiders"], cut, read.lines, read.levels, progress)


LINES = Pass(
    name="lines",
    stage="Finding visible lines",
    weight=0.2,
    reads=lambda s, _: s.sight.drawn,
    compute=_lines,
    unpack=lambda a: LineSet(**a),
    needs=lambda _s, _: ("scene", "cut", "settled", "masses", "hiders"),
)


def _wire(_read: Nothing, given: Given, progress: Progress) -> Wire:
    return wire(given["scene"], given["hiders"], progress)


WIRE = Pass(
    name="wire",
    stage="Bending the wire",
    weight=0.2,
    reads=lambda _s, _: Nothing(),
    compute=_wire,
    unpack=lambda a: Wire(**a),
    needs=lambda _s, _: ("scene", "hiders"),
)
