"""Corners: the soft dark where things stand close to each other."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Mottle, ToneTrace
from warmgraphite.specification import Colour


class Occlusion(ToneTrace):
    label: ClassVar[str] = "Corners"
    about: ClassVar[str] = "The soft dark of corners, where things stand close to each other."
    passes: ClassVar[tuple[str, ...]] = ("surface", "occlusion")

    kind: Literal["occlusion"] = "occlusion"
    colour: Colour = Field(default="#7a6552", title="Tone")
    mottle: Mottle = 0.2

    def share(self, plate: Plate) -> NDArray[np.uint8]:
        return np.asarray(plate.of("occlusion"))
