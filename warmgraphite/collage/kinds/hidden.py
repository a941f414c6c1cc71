"""Hidden lines: what lies behind, of all or of some parts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import LineTrace
from warmgraphite.ink.rules import Dash
from warmgraphite.ink.strokes import runs


class HiddenLines(LineTrace):
    label: ClassVar[str] = "Hidden lines"
    about: ClassVar[str] = "The lines that something hides, in a pen of their own."

    kind: Literal["hidden"] = "hidden"
    dash: Dash = Field(default=(1.6, 0.9), title="Dash", description="Mark, gap, … in millimetres of paper.")

    def lines(self, plate: Plate, chosen: NDArray[np.bool_]) -> Sequence[NDArray[np.float64]]:
        found = plate.lines
        return runs(found, np.flatnonzero(~found.visible & chosen[found.part]))
