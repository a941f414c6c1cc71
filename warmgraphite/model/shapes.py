"""Which parts have the same shape.
Wherever they stand, however they are turned, and whatever a second export rounded away.

A shape is told first by the moments of its surface, which do not know how that is divided into triangles; where it
matters, by laying one body over the other.
"""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.geometry.components import components
from warmgraphite.geometry.ragged import firsts_of, split_rows
from warmgraphite.geometry.triangles import normals
from warmgraphite.memory import share
from warmgraphite.model.mesh import Mesh
from warmgraphite.model.model import Model

__all__ = ["SAME", "Forms", "forms_of", "in_classes", "same_body", "same_place"]

#: Metres to which shapes are compared: finer than anything drawn, coarser than what a second export rounds away.
SAME = 1e-4
#: Ways of laying a triangle of one body over those of another that are tried before two bodies count as unlike.
MOST_TRIES = 120


class Forms:
    """The parts of a model as bodies.
    ``signature`` (P, 6) lengths in metres that are the same for the same shape, NaN for parts without a triangle;
    ``middle`` (P, 3) of their surface; ``axes`` (P, 3, 3) their principal directions, as columns, by rising spread.
    """

    def __init__(self, mesh: Mesh, count: int) -> None:
        self.mesh = mesh
        owner = mesh.triangle_part
        self._order = np.argsort(owner, kind="stable")
        self._limits = np.searchsorted(owner[self._order], np.arange(count + 1))
        start = np.zeros((count, 3))
        low = mesh.part_bounds[:, 0]
        start[: len(low)] = np.where(np.isfinite(low), low, 0.0)
        # About a corner of each part first: far from the origin, squares of coordinates would have no figures left.
        corners = mesh.vertices[mesh.triangles] - start[owner][:, None]
        cross = normals(corners)
        area = np.linalg.norm(cross, axis=1) / 2

        def summed(values: NDArray[np.float64]) -> NDArray[np.float64]:
            found = np.zeros((count, *values.shape[1:]))
            for place in np.ndindex(values.shape[1:]):
                found[(slice(None), *place)] = np.bincount(owner, values[(slice(None), *place)], count)
            return found

        whole = summed(area)
        some = whole > 0
        per = np.where(some, whole, 1.0)
        middle = summed(area[:, None] * corners.mean(1)) / per[:, None]
        corners -= middle[owner][:, None]
        total = corners.sum(1)
        second = np.einsum("ni,nj->nij", total, total) + np.einsum("nki,nkj->nij", corners, corners)
        spread = summed(area[:, None, None] / 12 * second) / per[:, None, None]
        values, self.axes = np.linalg.eigh(spread)
        volume = summed(np.einsum("ni,ni->n", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6)
        away = summed(area * np.linalg.norm(corners, axis=2).mean(1)) / per
        lengths = [np.sqrt(whole), *np.sqrt(np.maximum(values, 0)).T, np.abs(volume) / per, away]
        self.signature = np.where(some[:, None], np.stack(lengths, 1), np.nan)
        self.middle = start + middle

    def corners(self, part: int) -> NDArray[np.float64]:
        """(T, 3, 3) the triangles of a part about its middle, in metres."""
        rows = self._order[self._limits[part] : self._limits[part + 1]]
        return self.mesh.vertices[self.mesh.triangles[rows]] - self.middle[part]


def forms_of(model: Model) -> Forms:
    """The parts of a model as bodies; found once for the same triangles."""
    # Rows are of parts: states of one mesh may differ in how many there are.
    return share(f"forms of {len(model.parts)} parts", model.mesh, lambda mesh: Forms(mesh, len(model.parts)))


def in_classes(*signatures: NDArray[np.float64], slack: float = SAME) -> list[NDArray[np.int64]]:
    """For each array (P, 6) of signatures a number (P,) that parts of like shape share over all arrays.
    −1 without a shape.
    """
    every = np.concatenate([*signatures, np.empty((0, 6))])
    rows = np.flatnonzero(np.isfinite(every).all(1))
    found = np.full(len(every), -1, np.int64)
    if len(rows):
        # Equal ones first: of ten thousand tiles of one shape not every two are to be compared.
        kinds, which = np.unique(np.round(every[rows] / (slack / 8)).astype(np.int64), axis=0, return_inverse=True)
        pairs = cKDTree(kinds * (slack / 8)).query_pairs(1.25 * slack, p=np.inf, output_type="ndarray")
        label = components(len(kinds), pairs[:, 0], pairs[:, 1])
        found[rows] = label[which.ravel()]
    return split_rows(found, firsts_of(signatures))


def _over(
    points: NDArray[np.float64], tree: cKDTree, other: NDArray[np.float64], turn: NDArray[np.float64], slack: float
) -> bool:
    """Whether a body's corners (N, 3), turned, lie on the other's, and those on them."""
    for _ in range(3):
        moved = points @ turn.T
        gap, nearest = tree.query(moved)
        if gap.max() <= slack:
            back, _ = cKDTree(moved).query(other)
            return bool(back.max() <= slack)
        if np.quantile(gap, 0.5) > 50 * slack:
            return False
        # Nearly there: the turn that fits all pairs best (Kabsch, 1976).
        turn = _turn(points, other[nearest])
    return False


def _turn(points: NDArray[np.float64], onto: NDArray[np.float64]) -> NDArray[np.float64]:
    """The rotation (3, 3) that brings points (N, 3) nearest to others, both about the origin."""
    u, _, vt = np.linalg.svd(onto.T @ points)
    return u @ np.diag([1.0, 1.0, np.sign(np.linalg.det(u @ vt)) or 1.0]) @ vt


def same_body(first: Forms, part: int, second: Forms, other: int, slack: float = SAME) -> bool:
    """Whether two parts are the same body within ``slack`` metres, moved or turned; a mirrored one is another."""
    if not np.allclose(first.signature[part], second.signature[other], atol=slack, rtol=0, equal_nan=True):
        return False
    a, b = first.corners(part), second.corners(other)
    if not len(a) or not len(b):
        return len(a) == len(b)
    points, onto = a.reshape(-1, 3), b.reshape(-1, 3)
    tree = cKDTree(onto)
    slack *= 2  # their middles may differ by as much again
    if _over(points, tree, onto, np.eye(3), slack):
        return True
    one, two = first.axes[part], second.axes[other]
    for signs in itertools.product((1.0, -1.0), repeat=3):
        turn = two @ np.diag(signs) @ one.T
        if np.linalg.det(turn) > 0 and _over(points, tree, onto, turn, slack):
            return True
    # Bodies of some symmetry have no principal directions of their own: a large triangle is laid over those like it.
    sides = [np.sort(np.linalg.norm(t - np.roll(t, 1, axis=1), axis=2), axis=1) for t in (a, b)]
    largest = int(np.argmax(np.linalg.norm(normals(a), axis=1)))
    away = [np.sort(np.linalg.norm(t, axis=2), axis=1) for t in (a[largest][None], b)]
    like = np.abs(sides[1] - sides[0][largest]).max(1) + np.abs(away[1] - away[0]).max(1) <= 8 * slack
    tries = itertools.islice(
        ((row, k) for row in np.flatnonzero(like) for k in itertools.permutations(range(3))), MOST_TRIES
    )
    return any(_over(points, tree, onto, _turn(a[largest], b[row][list(k)]), slack) for row, k in tries)


def same_place(first: Forms, part: int, second: Forms, other: int, slack: float) -> bool:
    """Whether two parts that are the same body stand alike.
    Neither moved nor turned by more than ``slack`` metres at any corner.
    """
    a, b = (
        first.corners(part).reshape(-1, 3),
        second.corners(other).reshape(-1, 3) + (second.middle[other] - first.middle[part]),
    )
    return not len(a) or bool(cKDTree(b).query(a)[0].max() <= slack)
