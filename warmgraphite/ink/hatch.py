"""Hatches: mark patterns in paper millimetres, confined to a shape."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

__all__ = ["EARTH_WEIGHT", "earth_hatch"]

#: Millimetres of the pen that earth is hatched with.
EARTH_WEIGHT = 0.10
#: Millimetres of one patch of parallel strokes; patches lean to either side in turn, as a spade leaves them.
PATCH = 4.6
STROKES = 3
#: Shares of a patch between its strokes.
APART = 0.34


def earth_hatch(rings: list[NDArray[np.float64]]) -> list[NDArray[np.float64]]:
    """Strokes (n, 2) of the earth hatch within closed outlines and holes, all in frame millimetres.

    The pattern lies on the paper, so that neighbouring shapes continue it.
    """
    rings = [r for r in rings if len(r) >= 4]
    if not rings:
        return []
    # Outlines and holes by even-odd, whatever order they come in.
    shape = shapely.Polygon()
    for ring in rings:
        shape = shapely.symmetric_difference(shape, shapely.make_valid(shapely.Polygon(ring)))
    low_x, low_y, high_x, high_y = shapely.bounds(shape)
    across, down = np.meshgrid(
        np.arange(np.floor(low_x / PATCH), np.ceil(high_x / PATCH)), np.arange(np.floor(low_y / PATCH), np.ceil(high_y / PATCH))
    )
    i, j = across.ravel(), down.ravel()
    corner = np.stack([i, j], 1) * PATCH
    lean = np.where((i + j) % 2 == 0, 1.0, -1.0)
    starts: list[NDArray[np.float64]] = []
    ends: list[NDArray[np.float64]] = []
    for k in range(STROKES):
        off = (k - (STROKES - 1) / 2) * APART
        a, b = np.array([max(off, 0.0), max(-off, 0.0)]), np.array([1.0 + min(off, 0.0), 1.0 + min(-off, 0.0)])
        # A hand does not end its strokes on a line: each stops short by a share of its own, the same at every drawing.
        short = [0.10 + 0.22 * np.abs(np.sin(i * 12.9898 + j * 78.233 + k * 37.719 + 5 * end) * 43758.5453 % 1) for end in (0, 1)]
        for t, out in ((short[0], starts), (1 - short[1], ends)):
            point = a + t[:, None] * (b - a)
            x = np.where(lean > 0, point[:, 0], 1.0 - point[:, 0])
            out.append(corner + np.stack([x, point[:, 1]], 1) * PATCH)
    lines = shapely.linestrings(np.stack([np.concatenate(starts), np.concatenate(ends)], 1))
    shapely.prepare(shape)
    lines = lines[shapely.intersects(shape, lines)]
    whole = shapely.contains_properly(shape, lines)
    cut = shapely.get_parts(shapely.intersection(lines[~whole], shape))
    kept = np.concatenate([lines[whole], cut[shapely.get_type_id(cut) == 1]])
    return [np.asarray(line.coords)[:, :2] for line in kept]
