"""Sky: a wash where nothing stands before it."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.grain import value_noise
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Mottle, PixelTrace, rgb, tone
from warmgraphite.geometry.tolerances import FINEST
from warmgraphite.specification import Colour


class Sky(PixelTrace):
    label: ClassVar[str] = "Sky wash"
    about: ClassVar[str] = (
        "A wash confined to the sky: where nothing stands before it. A drawing that looks down has none."
    )
    passes: ClassVar[tuple[str, ...]] = ("surface", "extent")
    confines: ClassVar[bool] = False

    kind: Literal["sky"] = "sky"
    colour: Colour = Field(default="#b4c3c2", title="Zenith")
    horizon: Colour = Field(default="#efe3cd", title="Horizon")
    mottle: Mottle = 0.4

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        ground, frame_w = plate.ground, plate.frame[0]
        x, y = (np.asarray(ground.along(axis) + ground.middle[axis], np.float32) for axis in (0, 1))
        over = plate.projection.over_horizon(x[None, :], y[:, None])
        if not (over > 0).any():
            return np.zeros((len(y), len(x), 4), np.uint8)  # one looks down: what is bare there is ground
        sky = 1 - plate.surface.cover.astype(np.float32) / 255
        fall = np.clip(y / np.float32(max(plate.of("extent").foot, FINEST)), 0, 1)[:, None, None]
        colour = rgb(self.colour) * (1 - fall) + rgb(self.horizon) * fall
        cloud = value_noise(ground, 70, 4, 21)
        fine = value_noise(ground, 5, 3, 22)
        # The wash is laid by hand: it stops short of the frame's edge in a wavering line and pools a little there.
        edge = np.minimum(np.minimum(x, frame_w - x)[None, :], y[:, None]) + 5.0 * cloud + 1.6 * fine
        reach = np.clip((edge - 17) / 1.4, 0, 1)
        # At the horizon it runs out softly, a little below the line.
        reach *= np.clip((over + 3.0 + 1.6 * cloud + 0.8 * fine) / 4.0, 0, 1)
        pool = np.exp(-(((edge - 18.6) / 1.1) ** 2)) * 0.16
        alpha = sky * reach * np.clip(0.86 + self.mottle * (0.34 * cloud + 0.12 * fine) + pool * self.mottle, 0, 1)
        return tone(colour, alpha)
