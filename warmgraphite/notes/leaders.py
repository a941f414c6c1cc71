"""Where labels stand in columns beside a drawing, so that their leaders cross nowhere.
These are all of one angle or its mirror image.

A leader goes level from its text to an elbow, and from there at the angle to what it means (a *do-leader* of boundary
labelling: M. Benkert, H. Haverkort, M. Kroll and M. Nöllenburg, "Algorithms for multi-criteria boundary labeling",
2009). Of one column, those that rise to their texts and keep the order of the lines that they lie on do not cross;
those that fall neither, in the other order; and where all that rise begin above all that fall, none of one meets one of
the other. So a column is split at a height, and for each of the n + 1 splits the best places of the texts are found by
dynamic programming over a grid of heights, where what must not be written over is left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.notes.kernels.columns import stacked

__all__ = ["Column", "LeaderHeights", "column_places"]

Array = NDArray[np.float64]

#: Millimetres between heights at which a text may stand.
STEP = 0.5


@dataclass(frozen=True)
class Column:
    """A column of texts.
    ``x`` is the edge that they share and that leaders go to, ``side`` −1 for one at the left (texts end at ``x``) and 1
    for one at the right; ``top`` and ``bottom`` bound it.
    """

    x: float
    side: int
    top: float
    bottom: float


@dataclass(frozen=True)
class LeaderHeights:
    """Where texts of a column stand.
    The ``middle`` (N,) of each, in millimetres down, and where its leader bends, ``elbow`` (N,) across.
    """

    middle: Array
    elbow: Array
    cost: float


def column_places(
    anchors: Array, heights: Array, column: Column, angle: float, gap: float, free: NDArray[np.bool_] | None = None
) -> LeaderHeights | None:
    """Places of texts for anchors that all lie on the drawing's side of the column.
    ``heights`` (N,) millimetres high and ``gap`` apart, for ``anchors`` (N, 2) that all lie on the drawing's side of
    the column; ``angle`` in degrees from the level. ``free`` (N, H) says of each which of the heights from the column's
    top, :data:`STEP` apart, its middle may be at. ``None`` where there is no way.
    """
    count = len(anchors)
    if not count:
        return LeaderHeights(np.empty(0), np.empty(0), 0.0)
    grid = np.arange(column.top, column.bottom + STEP / 2, STEP)
    away = (anchors[:, 0] - column.x) * -column.side
    slope = np.tan(np.radians(angle))
    reach = away * slope
    cost = np.abs(grid[None] - anchors[:, 1:2])
    # The elbow lies between the column and what is meant.
    allowed = cost <= np.maximum(reach, ROUNDING)[:, None] + ROUNDING
    allowed &= (grid[None] - heights[:, None] / 2 >= column.top - ROUNDING) & (
        grid[None] + heights[:, None] / 2 <= column.bottom + ROUNDING
    )
    if free is not None:
        allowed &= free
    if not allowed.any(1).all() or heights.sum() + gap * (count - 1) > column.bottom - column.top + STEP:
        return None
    cost = np.where(allowed, cost**1.15, np.inf)
    by_height = np.argsort(anchors[:, 1], kind="stable")
    best: tuple[float, Array] | None = None
    rising, falling = away - anchors[:, 1] / slope, away + anchors[:, 1] / slope
    # Those that rise stand on the grid before what they mean, those that fall after.
    low, high = (
        np.searchsorted(grid, anchors[:, 1] - ROUNDING),
        np.searchsorted(grid, anchors[:, 1] + ROUNDING, side="right"),
    )
    for split in range(count + 1):
        up, down = by_height[:split], by_height[split:]
        # Whose line lies farther from the column is written higher where leaders rise, and lower where they fall.
        order = np.concatenate(
            [up[np.argsort(-rising[up], kind="stable")], down[np.argsort(falling[down], kind="stable")]]
        )
        high_by = heights[order]
        apart = np.ceil(((high_by[1:] + high_by[:-1]) / 2 + gap) / STEP - ROUNDING).astype(np.int64)
        total, places = stacked(cost, order, split, low, high, apart)
        if np.isfinite(total) and (best is None or total < best[0]):
            middle = np.empty(count)
            middle[order] = grid[places]
            best = (float(total), middle)
    if best is None:
        return None
    total, middle = best
    elbow = anchors[:, 0] + column.side * np.abs(middle - anchors[:, 1]) / slope
    return LeaderHeights(middle, elbow, total)
