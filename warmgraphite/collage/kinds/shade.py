"""Shade: the tone of surfaces by how they face the sun."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import ToneTrace
from warmgraphite.specification import Colour


class Shade(ToneTrace):
    label: ClassVar[str] = "Shade"
    about: ClassVar[str] = "The tone of surfaces by how they face the sun."
    passes: ClassVar[tuple[str, ...]] = ("surface", "light")

    kind: Literal["shade"] = "shade"
    colour: Colour = Field(default="#83705c", title="Tone")

    def share(self, plate: Plate) -> NDArray[np.uint8]:
        return plate.light.shade
