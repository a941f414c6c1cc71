"""A planar map from segments: loose ends closed, crossings found, cells made."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.model._kernels import weld_points
from warmgraphite.passes.lines import JOIN

__all__ = ["cells_of", "closed", "met"]

#: Millimetres within which a loose end belongs to the line beside it.
REACH = 0.15


def met(segments: NDArray[np.float64]) -> NDArray[np.float64]:
    """Segments (S, 2, 2) whose ends lie in one point where they meet; those of no length are left out."""
    ends = segments.reshape(-1, 2)
    flat = np.column_stack([ends, np.full(len(ends), 2 * JOIN)])
    found = ends[weld_points(flat, np.zeros(len(ends), np.int64), JOIN, 0, 1)].reshape(-1, 2, 2)
    return found[(found[:, 0] != found[:, 1]).any(1)]


def closed(segments: NDArray[np.float64], reach: float = REACH) -> NDArray[np.float64]:
    """Segments (S, 2, 2) and links (L, 2, 2) that join their loose ends: to one another, else to the line nearest by.

    What lies beside a line is looked for a hair away from it, so where lines meet at a slant they part a hair early or late.
    """
    if not len(segments):
        return segments
    ends = segments.transpose(1, 0, 2).reshape(-1, 2)
    tree = cKDTree(ends)
    loose = np.flatnonzero(tree.query_ball_point(ends, JOIN, return_length=True) == 1)
    links = []
    free = np.ones(len(loose), bool)
    pairs = cKDTree(ends[loose]).query_pairs(reach, output_type="ndarray") if len(loose) else np.empty((0, 2), int)
    for i, j in pairs[np.argsort(np.linalg.norm(ends[loose[pairs[:, 0]]] - ends[loose[pairs[:, 1]]], axis=1), kind="stable")]:
        if free[i] and free[j]:
            free[[i, j]] = False
            links.append(ends[loose[[i, j]]])
    lines = shapely.linestrings(segments)
    rest = loose[free]
    points = shapely.points(ends[rest])
    which, line = shapely.STRtree(lines).query(points, predicate="dwithin", distance=reach)
    other = line != rest[which] % len(segments)
    which, line = which[other], line[other]
    # A link of each, to the nearest; nothing where it lies on a line already.
    gap = shapely.distance(points[which], lines[line])
    order = np.lexsort((gap, which))
    first = order[np.append(True, which[order][1:] != which[order][:-1])] if len(order) else order
    to = shapely.get_coordinates(shapely.shortest_line(points[which[first]], lines[line[first]])).reshape(-1, 2, 2)
    # A link goes on a hair beyond the line, so that they surely cross.
    way = to[:, 1] - to[:, 0]
    size = np.linalg.norm(way, axis=1, keepdims=True)
    to[:, 1] += np.where(size > 0, way / np.maximum(size, 1e-12) * JOIN, 0.0)
    return np.concatenate([segments, np.array(links).reshape(-1, 2, 2), to[size[:, 0] > 0]])


def cells_of(segments: NDArray[np.float64], outline: shapely.Geometry) -> NDArray[np.object_]:
    """The polygons into which segments (S, 2, 2) and an outline part the plane; their areas add up to the outline's."""
    # Corners snap together within half a join: what almost meets does.
    noded = shapely.unary_union([shapely.multilinestrings(list(segments)), shapely.boundary(outline)], grid_size=JOIN / 2)
    return shapely.get_parts(shapely.polygonize([noded]))
