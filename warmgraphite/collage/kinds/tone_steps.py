"""Tone steps: light, shade, shadow and corners together, in a few flat tones."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb, tone
from warmgraphite.specification import Colour


class ToneSteps(PixelTrace):
    label: ClassVar[str] = "Tone steps"
    about: ClassVar[str] = "Light, shade, shadow and corners taken together and drawn as a few flat tones, each a clean shape."
    passes: ClassVar[tuple[str, ...]] = ("surface", "light", "occlusion")

    kind: Literal["tone-steps"] = "tone-steps"
    steps: int = Field(default=5, ge=2, le=10, title="Tones", description="How many there are, the paper's among them.")
    colour: Colour = Field(default="#5f544b", title="Darkest")
    shade: float = Field(default=0.45, ge=0, le=1, title="Shade", description="What turns away from the sun.")
    shadow: float = Field(default=0.55, ge=0, le=1, title="Shadow", description="What the sun does not reach.")
    corners: float = Field(default=0.5, ge=0, le=1, title="Corners", description="What stands close together.")

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        light, seen = plate.light, plate.surface
        # Shade under a shadow is no shadow twice: the sun is kept off once.
        lit = np.minimum(1 - self.shadow * _share(light.shadow), 1 - self.shade * _share(light.shade))
        dark = 1 - lit * (1 - self.corners * _share(plate.of("occlusion")))
        most = 1 - (1 - max(self.shadow, self.shade)) * (1 - self.corners)
        level = dark / max(most, 1e-3) * (self.steps - 1) + 0.5
        # From one tone to the next within a pixel: as sharp as the slope of what is divided there says.
        down, across = np.gradient(level)
        width = np.clip(np.abs(down) + np.abs(across), 0.02, 0.6)
        whole = np.floor(level)
        near = np.round(level)  # the border between two tones that is nearest
        step = np.where(np.abs(level - near) < width / 2, near - 1 + (level - near) / width + 0.5, whole)
        bare = _share(seen.cover) * (1 - _share(seen.cap))
        return tone(rgb(self.colour), np.clip(step / (self.steps - 1), 0, 1) * most * bare)


def _share(amount: NDArray[np.uint8]) -> NDArray[np.float32]:
    return amount.astype(np.float32) / np.float32(255)
