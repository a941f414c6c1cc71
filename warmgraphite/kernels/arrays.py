"""Arrays that grow while a loop fills them, and things put in order.

Written out as loops: an assignment to a stretch of an array, or a sort of the library's, takes the compiler a second
each time it is met; these take it a tenth of that, once.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device

__all__ = ["grown", "grown_rows", "order_of", "sort_stretches"]


@device()
def grown(array):
    """The array (n,) with room for twice as much."""
    bigger = np.empty(array.size * 2, array.dtype)
    for k in range(array.size):
        bigger[k] = array[k]
    return bigger


@device()
def grown_rows(array, rows):
    """The array (n, m) with room for so many rows."""
    bigger = np.empty((rows, array.shape[1]), array.dtype)
    for k in range(min(rows, array.shape[0])):
        for m in range(array.shape[1]):
            bigger[k, m] = array[k, m]
    return bigger


@device()
def order_of(keys):
    """The order (n,) int64 that puts ``keys`` (n,) in line; equal ones stay as they are.
    Runs of 16 by insertion, then merged.
    """
    n = keys.size
    order, other = np.empty(n, np.int64), np.empty(n, np.int64)
    for begin in range(0, n, 16):
        for i in range(begin, min(begin + 16, n)):
            j = i
            while j > begin and keys[order[j - 1]] > keys[i]:
                order[j] = order[j - 1]
                j -= 1
            order[j] = i
    run = 16
    while run < n:
        for begin in range(0, n, 2 * run):
            middle, end = min(begin + run, n), min(begin + 2 * run, n)
            i, j = begin, middle
            for k in range(begin, end):
                if i < middle and (j >= end or keys[order[i]] <= keys[order[j]]):
                    other[k] = order[i]
                    i += 1
                else:
                    other[k] = order[j]
                    j += 1
        order, other = other, order
        run *= 2
    return order


@device()
def sort_stretches(low, high, count):
    """Put the first ``count`` stretches in the order of their beginnings."""
    if count > 32:
        order = order_of(low[:count])
        lows, highs = np.empty(count), np.empty(count)
        for i in range(count):
            lows[i], highs[i] = low[order[i]], high[order[i]]
        for i in range(count):
            low[i], high[i] = lows[i], highs[i]
        return
    for i in range(1, count):
        lo, hi = low[i], high[i]
        j = i - 1
        while j >= 0 and low[j] > lo:
            low[j + 1], high[j + 1] = low[j], high[j]
            j -= 1
        low[j + 1], high[j + 1] = lo, hi
