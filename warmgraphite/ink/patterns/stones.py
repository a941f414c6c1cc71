"""Rubble: stones of all shapes, close together: the cells of points strewn on a torus, drawn in a little."""

from __future__ import annotations

import numpy as np
from scipy.spatial import Voronoi

from warmgraphite.ink.pattern import Mark, Pattern, Tile

#: Spacings of the tile's side, and the stones in it.
SIDE, COUNT = 6.0, 30


def _stones() -> tuple[Mark, ...]:
    rng = np.random.default_rng(5)
    points = rng.uniform(0, SIDE, (COUNT, 2))
    for _ in range(3):  # towards even sizes (Lloyd 1982), but not all the way
        cells = _cells(points)
        points = np.array([c.mean(0) for c in cells]) % SIDE
    return tuple(_drawn_in(c) for c in _cells(points))


def _cells(points: np.ndarray) -> list[np.ndarray]:
    shifts = [(i * SIDE, j * SIDE) for i in (0, -1, 1) for j in (0, -1, 1)]
    found = Voronoi(np.concatenate([points + s for s in shifts]))
    return [found.vertices[found.regions[found.point_region[k]]] for k in range(len(points))]


def _drawn_in(cell: np.ndarray) -> Mark:
    """A stone within its cell, its corners taken off."""
    middle = cell.mean(0)
    cell = middle + (cell - middle) * 0.88
    after = np.roll(cell, -1, 0)
    cut = np.stack([cell * 0.78 + after * 0.22, cell * 0.22 + after * 0.78], 1).reshape(-1, 2)
    cut = np.concatenate([cut, cut[:1]])
    return tuple((float(x), float(y)) for x, y in cut)


PATTERN = Pattern(
    name="stones", label="Rubble stones", spacing=2.6, metres=0.3, group="earth and stone",
    tile=Tile(SIDE, SIDE, _stones()),
)  # fmt: skip
