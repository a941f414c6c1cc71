"""WebP: smaller than JPEG, with alpha, for pages."""

from __future__ import annotations

import io
from collections.abc import Sequence

from PIL import Image

from warmgraphite.out.format import About, Format, made_by, straight_pixels
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.settings import OutSettings


def _write(leaves: Sequence[Leaf], settings: OutSettings, _about: About) -> bytes:
    out = io.BytesIO()
    found = Image.fromarray(straight_pixels(leaves[0], settings, 16_383, "WebP"), "RGBA")
    # The full quality is without loss.
    exact = settings.quality == 100
    found.save(out, "WEBP", quality=settings.quality, lossless=exact, method=3, exact=exact, exif=made_by())
    return out.getvalue()


FORMAT = Format(
    "webp",
    "WebP",
    "Small, for pages, with what is transparent.",
    6,
    _write,
    is_pixels=True,
    options=("paper", "quality"),
)
