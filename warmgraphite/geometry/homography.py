"""Projective maps of the plane."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

__all__ = ["homography"]

Points = NDArray[np.float64]


def homography(start: Points, end: Points) -> Points:
    """(3, 3) that takes four points (4, 2) to four others (Heckbert, "Fundamentals of Texture Mapping", 1989)."""
    rows, right = [], []
    for (x, y), (u, v) in zip(start, end, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    return np.append(np.linalg.solve(np.array(rows), np.array(right)), 1.0).reshape(3, 3)
