"""Normals: which way each surface faces, as colour, for those who light it anew elsewhere."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.colour import premultiplied


class Normals(PixelTrace):
    label: ClassVar[str] = "Normals"
    about: ClassVar[str] = "Which way each surface faces: x, y, z as red, green, blue."
    passes: ClassVar[tuple[str, ...]] = ("surface", "normals")

    kind: Literal["normals"] = "normals"

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        return premultiplied(plate.of("normals"))
