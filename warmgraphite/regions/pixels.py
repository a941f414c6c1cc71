"""Boundaries taken from pixels, where the lines do not close.
Followed between unlike pixels, and smoothed below a pixel.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt, label

__all__ = ["contours"]

#: Pixels of a patch below which it is a stray.
STRAY = 4
#: Pixels by which contours go on beyond what was asked.
BEYOND = 3.5
#: How often a contour is evened out.
ROUNDS = 6


def contours(codes: NDArray[np.int64]) -> NDArray[np.float64]:
    """Segments (S, 2, 2), in pixels from the corner, between unlike ``codes`` (h, w); −1 has no boundary."""
    own = codes >= 0
    stray = np.zeros(codes.shape, bool)
    for code in np.unique(codes[own]):
        patch, _ = label(codes == code)
        small = np.bincount(patch.ravel()) < STRAY
        small[0] = False
        stray |= small[patch]
    if not (own & ~stray).any():
        return np.empty((0, 2, 2))
    # Strays go with what is nearest, and so do the pixels about: no boundary breaks off, and each runs out of its cell.
    far, nearest = distance_transform_edt(~own | stray, return_indices=True)
    codes = np.where((far <= BEYOND) | stray, codes[tuple(nearest)], -1)
    beside = (codes[:, 1:] != codes[:, :-1]) & (codes[:, 1:] >= 0) & (codes[:, :-1] >= 0)
    below = (codes[1:] != codes[:-1]) & (codes[1:] >= 0) & (codes[:-1] >= 0)
    r, c = np.nonzero(beside)
    upright = np.stack([np.column_stack([c + 1, r]), np.column_stack([c + 1, r + 1])], 1)
    r, c = np.nonzero(below)
    level = np.stack([np.column_stack([c, r + 1]), np.column_stack([c + 1, r + 1])], 1)
    steps = np.concatenate([upright, level])
    if not len(steps):
        return np.empty((0, 2, 2))
    merged = shapely.line_merge(shapely.multilinestrings(list(steps.astype(float))))
    found = []
    for line in shapely.get_parts(merged):
        points = shapely.get_coordinates(line)
        ring = len(points) > 3 and (points[0] == points[-1]).all()
        for _ in range(ROUNDS):
            if ring:
                open_ = points[:-1]
                points = (np.roll(open_, 1, 0) + 2 * open_ + np.roll(open_, -1, 0)) / 4
                points = np.concatenate([points, points[:1]])
            elif len(points) > 2:
                points[1:-1] = (points[:-2] + 2 * points[1:-1] + points[2:]) / 4
        found.append(np.stack([points[:-1], points[1:]], 1))
    return np.concatenate(found)
