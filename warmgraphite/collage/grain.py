"""Unevenness with a real size: the tooth of paper and the mottle of a wash, repeatable for a seed.
The same in a window, at another zoom, and when the paper is drawn out.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from warmgraphite.memory import remembered
from warmgraphite.noise import value
from warmgraphite.passes.surface import Raster

__all__ = ["PaperGrid", "value_noise"]

#: Pixels up to which unevenness is kept: the desk's, which is laid anew with every sun, and no export's.
KEPT = 4_000_000


class PaperGrid(NamedTuple):
    """Where pixels lie on the paper.
    Their ``raster`` over a ``frame`` in millimetres, and the ``middle`` of the drawing, from which places are counted,
    because it stays where it is when the paper is drawn out.
    """

    raster: Raster
    frame: tuple[float, float]
    middle: tuple[float, float]

    def along(self, axis: int) -> NDArray[np.float64]:
        """Millimetres from the middle of the pixels' centres, along x (0) or y (1)."""
        r = self.raster
        first, count = ((r.x, r.width), (r.y, r.height))[axis]
        places = (np.arange(first, first + count) + 0.5) * (self.frame[axis] / r.size[axis]) - self.middle[axis]
        return np.asarray(places, np.float64)


def value_noise(ground: PaperGrid, cell: float, octaves: int, seed: int) -> NDArray[np.float32]:
    """(h, w) float32 from −1 to 1; not to be written to.

    ``cell`` is the coarsest lattice in millimetres; each further octave halves it and its strength.
    """
    r = ground.raster
    made = _kept if (r.width, r.height) == r.size and r.width * r.height <= KEPT else _made
    return made(ground, cell, octaves, seed)


def _made(ground: PaperGrid, cell: float, octaves: int, seed: int) -> NDArray[np.float32]:
    pixel = max(ground.frame[0] / ground.raster.size[0], ground.frame[1] / ground.raster.size[1])
    return value.value_noise(ground.along(0), ground.along(1), pixel, cell, octaves, seed)


_kept = remembered("noise of paper")(_made)
