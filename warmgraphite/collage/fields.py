"""Distances on the paper: how far each place lies from the nearest border between areas.

A field lies on a grid of its own, of as many cells for the same paper whatever its resolution: so it is the same on the
desk, in print and in every window, and what follows a border, as rims and soft edges do, follows it alike.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.kernels.distance import along_rows, down_columns, settled
from warmgraphite.threads import in_stretches

__all__ = ["FINEST", "BorderField", "field_of", "grid_of"]

#: Millimetres of the paper that one cell of the grid is wide at least, and the most cells.
FINEST, MOST = 0.25, 1_800_000
#: Steps of a kept distance in a millimetre; the farthest that is told is 255 mm.
STEPS = 128


@dataclass(frozen=True)
class BorderField:
    """Distances over a ``frame`` of width and height in millimetres.

    ``away`` (h, w) uint16 is 128 times the millimetres to the nearest border; ``within`` (h, w) uint8 is 255 where the
    cell belongs to the area that was asked for.
    """

    away: NDArray[np.uint16]
    within: NDArray[np.uint8]
    frame: tuple[float, float]

    @property
    def step(self) -> tuple[float, float]:
        """Millimetres across and down of a cell."""
        height, width = self.away.shape
        return self.frame[0] / width, self.frame[1] / height


def grid_of(frame: tuple[float, float]) -> tuple[int, int]:
    """Columns and rows of the grid over a frame in millimetres."""
    step = max(FINEST, float(np.sqrt(frame[0] * frame[1] / MOST)))
    return max(2, round(frame[0] / step)), max(2, round(frame[1] / step))


def field_of(labels: NDArray[np.int32], frame: tuple[float, float]) -> BorderField:
    """The field of areas ``labels`` (h, w) on the grid; those below zero are not asked for."""
    height, width = labels.shape
    steps = np.empty((height, width), np.float32)
    in_stretches(lambda a, b: down_columns(labels, a, b, steps), width, 256)
    in_stretches(lambda a, b: along_rows(steps, a, b), height, 128)
    away, within = np.empty((height, width), np.uint16), np.empty((height, width), np.uint8)
    scale = frame[0] / width * STEPS
    in_stretches(lambda a, b: settled(steps, labels, scale, a, b, away, within), height, 128)
    return BorderField(away, within, frame)
