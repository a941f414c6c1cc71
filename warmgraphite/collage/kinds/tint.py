"""Material tint: each material's own colour."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace


class Tint(PixelTrace):
    label: ClassVar[str] = "Material tint"
    about: ClassVar[str] = "Each material's own colour, laid on thinly. Never on what is cut."
    passes: ClassVar[tuple[str, ...]] = ("surface", "colour")

    kind: Literal["tint"] = "tint"

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        bare = 1 - plate.surface.cap.astype(np.float32) / 255
        return np.round(plate.of("colour") * bare[..., None]).astype(np.uint8)
