"""Silhouette: the outlines against depth alone, heavier than all else."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import LineTrace
from warmgraphite.ink.strokes import runs


class Silhouette(LineTrace):
    label: ClassVar[str] = "Silhouette"
    about: ClassVar[str] = "Only where a thing ends against what lies much farther behind it, or against nothing."

    kind: Literal["silhouette"] = "silhouette"
    weight: float = Field(default=0.5, ge=0.02, le=5, title="Weight", json_schema_extra={"unit": "mm", "most": 1.4})
    depth: float = Field(default=2.0, ge=0, le=1000, title="Against at least",
        description="How far behind it the next thing lies.", json_schema_extra={"unit": "m", "most": 30})  # fmt: skip

    def lines(self, plate: Plate, chosen: NDArray[np.bool_]) -> Sequence[NDArray[np.float64]]:
        found = plate.lines
        kept = found.visible & (found.rank == 1) & (found.behind >= self.depth) & chosen[found.part]
        return runs(found, np.flatnonzero(kept))
