"""A stand-in for a telephone with a camera: it photographs a sheet of paper as people do.

The sheet lies crooked on a table, the light falls from one side and the hand that holds the telephone throws a shadow;
the lens darkens towards its corners and the sensor has noise; the file says when and where it was taken, and which way
up it was held.
"""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import skia
from numpy.typing import NDArray
from PIL import Image

from warmgraphite.canvas.pixels import skia_image
from warmgraphite.geometry.homography import homography
from warmgraphite.geometry.tolerances import FINEST

__all__ = ["Photograph", "photographed"]


@dataclass(frozen=True)
class Photograph:
    """A JPEG with what a telephone writes into it, and the truth.
    The ``corners`` (4, 2) of the sheet in shares of the picture as it is seen upright: top left, top right, bottom
    right, bottom left.
    """

    data: bytes
    corners: NDArray[np.float64]


def photographed(sheet: NDArray[np.uint8], seed: int = 1, size: tuple[int, int] = (4000, 3000)) -> Photograph:
    """A photograph of a ``sheet`` (h, w, 3 or 4) of ``size`` pixels; another ``seed`` is another one."""
    chance = np.random.default_rng([seed, 41])
    width, height = size
    paper = (
        sheet[..., :3]
        if sheet.shape[2] == 3
        else np.round(sheet[..., :3] * (sheet[..., 3:] / 255.0) + 255 - sheet[..., 3:])
    )
    aspect = paper.shape[0] / paper.shape[1]
    wide = min(0.8 * width, 0.8 * height / aspect)
    turn = np.radians(chance.uniform(-5, 5))
    lies = np.array([[-0.5, -0.5 * aspect], [0.5, -0.5 * aspect], [0.5, 0.5 * aspect], [-0.5, 0.5 * aspect]]) * wide
    lies = lies @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    lies += chance.uniform(-0.028, 0.028, (4, 2)) * wide + [width / 2, height / 2]
    matrix = homography(np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]]) * [paper.shape[1], paper.shape[0]], lies)
    seen = _on_a_table(np.asarray(np.clip(paper, 0, 255), np.uint8), matrix, size, chance)
    seen = _lit(seen, chance)
    seen += chance.standard_normal(seen.shape, np.float32) * np.float32(3.2)
    picture = Image.fromarray(np.clip(np.round(seen), 0, 255).astype(np.uint8))
    said = Image.Exif()
    # Held upright, and kept as the sensor lies: whoever opens it has to turn it.
    said[0x0112] = 6
    said[0x010F], said[0x0110], said[0x0132] = "Stand-in", "Pocket camera", "2025:05:14 17:32:08"
    said.get_ifd(0x8825).update({1: "N", 2: (47.0, 12.0, 30.0), 3: "E", 4: (8.0, 30.0, 5.0)})
    out = io.BytesIO()
    picture.transpose(Image.Transpose.ROTATE_90).save(out, "JPEG", quality=88, exif=said)
    return Photograph(out.getvalue(), lies / [width, height])


def _on_a_table(
    paper: NDArray[np.uint8], matrix: NDArray[np.float64], size: tuple[int, int], chance: np.random.Generator
) -> NDArray[np.float32]:
    """The sheet as the lens sees it, on a wooden table, a little soft."""
    width, height = size
    grain = np.repeat(chance.standard_normal((height // 4, 1), np.float32), 4, axis=0)
    grain = np.cumsum(grain, axis=0)[:height]
    grain = (grain - grain.mean()) / max(float(grain.std()), FINEST)
    table = np.clip(np.array([118, 84, 58], np.float32) + 9 * np.resize(grain, (height, 1))[..., None], 20, 200)
    pixels = np.empty((height, width, 4), np.uint8)
    pixels[..., :3] = np.broadcast_to(table, (height, width, 3))[..., ::-1]
    pixels[..., 3] = 255
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(width, height), pixels)
    canvas = surface.getCanvas()
    whole = np.dstack([paper, np.full(paper.shape[:2], 255, np.uint8)])
    image = skia_image(np.ascontiguousarray(whole)).withDefaultMipmaps()
    canvas.save()
    canvas.concat(skia.Matrix.MakeAll(*matrix.reshape(-1).tolist()))
    soft = skia.Paint(ImageFilter=skia.ImageFilters.DropShadow(14, 18, 22, 22, 0x90000000))
    canvas.drawRect(skia.Rect.MakeWH(paper.shape[1], paper.shape[0]), soft)
    smooth = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
    canvas.drawImage(image, 0, 0, smooth, skia.Paint(AntiAlias=True))
    canvas.restore()
    surface.flushAndSubmit()
    blurred = np.empty_like(pixels)
    other = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(width, height), blurred)
    focus = skia.Paint(ImageFilter=skia.ImageFilters.Blur(0.75, 0.75))
    other.getCanvas().drawImage(surface.makeImageSnapshot(), 0, 0, skia.SamplingOptions(), focus)
    other.flushAndSubmit()
    return np.asarray(blurred[..., 2::-1], np.float32)


def _lit(seen: NDArray[np.float32], chance: np.random.Generator) -> NDArray[np.float32]:
    """In the light of a room.
    Warm, from one side, darker in the lens's corners, with the shadow of a hand across one end.
    """
    height, width = seen.shape[:2]
    x, y = np.linspace(-1, 1, width, dtype=np.float32)[None], np.linspace(-1, 1, height, dtype=np.float32)[:, None]
    way = chance.uniform(0, 2 * np.pi)
    level = 0.82 + 0.2 * (np.float32(np.cos(way)) * x + np.float32(np.sin(way)) * y)
    level *= 1 - 0.16 * (x * x + y * y) / 2
    hx, hy = chance.uniform(-0.7, 0.7), chance.choice([-1.0, 1.0]) * chance.uniform(0.7, 1.0)
    hand = np.exp(-(((x - np.float32(hx)) / 0.55) ** 2) - ((y - np.float32(hy)) / 0.4) ** 2)
    level *= 1 - 0.34 * hand
    found = seen * level[..., None]
    found *= np.array([1.02, 0.97, 0.88], np.float32)
    return np.asarray(found, np.float32)
