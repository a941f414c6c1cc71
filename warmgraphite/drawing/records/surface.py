"""What each pixel sees."""

from __future__ import annotations

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Raster
from warmgraphite.passes.surface import Surface, surface
from warmgraphite.progress import Progress

__all__ = ["SURFACE"]


def _surface(read: Raster, given: Given, progress: Progress) -> Surface:
    return surface(given["scene"], given["hiders"], read.size, progress, read.window)


SURFACE = Pass(
    name="surface",
    stage="Looking at every surface",
    weight=0.3,
    reads=lambda s, _: s.raster,
    compute=_surface,
    unpack=lambda a: Surface(**a),
    needs=lambda _s, _: ("scene", "hiders"),
    pixels=True,
)
