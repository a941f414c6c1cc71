"""White on colour: dark lines on white become white ones on a coloured ground."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours, grey_of
from warmgraphite.colour import channels
from warmgraphite.specification import Colour


class Inverted(AdjustingTrace):
    label: ClassVar[str] = "White on colour"
    about: ClassVar[str] = "What is dark becomes white, what is white becomes the colour of the ground."

    kind: Literal["inverted"] = "inverted"
    paper: Colour = Field(default="#7d3b2a", title="Ground")
    lines: Colour = Field(default="#fbf4e6", title="Lines")

    def change(self, colours: Colours) -> Colours:
        ground, lines = (np.array(channels(c), np.float32) / 255 for c in (self.paper, self.lines))
        return np.asarray(lines + grey_of(colours) * (ground - lines), np.float32)
