"""Feature edges of a model: its welded topology, and where its bodies run through each other.

Both depend on the model alone, not on any view, and are kept for as long as the model is.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.model.welding import weld
from warmgraphite.passes._kernels import cross_pairs

__all__ = ["ByVersion", "Intersections", "Topology", "intersections_of", "topology_of"]


@dataclass(frozen=True)
class Topology:
    """Edges (E) of the welded parts.

    ``start``, ``end`` (E, 3) metres; ``part`` (E,); ``faces`` (E, 2) model triangles beside it (−1: none);
    ``wings`` (E, 2, 3) the far corner of each of those faces; ``fold`` (E,) degrees by which the surface bends there;
    ``count`` (E,) how many faces meet.
    """

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    part: NDArray[np.int32]
    faces: NDArray[np.int32]
    wings: NDArray[np.float64]
    fold: NDArray[np.float64]
    count: NDArray[np.int32]


@dataclass(frozen=True)
class Intersections:
    """Segments (N) where two parts run through each other: ends in metres, and the model triangle of either part."""

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    faces: NDArray[np.int32]


def _fold_degrees(start: NDArray, end: NDArray, wings: NDArray) -> NDArray[np.float64]:
    """Degrees between one face and the continuation of the other, whatever way either is wound."""
    along = end - start
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-30)
    arms = wings - start[:, None]
    arms -= (arms * along[:, None]).sum(-1, keepdims=True) * along[:, None]
    arms /= np.maximum(np.linalg.norm(arms, axis=-1, keepdims=True), 1e-30)
    return np.degrees(np.arccos(np.clip(-(arms[:, 0] * arms[:, 1]).sum(-1), -1, 1)))


@lru_cache(maxsize=4)
def _topology(model: ByVersion) -> Topology:
    source = model.model
    welded = weld(source)
    proper = (welded[:, 0] != welded[:, 1]) & (welded[:, 1] != welded[:, 2]) & (welded[:, 2] != welded[:, 0])
    # A face given twice, front and back, is one face.
    triple = np.sort(welded, axis=1)
    order = np.lexsort(triple.T[::-1])
    twin = np.zeros(len(triple), bool)
    twin[order[1:]] = (triple[order[1:]] == triple[order[:-1]]).all(1)
    faces = np.flatnonzero(proper & ~twin)
    welded = welded[faces]

    corner = np.concatenate([welded[:, [0, 1]], welded[:, [1, 2]], welded[:, [2, 0]]])
    owner = np.tile(faces, 3)
    far = np.concatenate([source.triangles[faces, 2], source.triangles[faces, 0], source.triangles[faces, 1]])
    ends = np.concatenate(
        [source.triangles[faces][:, [0, 1]], source.triangles[faces][:, [1, 2]], source.triangles[faces][:, [2, 0]]]
    )
    low, high = corner.min(1), corner.max(1)
    order = np.lexsort((owner, high, low))
    low, high, owner, far, ends = low[order], high[order], owner[order], far[order], ends[order]
    fresh = np.ones(len(low), bool)
    fresh[1:] = (low[1:] != low[:-1]) | (high[1:] != high[:-1])
    first = np.flatnonzero(fresh)
    count = np.diff(np.append(first, len(low))).astype(np.int32)
    second = np.where(count > 1, first + 1, first)
    start, end = source.vertices[ends[first, 0]], source.vertices[ends[first, 1]]
    wings = source.vertices[np.column_stack([far[first], far[second]])]
    fold = np.where(count == 1, 180.0, _fold_degrees(start, end, wings))
    for k in range(2, int(count.max(initial=2))):
        # Where more than two faces meet, the edge is as sharp as the sharpest pair with the first.
        rows = np.flatnonzero(count > k)
        other = np.stack([wings[rows, 0], source.vertices[far[first[rows] + k]]], 1)
        fold[rows] = np.maximum(fold[rows], _fold_degrees(start[rows], end[rows], other))
    beside = np.column_stack([owner[first], np.where(count > 1, owner[second], -1)]).astype(np.int32)
    return Topology(start, end, source.triangle_part[owner[first]], beside, wings, fold, count)


def _pairs_of_parts(low: NDArray[np.float64], high: NDArray[np.float64], slack: float) -> list[tuple[int, int]]:
    """Pairs of parts whose boxes, from ``low`` to ``high`` (P, 3), overlap: a sweep along the first axis."""
    order = np.argsort(low[:, 0])
    ranked = low[order, 0]
    pairs: list[tuple[int, int]] = []
    for at, i in enumerate(order):
        rest = order[at + 1 : np.searchsorted(ranked, high[i, 0] - slack, "right")]
        meet = ((low[rest, 1:] < high[i, 1:] - slack) & (high[rest, 1:] > low[i, 1:] + slack)).all(1)
        pairs += [(int(i), int(j)) for j in rest[meet]]
    return pairs


@lru_cache(maxsize=4)
def _intersections(model: ByVersion) -> Intersections:
    source = model.model
    corners = source.vertices[source.triangles]
    low, high = corners.min(1), corners.max(1)
    slack = max(2e-5, 3e-6 * source.extent)
    part_low = np.full((len(source.parts), 3), np.inf)
    part_high = -part_low
    np.minimum.at(part_low, source.triangle_part, low)
    np.maximum.at(part_high, source.triangle_part, high)
    by_part = np.argsort(source.triangle_part, kind="stable").astype(np.int32)
    limits = np.searchsorted(source.triangle_part[by_part], np.arange(len(source.parts) + 1))
    starts, ends, faces = [np.empty((0, 3))], [np.empty((0, 3))], [np.empty((0, 2), np.int32)]
    for i, j in _pairs_of_parts(part_low, part_high, slack):
        box_low, box_high = np.maximum(part_low[i], part_low[j]), np.minimum(part_high[i], part_high[j])
        first, second = by_part[limits[i] : limits[i + 1]], by_part[limits[j] : limits[j + 1]]
        a, b, rows = cross_pairs(corners, low, high, first, second, box_low, box_high, slack)
        if len(rows):
            starts.append(rows[:, :3])
            ends.append(rows[:, 3:])
            faces.append(np.column_stack([a, b]))
    return Intersections(np.concatenate(starts), np.concatenate(ends), np.concatenate(faces))


class ByVersion:
    """A model that is equal to another when their triangles are, whatever is said of its parts."""

    def __init__(self, model: Model) -> None:
        self.model = model

    def __hash__(self) -> int:
        return hash(self.model.geometry)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, ByVersion) and self.model.geometry == other.model.geometry


def topology_of(model: Model) -> Topology:
    """The welded edges of a model, computed once for each state of its triangles."""
    return _topology(ByVersion(model))


def intersections_of(model: Model) -> Intersections:
    """Where parts of a model run through each other, computed once for each state of its triangles."""
    return _intersections(ByVersion(model))
