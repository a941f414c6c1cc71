"""OKLab (B. Ottosson, "A perceptual color space for image processing", 2020).
There a hue can be moved and a tone kept.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour.light import encoded, linear

__all__ = ["from_oklab", "to_oklab"]

_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)


def to_oklab(colours: NDArray[Any]) -> NDArray[np.float64]:
    """(…, 3) lightness and two axes of hue, from sRGB 0–1."""
    return np.asarray(np.cbrt(linear(colours) @ _LMS.T) @ _LAB.T)


def from_oklab(lab: NDArray[Any]) -> NDArray[np.float64]:
    """(…, 3) sRGB 0–1, brought into that range."""
    return encoded((np.asarray(lab, np.float64) @ np.linalg.inv(_LAB).T) ** 3 @ np.linalg.inv(_LMS).T)
