"""Edges of what a trace is confined to: clean as the region is, or feathered, torn, wet, grown."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.fields import BorderField
from warmgraphite.collage.grain import PaperGrid
from warmgraphite.collage.kernels import edging
from warmgraphite.collage.kernels.records import Window
from warmgraphite.threads import in_stretches

__all__ = ["Edge", "edge_share"]

Edge = Literal["clean", "feathered", "torn", "wet", "grown"]
#: Millimetres that an edge takes at least.
SHORTEST = 0.05
_KINDS: tuple[str, ...] = Edge.__args__  # type: ignore[attr-defined]


def edge_share(
    ground: PaperGrid, field: BorderField, edge: Edge, reach: float, outward: bool, seed: int = 3
) -> NDArray[np.float32]:
    """(h, w) the share of each pixel that an edge leaves, ``reach`` millimetres inwards or ``outward`` from the border.
    Where it goes inwards the region's own mask is still to be laid over it.
    """
    raster, frame = ground.raster, ground.frame
    step = (frame[0] / raster.size[0], frame[1] / raster.size[1])
    out = np.empty((raster.height, raster.width), np.float32)
    window = Window(raster.x * step[0], raster.y * step[1], *step)
    border = edging.Border(field.away, field.within, *map(float, field.step))
    said = edging.Edge(
        _KINDS.index(edge), max(float(reach), SHORTEST), bool(outward), int(seed), *map(float, ground.middle)
    )
    in_stretches(lambda a, b: edging.edge_rows(a, b, window, border, said, out), raster.height, 32)
    return out
