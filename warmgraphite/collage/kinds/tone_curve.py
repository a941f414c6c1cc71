"""Tone curve: darks, middles and lights, each lifted or lowered."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours


class ToneCurve(AdjustingTrace):
    label: ClassVar[str] = "Tone curve"
    about: ClassVar[str] = "Darks, middles and lights, each lifted or lowered, joined smoothly."
    by_tones: ClassVar[bool] = True

    kind: Literal["tone-curve"] = "tone-curve"
    darks: float = Field(default=0.25, ge=0, le=1, title="Darks", description="What a quarter becomes.")
    middles: float = Field(default=0.5, ge=0, le=1, title="Middles", description="What a half becomes.")
    lights: float = Field(default=0.75, ge=0, le=1, title="Lights", description="What three quarters become.")

    def change(self, colours: Colours) -> Colours:
        # A monotone cubic through the points (Fritsch and Butland 1984): it never swings beyond them.
        from scipy.interpolate import PchipInterpolator

        table = PchipInterpolator([0, 0.25, 0.5, 0.75, 1], [0, self.darks, self.middles, self.lights, 1])(
            np.linspace(0, 1, 1025)
        )
        place = np.clip(colours, 0, 1) * 1024
        low = np.minimum(place.astype(np.int32), 1023)
        steps = np.asarray(table, np.float32)
        return steps[low] + (place - low) * (steps[low + 1] - steps[low])
