"""Tones of everything as shapes, followed on a raster of their own: the same on the desk and in every export."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import shapely

from warmgraphite.collage.tones.shapes import tone_shapes
from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.packing import from_wkb, to_wkb
from warmgraphite.progress import Progress, part_of

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["TONES"]


def _compute(drawing: Drawing, spec: Any, progress: Progress) -> list[shapely.Geometry]:
    frame, own = drawing.view.frame, drawing.steady()
    found = [own.result(name, part_of(progress, k / 4, (k + 1) / 4)) for k, name in enumerate(("surface", "light", "corners"))]
    return tone_shapes(found[0], found[1], found[2], spec, (frame.width, frame.height))


TONES = Pass(
    name="tones",
    of_where=True,
    stage="Following tones",
    weight=0.4,
    slow=True,
    reads=lambda d, spec: (spec, d.sight.lit, d.sight.corners),
    compute=_compute,
    pack=lambda found: {"shapes": to_wkb(found)},
    unpack=lambda a: from_wkb(a["shapes"]),
    needs=lambda _d, _: ("cut",),
)
