"""What the sun sees."""

from __future__ import annotations

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Direction
from warmgraphite.passes.shadow import SunFrame, sun_frame
from warmgraphite.progress import Progress

__all__ = ["SUNLIGHT"]


def _sunlight(read: Direction, given: Given, _progress: Progress) -> SunFrame:
    return sun_frame(given["casters"], read.sun)


SUNLIGHT = Pass(
    name="sunlight",
    stage="Looking from the sun",
    weight=0.03,
    reads=lambda s, _: s.sight.direction,
    compute=_sunlight,
    needs=lambda _s, _: ("casters",),
    tool=True,
)
