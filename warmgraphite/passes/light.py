"""Light from one sun: cast shadow by rays towards it, and shade by how a surface faces it.

Cast shadow lies where a surface faces the sun and something stands between. Shade is the tone of orientation: none
where the sun falls straight on, and growing to full where the surface turns away. Glass casts nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.passes.edges import ByVersion, weld
from warmgraphite.passes.lines import CREASE_ANGLE, Occluders
from warmgraphite.passes.surface import SUBSAMPLES, Surface, hit_points, in_bands, pixel_points, ray_scene
from warmgraphite.progress import Progress, silent
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


def _smooth_normals(scene: Scene, hiders: Occluders, triangle: NDArray, points: NDArray) -> NDArray[np.float64]:
    """(N, 3) normals at points on triangles, interpolated on the uncut triangle that each comes from."""
    flat = hiders.normal[triangle]
    source = hiders.source[triangle]
    a, b, c = np.moveaxis(scene.model.vertices[scene.model.triangles[source]], 1, 0)
    u, v, w = b - a, c - a, points - a
    uu, uv, vv = (u * u).sum(1), (u * v).sum(1), (v * v).sum(1)
    wu, wv = (w * u).sum(1), (w * v).sum(1)
    area = np.maximum(uu * vv - uv * uv, 1e-30)
    p, q = (vv * wu - uv * wv) / area, (uu * wv - uv * wu) / area
    weights = np.clip(np.stack([1 - p - q, p, q], 1), 0, 1)
    normal = (_corner_normals(ByVersion(scene.model))[source] * weights[..., None]).sum(1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    return np.where((source < 0)[:, None], flat, normal)


def light(scene: Scene, hiders: Occluders, seen: Surface, sun: Sun, progress: Progress = silent) -> Light:
    """Shadow and shade of what ``seen`` holds, under ``sun``."""
    height, width = seen.triangle.shape
    size = (width, height)
    casters = ray_scene(hiders.corners, np.flatnonzero(~hiders.pane))
    ray = to_sun(sun)
    up = sun.altitude > 0
    start = float(hiders.near.min()) - 1.0 if not scene.projection.is_perspective else 0.0
    lift = max(20 * scene.slack, 1e-3)

    def of(pixels: NDArray, offset: NDArray | float, triangle: NDArray) -> tuple[NDArray, NDArray]:
        shadow, shade = np.zeros(len(pixels), bool), np.zeros(len(pixels), np.float32)
        rows = np.flatnonzero((triangle >= 0) & (hiders.source[triangle] >= 0))
        if not len(rows):
            return shadow, shade
        offsets = offset if isinstance(offset, float) else offset[rows]
        origins, directions = scene.projection.rays(pixel_points(scene, size, pixels[rows], offsets), start)
        hit = triangle[rows]
        points = hit_points(hiders, hit, origins, directions)
        flat = hiders.normal[hit]
        # Both sides of a face are drawn alike: the normal is the one on the viewer's side.
        turn = np.where((flat * directions).sum(1) > 0, -1.0, 1.0)[:, None]
        flat = flat * turn
        smooth = _smooth_normals(scene, hiders, hit, points) * turn
        facing = flat @ ray if up else np.full(len(rows), -1.0)
        tone = smooth @ ray if up else np.full(len(rows), -1.0)
        shade[rows] = np.where(tone > 0, 0.62 * (1 - tone), 0.62 - 0.30 * tone)
        lit = np.flatnonzero(facing > 1e-4)
        away = np.broadcast_to(ray, (len(lit), 3))
        blocked = casters.blocked(points[lit] + flat[lit] * lift, away)
        shadow[rows[lit[blocked]]] = True
        return shadow, np.clip(shade, 0, 1)

    triangle = seen.triangle.ravel()
    share = width * height / max(1, width * height + seen.edge_triangle.size)
    rows = in_bands(width * height, lambda i, j: of(np.arange(i, j), 0.0, triangle[i:j]), lambda f: progress(f * share))
    shadow, shade = (np.concatenate(c).astype(np.float32) for c in zip(*rows, strict=True))

    # Where the shadow's own edge runs across one surface, the surface pass has no subsamples: take them now.
    picture = shadow.reshape(height, width) > 0
    rim = np.zeros((height, width), bool)
    for axis in (0, 1):
        change = np.diff(picture.astype(np.int8), axis=axis) != 0
        if axis == 0:
            rim[1:] |= change
            rim[:-1] |= change
        else:
            rim[:, 1:] |= change
            rim[:, :-1] |= change
    rim.ravel()[seen.edge_pixel] = False
    soft = np.flatnonzero(rim)
    pixels = np.concatenate([seen.edge_pixel, soft])
    fine = np.concatenate([seen.edge_triangle, np.repeat(triangle[soft][:, None], len(SUBSAMPLES), 1)])

    def subsamples(first: int, last: int) -> tuple[NDArray, NDArray]:
        which, sub = np.divmod(np.arange(first, last), len(SUBSAMPLES))
        return of(pixels[which], SUBSAMPLES[sub], fine[which, sub])

    rows = in_bands(fine.size, subsamples, lambda f: progress(share + f * (1 - share)))
    if rows:
        shadow[pixels] = np.concatenate([r[0] for r in rows]).reshape(fine.shape).mean(1)
        shade[pixels] = np.concatenate([r[1] for r in rows]).reshape(fine.shape).mean(1)
    progress(1.0)
    return Light(
        np.round(shadow * 255).astype(np.uint8).reshape(height, width),
        np.round(shade * 255).astype(np.uint8).reshape(height, width),
    )
