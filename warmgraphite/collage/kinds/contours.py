"""Contours: the level lines of the ground."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import LineTrace
from warmgraphite.ink.line_work import runs
from warmgraphite.passes.lines import KINDS

_TERRAIN = KINDS.index("terrain")


class Contours(LineTrace):
    label: ClassVar[str] = "Ground contours"
    about: ClassVar[str] = "The level lines of the ground, at the interval that is chosen for the model."

    kind: Literal["contours"] = "contours"

    def lines(self, plate: Plate, chosen: NDArray[np.bool_] | None) -> Sequence[NDArray[np.float64]]:
        kept = plate.lines.visible & (plate.lines.kind == _TERRAIN)
        if chosen is not None:
            kept &= chosen[plate.lines.part]
        return runs(plate.lines, np.flatnonzero(kept))
