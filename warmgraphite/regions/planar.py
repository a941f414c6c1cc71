"""A planar map from segments: loose ends closed, crossings found, cells made."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.model.kernels import weld_points
from warmgraphite.passes.chains import JOIN
from warmgraphite.passes.kernels import planar as loops

__all__ = ["cells_of", "closed", "met"]

#: Segments up to which the library makes the map as quickly.
FEW = 400
#: Steps of a cell in which segments are looked up.
CELL = 400
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

    What lies beside a line is looked for a hair away from it, so where lines meet at a slant they part a hair early or
    late.
    """
    if not len(segments):
        return segments
    ends = segments.transpose(1, 0, 2).reshape(-1, 2)
    tree = cKDTree(ends)
    loose = np.flatnonzero(tree.query_ball_point(ends, JOIN, return_length=True) == 1)
    links = []
    free = [True] * len(loose)
    pairs = cKDTree(ends[loose]).query_pairs(reach, output_type="ndarray") if len(loose) else np.empty((0, 2), int)
    order = np.argsort(np.linalg.norm(ends[loose[pairs[:, 0]]] - ends[loose[pairs[:, 1]]], axis=1), kind="stable")
    for i, j in pairs[order].tolist():
        if free[i] and free[j]:
            free[i] = free[j] = False
            links.append(ends[loose[[i, j]]])
    lines = shapely.linestrings(segments)
    rest = loose[np.array(free, bool)]
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
    to[:, 1] += np.where(size > 0, way / np.maximum(size, NO_LENGTH) * JOIN, 0.0)
    return np.concatenate([segments, np.array(links).reshape(-1, 2, 2), to[size[:, 0] > 0]])


def cells_of(segments: NDArray[np.float64], outline: shapely.Geometry) -> NDArray[np.object_]:
    """The polygons into which segments (S, 2, 2) and an outline part the plane; their areas add up to the outline's."""
    # Corners snap together within half a join: what almost meets does.
    border = shapely.get_coordinates(shapely.boundary(outline))
    if len(segments) > FEW and len(shapely.get_parts(shapely.boundary(outline))) == 1:
        found = _faces(np.concatenate([segments, np.stack([border[:-1], border[1:]], 1)]), JOIN / 2)
        # The library's own way is slower by far, and the judge: where a sum is not right, it makes the map.
        if (
            len(found)
            and abs(shapely.area(found).sum() / outline.area - 1) < ROUNDING
            and shapely.is_valid(found).all()
        ):
            return found
    noded = shapely.unary_union(
        [shapely.multilinestrings(list(segments)), shapely.boundary(outline)], grid_size=JOIN / 2
    )
    return shapely.get_parts(shapely.polygonize([noded]))


