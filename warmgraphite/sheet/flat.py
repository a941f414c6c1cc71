"""Layers laid flat into pixels, tile by tile where they have some."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.pixels import ORDER, SkiaCanvas, raster_on
from warmgraphite.collage.adjusting import AdjustingTrace, adjust
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.stack import Layer, acting, draw_layers
from warmgraphite.progress import Progress, silent

__all__ = ["change_beneath", "laid_flat"]


def laid_flat(
    plate: Plate, laid: Sequence[Layer], size: tuple[int, int], watch: Progress = silent
) -> tuple[NDArray[np.uint8], SkiaCanvas]:
    """The pixels (h, w, 4) of layers, and the canvas that draws on them.
    They are at ``size`` = (width, height), premultiplied and in the library's order. ``watch`` is told the share that
    is laid, and may raise to stop.
    """
    pixels, canvas = raster_on(size, plate.frame)
    done = 0
    # What has no pixels is drawn at once, so that lines are no others where tiles meet; what has, run by run and tile
    # by tile.
    for has_pixels, run in groupby(laid, lambda layer: layer.has_pixels):
        rows = list(run)
        if not has_pixels or plate.tiles is None or plate.raster.size != size:
            _lay(pixels, canvas, rows, (0, 0, *size))
        else:
            area, laid_on = size[0] * size[1], 0
            for window, tile in plate.tiles():
                with canvas.window(*window):
                    _lay(pixels, canvas, [layer.on(tile) for layer in rows], window)
                laid_on += window[2] * window[3]
                watch((done + len(rows) * laid_on / area) / len(laid))
        done += len(rows)
        watch(done / len(laid))
    return pixels, canvas


def _lay(
    pixels: NDArray[np.uint8], canvas: SkiaCanvas, rows: Sequence[Layer], window: tuple[int, int, int, int]
) -> None:
    x, y, width, height = window
    for layer in rows:
        if not layer.adjusts:
            draw_layers(canvas, [layer])
            continue
        raster = layer.plate.raster
        found = share_of(layer)
        if raster.size != (pixels.shape[1], pixels.shape[0]):
            found = _resized(found, (width, height))
        else:
            left, top = x - raster.x, y - raster.y
            found = found[top : top + height, left : left + width]
        change_beneath(pixels[y : y + height, x : x + width], found, layer, (pixels.shape[1], pixels.shape[0]), (x, y))


def share_of(layer: Layer) -> NDArray[np.uint8]:
    """(h, w) how strongly an adjusting layer acts, of 255."""
    sheet = layer.trace
    assert isinstance(sheet, AdjustingTrace)
    return layer.plate.painted(lambda plate: np.repeat(acting(sheet, plate)[..., None], 4, axis=2))[..., 3]


def _resized(share: NDArray[np.uint8], size: tuple[int, int]) -> NDArray[np.uint8]:
    from PIL import Image

    return np.asarray(Image.fromarray(np.ascontiguousarray(share)).resize(size, Image.Resampling.BILINEAR))


def change_beneath(
    pixels: NDArray[np.uint8],
    share: NDArray[np.uint8],
    layer: Layer,
    size: tuple[int, int],
    corner: tuple[int, int] = (0, 0),
) -> None:
    """Let an adjusting layer change pixels, in the library's order, in place: within the margin, where it acts."""
    assert isinstance(layer.trace, AdjustingTrace)
    height, width = pixels.shape[:2]
    across, down = size[0] / layer.plate.frame[0], size[1] / layer.plate.frame[1]
    left, right = round(layer.margin * across) - corner[0], size[0] - round(layer.margin * across) - corner[0]
    top, bottom = round(layer.margin * down) - corner[1], size[1] - round(layer.margin * down) - corner[1]
    rows, columns = slice(max(top, 0), max(min(bottom, height), 0)), slice(max(left, 0), max(min(right, width), 0))
    if pixels[rows, columns].size:
        part = np.ascontiguousarray(pixels[rows, columns])
        adjust(part, share[rows, columns], layer.trace, layer.trace.opacity, ORDER)
        pixels[rows, columns] = part
