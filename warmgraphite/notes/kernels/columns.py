"""Loops that find the heights of texts in a column."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["stacked"]


@kernel("f8[:,::1], i8[::1], i8, i8[::1], i8[::1], i8[::1]")
def stacked(cost, order, rising, low, high, apart):
    """The cheapest heights (N,) of texts one below another, and what they cost together.
    They are numbers of the grid, in an ``order`` (N,); the cost is infinite where there are none. ``cost`` (N, H) is of
    each text at each height; the first ``rising`` of the order stand before ``high`` (N,) of the grid, the others from
    ``low`` (N,) on; two that follow each other are ``apart`` (N - 1,) numbers or more.
    """
    count, room = cost.shape
    came = np.zeros((count, room), np.int64)
    least, at = np.empty(room), np.empty(room, np.int64)
    places = np.zeros(count, np.int64)
    for k in range(count):
        row = order[k]
        first = 0 if k < rising else low[row]
        last = high[row] if k < rising else room
        shift = 0 if k == 0 else apart[k - 1]
        best, where = np.inf, 0
        sums = np.full(room, np.inf)
        for h in range(max(first, shift), last):
            value = cost[row, h]
            if k > 0:
                value += least[h - shift]
                came[k, h] = at[h - shift]
            sums[h] = value
        for h in range(room):
            if sums[h] <= best:
                best, where = sums[h], h
            least[h], at[h] = best, where
        if not np.isfinite(best):
            return np.inf, places
    # The first of those that are the cheapest of all.
    for h in range(room):
        if least[h] == least[room - 1]:
            places[count - 1] = h
            break
    for k in range(count - 1, 0, -1):
        places[k - 1] = came[k, places[k]]
    return least[room - 1], places
