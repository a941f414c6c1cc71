"""Well mixed numbers out of whole numbers, for arrays; :mod:`warmgraphite.noise.kernels` has the same for loops."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["finished", "hashed", "unit_share"]


def hashed(*numbers: NDArray[Any]) -> NDArray[np.uint64]:
    """(N,) a number for rows of whole numbers, the same for the same.
    The finalizer of splitmix64 (Steele, Lea and Flood, "Fast splittable pseudorandom number generators", 2014), a
    number after the other. Two rows of N meet by chance once in 2⁶⁴ / N².
    """
    mixed = np.zeros(len(numbers[0]), np.uint64)
    with np.errstate(over="ignore"):
        for number in numbers:
            mixed = finished((mixed ^ (number.astype(np.uint64) * STEP)) + STEP)
    return mixed


#: 2⁶⁴ over the golden ratio, odd.
STEP = np.uint64(0x9E3779B97F4A7C15)


def finished(z: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """(N,) numbers with their bits mixed: the finalizer alone."""
    with np.errstate(over="ignore"):
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return np.asarray(z ^ (z >> np.uint64(31)))


def unit_share(numbers: NDArray[np.uint64]) -> NDArray[np.float64]:
    """(N,) from 0 to 1 of well mixed numbers."""
    return (numbers >> np.uint64(11)).astype(np.float64) / (1 << 53)
