"""What each pixel of the frame sees: the first opaque surface along its sight line, and the glass before it.

The middle of each pixel is looked up in the same grid, with the same triangles, that the lines are computed from, so
that pixels and lines register by construction. Pixels whose neighbours see another part, or nothing, or a cut, are
looked up at eight points more: clean edges, without more work where nothing changes. All is done in bands of rows, so
that a large frame needs little more room than its results.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.kernels.pixel_records import EdgePixels, PixelGrid
from warmgraphite.passes.kernels.pixels import points_of, rim_pixels
from warmgraphite.passes.occluders import Occluders
from warmgraphite.progress import Progress, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene

__all__ = ["BAND", "SUBSAMPLES", "Raster", "Surface", "pixel_points", "shares", "surface"]

#: Eight rooks on an 8×8 board: offsets from the pixel's middle, in pixels.
SUBSAMPLES = (np.array([(0, 3), (1, 6), (2, 0), (3, 5), (4, 2), (5, 7), (6, 1), (7, 4)]) + 0.5) / 8 - 0.5

BAND = 300_000


class Raster(NamedTuple):
    """The pixels of a window: its place ``x``, ``y`` and its size in a frame of ``size`` = (width, height) pixels."""

    size: tuple[int, int]
    x: int
    y: int
    width: int
    height: int

    @staticmethod
    def of(size: tuple[int, int], window: tuple[int, int, int, int] | None = None) -> Raster:
        """A window, or the whole frame."""
        return Raster(size, *(window or (0, 0, *size)))


@dataclass(frozen=True)
class Surface:
    """What is seen, at (h, w) pixels of a window.
    ``place`` is its x and y, and the width and height of the frame, in pixels.

    ``triangle`` (h, w) int32 index into the occluders, −1 for sky; ``edge_pixel`` (E,) flat pixel numbers and
    ``edge_triangle``, ``edge_part`` (E, 8) what their subsamples see; ``part`` (h, w) int32; ``distance`` (h, w)
    float32 metres; ``cover``, ``cap``, ``glass`` (h, w) uint8 shares of the pixel with anything, with a cut, behind
    glass.
    """

    triangle: NDArray[np.int32]
    edge_pixel: NDArray[np.int64]
    edge_triangle: NDArray[np.int32]
    edge_part: NDArray[np.int32]
    part: NDArray[np.int32]
    distance: NDArray[np.float32]
    cover: NDArray[np.uint8]
    cap: NDArray[np.uint8]
    glass: NDArray[np.uint8]
    place: NDArray[np.int64]

    @property
    def edges(self) -> EdgePixels:
        """The pixels at edges."""
        return EdgePixels(self.edge_pixel, self.edge_triangle)

    @property
    def raster(self) -> Raster:
        """The pixels of the window."""
        x, y, width, height = (int(v) for v in self.place)
        return Raster((width, height), x, y, *self.size)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the window in pixels."""
        return self.triangle.shape[1], self.triangle.shape[0]


def pixel_points(scene: Scene, raster: Raster, pixels: NDArray[np.int64], offset: NDArray | None = None) -> NDArray:
    """(N, 2) frame millimetres of flat pixel numbers of a window, moved by ``offset`` (N, 2) pixels."""
    width, height = raster.size
    out = np.empty((len(pixels), 2))
    dx, dy = (np.zeros(1), np.zeros(1)) if offset is None else np.ascontiguousarray(offset.T)
    across, down = scene.projection.width / width, scene.projection.height / height
    points_of(pixels, PixelGrid(raster.width, raster.x, raster.y, across, down), dx, dy, out)
    return out


def shares(whole: NDArray, pixels: NDArray[np.int64], fine: NDArray) -> None:
    """Set flat ``pixels`` of ``whole`` (h, w) uint8, in place, to the mean of subsamples.
    That is the mean of their subsamples ``fine`` (E, 8) in 0–1.
    """
    whole.reshape(-1)[pixels] = np.round(fine.mean(1) * 255)


def surface(
    scene: Scene,
    hiders: Occluders,
    size: tuple[int, int],
    progress: Progress = silent,
    window: tuple[int, int, int, int] | None = None,
) -> Surface:
    """What the frame sees at ``size`` = (width, height) pixels, or in a ``window`` = (x, y, width, height) of them."""
    raster = Raster.of(size, window)
    width, height = raster.width, raster.height
    count = width * height

    glazed = hiders.pane & scene.bodies.is_glazing[hiders.part]
    is_cap = hiders.source < 0

    def look(xy: NDArray) -> tuple[NDArray, NDArray, NDArray]:
        return look_at(xy, hiders.forms, hiders.pane, glazed, hiders.near, hiders.grid)

    triangle, part = np.empty(count, np.int32), np.empty(count, np.int32)
    distance = np.empty(count, np.float32)
    cover, cap, glass = (np.empty(count, np.uint8) for _ in range(3))

    def band(first: int, last: int) -> None:
        hit, depth, through = look(pixel_points(scene, raster, np.arange(first, last)))
        seen = hit >= 0
        triangle[first:last] = hit
        part[first:last] = np.where(seen, hiders.part[hit], -1)
        distance[first:last] = np.where(seen, scene.projection.distance(np.where(seen, depth, 0.0)), np.inf)
        cover[first:last] = np.where(seen, 255, 0)
        cap[first:last] = np.where(seen & is_cap[hit], 255, 0)
        glass[first:last] = np.where(through, 255, 0)

    in_stretches(band, count, BAND, lambda f: progress(f * 0.6))

    def rims(first: int, last: int) -> NDArray[np.int64]:
        # A row more on either side, so that the rims do not depend on where bands meet.
        low, high = max(first - 1, 0), min(last + 1, height)
        rows = slice(low * width, high * width)
        # A change of part, of cut, of glass, or of the way the surface faces.
        code = part[rows].astype(np.int64) * 4 + (cap[rows] > 0) * 2 + (glass[rows] > 0)
        rim = rim_pixels(code.reshape(-1, width), triangle[rows].reshape(-1, width), hiders.normal, 0.35)
        return np.flatnonzero(rim[first - low : last - low]) + first * width

    edge_pixel = np.concatenate(in_stretches(rims, height, max(1, BAND // width)))
    samples = len(SUBSAMPLES)
    edge_triangle = np.empty((len(edge_pixel), samples), np.int32)

    def fine(first: int, last: int) -> None:
        which, sub = np.divmod(np.arange(first * samples, last * samples), samples)
        hit, _, through = look(pixel_points(scene, raster, edge_pixel[which], SUBSAMPLES[sub]))
        hit, through = hit.reshape(-1, samples), through.reshape(-1, samples)
        edge_triangle[first:last] = hit
        pixels = edge_pixel[first:last]
        shares(cover, pixels, hit >= 0)
        shares(cap, pixels, (hit >= 0) & is_cap[hit])
        shares(glass, pixels, through)

    in_stretches(fine, len(edge_pixel), BAND // samples, lambda f: progress(0.6 + f * 0.4))
    shape = (height, width)
    return Surface(
        triangle=triangle.reshape(shape),
        edge_pixel=edge_pixel,
        edge_triangle=edge_triangle,
        edge_part=np.where(edge_triangle < 0, -1, hiders.part[edge_triangle]).astype(np.int32),
        part=part.reshape(shape),
        distance=distance.reshape(shape),
        cover=cover.reshape(shape),
        cap=cap.reshape(shape),
        glass=glass.reshape(shape),
        place=np.array([raster.x, raster.y, *size]),
    )
