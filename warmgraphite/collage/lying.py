"""How textures lie on what is seen: for each face the way from the paper to metres on it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.ink.faces import STEEP, PlaneFace, RoundFace, faces_of, to_the_right
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import Surface
from warmgraphite.progress import Progress, silent
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene

__all__ = ["Lies", "lies_of", "on_paper"]

Matrix = NDArray[np.float64]


@dataclass(frozen=True)
class Lies:
    """Rows (R), one for each flat or round face, or for each triangle of a face that is neither.

    ``triangle`` (K,) are the triangles that are seen, in order, and ``row`` (K,) the row of each. ``table`` (R, 4, 3)
    takes frame millimetres (x, y, 1) to two or three homogeneous coordinates and their divisor: metres along and up,
    or, where ``usual`` (R,) is above zero, across the axis of a round face, to two sides, and along it; such a face is
    laid flat at its usual radius, along the axis where it is ``lying`` (R,). ``axes`` (R, 3, 3) are right, up and
    normal, or out, side and axis.
    """

    triangle: NDArray[np.int32]
    row: NDArray[np.int32]
    table: Matrix
    usual: NDArray[np.float64]
    lying: NDArray[np.bool_]
    axes: Matrix

    def rows(self) -> NDArray[np.int32]:
        """The row of each triangle by its number, −1 for those that are not seen."""
        found = np.full(int(self.triangle.max(initial=-1)) + 2, -1, np.int32)
        found[self.triangle] = self.row
        return found


def on_paper(scale: float, middle: tuple[float, float]) -> Lies:
    """What lies on the paper, counted from the middle of the drawing, where a metre is ``1000 / scale`` millimetres."""
    k = scale / 1000
    table = np.array([[[k, 0, -k * middle[0]], [0, -k, k * middle[1]], [0, 0, 0], [0, 0, 1]]])
    return Lies(np.zeros(1, np.int32), np.zeros(1, np.int32), table, np.zeros(1), np.zeros(1, bool), np.eye(3)[None])


def _through(hiders: Occluders, inverse: Matrix, triangle: NDArray[np.integer]) -> Matrix:
    """(K, 4, 3) from frame millimetres (x, y, 1) to homogeneous metres on the planes of triangles (K,)."""
    lifted = np.zeros((len(triangle), 4, 3))
    lifted[:, 0, 0] = lifted[:, 1, 1] = lifted[:, 3, 2] = 1.0
    lifted[:, 2] = hiders.forms[triangle, 9:12]
    return np.asarray(inverse @ lifted)


def _against(lifted: Matrix, way: Matrix, origin: Matrix) -> Matrix:
    """(K, 3) the metres along a way (3,), or ways (K, 3), from an origin, not yet divided."""
    along = (
        np.einsum("...j,kji->ki", way, lifted[:, :3]) if way.ndim == 1 else np.einsum("kj,kji->ki", way, lifted[:, :3])
    )
    return np.asarray(along - (way @ origin)[..., None] * lifted[:, 3])


def _of_round(face: RoundFace, lifted: Matrix) -> tuple[Matrix, Matrix]:
    ways = (face.out, face.side, face.axis)
    table = np.stack([*(_against(lifted, way, face.foot) for way in ways), lifted[:, 3]], axis=1)
    return table, np.broadcast_to(np.stack(ways), (len(lifted), 3, 3))


def _of_any(lifted: Matrix, normal: Matrix, origin: Matrix) -> tuple[Matrix, Matrix]:
    """What is neither flat nor round.
    Laid on the plane of the axes that each triangle faces most, level and upright.
    """
    most = np.argmax(np.abs(normal), axis=1)
    right, up = np.eye(3)[np.where(most == 0, 1, 0)], np.eye(3)[np.where(most == 2, 1, 2)]
    rows = [_against(lifted, way, origin) for way in (right, up)]
    return np.stack([*rows, np.zeros((len(lifted), 3)), lifted[:, 3]], axis=1), np.stack([right, up, normal], axis=1)


def _cut_plane(normal: Matrix, corner: Matrix, projection: Projection, origin: Matrix) -> PlaneFace:
    """The plane of a cut, counted from the model's own zero, so that what is cut twice lies alike."""
    right = to_the_right(projection)
    right = right - (right @ normal) * normal
    size = np.linalg.norm(right)
    right = right / size if size > 0.1 else np.cross([0.0, 0.0, 1.0], normal)
    right = right / np.linalg.norm(right)
    up = np.cross(normal, right)
    if up[2] < 0:
        up = -up
    start = corner - ((corner - origin) @ right) * right - ((corner - origin) @ up) * up
    if abs(up[2]) > STEEP:
        start = start - (start[2] / up[2]) * up
    return PlaneFace(right, up, normal, start)


