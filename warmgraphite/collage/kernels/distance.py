"""Loops for distances on a grid: to the nearest border between unlike cells, exactly.

P. Felzenszwalb and D. Huttenlocher, "Distance transforms of sampled functions", 2012: along columns first, then along
rows the lower envelope of parabolas.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["along_rows", "down_columns", "settled"]

_FAR = 1.0e9


@kernel("i4[:,::1], i8, i8, f4[:,::1]")
def down_columns(labels, first, last, out):
    """Fill columns ``first`` to ``last`` of ``out`` (h, w) with the steps to the nearest border of the column.
    A border is a cell with an unlike neighbour to any side.
    """
    height, width = labels.shape
    for c in range(first, last):
        steps = _FAR
        for r in range(height):
            own = labels[r, c]
            border = (
                (r > 0 and labels[r - 1, c] != own)
                or (r + 1 < height and labels[r + 1, c] != own)
                or (c > 0 and labels[r, c - 1] != own)
                or (c + 1 < width and labels[r, c + 1] != own)
            )
            steps = 0.0 if border else steps + 1.0
            out[r, c] = steps
        steps = _FAR
        for r in range(height - 1, -1, -1):
            steps = 0.0 if out[r, c] == 0.0 else steps + 1.0
            out[r, c] = min(out[r, c], steps)


@kernel("f4[:,::1], i8, i8")
def along_rows(steps, first, last):
    """Put the distance to the nearest border in place of that within the column.
    In rows ``first`` to ``last``, in steps.
    """
    width = steps.shape[1]
    place, bound = np.empty(width, np.int64), np.empty(width + 1)
    square = np.empty(width)
    for r in range(first, last):
        for c in range(width):
            square[c] = min(float(steps[r, c]), 1.0e6) ** 2
        k = 0
        place[0], bound[0], bound[1] = 0, -np.inf, np.inf
        for q in range(1, width):
            s = ((square[q] + q * q) - (square[place[k]] + place[k] * place[k])) / (2.0 * (q - place[k]))
            while s <= bound[k]:
                k -= 1
                s = ((square[q] + q * q) - (square[place[k]] + place[k] * place[k])) / (2.0 * (q - place[k]))
            k += 1
            place[k], bound[k], bound[k + 1] = q, s, np.inf
        k = 0
        for q in range(width):
            while bound[k + 1] < q:
                k += 1
            away = q - place[k]
            steps[r, q] = np.sqrt(away * away + square[place[k]])


@kernel("f4[:,::1], i4[:,::1], f8, i8, i8, u2[:,::1], u1[:,::1]")
def settled(steps, labels, scale, first, last, away, within):
    """Fill rows ``first`` to ``last`` of ``away`` (h, w) uint16 with distances as they are kept.
    The mean of each cell and its neighbours, as 1, 2, 1 weigh it both ways, so that steps of the grid are not seen, and
    half a cell more, because borders run between cells; and of ``within`` (h, w) uint8 with 255 where a label is not
    below zero.
    """
    height, width = steps.shape
    for r in range(first, last):
        above, below = max(r - 1, 0), min(r + 1, height - 1)
        for c in range(width):
            left, right = max(c - 1, 0), min(c + 1, width - 1)
            middle = steps[above, c] + 2.0 * steps[r, c] + steps[below, c]
            before = steps[above, left] + 2.0 * steps[r, left] + steps[below, left]
            after = steps[above, right] + 2.0 * steps[r, right] + steps[below, right]
            found = ((before + 2.0 * middle + after) / 16.0 + 0.5) * scale
            away[r, c] = np.uint16(min(found, 65535.0))
            within[r, c] = 255 if labels[r, c] >= 0 else 0
