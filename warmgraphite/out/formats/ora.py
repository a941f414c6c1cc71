"""OpenRaster 0.0.6.
Every trace as a picture that lies on the others, with its name, opacity and blend mode, and all merged.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from xml.sax.saxutils import quoteattr

import numpy as np
from PIL import Image

from warmgraphite import MADE_BY
from warmgraphite.canvas.pixels import make_straight_rgba, raster_on
from warmgraphite.out.format import MOST_WRITTEN, About, Format
from warmgraphite.out.leaf import Leaf, Pixels
from warmgraphite.out.png import packed
from warmgraphite.out.settings import OutSettings
from warmgraphite.specification import tidy
from warmgraphite.view.frame import refuse_pixels

#: Pixels of the longer side of the small picture.
_SMALL = 256


def _cropped(found: Pixels) -> tuple[int, int, Pixels]:
    """Left, top and the pixels of what there is of a picture."""
    rows, columns = np.flatnonzero(found[..., 3].any(1)), np.flatnonzero(found[..., 3].any(0))
    if not len(rows):
        return 0, 0, found[:1, :1]
    return int(columns[0]), int(rows[0]), found[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]


def _write(leaves: Sequence[Leaf], settings: OutSettings, _about: About) -> bytes:
    leaf, resolution = leaves[0], settings.resolution
    size = leaf.pixels_at(resolution)
    refuse_pixels(*size, MOST_WRITTEN, resolution)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:  # pictures are packed already
        file.writestr("mimetype", "image/openraster")
        rows = []
        for number, sheet in enumerate(leaf.sheets()):
            pixels, canvas = raster_on(size, leaf.size)
            sheet.draw(canvas)
            make_straight_rgba(pixels)
            left, top, kept = _cropped(pixels)
            name = f"data/{number:03d}.png"
            file.writestr(name, packed(np.ascontiguousarray(kept)))
            mode = "src-over" if sheet.blend == "normal" else sheet.blend
            rows.append(
                f'<layer name={quoteattr(str(tidy(sheet.name)))} src="{name}" x="{left}" y="{top}" '
                f'opacity="{sheet.opacity:.4f}" '
                f'visibility="visible" composite-op="svg:{mode}"/>'
            )
        # The uppermost stands first.
        stack = "\n".join(reversed(rows))
        across, down = size
        file.writestr(
            "stack.xml",
            f'<?xml version="1.0" encoding="UTF-8"?>\n<image version="0.0.6" w="{across}" h="{down}" '
            f'xres="{round(resolution)}" '
            f'yres="{round(resolution)}">\n<!-- {MADE_BY} -->\n<stack>\n{stack}\n</stack>\n</image>\n',
        )
        merged = leaf.pixels(size)
        make_straight_rgba(merged)
        file.writestr("mergedimage.png", packed(merged, resolution))
        small = Image.fromarray(merged, "RGBA")
        small.thumbnail((_SMALL, _SMALL))
        picture = io.BytesIO()
        small.save(picture, "PNG")
        file.writestr("Thumbnails/thumbnail.png", picture.getvalue())
    return out.getvalue()


FORMAT = Format(
    "ora",
    "OpenRaster",
    "Every trace as a layer with its name, blend mode and opacity, for a painting program.",
    7,
    _write,
    is_pixels=True,
)
