"""The outline of a chosen subject against all else, as one closed contour for each piece of it that is seen."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.model._kernels import weld_points
from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.lines import JOIN, LineSet
from warmgraphite.passes.occluders import Occluders

__all__ = ["outline_of"]

#: Square millimetres of paper below which a piece of an outline is none.
SPECK = 0.02
#: Millimetres within which loose ends belong together.
REACH = 0.15


def _met(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    """Segments (S, 2, 2) whose ends lie in one point where they meet."""
    ends = segments.reshape(-1, 2)
    flat = np.column_stack([ends, np.full(len(ends), 2 * JOIN)])
    return ends[weld_points(flat, np.zeros(len(ends), np.int64), JOIN, 0, 1)].reshape(-1, 2, 2)


def _links(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    """Segments (L, 2, 2) that join the loose ends of others (S, 2, 2): to one another, else to the line nearest by.

    What lies beside a line is looked for a hair away from it, so where lines meet at a slant they part a hair early or late.
    """
    if not len(segments):
        return segments
    ends = segments.transpose(1, 0, 2).reshape(-1, 2)
    tree = cKDTree(ends)
    loose = np.flatnonzero(np.array([len(near) for near in tree.query_ball_point(ends, JOIN)]) == 1)
    links = []
    free = np.ones(len(loose), bool)
    pairs = cKDTree(ends[loose]).query_pairs(REACH, output_type="ndarray") if len(loose) else np.empty((0, 2), int)
    for i, j in pairs[np.argsort(np.linalg.norm(ends[loose[pairs[:, 0]]] - ends[loose[pairs[:, 1]]], axis=1), kind="stable")]:
        if free[i] and free[j]:
            free[[i, j]] = False
            links.append(ends[loose[[i, j]]])
    lines = shapely.linestrings(segments)
    index = shapely.STRtree(lines)
    for end in loose[free]:
        point = shapely.Point(ends[end])
        for k in index.query(point, predicate="dwithin", distance=REACH):
            if k != end % len(segments):
                links.append(shapely.get_coordinates(shapely.shortest_line(point, lines[k])))
                break
    return np.array(links).reshape(-1, 2, 2)


def outline_of(
    bounds: LineSet, hiders: Occluders, chosen: NDArray[np.bool_], width: float, height: float
) -> shapely.MultiPolygon:
    """What is seen of the ``chosen`` (P,) parts, in millimetres of a frame of ``width`` × ``height``.

    Every line, drawn or seam, knows which parts lie on its two sides. Those with a chosen one on one side only, and the
    frame's own border, part the paper into faces; a face belongs to the subject when a point of it sees the subject.
    """
    member = np.append(chosen, False)  # number −1 is nothing, and no member
    rows = np.flatnonzero(bounds.visible & (member[bounds.left] != member[bounds.right]))
    border = shapely.boundary(shapely.box(0, 0, width, height))
    segments = _met(np.stack([bounds.from_mm[rows], bounds.to_mm[rows]], 1))
    segments = np.concatenate([segments, _links(segments)])
    noded = shapely.unary_union([shapely.multilinestrings(list(segments)), border], grid_size=JOIN / 2)
    faces = shapely.get_parts(shapely.polygonize([noded]))
    if not len(faces):
        return shapely.MultiPolygon()
    points = shapely.get_coordinates(shapely.point_on_surface(faces))
    hit, _, _ = look_at(points, hiders.forms, hiders.pane, hiders.pane, hiders.near, *hiders.grid)
    inside = (hit >= 0) & member[hiders.part[hit]]
    whole = shapely.get_parts(shapely.union_all(faces[inside])) if inside.any() else np.empty(0, object)
    return shapely.MultiPolygon(list(whole[shapely.area(whole) > SPECK])) if len(whole) else shapely.MultiPolygon()
