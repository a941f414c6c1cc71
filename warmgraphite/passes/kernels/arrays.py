"""Arrays that grow while a loop fills them, and stretches put in order."""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["grown", "sort_stretches"]


@njit(nogil=True, cache=True)
def grown(array):
    """The array with room for twice as much."""
    bigger = np.empty(array.size * 2, array.dtype)
    bigger[: array.size] = array
    return bigger


@njit(nogil=True, cache=True)
def sort_stretches(low, high, count):
    """Put the first ``count`` stretches in the order of their beginnings."""
    if count > 32:
        order = np.argsort(low[:count])
        low[:count] = low[:count][order]
        high[:count] = high[:count][order]
        return
    for i in range(1, count):
        lo, hi = low[i], high[i]
        j = i - 1
        while j >= 0 and low[j] > lo:
            low[j + 1], high[j + 1] = low[j], high[j]
            j -= 1
        low[j + 1], high[j + 1] = lo, hi
