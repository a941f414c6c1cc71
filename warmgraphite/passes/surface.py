"""What each pixel of the frame sees: the first opaque surface along its sight line, and the glass before it.

One sight ray goes through each pixel's middle. Pixels whose neighbours see another part, or nothing, or a cut, get
eight more, so that every picture made from this pass has clean edges without more rays where nothing changes.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from warmgraphite.passes.lines import Occluders
from warmgraphite.progress import Progress, silent
from warmgraphite.view.scene import Scene

__all__ = ["SUBSAMPLES", "RayScene", "Surface", "hit_points", "ray_scene", "surface"]

#: Eight rooks on an 8×8 board: offsets from the pixel's middle, in pixels.
SUBSAMPLES = (np.array([(0, 3), (1, 6), (2, 0), (3, 5), (4, 2), (5, 7), (6, 1), (7, 4)]) + 0.5) / 8 - 0.5

_BAND = 300_000


@dataclass(frozen=True)
class Surface:
    """What is seen, at (h, w) pixels.

    ``triangle`` (h, w) int32 index into the occluders, −1 for sky; ``edge_pixel`` (E,) flat pixel numbers and
    ``edge_triangle`` (E, 8) what their subsamples see; ``part`` (h, w) int32; ``distance`` (h, w) float32 metres;
    ``cover``, ``cap``, ``glass`` (h, w) uint8 shares of the pixel with anything, with a cut, behind glass;
    ``colour`` (h, w, 4) uint8 material colour, premultiplied.
    """

    triangle: NDArray[np.int32]
    edge_pixel: NDArray[np.int64]
    edge_triangle: NDArray[np.int32]
    part: NDArray[np.int32]
    distance: NDArray[np.float32]
    cover: NDArray[np.uint8]
    cap: NDArray[np.uint8]
    glass: NDArray[np.uint8]
    colour: NDArray[np.uint8]


@dataclass(frozen=True)
class RayScene:
    """Triangles made ready for rays. Single precision inside, hence coordinates about ``middle``."""

    scene: EmbreeScene | None
    rows: NDArray[np.int64]
    middle: NDArray[np.float64]

    def first(self, origins: NDArray, directions: NDArray) -> NDArray[np.int32]:
        """(N,) the first triangle along each ray, as numbered by the occluders; −1 for none."""
        if self.scene is None:
            return np.full(len(origins), -1, np.int32)
        hit = self.scene.run((origins - self.middle).astype(np.float32), np.ascontiguousarray(directions, np.float32))
        return np.where(hit < 0, -1, self.rows[hit]).astype(np.int32)

    def blocked(self, origins: NDArray, directions: NDArray) -> NDArray[np.bool_]:
        """(N,) whether anything lies along each ray."""
        if self.scene is None:
            return np.zeros(len(origins), bool)
        start = (origins - self.middle).astype(np.float32)
        return self.scene.run(start, np.ascontiguousarray(directions, np.float32), query="OCCLUDED") >= 0


def ray_scene(corners: NDArray[np.float64], rows: NDArray[np.int64]) -> RayScene:
    """The chosen triangles of ``corners`` (T, 3, 3) ready for rays."""
    middle = corners.reshape(-1, 3).mean(0) if len(corners) else np.zeros(3)
    if not len(rows):
        return RayScene(None, rows, middle)
    scene = EmbreeScene()
    TriangleMesh(scene, np.ascontiguousarray(corners[rows] - middle, dtype=np.float32))
    return RayScene(scene, rows, middle)


def hit_points(hiders: Occluders, triangle: NDArray, origins: NDArray, directions: NDArray) -> NDArray[np.float64]:
    """(N, 3) where rays meet the planes of their triangles, in double precision whatever the caster's was."""
    normal = hiders.normal[triangle]
    along = (normal * directions).sum(1)
    gap = (normal * (hiders.corners[triangle, 0] - origins)).sum(1)
    return origins + (gap / np.where(np.abs(along) < 1e-12, 1e-12, along))[:, None] * directions


def in_bands(count: int, work, progress: Progress) -> list:
    """``work(first, last)`` over stretches of ``count`` rows on all processors, results in order."""
    firsts = range(0, count, _BAND)
    out = []
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        try:
            for done, row in enumerate(pool.map(lambda first: work(first, min(first + _BAND, count)), firsts), 1):
                out.append(row)
                progress(done / len(firsts))
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
    return out


