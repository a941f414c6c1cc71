"""Light from one sun: cast shadow by rays towards it, and shade by how a surface faces it.

Cast shadow lies where a surface faces the sun and something stands between. Shade is the tone of orientation: none
where the sun falls straight on, and growing to full where the surface turns away. Glass casts nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.model.welding import weld
from warmgraphite.passes.edges import CREASE_ANGLE, ByVersion
from warmgraphite.passes.kernels.pixels import lit_points, rim_pixels
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import BAND, SUBSAMPLES, Surface, pixel_points
from warmgraphite.progress import Progress, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Sun

__all__ = ["Light", "light", "to_sun"]


@dataclass(frozen=True)
class Light:
    """(h, w) uint8: ``shadow`` the share of the pixel in cast shadow, ``shade`` its tone of orientation, 255 full."""

    shadow: NDArray[np.uint8]
    shade: NDArray[np.uint8]


def to_sun(sun: Sun) -> NDArray[np.float64]:
    """Unit vector towards the sun: azimuth clockwise from north (+Y), altitude above the horizon."""
    azimuth, altitude = np.radians(sun.azimuth), np.radians(sun.altitude)
    return np.array([np.sin(azimuth) * np.cos(altitude), np.cos(azimuth) * np.cos(altitude), np.sin(altitude)])


@lru_cache(maxsize=4)
def _corner_normals(key: ByVersion) -> NDArray[np.float32]:
    """(T, 3, 3) normals at corners, averaged over neighbours that bend less than a crease: curves shade smoothly."""
    model: Model = key.model
    corners = model.vertices[model.triangles]
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    unit = area / np.maximum(np.linalg.norm(area, axis=1, keepdims=True), 1e-30)
    welded = weld(model).ravel()
    order = np.argsort(welded, kind="stable")
    sizes = np.bincount(welded)
    starts = np.cumsum(sizes) - sizes
    out = np.zeros((len(welded), 3))
    limit = np.cos(np.radians(CREASE_ANGLE * 1.5))
    own = np.repeat(np.arange(len(corners)), 3)
    for k in range(int(min(sizes.max(), 32))):
        # The k-th face about each corner's vertex, where there are so many.
        has = np.flatnonzero(sizes[welded] > k)
        other = order[starts[welded[has]] + k] // 3
        close = (unit[own[has]] * unit[other]).sum(1) > limit
        out[has[close]] += area[other[close]]
    length = np.linalg.norm(out, axis=1, keepdims=True)
    out = np.where(length > 1e-30, out / np.maximum(length, 1e-30), unit[own])
    return out.reshape(-1, 3, 3).astype(np.float32)


class _Casters:
    """Triangles made ready for rays. The caster works in single precision, hence coordinates about ``middle``."""

    def __init__(self, corners: NDArray[np.float64]) -> None:
        self.middle = corners.reshape(-1, 3).mean(0) if len(corners) else np.zeros(3)
        self.scene = EmbreeScene() if len(corners) else None
        if self.scene is not None:
            TriangleMesh(self.scene, np.ascontiguousarray(corners - self.middle, dtype=np.float32))

    def block(self, start: NDArray[np.float32], ray: NDArray[np.float64]) -> NDArray[np.bool_]:
        """(N,) whether anything lies along the one direction from points (N, 3) about the middle."""
        if self.scene is None or not len(start):
            return np.zeros(len(start), bool)
        away = np.ascontiguousarray(np.broadcast_to(ray.astype(np.float32), start.shape))
        return self.scene.run(start, away, query="OCCLUDED") >= 0


def light(scene: Scene, hiders: Occluders, seen: Surface, sun: Sun, progress: Progress = silent) -> Light:
    """Shadow and shade of what ``seen`` holds, under ``sun``."""
    height, width = seen.triangle.shape
    size = (width, height)
    casters = _Casters(hiders.corners[~hiders.pane])
    ray = to_sun(sun)
    inverse = np.linalg.inv(scene.projection.matrix)
    central = scene.projection.eye is not None
    eye = scene.projection.eye if scene.projection.eye is not None else np.zeros(3)
    model_corner = scene.model.vertices[scene.model.triangles]
    smooth = _corner_normals(ByVersion(scene.model))
    lift = max(20 * scene.slack, 1e-3)

    def of(points: NDArray, triangle: NDArray) -> tuple[NDArray, NDArray]:
        start, facing, tone = lit_points(
            points, triangle, hiders.frame, hiders.normal, hiders.source, inverse, eye, scene.projection.sight, central,
            model_corner, smooth, ray, lift, casters.middle,
        )  # fmt: skip
        seen_here = facing > -1.5
        if sun.altitude <= 0:
            # The sun is down: nothing is lit, and nothing casts.
            return np.zeros(len(points), bool), np.where(seen_here, np.float32(0.62), np.float32(0))
        shade = np.where(tone > 0, 0.62 * (1 - tone), 0.62 - 0.30 * tone).astype(np.float32)
        shadow = np.zeros(len(points), bool)
        rows = np.flatnonzero(facing > 1e-4)
        shadow[rows] = casters.block(start[rows], ray)
        return shadow, np.where(seen_here, np.clip(shade, 0, 1), np.float32(0))

    triangle = seen.triangle.ravel()
    share = width * height / max(1, width * height + seen.edge_triangle.size)
    rows = in_stretches(
        lambda i, j: of(pixel_points(scene, size, np.arange(i, j)), triangle[i:j]),
        width * height,
        BAND,
        lambda f: progress(f * share),
    )
    shadow, shade = (np.concatenate(c).astype(np.float32) for c in zip(*rows, strict=True))

    # Where the shadow's own edge runs across one surface, the surface pass has no subsamples: take them now.
    picture = shadow.reshape(height, width) > 0
    rim = rim_pixels(picture.astype(np.int64), seen.triangle, hiders.normal, np.inf)
    rim.ravel()[seen.edge_pixel] = False
    soft = np.flatnonzero(rim)
    pixels = np.concatenate([seen.edge_pixel, soft])
    fine = np.concatenate([seen.edge_triangle, np.repeat(triangle[soft][:, None], len(SUBSAMPLES), 1)])

    def subsamples(first: int, last: int) -> tuple[NDArray, NDArray]:
        which, sub = np.divmod(np.arange(first, last), len(SUBSAMPLES))
        return of(pixel_points(scene, size, pixels[which], SUBSAMPLES[sub]), fine[which, sub])

    rows = in_stretches(subsamples, fine.size, BAND, lambda f: progress(share + f * (1 - share)))
    shadow[pixels] = np.concatenate([r[0] for r in rows]).reshape(fine.shape).mean(1)
    shade[pixels] = np.concatenate([r[1] for r in rows]).reshape(fine.shape).mean(1)
    progress(1.0)
    return Light(
        np.round(shadow * 255).astype(np.uint8).reshape(height, width),
        np.round(shade * 255).astype(np.uint8).reshape(height, width),
    )
