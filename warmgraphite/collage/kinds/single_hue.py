"""Single hue: all in tones of one colour."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours, grey_of
from warmgraphite.colour import channels
from warmgraphite.specification import Colour


class SingleHue(AdjustingTrace):
    label: ClassVar[str] = "Single hue"
    about: ClassVar[str] = "All in tones of one colour, from its darkest to the paper's."

    kind: Literal["single-hue"] = "single-hue"
    dark: Colour = Field(default="#3a2f28", title="Darkest")
    light: Colour = Field(default="#fbf4e6", title="Lightest")

    def change(self, colours: Colours) -> Colours:
        low, high = (np.array(channels(c), np.float32) / 255 for c in (self.dark, self.light))
        return np.asarray(low + grey_of(colours) * (high - low), np.float32)
