"""Tones of everything as shapes, followed on a raster of their own: the same on the desk and in every export."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import shapely

from warmgraphite.collage.tones.shapes import tone_shapes
from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.specification import STEADY
from warmgraphite.needs import Need
from warmgraphite.passes.packing import from_wkb, to_wkb
from warmgraphite.progress import Progress

__all__ = ["TONES"]

_FOLLOWED = tuple(Need(name, None, STEADY) for name in ("surface", "light", "corners"))


@dataclass(frozen=True)
class _Toned:
    spec: Any
    paper: tuple[float, float]


def _compute(read: _Toned, given: Given, _progress: Progress) -> list[shapely.Geometry]:
    surface, light, corners = (given[n] for n in _FOLLOWED)
    return tone_shapes(surface, light, corners, read.spec, read.paper)


TONES = Pass(
    name="tones",
    of_where=True,
    stage="Following tones",
    weight=0.4,
    slow=True,
    reads=lambda s, spec: _Toned(spec, s.paper),
    compute=_compute,
    pack=lambda found: {"shapes": to_wkb(found)},
    unpack=lambda a: from_wkb(a["shapes"]),
    needs=lambda _s, _: _FOLLOWED,
)
