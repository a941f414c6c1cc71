"""Pictures laid into pixels, as smooth as they are small and as large as they are wanted."""

from __future__ import annotations

import numpy as np
import skia
from numpy.typing import NDArray

from warmgraphite.canvas.pixels import ORDER, skia_image
from warmgraphite.colour import premultiplied
from warmgraphite.memory import Store

__all__ = ["laid_picture"]

#: Pictures as they are laid, with smaller ones of each.
_images: Store[tuple[NDArray[np.uint8], skia.Image]] = Store("pictures")


def laid_picture(
    pixels: NDArray[np.uint8],
    x: NDArray[np.floating],
    y: NDArray[np.floating],
    box: tuple[float, float, float, float],
    matrix: NDArray[np.float64] | None = None,
) -> NDArray[np.uint8]:
    """(len(y), len(x), 4) premultiplied.
    A straight picture over a ``box`` of x, y, width and height, at evenly spaced places; a height below zero goes up
    with y. ``matrix`` (3, 3) moves it there by a perspective instead, from pixels of the picture.
    """
    out = np.zeros((len(y), len(x), 4), np.uint8)
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(len(x), len(y)), out)
    target = surface.getCanvas()
    step = [float(p[-1] - p[0]) / max(len(p) - 1, 1) or 1.0 for p in (x, y)]
    target.translate(0.5 - float(x[0]) / step[0], 0.5 - float(y[0]) / step[1])
    target.scale(1 / step[0], 1 / step[1])
    if matrix is None:
        across, down = box[2] / pixels.shape[1], box[3] / pixels.shape[0]
        matrix = np.array([[across, 0, box[0]], [0, down, box[1]], [0, 0, 1.0]])
    target.concat(skia.Matrix.MakeAll(*matrix.reshape(-1).tolist()))
    # The picture itself is held with what is made of it, so that its address is nobody else's meanwhile.
    _, image = _images.get(
        (pixels.ctypes.data, pixels.shape),
        lambda: (pixels, skia_image(np.ascontiguousarray(premultiplied(pixels))).withDefaultMipmaps()),
    )
    target.drawImage(image, 0, 0, skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear))
    surface.flushAndSubmit()
    return np.ascontiguousarray(out[..., [*ORDER, 3]])
