"""Warmth: towards evening, or towards a north light."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours
from warmgraphite.colour import LUMINANCE


class Warmth(AdjustingTrace):
    label: ClassVar[str] = "Warmth"
    about: ClassVar[str] = "Towards evening light, or towards the light of the north."

    kind: Literal["warmth"] = "warmth"
    warmth: float = Field(default=0.2, ge=-1, le=1, title="Warmth", description="Below zero it is cooler.")

    def change(self, colours: Colours) -> Colours:
        gain = 1 + self.warmth * np.array([0.18, 0.02, -0.24], np.float32)
        return np.asarray(colours * (gain / (gain @ LUMINANCE)), np.float32)
