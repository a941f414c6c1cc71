"""Paper: the sheet under everything, and its tooth over everything."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.grain import value_noise
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Flat, PixelTrace, rgb, tone
from warmgraphite.specification import Colour


class Paper(PixelTrace):
    label: ClassVar[str] = "Paper"
    about: ClassVar[str] = (
        "The sheet under everything, with its tooth; or the tooth alone, over all that is laid on it."
    )
    ground: ClassVar[bool] = True
    confines: ClassVar[bool] = False

    kind: Literal["paper"] = "paper"
    colour: Colour = Field(default="#fbf8f1", title="Tone")
    grain: float = Field(default=0.4, ge=0, le=1, title="Grain", description="How much tooth the paper has.")
    lies: Literal["below", "over all", "both"] = Field(default="below", title="Lies")

    def _level(self, plate: Plate, strength: float = 1.0) -> NDArray[np.float32]:
        """(h, w) how light the paper is."""
        tooth = value_noise(plate.ground, 1.1, 3, 7)
        cloud = value_noise(plate.ground, 60, 3, 8)
        return np.asarray(1 - strength * self.grain * (0.022 + 0.030 * tooth + 0.014 * cloud), np.float32)

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        level = self._level(plate)
        colour = rgb(self.colour) if self.lies != "over all" else rgb("#ffffff")
        if self.lies == "over all":
            level = np.ones_like(level)
        out = np.empty((*level.shape, 4), np.uint8)
        out[..., 3] = 255
        for k in range(3):  # channel by channel: a large sheet is much of what an export has to do
            np.minimum(level * colour[k], np.float32(255), out=out[..., k], casting="unsafe")
        return out

    def flat(self, plate: Plate) -> Flat | None:
        if self.grain:
            return None
        width, height = plate.frame
        ring = np.array([(0, 0), (width, 0), (width, height), (0, height), (0, 0)], float)
        return Flat([ring], "#ffffff" if self.lies == "over all" else self.colour)

    def lies_over(self) -> bool:
        return self.lies != "below"

    def draw_over(self, canvas: Canvas, plate: Plate) -> None:
        # On top the tooth has to be seen through ink and wash, and the tone of the sheet only where it does not lie
        # below.
        canvas.image(plate.painted(self._tooth), *plate.place)

    def _tooth(self, plate: Plate) -> NDArray[np.uint8]:
        level = np.clip(self._level(plate, 1.6), 0, 1)
        colour = rgb("#ffffff") if self.lies == "both" else rgb(self.colour)
        return tone(colour * level[..., None], np.ones(level.shape, np.float32))
