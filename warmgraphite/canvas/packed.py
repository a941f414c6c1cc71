"""Pictures as documents keep them: colours as JPEG, or without loss, and beside them how opaque each pixel is."""

from __future__ import annotations

import io
import zlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import distance_transform_edt

from warmgraphite.canvas.kernels.straight import block_means, made_smaller, straight_blocks

__all__ = ["LOSSLESS", "Packed", "pack", "without_bare_sides"]

#: The quality at which every pixel is kept as it is.
LOSSLESS = 100
#: Pixels of a side of the blocks that JPEG packs by themselves.
_BLOCK = 8
#: How far off, of 255, colours may be where there are fewer of them than pixels, and the share of pixels that may be
#: more so: washes and skies lose nothing at a half or a quarter of the size, where what ends sharply does so by how
#: opaque it is.
_OFF, _FEW = 8, 0.0005

Place = tuple[float, float, float, float]


@dataclass(frozen=True)
class Packed:
    """A picture of ``size`` = (width, height) pixels at a ``place``, x, y, width and height in millimetres.
    Its ``colour``, of ``colour_size`` pixels, packed by a ``filter`` of ISO 32000, and its ``alpha``, deflated;
    ``None`` where it is opaque.
    """

    size: tuple[int, int]
    place: Place
    colour_size: tuple[int, int]
    colour: bytes
    filter: str
    alpha: bytes | None


def without_bare_sides(pixels: NDArray[np.uint8], place: Place) -> tuple[NDArray[np.uint8], Place]:
    """What there is of a picture (h, w, 4), and where that lies of the rectangle that all of it is laid over."""
    x, y, width, height = place
    across, down = width / pixels.shape[1], height / pixels.shape[0]
    rows, columns = np.flatnonzero(pixels[..., 3].any(1)), np.flatnonzero(pixels[..., 3].any(0))
    if not len(rows):
        return pixels[:1, :1], (x, y, across, down)
    top, bottom, left, right = int(rows[0]), int(rows[-1]) + 1, int(columns[0]), int(columns[-1]) + 1
    kept = pixels[top:bottom, left:right]
    return kept, (x + left * across, y + top * down, (right - left) * across, (bottom - top) * down)


def pack(pixels: NDArray[np.uint8], place: Place, quality: int) -> Packed | None:
    """A premultiplied picture (h, w, 4) over a place, packed; ``None`` where all of it is bare."""
    pixels, place = without_bare_sides(pixels, place)
    alpha = np.ascontiguousarray(pixels[..., 3])
    if not alpha.any():
        return None
    opaque = bool((alpha == 255).all())
    colour = np.ascontiguousarray(pixels[..., :3]) if opaque else _straight(pixels)
    if quality >= LOSSLESS:
        data, how = zlib.compress(colour.tobytes(), 4), "FlateDecode"
    else:
        colour = _no_larger_than_seen(colour, alpha)
        out = io.BytesIO()
        Image.fromarray(colour, "RGB").save(out, "JPEG", quality=quality, subsampling=0)
        data, how = out.getvalue(), "DCTDecode"
    size, colour_size = ((rows.shape[1], rows.shape[0]) for rows in (alpha, colour))
    return Packed(size, place, colour_size, data, how, None if opaque else zlib.compress(alpha.tobytes(), 1))


def _no_larger_than_seen(colour: NDArray[np.uint8], alpha: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w, 3) straight colours, made smaller where nobody sees a difference.
    They are at a quarter or a half of their size, or as they are.
    """
    height, width = alpha.shape
    found = colour
    for by in (2, 4):
        small = np.empty((-(-height // by), -(-width // by), 3), np.uint8)
        off, seen = made_smaller(colour, alpha, by, _OFF, small)
        if off > _FEW * seen:
            break
        found = small
    return found


def _straight(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w, 3) the colours of a premultiplied picture.
    Where it is bare they go on: what is packed with loss has no seam there, and a reader that makes it smaller draws in
    nothing else.
    """
    height, width = pixels.shape[:2]
    means = np.zeros((-(-height // _BLOCK), -(-width // _BLOCK), 4), np.float32)
    block_means(pixels, _BLOCK, 0, len(means), means)
    bare = means[..., 3] == 0
    if bare.any():
        nearest = distance_transform_edt(bare, return_distances=False, return_indices=True)
        means = np.ascontiguousarray(means[tuple(nearest)])
    colour = np.empty((height, width, 3), np.uint8)
    straight_blocks(pixels, _BLOCK, 0, len(means), means, colour)
    return colour
