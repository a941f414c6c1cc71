"""Steps that are level at both ends."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["eased"]


def eased(t: NDArray[Any]) -> NDArray[np.float32]:
    """(…) 0 to 1 for 0 to 1, and so beyond them: 3 t² − 2 t³ (Hermite's cubic)."""
    t = np.clip(t, 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)