def _faces(segments: NDArray[np.float64], step: float) -> NDArray[np.object_]:
    """The polygons between segments (S, 2, 2), whose places are rounded to whole steps."""
    # Segments stay as they are, and only what is hot is rounded: a line that ends on another still ends on it.
    low = np.floor(segments.reshape(-1, 2).min(0) / step) - CELL
    flat = segments / step - low
    start, end = np.ascontiguousarray(flat[:, 0]), np.ascontiguousarray(flat[:, 1])
    nx, ny = (int(n) // CELL + 2 for n in flat.reshape(-1, 2).max(0))
    first, held = loops.binned(start, end, CELL, nx, ny, 0.0)
    crossed = loops.crossings(start, end, first, held, CELL, nx)
    corners = np.floor(np.concatenate([start, end]) + 0.5).astype(np.int64)
    name = np.unique(np.concatenate([corners, crossed]) @ np.array([1 << 32, 1]))
    hot = np.column_stack([name >> 32, name & 0xFFFFFFFF])
    spots = hot.astype(np.float64)
    listed, spot = loops.binned(spots, spots, CELL, nx, ny, 1.0)
    edges = loops.rounded(start, end, hot, listed, spot, CELL, nx, ny)
    edges = np.unique(np.sort(edges, axis=1).astype(np.int64) @ np.array([len(hot), 1]))
    edges = np.column_stack([edges // len(hot), edges % len(hot)]).astype(np.int32)
    while True:
        edges = edges[loops.drawn_in(edges, len(hot))]
        if not len(edges):
            return np.empty(0, object)
        after, origin = _around(edges, hot)
        label, count = loops.labelled(after)
        bridge = label[: len(edges)] == label[len(edges) :]  # what has one face on both sides bounds none
        if not bridge.any():
            break
        edges = edges[~bridge]
    nodes, begins, of, area = loops.loops(after, origin, hot, label, count)
    return _polygons(nodes, begins, of, area, (hot + low) * step)


def _around(edges: NDArray[np.int32], hot: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """For the half-edges (2 E) the one that comes after each round the face at its left.
    They are there and back; also where each begins.
    """
    count = len(edges)
    origin, to = np.concatenate([edges[:, 0], edges[:, 1]]).astype(np.int64), np.concatenate([edges[:, 1], edges[:, 0]])
    way = hot[to] - hot[origin]
    order = np.lexsort((np.arctan2(way[:, 1], way[:, 0]), origin))
    place = np.empty(2 * count, np.int64)
    place[order] = np.arange(2 * count)
    begin = np.searchsorted(origin[order], np.arange(len(hot) + 1))
    # From the way back, the next one clockwise.
    back = np.concatenate([np.arange(count, 2 * count), np.arange(count)])
    at, node = place[back] - 1, origin[back]
    at = np.where(at < begin[node], begin[node + 1] - 1, at)
    return order[at], origin


def _polygons(
    nodes: NDArray[np.int64],
    begins: NDArray[np.int64],
    of: NDArray[np.int64],
    area: NDArray[np.int64],
    xy: NDArray[np.float64],
) -> NDArray[np.object_]:
    """Loops of nodes as polygons: those that a face lies within with those that it lies about."""
    sizes = np.diff(begins)
    real = (sizes > 2) & (area != 0)
    closing = np.insert(nodes, begins[1:], nodes[begins[:-1]])
    ring_of = np.repeat(np.arange(len(sizes)), sizes + 1)
    kept = real[ring_of]
    number = np.cumsum(real) - 1
    rings = shapely.linearrings(xy[closing[kept]], indices=number[ring_of[kept]])
    of, area = of[real], area[real]
    shells, holes = np.flatnonzero(area > 0), np.flatnonzero(area < 0)
    shell_of = (
        dict(zip(of[shells].tolist(), shells.tolist(), strict=True))
        if len(np.unique(of[shells])) == len(shells)
        else {}
    )
    owner = np.array([shell_of.get(k, -1) for k in of[holes].tolist()], np.int64)
    # What goes round a group of faces is a hole of the face that the group lies in: the smallest about it.
    lone = np.flatnonzero(owner < 0)
    if len(lone):
        polygons = shapely.polygons(rings[shells])
        inner = shapely.polygons(rings[holes[lone]])
        hole, shell = shapely.STRtree(polygons).query(inner, predicate="covered_by")
        larger = area[shells[shell]] > -area[holes[lone[hole]]]
        hole, shell = hole[larger], shell[larger]
        order = np.lexsort((area[shells[shell]], hole))
        hole, shell = hole[order], shell[order]
        nearest = np.append(True, hole[1:] != hole[:-1]) if len(hole) else np.empty(0, bool)
        owner[lone[hole[nearest]]] = shells[shell[nearest]]
    inside = owner >= 0
    of_shell = np.concatenate([shells, owner[inside]])
    all_rings = np.concatenate([shells, holes[inside]])
    order = np.lexsort((np.concatenate([np.zeros(len(shells)), np.ones(int(inside.sum()))]), of_shell))
    polygon = np.searchsorted(shells, of_shell[order])
    return np.asarray(shapely.polygons(rings[all_rings[order]], indices=polygon), object)
