"""TIFF 6.0: pixels without loss, with alpha, for printers."""

from __future__ import annotations

import io
from collections.abc import Sequence

from PIL import Image

from warmgraphite import MADE_BY
from warmgraphite.out.format import About, Format, straight_pixels
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.settings import OutSettings

#: Extra samples that are alpha which the colours are not multiplied by.
_EXTRA_SAMPLES, _UNASSOCIATED = 338, 2


def _write(leaves: Sequence[Leaf], settings: OutSettings, about: About) -> bytes:
    out = io.BytesIO()
    picture = Image.fromarray(straight_pixels(leaves[0], settings), "RGBA")
    picture.save(
        out, "TIFF", compression="tiff_lzw", dpi=(settings.resolution,) * 2, tiffinfo={_EXTRA_SAMPLES: _UNASSOCIATED},
        software=MADE_BY, description=about.title.encode("ascii", "replace").decode(),
    )  # fmt: skip
    return out.getvalue()


FORMAT = Format("tiff", "TIFF", "Pixels without loss, with alpha, as printers take them.", 4, _write, is_pixels=True)