def lies_of(scene: Scene, hiders: Occluders, seen: Surface, turned: str, progress: Progress = silent) -> Lies:
    """How textures lie on all that a window shows, ``turned`` as they say."""
    bodies, projection = scene.bodies, scene.projection
    there = np.zeros(len(hiders.source) + 1, bool)  # of −1, where nothing is seen, at its end
    there[seen.triangle.reshape(-1)] = there[seen.edge_triangle.reshape(-1)] = True
    shown = np.flatnonzero(there[:-1]).astype(np.int32)
    source, anchor = hiders.source[shown], np.asarray(bodies.anchor, float)
    faces, lifted = faces_of(bodies), _through(hiders, np.asarray(np.linalg.inv(projection.matrix), float), shown)
    # Cuts are one plane for all that lie in it; of what is seen, each face is one.
    group = topology_of(bodies).face[np.maximum(source, 0)].astype(np.int64)
    caps = np.flatnonzero(source < 0)
    if len(caps):
        normal = hiders.normal[shown[caps]]
        away = ((hiders.corners[shown[caps], 0] - anchor) * normal).sum(1, keepdims=True)
        group[caps] = -1 - np.unique(np.round(np.hstack([normal, away]), 4), axis=0, return_inverse=True)[1].reshape(-1)
    order = np.argsort(group, kind="stable")
    bounds = (
        np.append(np.flatnonzero(np.append(True, np.diff(group[order]) != 0)), len(order))
        if len(order)
        else np.zeros(1, int)
    )
    planes: list[PlaneFace] = []
    flat: list[NDArray[np.int64]] = []
    others: list[tuple[NDArray[np.int64], float, bool, tuple[Matrix, Matrix]]] = []
    for number, (first, last) in enumerate(pairwise(bounds.tolist())):
        if number % 200 == 0:  # a town has faces by the ten thousand
            progress(number / len(bounds))
        rows = order[first:last]
        triangle = shown[rows[0]]
        if source[rows[0]] < 0:
            found: PlaneFace | RoundFace | None = _cut_plane(
                hiders.normal[triangle], hiders.corners[triangle, 0], projection, anchor
            )
        else:
            found = faces.seen(int(group[rows[0]]), hiders.corners[triangle].mean(0), projection, turned)
        if isinstance(found, PlaneFace):
            planes.append(found)
            flat.append(rows)
        elif isinstance(found, RoundFace):
            others.append((rows, found.usual, found.lying, _of_round(found, lifted[rows])))
        else:
            others.append((rows, 0.0, False, _of_any(lifted[rows], hiders.normal[shown[rows]], anchor)))
    row = np.full(len(shown), -1, np.int32)
    matrices = np.array([p.matrix(projection) for p in planes]).reshape(-1, 3, 3)
    good = np.abs(np.linalg.det(matrices)) > NO_LENGTH  # the others are seen edge-on
    numbers = np.where(good, np.cumsum(good) - 1, -1)
    for number, rows in zip(numbers.tolist(), flat, strict=True):
        row[rows] = number
    inverse = np.linalg.inv(matrices[good])
    laid = np.stack([inverse[:, 0], inverse[:, 1], np.zeros((len(inverse), 3)), inverse[:, 2]], axis=1)
    table = [laid]
    axes = [np.array([[p.right, p.up, p.normal] for p in planes]).reshape(-1, 3, 3)[good]]
    usual, lying, count = [np.zeros(len(laid))], [np.zeros(len(laid), bool)], len(laid)
    for rows, radius, is_lying, (own, ways) in others:
        row[rows] = count + np.arange(len(rows))
        table.append(own)
        axes.append(ways)
        usual.append(np.full(len(rows), radius))
        lying.append(np.full(len(rows), is_lying))
        count += len(rows)
    kept = row >= 0
    return Lies(shown[kept], row[kept], *(np.concatenate(c) for c in (table, usual, lying, axes)))
