"""What every format says of itself."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from PIL import Image
from PIL.ExifTags import Base

from warmgraphite import MADE_BY
from warmgraphite.canvas.pixels import make_straight_rgba
from warmgraphite.errors import OutputError
from warmgraphite.out.leaf import Leaf, Pixels
from warmgraphite.out.settings import OutSettings
from warmgraphite.view.frame import refuse_pixels

__all__ = ["MOST_WRITTEN", "About", "Format", "made_by", "on_white", "straight_pixels"]

#: Pixels of a picture that is written: A0 at 300 to the inch, and a little more.
MOST_WRITTEN = 150_000_000

#: What a person may say of a file.
Option = Literal["layers", "archival", "text", "quality", "paper"]


@dataclass(frozen=True)
class About:
    """What a file says of itself."""

    title: str
    subject: str = ""
    keywords: tuple[str, ...] = ()


@dataclass(frozen=True)
class Format:
    """A format.
    The ``ending`` of its files, what it is called and good for, and ``write``, which makes the file's content. It
    ``is_pixels`` alone, or has vectors; it may hold ``many`` pages.
    """

    ending: str
    label: str
    about: str
    order: int
    write: Callable[[Sequence[Leaf], OutSettings, About], bytes]
    is_pixels: bool
    many: bool = False
    options: tuple[Option, ...] = ("paper",)


def made_by() -> Image.Exif:
    """What a picture says in its Exif of the program that wrote it."""
    said = Image.Exif()
    said[Base.Software] = MADE_BY
    return said


def straight_pixels(leaf: Leaf, settings: OutSettings, most_side: int = 0, what: str = "") -> Pixels:
    """The pixels (h, w, 4) of a page, red, green, blue and alpha.
    Raises :class:`OutputError` for more than can be written; ``most_side`` is how many a file that is called ``what``
    can have along a side.
    """
    size = leaf.pixels_at(settings.resolution)
    refuse_pixels(*size, MOST_WRITTEN, settings.resolution)
    if most_side and max(size) > most_side:
        fits = int(settings.resolution * most_side / max(size))
        raise OutputError(
            f"{what} holds {most_side:,} pixels along a side, and this would have {max(size):,}; write it at {fits} "
            f"dpi, or as PNG or TIFF."
        )
    found = leaf.pixels(size)
    make_straight_rgba(found)
    return found


def on_white(straight: Pixels) -> Pixels:
    """(h, w, 3) pixels laid on white, a few rows at a time."""
    out = np.empty((*straight.shape[:2], 3), np.uint8)
    for first in range(0, len(straight), 256):
        rows = straight[first : first + 256].astype(np.uint16)
        alpha = rows[..., 3:]
        out[first : first + 256] = (rows[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255
    return out
