"""Arrays that grow while a loop fills them."""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["grown"]


@njit(nogil=True, cache=True)
def grown(array):
    """The array with room for twice as much."""
    bigger = np.empty(array.size * 2, array.dtype)
    bigger[: array.size] = array
    return bigger
