"""Where labels stand in columns beside a drawing, so that their leaders, all of one angle or its mirror image, cross nowhere.

A leader goes level from its text to an elbow, and from there at the angle to what it means (a *do-leader* of boundary labelling: M. Benkert, H.
Haverkort, M. Kroll and M. Nöllenburg, "Algorithms for multi-criteria boundary labeling", 2009). Of one column, those that rise to their texts and
keep the order of the lines that they lie on do not cross; those that fall neither, in the other order; and where all that rise begin above all that
fall, none of one meets one of the other. So a column is split at a height, and for each of the n + 1 splits the best places of the texts are found
by dynamic programming over a grid of heights, where what must not be written over is left out.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Column", "Laid", "column_places"]

Array = NDArray[np.float64]

#: Millimetres between heights at which a text may stand.
STEP = 0.5


@dataclass(frozen=True)
class Column:
    """A column of texts: ``x`` is the edge that they share and that leaders go to, ``side`` −1 for one at the left (texts end at ``x``) and 1 for
    one at the right; ``top`` and ``bottom`` bound it."""

    x: float
    side: int
    top: float
    bottom: float


@dataclass(frozen=True)
class Laid:
    """Where texts of a column stand: the ``middle`` (N,) of each, in millimetres down, and where its leader bends, ``elbow`` (N,) across."""

    middle: Array
    elbow: Array
    cost: float


def column_places(
    anchors: Array, heights: Array, column: Column, angle: float, gap: float, free: NDArray[np.bool_] | None = None
) -> Laid | None:
    """Places of texts, ``heights`` (N,) millimetres high and ``gap`` apart, for ``anchors`` (N, 2) that all lie on the drawing's side of the
    column; ``angle`` in degrees from the level. ``free`` (N, H) says of each which of the heights from the column's top, :data:`STEP` apart, its middle may be
    at. ``None`` where there is no way."""
    count = len(anchors)
    if not count:
        return Laid(np.empty(0), np.empty(0), 0.0)
    grid = np.arange(column.top, column.bottom + STEP / 2, STEP)
    away = (anchors[:, 0] - column.x) * -column.side
    slope = np.tan(np.radians(angle))
    reach = away * slope
    cost = np.abs(grid[None] - anchors[:, 1:2])
    # The elbow lies between the column and what is meant.
    allowed = cost <= np.maximum(reach, 1e-9)[:, None] + 1e-9
    allowed &= (grid[None] - heights[:, None] / 2 >= column.top - 1e-9) & (
        grid[None] + heights[:, None] / 2 <= column.bottom + 1e-9
    )
    if free is not None:
        allowed &= free
    cost = np.where(allowed, cost**1.15, np.inf)
    by_height = np.argsort(anchors[:, 1], kind="stable")
    best: tuple[float, Array] | None = None
    rising, falling = away - anchors[:, 1] / slope, away + anchors[:, 1] / slope
    for split in range(count + 1):
        up, down = by_height[:split], by_height[split:]
        # Whose line lies farther from the column is written higher where leaders rise, and lower where they fall.
        order = np.concatenate([up[np.argsort(-rising[up], kind="stable")], down[np.argsort(falling[down], kind="stable")]])
        own = cost.copy()
        own[up] = np.where(grid[None] <= anchors[up, 1:2] + 1e-9, own[up], np.inf)
        own[down] = np.where(grid[None] >= anchors[down, 1:2] - 1e-9, own[down], np.inf)
        found = _stacked(own[order], heights[order], gap)
        if found is not None and (best is None or found[0] < best[0]):
            middle = np.empty(count)
            middle[order] = grid[found[1]]
            best = (found[0], middle)
    if best is None:
        return None
    total, middle = best
    elbow = anchors[:, 0] + column.side * np.abs(middle - anchors[:, 1]) / slope
    return Laid(middle, elbow, total)


def _stacked(cost: Array, heights: Array, gap: float) -> tuple[float, NDArray[np.int64]] | None:
    """The cheapest heights, as numbers of the grid, of texts one below another: ``cost`` (N, H) of each at each height."""
    count, room = cost.shape
    apart = np.ceil(((heights[1:] + heights[:-1]) / 2 + gap) / STEP - 1e-9).astype(int)
    sums, before = [cost[0]], []
    for k in range(1, count):
        least = np.minimum.accumulate(sums[-1])
        # Where the cheapest of all heights so far is.
        at = np.maximum.accumulate(np.where(sums[-1] <= least, np.arange(room), 0))
        shift = int(apart[k - 1])
        moved, came = np.full(room, np.inf), np.zeros(room, np.int64)
        if shift < room:
            moved[shift:], came[shift:] = least[: room - shift], at[: room - shift]
        sums.append(cost[k] + moved)
        before.append(came)
    last = int(np.argmin(sums[-1]))
    if not np.isfinite(sums[-1][last]):
        return None
    places = [last]
    for came in reversed(before):
        places.append(int(came[places[-1]]))
    return float(sums[-1][last]), np.array(places[::-1])
