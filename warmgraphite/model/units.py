"""Units and up-axis: what a file says, what its size suggests, and the change to metres with Z up."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

__all__ = ["METRES_PER", "UpAxis", "guess_units", "to_metres"]

METRES_PER = {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": 0.3048, "in": 0.0254}
UpAxis = Literal["z", "y"]

# A building, or a group of them, is usually between these many metres in its smallest measure, and no longer than this.
_LIKELY_THICKNESS = (1.5, 120.0)
_LIKELY_LENGTH = 3000.0


def guess_units(size: NDArray[np.float64]) -> str:
    """The unit in which a model that measures ``size`` (3,) file units is a building, or a town, of likely size.

    The smallest measure, mostly a height, tells more than the longest: a town is long, but no house is 500 m high.
    Metres are taken when they fit; then millimetres, centimetres. Feet and inches cannot be told from sizes alone.
    """
    least, longest = float(np.min(size)), float(np.max(size))
    for unit in ("m", "mm", "cm"):
        per = METRES_PER[unit]
        if _LIKELY_THICKNESS[0] <= least * per <= _LIKELY_THICKNESS[1] and longest * per <= _LIKELY_LENGTH:
            return unit
    return "m" if longest <= _LIKELY_LENGTH / 5 else "mm"


def to_metres(units: str, up: UpAxis) -> NDArray[np.float64]:
    """4×4 matrix from file coordinates to model metres with Z up (a Y-up file has its -Z as north)."""
    matrix = np.eye(4)
    if up == "y":
        matrix[:3, :3] = [[1, 0, 0], [0, 0, -1], [0, 1, 0]]
    matrix[:3, :3] *= METRES_PER[units]
    return matrix
