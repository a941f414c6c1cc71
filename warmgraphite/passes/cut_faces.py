"""The faces that close a cut."""

from __future__ import annotations

from collections.abc import Sequence

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.passes.cut import CutRegion, lifted
from warmgraphite.view.surfaces import CutSurface

__all__ = ["cap_triangles", "triangulate"]


def triangulate(region: shapely.Geometry) -> NDArray[np.float64]:
    """(T, 3, 2) triangles that fill a polygonal region exactly."""
    out = [np.empty((0, 3, 2))]
    for polygon in shapely.get_parts(region):
        if shapely.get_type_id(polygon) != 3 or polygon.is_empty:
            continue
        rings = [np.asarray(r.coords)[:-1] for r in (polygon.exterior, *polygon.interiors)]
        points = np.ascontiguousarray(np.concatenate(rings)[:, :2])
        ends = firsts_of(rings)[1:].astype(np.uint32)
        out.append(points[mapbox_earcut.triangulate_float64(points, ends).reshape(-1, 3).astype(np.int64)])
    return np.concatenate(out)


def cap_triangles(
    surfaces: Sequence[CutSurface], regions: list[CutRegion]
) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """Triangles (C, 3, 3), in metres, that close the cuts, and the part of each.
    ``regions`` are settled cut regions.
    """
    corners, parts = [np.empty((0, 3, 3))], [np.empty(0, np.int32)]
    for row in regions:
        for shape, frame in lifted(surfaces[row.plane], row.region):
            flat = triangulate(shape)
            corners.append(frame.lifted(flat))
            parts.append(np.full(len(flat), row.part, np.int32))
    return np.concatenate(corners), np.concatenate(parts)
