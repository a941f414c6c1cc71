"""JPEG (ISO/IEC 10918): small, without alpha: what is bare is white."""

from __future__ import annotations

import io
from collections.abc import Sequence

from PIL import Image

from warmgraphite.out.format import About, Format, made_by, on_white, straight_pixels
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.settings import OutSettings


def _write(leaves: Sequence[Leaf], settings: OutSettings, _about: About) -> bytes:
    out = io.BytesIO()
    found = on_white(straight_pixels(leaves[0], settings, 65_500, "JPEG"))
    dpi = (round(settings.resolution),) * 2
    Image.fromarray(found, "RGB").save(out, "JPEG", quality=settings.quality, subsampling=0, dpi=dpi, exif=made_by())
    return out.getvalue()


FORMAT = Format(
    "jpg",
    "JPEG",
    "Small, for mail and pages; what is bare is white.",
    5,
    _write,
    is_pixels=True,
    options=("paper", "quality"),
)
