"""Contours: the level lines of the ground."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import LineTrace
from warmgraphite.ink.strokes import runs
from warmgraphite.passes.line_set import KINDS

_TERRAIN = KINDS.index("terrain")


class Contours(LineTrace):
    label: ClassVar[str] = "Ground contours"
    about: ClassVar[str] = "The level lines of the ground, at the interval that is chosen for the model."

    kind: Literal["contours"] = "contours"

    def lines(self, plate: Plate, chosen: NDArray[np.bool_]) -> Sequence[NDArray[np.float64]]:
        found = plate.lines
        return runs(found, np.flatnonzero(found.visible & (found.kind == _TERRAIN) & chosen[found.part]))
