"""Wire: every edge that bends, before and behind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import LineTrace


class WireTrace(LineTrace):
    label: ClassVar[str] = "Wire"
    about: ClassVar[str] = (
        "Every edge of the model that bends, as if it were of wire: what is before, and what shines through."
    )
    passes: ClassVar[tuple[str, ...]] = ("wire",)

    kind: Literal["wire"] = "wire"
    weight: float = Field(default=0.07, ge=0.02, le=5, title="Weight", json_schema_extra={"unit": "mm", "most": 0.9})
    behind: bool = Field(default=True, title="What is behind", description="Also edges that something hides.")

    def lines(self, plate: Plate, chosen: NDArray[np.bool_]) -> Sequence[NDArray[np.float64]]:
        wire = plate.of("wire")
        kept = (wire.visible | self.behind) & chosen[wire.part]
        return list(np.stack([wire.from_mm[kept], wire.to_mm[kept]], 1))
