"""Cut-outs: the pictures of figures of one's own, in whatever finish they stand."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace

#: What the part of a figure is called that is a card.
CARD = "cut-out"


class CutOutsTrace(PixelTrace):
    label: ClassVar[str] = "Cut-outs"
    about: ClassVar[str] = "The pictures of figures of your own, where they are seen."
    passes: ClassVar[tuple[str, ...]] = ("surface", "colour")

    kind: Literal["cut-outs"] = "cut-outs"

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        cards = np.array([bool(p.figure) and p.name == CARD for p in plate.model.parts] + [False])
        found, seen = plate.of("colour"), plate.surface
        share = cards[seen.part].astype(np.float32)
        share.reshape(-1)[seen.edge_pixel] = cards[seen.edge_part].mean(1)
        # At its rim the picture has its own colour all the same, and not that of what lies beside it.
        own = found[..., :3].astype(np.float32) * share[..., None]
        return np.dstack([np.round(own), np.round(255 * share)]).astype(np.uint8)
