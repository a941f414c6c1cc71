"""Adjusting sheets: they change what lies beneath them, where they are confined to, and leave it as it was.

Each changes one colour into another, whatever lies around it. What a kind does is a function of straight sRGB from 0 to
1.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.colour import luminance
from warmgraphite.needs import Need
from warmgraphite.threads import in_stretches

__all__ = ["AdjustingTrace", "Colours", "adjust", "grey_of"]

Colours = NDArray[np.float32]


class AdjustingTrace(PixelTrace):
    """A sheet that changes what lies beneath it."""

    acts_on: Literal["all beneath", "the sheet beneath"] = Field(default="all beneath", title="Acts on")

    def own_needs(self) -> tuple[Need, ...]:
        # The sheet beneath may be one of lines: then it is told apart by the region's outline.
        room = self.where is not None and self.acts_on == "the sheet beneath"
        return (*super().own_needs(), *((Need("room", self.where),) if room else ()))

    def change(self, colours: Colours) -> Colours:
        """(N, 3) colours 0–1 as they become; they are not changed in place."""
        raise NotImplementedError

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        """(h, w, 4) white, as opaque as it acts."""
        return np.full((plate.raster.height, plate.raster.width, 4), 255, np.uint8)


def grey_of(colours: Colours) -> Colours:
    """(N, 1) how light colours (N, 3) are."""
    return luminance(colours)[:, None]


def adjust(
    pixels: NDArray[np.uint8],
    share: NDArray[np.uint8] | None,
    trace: AdjustingTrace,
    opacity: float,
    order: tuple[int, ...] = (0, 1, 2),
) -> None:
    """Change premultiplied ``pixels`` (h, w, 4) in place by what a sheet does.
    As strongly as ``opacity`` times ``share`` (h, w) says. ``order`` is where red, green and blue stand.
    """
    channels = list(order)

    def rows(first: int, last: int) -> None:
        part = pixels[first:last]
        flat = part[..., channels].reshape(-1, 3).astype(np.float32)
        alpha = part[..., 3].reshape(-1, 1).astype(np.float32)
        straight = np.clip(flat / np.maximum(alpha, np.float32(1)), 0, 1).astype(np.float32)
        strength = (
            np.float32(opacity) if share is None else share[first:last].reshape(-1, 1) * np.float32(opacity / 255)
        )
        changed = straight + strength * (np.clip(trace.change(straight), 0, 1) - straight)
        part[..., channels] = np.round(changed * alpha).reshape(*part.shape[:2], 3).astype(np.uint8)

    in_stretches(rows, len(pixels), 48)
