"""Pixels as PNG."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from warmgraphite import MADE_BY
from warmgraphite.canvas.pixels import make_straight_rgba

__all__ = ["LARGE", "png_of"]

#: Pixels from which a picture is packed in haste.
LARGE = 20_000_000


def png_of(pixels: NDArray[np.uint8], resolution: float | None = None) -> bytes:
    """The file of (h, w, 4) pixels, premultiplied and in the library's order, which are made straight in place.
    ``resolution`` in pixels per inch is written into it.
    """
    make_straight_rgba(pixels)
    return packed(pixels, resolution)


def packed(straight: NDArray[np.uint8], resolution: float | None = None) -> bytes:
    """The file of (h, w, 4) straight pixels."""
    out = io.BytesIO()
    said: dict[str, Any] = {"dpi": (resolution, resolution)} if resolution else {}
    said["pnginfo"] = PngInfo()
    said["pnginfo"].add_text("Software", MADE_BY)
    # Of very large pictures the packing would take as long as all that was drawn; a little less of it saves half.
    level = 4 if straight.shape[0] * straight.shape[1] < LARGE else 1
    Image.fromarray(straight, "RGBA").save(out, "PNG", compress_level=level, **said)
    return out.getvalue()
