"""White card: the model as if made of card."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.colour import premultiplied
from warmgraphite.passes.pictures import white_card


class CardTrace(PixelTrace):
    label: ClassVar[str] = "White card"
    about: ClassVar[str] = (
        "The model as if made of white card, with its light; over other traces a white ghost of some parts."
    )
    passes: ClassVar[tuple[str, ...]] = ("surface", "light", "occlusion")

    kind: Literal["white-card"] = "white-card"

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        seen, lit = plate.surface, plate.light
        return premultiplied(white_card(seen.cover, seen.cap, lit.shade, lit.shadow, plate.of("occlusion")))
