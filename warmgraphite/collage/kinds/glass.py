"""Glass: a cool tone over what is seen through panes."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb, tone
from warmgraphite.specification import Colour


class Glass(PixelTrace):
    label: ClassVar[str] = "Glass"
    about: ClassVar[str] = "A cool tone over what is seen through panes."
    passes: ClassVar[tuple[str, ...]] = ("surface",)

    kind: Literal["glass"] = "glass"
    colour: Colour = Field(default="#c3d6d5", title="Tone")

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        seen = plate.surface
        share = seen.glass.astype(np.float32) / 255 * (1 - seen.cap.astype(np.float32) / 255)
        return tone(rgb(self.colour), np.clip(share, 0, 1))
