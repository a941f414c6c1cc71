"""Colour of materials as it is without light: plain, or from a picture at its real size.

A picture lies by the texture coordinates of the file where it gave any; else it is laid on the planes of the faces,
level on walls, upright as the building is. Where a pixel is wider than a texel, a picture halved so often is taken, so
that nothing flickers between pixels.
"""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from warmgraphite.colour import channels
from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.model.bodies import Bodies
from warmgraphite.model.palette import Material
from warmgraphite.passes.kernels.textures import Pictures, Seen, paint
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import BAND, SUBSAMPLES, Surface, pixel_points
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene

__all__ = ["Painted", "colour", "palette_of"]

LEVELS = 12


def palette_of(looks: tuple[Material, ...]) -> NDArray[np.float32]:
    """(M, 4) colours of materials, opaque, 0–255."""
    return np.array([[*channels(m.colour), 255] for m in looks], np.float32).reshape(-1, 4)


@dataclass(frozen=True)
class Painted:
    """The materials as they are shown, by their numbers, and their pictures, encoded, by name."""

    looks: tuple[Material, ...]
    textures: Mapping[str, bytes]


class _Pictures:
    """The pictures of a model's materials with their halves, made ready for the loop."""

    def __init__(self, bodies: Bodies, hiders: Occluders, painted: Painted) -> None:
        looks, mesh = painted.looks, bodies.mesh
        used = np.unique(bodies.material[hiders.part])
        names = [m for m in used if looks[m].texture in painted.textures]
        decoded = [self._decoded(painted.textures[looks[m].texture]) for m in names]
        self.any = any(d is not None for d in decoded)
        number = np.full(len(looks), -1, np.int32)
        texels: list[NDArray] = []
        offsets: list[list[int]] = []
        shapes: list[list[tuple[int, ...]]] = []
        sizes: list[tuple[float, float]] = []
        at = 0
        for m, picture in zip(names, decoded, strict=True):
            if picture is None:
                continue
            number[m] = len(sizes)
            sizes.append(looks[m].size)
            rows, starts = [], []
            for _ in range(LEVELS):
                rows.append(picture.shape[:2])
                starts.append(at)
                texels.append(picture.reshape(-1, 4))
                at += len(texels[-1])
                picture = _halved(picture)
            offsets.append(starts)
            shapes.append(rows)
        self.picture = number[bodies.material[hiders.part]]
        if not self.any:
            return
        self.sizes = np.array(sizes, float)
        self.offsets, self.shapes = np.array(offsets, np.int64), np.array(shapes, np.int64)
        self.texels = np.concatenate(texels)
        self.corner = mesh.vertices[mesh.triangles]
        self.uv = mesh.uv if mesh.uv is not None else np.zeros((1, 3, 2), np.float32)
        has = np.ptp(self.uv, axis=1).any(1) if mesh.uv is not None else np.zeros(len(mesh.triangles), bool)
        self.has_uv = np.ascontiguousarray(has)
        self.axes = self._axes(hiders.normal)

    @staticmethod
    def _decoded(data: bytes) -> NDArray[np.float32] | None:
        try:
            with Image.open(io.BytesIO(data)) as image:
                picture = np.asarray(image.convert("RGBA"), np.float32)
        except (OSError, ValueError, Image.DecompressionBombError):
            return None  # the material keeps its plain colour
        return np.concatenate([picture[..., :3] * (picture[..., 3:] / 255), picture[..., 3:]], -1)

    @staticmethod
    def _axes(normal: NDArray[np.float64]) -> NDArray[np.float64]:
        """(T, 2, 3) across and up in each plane: level on walls; on floors along the model's own axes."""
        across = np.cross([0.0, 0.0, 1.0], normal)
        size = np.linalg.norm(across, axis=1, keepdims=True)
        across = np.where(size > 0.05, across / np.maximum(size, NO_LENGTH), [1.0, 0.0, 0.0])
        up = np.cross(normal, across)
        up *= np.where((up[:, 2:] < 0) | ((np.abs(up[:, 2:]) < ROUNDING) & (up[:, 1:2] < 0)), -1.0, 1.0)
        return np.stack([across, up], 1)


def _halved(picture: NDArray[np.float32]) -> NDArray[np.float32]:
    height, width = picture.shape[:2]
    rows, columns = max(height // 2, 1), max(width // 2, 1)
    tall = picture[: rows * 2].reshape(rows, -1, width, 4).mean(1) if height > 1 else picture
    return tall[:, : columns * 2].reshape(rows, columns, -1, 4).mean(2) if width > 1 else tall


def colour(
    scene: Scene, hiders: Occluders, seen: Surface, painted: Painted, progress: Progress = silent
) -> NDArray[np.uint8]:
    """(h, w, 4) material colour of what is seen, premultiplied."""
    width, height = seen.size
    flat = palette_of(painted.looks)[scene.bodies.material[hiders.part]]
    pictures = _Pictures(scene.bodies, hiders, painted)
    inverse = np.asarray(np.linalg.inv(scene.projection.matrix), np.float64)
    across, down = seen.raster.size
    pixel = np.array([scene.projection.width / across, scene.projection.height / down])
    out = np.empty((height * width, 4), np.uint8)

    uv = np.ascontiguousarray(pictures.uv) if pictures.any else np.zeros((1, 3, 2), np.float32)

    def of(points: NDArray, triangle: NDArray) -> NDArray[np.float32]:
        found = np.where(triangle[:, None] < 0, np.float32(0), flat[triangle])
        if pictures.any:
            p = pictures
            # What of a picture is clear shows the material's plain colour.
            laid = found.copy()
            looked = Seen(hiders.forms, hiders.source, inverse, pixel)
            laid_on = Pictures(p.picture, p.corner, uv, p.has_uv, p.axes, p.sizes, p.offsets, p.shapes, p.texels)
            paint(points, triangle, looked, laid_on, laid)
            found = laid + found * (1 - laid[:, 3:] / 255)
        return found

    def band(first: int, last: int) -> None:
        points = pixel_points(scene, seen.raster, np.arange(first, last))
        out[first:last] = np.round(of(points, seen.triangle.reshape(-1)[first:last]))

    in_stretches(band, width * height, BAND, part_of(progress, 0.0, 0.7))
    samples = len(SUBSAMPLES)

    def fine(first: int, last: int) -> None:
        which, sub = np.divmod(np.arange(first * samples, last * samples), samples)
        points = pixel_points(scene, seen.raster, seen.edge_pixel[which], SUBSAMPLES[sub])
        found = of(points, seen.edge_triangle[which, sub]).reshape(-1, samples, 4)
        out[seen.edge_pixel[first:last]] = np.round(found.mean(1))

    in_stretches(fine, len(seen.edge_pixel), BAND // samples, part_of(progress, 0.7, 1.0))
    return out.reshape(height, width, 4)
