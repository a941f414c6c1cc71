"""Shadow and shade of each pixel."""

from __future__ import annotations

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Lit
from warmgraphite.passes.light import Light, light
from warmgraphite.progress import Progress

__all__ = ["LIGHT"]


def _light(read: Lit, given: Given, progress: Progress) -> Light:
    return light(given["scene"], given["hiders"], given["surface"], given["casters"], read.day, progress)


LIGHT = Pass(
    name="light",
    stage="Casting shadows",
    weight=0.3,
    reads=lambda s, _: s.sight.lit,
    compute=_light,
    unpack=lambda a: Light(**a),
    needs=lambda s, _: ("surface", "scene", "hiders", *s.of_whole("casters")),
    pixels=True,
)
