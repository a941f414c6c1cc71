"""Material tint: each material's own colour, or what a palette makes of it."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.palettes import Palette, moved
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace


class Tint(PixelTrace):
    label: ClassVar[str] = "Material tint"
    about: ClassVar[str] = "Each material's own colour, or one of a palette, laid on thinly. Never on what is cut."
    passes: ClassVar[tuple[str, ...]] = ("surface", "colour")

    kind: Literal["tint"] = "tint"
    palette: Palette = Field(default="as they are", title="Palette", description="What colours are moved towards.")
    towards: float = Field(
        default=0.75,
        ge=0,
        le=1,
        title="How far",
        description="How far they are moved towards the palette.",
        json_schema_extra={"unless": {"palette": ["as they are"]}},
    )

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        bare = 1 - plate.surface.cap.astype(np.float32) / 255
        found = plate.of("colour")
        if self.palette != "as they are":
            found = self._moved(found)
        return np.round(found * bare[..., None]).astype(np.uint8)

    def _moved(self, found: NDArray[np.uint8]) -> NDArray[np.uint8]:
        packed = np.ascontiguousarray(found).view(np.uint32).reshape(found.shape[:2])
        rows, number = np.unique(packed, return_inverse=True)
        own = rows.view(np.uint8).reshape(-1, 4).astype(np.float64)
        alpha = np.maximum(own[:, 3:], 1)
        own[:, :3] = moved(np.clip(own[:, :3] / alpha, 0, 1), self.palette, self.towards) * own[:, 3:]
        return np.round(own).astype(np.uint8)[number.reshape(-1)].reshape(found.shape)
