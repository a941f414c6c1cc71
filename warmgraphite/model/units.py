"""Units and up-axis: what a file says, what its size suggests, and the change to metres with Z up."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

__all__ = ["METRES_PER", "UpAxis", "guess_units", "to_metres"]

METRES_PER = {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048, "in": 0.0254}
UpAxis = Literal["z", "y"]

# A building, or a group of them, is usually between these many metres long.
_LIKELY_LENGTH = (2.0, 400.0)


def guess_units(longest_side: float) -> str:
    """The unit in which a model whose longest side has this many file units is a building of likely size.

    Metres are taken when they fit; then millimetres, centimetres. Feet and inches cannot be told from sizes alone.
    """
    for unit in ("m", "mm", "cm"):
        if _LIKELY_LENGTH[0] <= longest_side * METRES_PER[unit] <= _LIKELY_LENGTH[1]:
            return unit
    return "m" if longest_side < _LIKELY_LENGTH[0] else "mm"


def to_metres(units: str, up: UpAxis) -> NDArray[np.float64]:
    """4×4 matrix from file coordinates to model metres with Z up (a Y-up file has its -Z as north)."""
    matrix = np.eye(4)
    if up == "y":
        matrix[:3, :3] = [[1, 0, 0], [0, 0, -1], [0, 1, 0]]
    matrix[:3, :3] *= METRES_PER[units]
    return matrix
