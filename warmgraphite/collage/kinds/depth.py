"""Depth: a tone that grows with distance, or falls with it."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb, tone
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.specification import Colour


class DepthTrace(PixelTrace):
    label: ClassVar[str] = "Depth"
    about: ClassVar[str] = "A tone by distance from the viewer: haze over what is far, or dark over what is near."
    passes: ClassVar[tuple[str, ...]] = ("surface", "extent")

    kind: Literal["depth"] = "depth"
    colour: Colour = Field(default="#f4efe4", title="Tone")
    darkest: Literal["far", "near"] = Field(default="far", title="Strongest")
    bands: int = Field(
        default=0, ge=0, le=12, title="Bands", description="Steps of one tone each; none is a smooth fall."
    )

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        distance = plate.surface.distance
        near, far = plate.of("extent").near, plate.of("extent").far
        share = np.clip((np.where(np.isfinite(distance), distance, far) - near) / max(far - near, NEAR), 0, 1)
        if self.bands:
            share = np.minimum(np.floor(share * self.bands), self.bands - 1) / max(self.bands - 1, 1)
        share = share if self.darkest == "far" else 1 - share
        return tone(rgb(self.colour), (share * (plate.surface.cover / np.float32(255))).astype(np.float32))
