"""Facing: a flat tone on all surfaces that face one way."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb, tone
from warmgraphite.specification import Colour

_WAYS = {
    "up": (0, 0, 1),
    "down": (0, 0, -1),
    "north": (0, 1, 0),
    "east": (1, 0, 0),
    "south": (0, -1, 0),
    "west": (-1, 0, 0),
}


class FacingTone(PixelTrace):
    label: ClassVar[str] = "Tone by facing"
    about: ClassVar[str] = (
        "One flat tone on all that faces up, down or towards a side of the compass, and on nothing that is cut."
    )
    passes: ClassVar[tuple[str, ...]] = ("surface", "normals")

    kind: Literal["facing"] = "facing"
    colour: Colour = Field(default="#b9a88d", title="Tone")
    way: Literal["up", "down", "north", "east", "south", "west"] = Field(default="up", title="What faces")
    within: float = Field(default=30, ge=1, le=90, title="Within",
        description="Degrees that a surface may be turned from it.", json_schema_extra={"unit": "°"})  # fmt: skip

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        found, cap = plate.of("normals"), plate.surface.cap
        towards = (found[..., :3].astype(np.float32) / 127.5 - 1) @ np.array(_WAYS[self.way], np.float32)
        share = (
            (towards >= np.cos(np.radians(self.within)))
            * (found[..., 3] / np.float32(255))
            * (1 - cap / np.float32(255))
        )
        return tone(rgb(self.colour), share.astype(np.float32))
