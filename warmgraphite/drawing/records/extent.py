"""Extent: how far down the sky reaches, and how near and far what is seen lies, whatever window is looked at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Nothing
from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.store import Arrays
from warmgraphite.passes.surface import Raster, pixel_points
from warmgraphite.progress import Progress

__all__ = ["EXTENT", "Extent"]

#: Points along the longer side of the frame at which it is looked.
LOOKS = 800


@dataclass(frozen=True)
class Extent:
    """``foot`` the lowest place of the sky in frame millimetres.
    ``near``, ``far`` metres from the viewer to what is seen; ``skyline`` the lowest place at which one who looks down a
    column of the drawing comes upon anything, in frame millimetres: what lies below is sky no more, even where the
    model ends and nothing is drawn.
    """

    foot: float
    near: float
    far: float
    skyline: float


def _extent(_read: Nothing, given: Given, _progress: Progress) -> Extent:
    scene, hiders = given["scene"], given["hiders"]
    projection = scene.projection
    longer = max(projection.width, projection.height)
    size = (max(1, round(projection.width / longer * LOOKS)), max(1, round(projection.height / longer * LOOKS)))
    xy = pixel_points(scene, Raster.of(size), np.arange(size[0] * size[1]))
    hit, depth, _ = look_at(xy, hiders.forms, hiders.pane, hiders.pane, hiders.near, hiders.grid)
    seen = hit >= 0
    sky = ~seen & (projection.over_horizon(xy[:, 0], xy[:, 1]) > 0)
    distance = projection.distance(depth[seen])
    grid = seen.reshape(size[1], size[0])
    met = grid.any(0)
    first = (
        float(np.argmax(grid[:, met], axis=0).max()) * projection.height / size[1] if met.any() else projection.height
    )
    return Extent(
        foot=float(xy[sky, 1].max()) + longer / LOOKS / 2 if sky.any() else projection.height,
        near=float(distance.min()) if seen.any() else 0.0,
        far=float(distance.max()) if seen.any() else 1.0,
        skyline=first,
    )


def _pack(found: Extent) -> Arrays:
    return {"values": np.array([found.foot, found.near, found.far, found.skyline])}


EXTENT = Pass(
    name="extent",
    stage="Looking how far all reaches",
    weight=0.03,
    reads=lambda _s, _: Nothing(),
    compute=_extent,
    pack=_pack,
    unpack=lambda a: Extent(*a["values"].tolist()),
    needs=lambda _s, _: ("scene", "hiders"),
)
