"""What each pixel of the frame sees: the first opaque surface along its sight line, and the glass before it.

The middle of each pixel is looked up in the same grid, with the same triangles, that the lines are computed from, so
that pixels and lines register by construction. Pixels whose neighbours see another part, or nothing, or a cut, are
looked up at eight points more: clean edges, without more work where nothing changes.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.kernels.pixels import rim_pixels
from warmgraphite.passes.occluders import Occluders
from warmgraphite.progress import Progress, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene

__all__ = ["BAND", "SUBSAMPLES", "Surface", "pixel_points", "surface"]

#: Eight rooks on an 8×8 board: offsets from the pixel's middle, in pixels.
SUBSAMPLES = (np.array([(0, 3), (1, 6), (2, 0), (3, 5), (4, 2), (5, 7), (6, 1), (7, 4)]) + 0.5) / 8 - 0.5

BAND = 300_000


@dataclass(frozen=True)
class Surface:
    """What is seen, at (h, w) pixels.

    ``triangle`` (h, w) int32 index into the occluders, −1 for sky; ``edge_pixel`` (E,) flat pixel numbers and
    ``edge_triangle``, ``edge_part`` (E, 8) what their subsamples see; ``part`` (h, w) int32; ``distance`` (h, w) float32 metres;
    ``cover``, ``cap``, ``glass`` (h, w) uint8 shares of the pixel with anything, with a cut, behind glass;
    ``colour`` (h, w, 4) uint8 material colour, premultiplied.
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
    colour: NDArray[np.uint8]


def pixel_points(scene: Scene, size: tuple[int, int], pixels: NDArray[np.int64], offset: NDArray | float = 0.0) -> NDArray:
    """(N, 2) frame millimetres of flat pixel numbers, moved by ``offset`` (x, y) pixels."""
    width, height = size
    xy = np.column_stack([pixels % width, pixels // width]) + 0.5 + offset
    return xy * [scene.projection.width / width, scene.projection.height / height]


def surface(scene: Scene, hiders: Occluders, size: tuple[int, int], progress: Progress = silent) -> Surface:
    """What the frame sees at ``size`` = (width, height) pixels."""
    width, height = size

    # A wire mesh is seen through as a pane is, but it lays no tone of glass over what is behind.
    glazed = hiders.pane & (scene.model.part_role[hiders.part] == "glass")

    def look(xy: NDArray) -> tuple[NDArray, NDArray, NDArray]:
        return look_at(xy, hiders.forms, hiders.pane, glazed, hiders.near, *hiders.grid)

    def band(first: int, last: int) -> tuple[NDArray, NDArray, NDArray]:
        return look(pixel_points(scene, size, np.arange(first, last)))

    rows = in_stretches(band, width * height, BAND, lambda f: progress(f * 0.6))
    triangle, depth, glass = (np.concatenate(c) for c in zip(*rows, strict=True))
    reach = scene.projection.distance(np.where(triangle < 0, 0.0, depth))
    distance = np.where(triangle < 0, np.inf, reach).astype(np.float32)

    part = np.where(triangle < 0, -1, hiders.part[triangle]).astype(np.int32)
    is_cap = (triangle >= 0) & (hiders.source[triangle] < 0)
    # A change of part, of cut, of glass, or of the way the surface faces.
    code = (part.astype(np.int64) * 4 + is_cap * 2 + glass).reshape(height, width)
    rim = rim_pixels(code, triangle.reshape(height, width), hiders.normal, 0.35)
    edge_pixel = np.flatnonzero(rim)
    samples = len(SUBSAMPLES)

    def fine(first: int, last: int) -> tuple[NDArray, NDArray]:
        which, sub = np.divmod(np.arange(first, last), samples)
        hit, _, through = look(pixel_points(scene, size, edge_pixel[which], SUBSAMPLES[sub]))
        return hit, through

    found = in_stretches(fine, len(edge_pixel) * samples, BAND, lambda f: progress(0.6 + f * 0.35))
    edge_triangle = np.concatenate([f[0] for f in found]).reshape(-1, samples)
    edge_glass = np.concatenate([f[1] for f in found]).reshape(-1, samples)

    palette = np.array([[int(m.colour[i : i + 2], 16) for i in (1, 3, 5)] + [255] for m in scene.model.looks], np.float32)
    paint = palette[scene.model.part_material]

    def share(whole: NDArray, fine_values: NDArray) -> NDArray[np.uint8]:
        value = whole.astype(np.float32) * 255
        value[edge_pixel] = fine_values.mean(1) * 255
        return np.round(value).astype(np.uint8).reshape(height, width)

    colour = np.where(triangle[:, None] < 0, np.float32(0), paint[part])
    fine_colour = np.where(edge_triangle[..., None] < 0, 0.0, paint[hiders.part[edge_triangle]])
    colour[edge_pixel] = fine_colour.mean(1)
    progress(1.0)
    return Surface(
        triangle=triangle.reshape(height, width),
        edge_pixel=edge_pixel,
        edge_triangle=edge_triangle,
        edge_part=np.where(edge_triangle < 0, -1, hiders.part[edge_triangle]).astype(np.int32),
        part=part.reshape(height, width),
        distance=distance.reshape(height, width),
        cover=share(triangle >= 0, edge_triangle >= 0),
        cap=share(is_cap, (edge_triangle >= 0) & (hiders.source[edge_triangle] < 0)),
        glass=share(glass, edge_glass),
        colour=np.round(colour).astype(np.uint8).reshape(height, width, 4),
    )
