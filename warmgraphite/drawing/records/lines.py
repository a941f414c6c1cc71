"""Lines, and wire: what is drawn of the bodies before it is known with which pen."""

from __future__ import annotations

from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.lines import LineSet, lines
from warmgraphite.passes.wire import Wire, wire

__all__ = ["LINES", "WIRE"]

LINES = Pass(
    name="lines",
    stage="Finding visible lines",
    weight=0.2,
    reads=lambda d, _: d.sight.drawn,
    compute=lambda d, _, progress: lines(d.scene, d.regions(), d.settled, d.masses, progress, d.hiders),
    unpack=lambda a: LineSet(**a),
    needs=lambda _d, _: ("cut",),
)

WIRE = Pass(
    name="wire",
    stage="Bending the wire",
    weight=0.2,
    reads=lambda d, _: d.sight.framed,
    compute=lambda d, _, progress: wire(d.scene, d.hiders, progress),
    unpack=lambda a: Wire(**a),
    needs=lambda _d, _: ("cut",),
)
