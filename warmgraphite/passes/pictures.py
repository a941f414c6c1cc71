"""Pictures that are made of other passes: white card, depth as grey and in bands, normals as colour."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH
from warmgraphite.passes.footing import Footing
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import BAND, SUBSAMPLES, Surface, pixel_points
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Depth

__all__ = ["NOTHING", "depth_bands", "depth_grey", "depth_range", "normals", "white_card"]

#: The grey of a 16-bit depth picture where nothing is seen.
NOTHING = 65535

#: How dark shade, cast shadow and corners are on white card.
SHADE, SHADOW, CORNERS = 0.42, 0.55, 0.70
CARD = (247, 244, 237)


def white_card(
    cover: NDArray[np.uint8],
    cap: NDArray[np.uint8],
    shade: NDArray[np.uint8],
    shadow: NDArray[np.uint8],
    dark: NDArray[np.uint8],
) -> NDArray[np.uint8]:
    """(h, w, 4) the model as if made of white card, from its passes (h, w); cut faces stay blank.
    Colour is straight.
    """
    out = np.empty((*cover.shape, 4), np.uint8)
    for first in range(0, len(cover), 256):
        rows = np.s_[first : first + 256]
        light = np.ones(cover[rows].shape, np.float32)
        for share, much in ((shade, SHADE), (shadow, SHADOW), (dark, CORNERS)):
            light *= 1 - np.float32(much / 255) * share[rows]
        # Shares are of the whole pixel; what is cut or bare of it is white.
        light = np.maximum(light, cap[rows] / np.float32(255))
        out[rows][..., :3] = np.round(np.array(CARD, np.float32) * light[..., None])
        out[rows][..., 3] = cover[rows]
    return out


def depth_range(distance: NDArray[np.float32], asked: Depth) -> tuple[float, float, float]:
    """Where depth counts from, and the near and far that the picture spans from there on.
    It counts in metres from the viewer to what is nearest.
    """
    start, last = np.inf, -np.inf
    for rows in np.array_split(distance, max(1, distance.size // (1 << 22)), axis=0):
        seen = rows[np.isfinite(rows)]
        if len(seen):
            start, last = min(start, float(seen.min())), max(last, float(seen.max()))
    if not np.isfinite(start):
        start, last = 0.0, 1.0
    near = 0.0 if asked.near is None else asked.near
    far = max(last - start, near + NEAR) if asked.far is None else asked.far
    return start, near, max(far, near + NEAR)


def _shares(distance: NDArray[np.float32], span: tuple[float, float, float]) -> NDArray[np.float32]:
    start, near, far = span
    return np.clip((distance - np.float32(start + near)) / np.float32(far - near), 0, 1)


def depth_grey(distance: NDArray[np.float32], span: tuple[float, float, float]) -> NDArray[np.uint16]:
    """(h, w) 16-bit grey from 0 (near) to 65534 (far); :data:`NOTHING` where nothing is seen."""
    grey = np.full(distance.shape, NOTHING, np.uint16)
    for first in range(0, len(distance), 256):
        rows = distance[first : first + 256]
        seen = np.isfinite(rows)
        grey[first : first + 256][seen] = np.round(_shares(rows[seen], span) * (NOTHING - 1))
    return grey


def depth_bands(distance: NDArray[np.float32], span: tuple[float, float, float], bands: int) -> NDArray[np.uint8]:
    """(h, w) the number of the band of depth, from 1 (near) to ``bands``; 0 where nothing is seen."""
    found = np.zeros(distance.shape, np.uint8)
    seen = np.isfinite(distance)
    found[seen] = 1 + np.minimum((_shares(distance[seen], span) * bands).astype(np.uint8), bands - 1)
    return found


def normals(scene: Scene, hiders: Occluders, seen: Surface) -> NDArray[np.uint8]:
    """(h, w, 4) which way each surface faces in the model.
    X, y, z from −1 to 1 as red, green, blue from 0 to 255, straight.
    """
    width, height = seen.size
    footing = Footing(scene, hiders, np.zeros(3))
    is_cap = hiders.source < 0
    out = np.empty((height * width, 4), np.uint8)
    away = -scene.projection.sight

    def of(points: NDArray, triangle: NDArray) -> NDArray[np.float32]:
        _, _, bent, good = footing.at(points, triangle)
        cut = np.flatnonzero((triangle >= 0) & is_cap[triangle])
        face = hiders.normal[triangle[cut]]
        bent[cut] = face * np.where(face @ away < 0, -1.0, 1.0)[:, None]
        good[cut] = True
        size = np.linalg.norm(bent, axis=1, keepdims=True)
        return np.where(good[:, None], bent / np.maximum(size, NO_LENGTH), np.float32(0))

    def band(first: int, last: int) -> None:
        found = of(pixel_points(scene, seen.raster, np.arange(first, last)), seen.triangle.reshape(-1)[first:last])
        out[first:last, :3] = np.round((found + 1) * 127.5)

    in_stretches(band, width * height, BAND)
    samples = len(SUBSAMPLES)

    def fine(first: int, last: int) -> None:
        which, sub = np.divmod(np.arange(first * samples, last * samples), samples)
        points = pixel_points(scene, seen.raster, seen.edge_pixel[which], SUBSAMPLES[sub])
        found = of(points, seen.edge_triangle[which, sub]).reshape(-1, samples, 3).sum(1)
        size = np.maximum(np.linalg.norm(found, axis=1, keepdims=True), NO_LENGTH)
        out[seen.edge_pixel[first:last], :3] = np.round((found / size + 1) * 127.5)

    in_stretches(fine, len(seen.edge_pixel), BAND // samples)
    out[:, 3] = seen.cover.reshape(-1)
    return out.reshape(height, width, 4)
