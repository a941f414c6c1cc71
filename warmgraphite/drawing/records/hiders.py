"""All that hides, laid out over the frame."""

from __future__ import annotations

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Nothing
from warmgraphite.passes.occluders import Occluders, occluders
from warmgraphite.progress import Progress

__all__ = ["HIDERS"]


def _hiders(_read: Nothing, given: Given, _progress: Progress) -> Occluders:
    caps = given["caps"]
    return occluders(given["scene"], caps.corners, caps.part)


HIDERS = Pass(
    name="hiders",
    stage="Laying out what hides",
    weight=0.03,
    reads=lambda _s, _: Nothing(),
    compute=_hiders,
    needs=lambda _s, _: ("scene", "caps"),
    tool=True,
)
