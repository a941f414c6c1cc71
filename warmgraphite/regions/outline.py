"""The outline of a chosen subject against all else, as one closed contour for each piece of it that is seen."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.occluders import Occluders
from warmgraphite.regions.planar import cells_of, closed, met

__all__ = ["outline_of"]

#: Square millimetres of paper below which a piece of an outline is none.
SPECK = 0.02


def outline_of(
    bounds: LineSet, hiders: Occluders, chosen: NDArray[np.bool_], width: float, height: float
) -> shapely.MultiPolygon:
    """What is seen of the ``chosen`` (P,) parts, in millimetres of a frame of ``width`` × ``height``.

    Every line, drawn or seam, knows which parts lie on its two sides. Those with a chosen one on one side only, and the
    frame's own border, part the paper into faces; a face belongs to the subject when a point of it sees the subject.
    """
    member = np.append(chosen, False)  # number −1 is nothing, and no member
    rows = np.flatnonzero(bounds.visible & (member[bounds.left] != member[bounds.right]))
    segments = closed(met(np.stack([bounds.from_mm[rows], bounds.to_mm[rows]], 1)))
    faces = cells_of(segments, shapely.box(0, 0, width, height))
    if not len(faces):
        return shapely.MultiPolygon()
    points = shapely.get_coordinates(shapely.point_on_surface(faces))
    hit, _, _ = look_at(points, hiders.forms, hiders.pane, hiders.pane, hiders.near, hiders.grid)
    inside = (hit >= 0) & member[hiders.part[hit]]
    whole = shapely.get_parts(shapely.union_all(faces[inside])) if inside.any() else np.empty(0, object)
    return shapely.MultiPolygon(list(whole[shapely.area(whole) > SPECK])) if len(whole) else shapely.MultiPolygon()
