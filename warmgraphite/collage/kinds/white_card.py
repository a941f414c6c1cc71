"""White card: the model as if made of card."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.passes.pictures import white_card


class CardTrace(PixelTrace):
    label: ClassVar[str] = "White card"
    about: ClassVar[str] = "The model as if made of white card, with its light; over other traces a white ghost of some parts."
    passes: ClassVar[tuple[str, ...]] = ("surface", "light", "occlusion")

    kind: Literal["white-card"] = "white-card"

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        t = plate.tones
        dark = t.occlusion if t.occlusion is not None else np.zeros_like(t.cap)
        found = white_card(t.cover, t.cap, t.shade, t.shadow, dark)
        found[..., :3] = (found[..., :3].astype(np.uint16) * found[..., 3:] + 127) // 255
        return found