def pixel_points(scene: Scene, size: tuple[int, int], pixels: NDArray[np.int64], offset: NDArray | float = 0.0) -> NDArray:
    """(N, 2) frame millimetres of flat pixel numbers, moved by ``offset`` (x, y) pixels."""
    width, height = size
    xy = np.column_stack([pixels % width, pixels // width]) + 0.5 + offset
    return xy * [scene.projection.width / width, scene.projection.height / height]


def surface(scene: Scene, hiders: Occluders, size: tuple[int, int], progress: Progress = silent) -> Surface:
    """What the frame sees at ``size`` = (width, height) pixels."""
    width, height = size
    opaque = ray_scene(hiders.corners, np.flatnonzero(~hiders.pane))
    panes = ray_scene(hiders.corners, np.flatnonzero(hiders.pane))
    start = float(hiders.near.min()) - 1.0 if not scene.projection.is_perspective else 0.0

    def look(xy: NDArray) -> tuple[NDArray, NDArray, NDArray]:
        origins, directions = scene.projection.rays(xy, start)
        hit = opaque.first(origins, directions)
        reach = np.full(len(xy), np.inf)
        seen = hit >= 0
        reach[seen] = ((hit_points(hiders, hit[seen], origins[seen], directions[seen]) - origins[seen]) * directions[seen]).sum(1)
        glass = np.zeros(len(xy), bool)
        if panes.scene is not None:
            pane = panes.first(origins, directions)
            rows = np.flatnonzero(pane >= 0)
            at = hit_points(hiders, pane[rows], origins[rows], directions[rows])
            glass[rows] = ((at - origins[rows]) * directions[rows]).sum(1) < reach[rows]
        ahead = directions @ scene.projection.sight if scene.projection.is_perspective else 1.0
        return hit, (reach * ahead if scene.projection.is_perspective else reach + start).astype(np.float32), glass

    def band(first: int, last: int) -> tuple[NDArray, NDArray, NDArray]:
        return look(pixel_points(scene, size, np.arange(first, last)))

    rows = in_bands(width * height, band, lambda f: progress(f * 0.6))
    triangle, distance, glass = (np.concatenate(c) for c in zip(*rows, strict=True))

    part = np.where(triangle < 0, -1, hiders.part[triangle]).astype(np.int32)
    is_cap = (triangle >= 0) & (hiders.source[triangle] < 0)
    # A change of part, of cut, of glass, or of the way the surface faces.
    normal = hiders.normal[triangle]
    normal = np.where(triangle[:, None] < 0, 0.0, normal).reshape(height, width, 3)
    code = (part.astype(np.int64) * 4 + is_cap * 2 + glass).reshape(height, width)
    rim = np.zeros((height, width), bool)
    for axis in (0, 1):
        one = np.take(code, range(1, code.shape[axis]), axis)
        other = np.take(code, range(code.shape[axis] - 1), axis)
        turn = np.abs(np.diff(normal, axis=axis)).max(-1) > 0.35
        change = (one != other) | turn
        if axis == 0:
            rim[1:] |= change
            rim[:-1] |= change
        else:
            rim[:, 1:] |= change
            rim[:, :-1] |= change
    edge_pixel = np.flatnonzero(rim)
    samples = len(SUBSAMPLES)

    def fine(first: int, last: int) -> tuple[NDArray, NDArray]:
        which, sub = np.divmod(np.arange(first, last), samples)
        hit, _, through = look(pixel_points(scene, size, edge_pixel[which], SUBSAMPLES[sub]))
        return hit, through

    rows = in_bands(len(edge_pixel) * samples, fine, lambda f: progress(0.6 + f * 0.35))
    edge_triangle = np.concatenate([r[0] for r in rows] or [np.empty(0, np.int32)]).reshape(-1, samples)
    edge_glass = np.concatenate([r[1] for r in rows] or [np.empty(0, bool)]).reshape(-1, samples)

    palette = np.array([[int(m.colour[i : i + 2], 16) for i in (1, 3, 5)] + [255] for m in scene.model.materials], float)
    paint = palette[scene.model.part_material]

    def share(whole: NDArray, fine_values: NDArray) -> NDArray[np.uint8]:
        value = whole.astype(float) * 255
        value[edge_pixel] = fine_values.mean(1) * 255
        return np.round(value).astype(np.uint8).reshape(height, width)

    colour = np.where(triangle[:, None] < 0, 0.0, paint[part])
    fine_colour = np.where(edge_triangle[..., None] < 0, 0.0, paint[hiders.part[edge_triangle]])
    colour[edge_pixel] = fine_colour.mean(1)
    progress(1.0)
    return Surface(
        triangle=triangle.reshape(height, width),
        edge_pixel=edge_pixel,
        edge_triangle=edge_triangle,
        part=part.reshape(height, width),
        distance=distance.reshape(height, width),
        cover=share(triangle >= 0, edge_triangle >= 0),
        cap=share(is_cap, (edge_triangle >= 0) & (hiders.source[edge_triangle] < 0)),
        glass=share(glass, edge_glass),
        colour=np.round(colour).astype(np.uint8).reshape(height, width, 4),
    )
