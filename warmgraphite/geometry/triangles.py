"""Triangles by their corners (T, 3, 3): how they are turned, how large they are, and what they shut in."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["areas", "holds", "normals", "sixths", "unit_rows"]

Points = NDArray[Any]


def normals(corners: Points) -> Points:
    """(T, 3) at right angles to each triangle, twice as long as its area, by the right hand."""
    return np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])


def areas(corners: Points) -> Points:
    """(T,) the area of each triangle, in the square of the corners' unit."""
    return np.linalg.norm(normals(corners), axis=1) / 2


def sixths(corners: Points) -> Points:
    """(T,) the signed volume between each triangle and zero.
    Over a shut surface that is turned outward their sum is what it holds (Zhang and Chen, "Efficient feature extraction
    for 2D/3D objects in mesh representation", 2001).
    """
    return (corners[:, 0] * np.cross(corners[:, 1], corners[:, 2])).sum(1) / 6


def unit_rows(vectors: Points, least: float) -> Points:
    """(N, 3) vectors of length one; what is shorter than ``least`` stays shorter than one, and says no direction."""
    return vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), least)


def holds(corners: Points, points: Points, normal: Points, beside: float) -> NDArray[np.bool_]:
    """(T,) whether points (T, 3) of triangles' planes are on them, or no more than ``beside`` outside.
    ``normal`` (T, 3) is theirs, of length one; ``beside`` an area: that of a point and a side, twice, which is positive
    on the inner side (Shewchuk, "Adaptive precision floating-point arithmetic and fast robust geometric predicates",
    1997).
    """
    inside = np.ones(len(corners), bool)
    for k in range(3):
        a, b = corners[:, k], corners[:, (k + 1) % 3]
        inside &= np.einsum("ij,ij->i", np.cross(b - a, points - a), normal) > -beside
    return inside
