"""Pictures followed by lines: contours of their tones, and areas of a few colours."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from contourpy import LineType, contour_generator
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage
from scipy.spatial import cKDTree

from warmgraphite.collage.pictures.specification import ContourSpec, TracedSpec
from warmgraphite.colour import from_oklab, luminance, to_oklab
from warmgraphite.geometry.ragged import firsts

__all__ = ["Followed", "contours_of", "grey_of", "traced_of"]

#: Pixels of the longer side on which tones, and colours, are followed: finer than what is asked for is noise of the
#: picture.
TONES, COLOURS = 1600, 1100
#: Pixels by which an outline may leave what was followed, and the area below which it is a stray.
SLACK, STRAY = 0.35, 14.0


@dataclass(frozen=True)
class Followed:
    """Closed outlines or lines (R) in shares of a picture's width and height.
    Points (V, 2), of outline r those from ``first[r]`` to ``first[r + 1]``; ``level`` (R,) which it belongs to, and
    what each of these is: ``tones`` (n,) the grey from 0 to 1 at which a contour runs, or ``colours`` (n, 3).
    ``aspect`` (1,) is the picture's height over its width.
    """

    points: NDArray[np.float32]
    first: NDArray[np.int64]
    level: NDArray[np.int32]
    tones: NDArray[np.float32]
    colours: NDArray[np.uint8]
    aspect: NDArray[np.float64]

    def rings(self, level: int) -> list[NDArray[np.float64]]:
        """The outlines of a level."""
        rows = np.flatnonzero(self.level == level)
        return [np.asarray(self.points[self.first[r] : self.first[r + 1]], np.float64) for r in rows]


def _reduced(pixels: NDArray[np.uint8], side: int) -> NDArray[np.float32]:
    """(h, w, 3) straight sRGB from 0 to 1, over white, of which the longer side has at most so many pixels."""
    height, width = pixels.shape[:2]
    scale = min(1.0, side / max(height, width))
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    whole = Image.fromarray(pixels, "RGBA")
    small = whole if size == whole.size else whole.resize(size, Image.Resampling.BOX, reducing_gap=2.0)
    found = np.asarray(small, np.float32) / np.float32(255)
    return np.asarray(found[..., :3] * found[..., 3:] + (1 - found[..., 3:]), np.float32)


def grey_of(pixels: NDArray[np.uint8], side: int = TONES) -> NDArray[np.float32]:
    """(h, w) how light a straight picture (h, w, 4) is over white, 0–1.
    It is made smaller to at most so many pixels of its longer side.
    """
    return luminance(_reduced(pixels, side))


def _gathered(
    rows: list[list[NDArray]], shape: tuple[int, int], tones: NDArray, colours: NDArray, closed: bool
) -> Followed:
    """Lines by level in pixels of a raster that has one more on every side, simplified, as shares."""
    lines = [line for own in rows for line in own]
    level = np.repeat(np.arange(len(rows), dtype=np.int32), [len(own) for own in rows])
    shapes = (
        shapely.simplify(np.array([shapely.linestrings(line) for line in lines], dtype=object), SLACK)
        if lines
        else np.empty(0, object)
    )
    if closed and len(shapes):
        area = np.array([abs(_area(shapely.get_coordinates(s))) for s in shapes])
        keep = area > STRAY
    else:
        keep = shapely.length(shapes) > 4 * np.sqrt(STRAY) if len(shapes) else np.empty(0, bool)
    shapes, level = shapes[keep], level[keep]
    points, of = (
        shapely.get_coordinates(shapes, return_index=True) if len(shapes) else (np.empty((0, 2)), np.empty(0, np.int64))
    )
    first = firsts(np.bincount(of, minlength=len(shapes)))
    height, width = shape
    # Pixels are followed from middle to middle, and the picture ends half a pixel beyond.
    return Followed(
        np.asarray(np.clip((points + 0.5) / [width, height], 0, 1), np.float32),
        first,
        level,
        tones,
        colours,
        np.array([height / width]),
    )


def _area(ring: NDArray[np.float64]) -> float:
    return 0.5 * float(np.sum(ring[:-1, 0] * ring[1:, 1] - ring[1:, 0] * ring[:-1, 1]))


def _lines(found: Any) -> list[NDArray]:
    return [line for line in found if len(line) > 3]


def contours_of(pixels: NDArray[np.uint8], spec: ContourSpec) -> Followed:
    """The contours of a picture's tones at evenly spaced greys between its darkest and its lightest.
    As areas each is what is darker, and lies within the one before.
    """
    grey = grey_of(pixels)
    height, width = grey.shape
    grey = ndimage.gaussian_filter(grey, max(0.6, spec.smooth * max(height, width)))
    low, high = np.percentile(grey, [0.05, 99.95])
    tones = np.asarray(high - (high - low) * (np.arange(spec.levels) + 1) / (spec.levels + 1), np.float32)
    x, y = np.arange(-1, width + 1), np.arange(-1, height + 1)
    padded = np.pad(grey, 1, mode="edge")
    if spec.areas:
        # What runs out of the picture is closed along its edge.
        padded[0], padded[-1], padded[:, 0], padded[:, -1] = 9.0, 9.0, 9.0, 9.0
    following = contour_generator(x, y, padded, line_type=LineType.Separate)
    rows = [_lines(following.lines(float(t))) for t in tones]
    return _gathered(rows, (height, width), tones, np.empty((0, 3), np.uint8), spec.areas)


def traced_of(pixels: NDArray[np.uint8], spec: TracedSpec) -> Followed:
    """A picture as areas of a few colours, laid one over the other from the lightest.
    Each covers all that is darker, too, so that no paper shows between two.
    """
    small = _reduced(pixels, COLOURS)
    height, width = small.shape[:2]
    soft = np.stack(
        [ndimage.gaussian_filter(small[..., k], max(0.5, spec.smooth * max(height, width))) for k in range(3)], -1
    )
    seen = np.asarray(Image.fromarray(pixels[..., 3]).resize((width, height), Image.Resampling.BOX), np.float32) > 127
    if not seen.any():
        return _gathered([], (height, width), np.empty(0, np.float32), np.empty((0, 3), np.uint8), True)
    space = to_oklab(soft.reshape(-1, 3).astype(np.float64))
    there = np.flatnonzero(seen)
    sample = space[there[:: max(1, len(there) // 40_000)]]
    from scipy.cluster.vq import kmeans2  # takes a while, which only a traced picture should

    middles = kmeans2(
        sample, min(spec.colours, len(np.unique(sample, axis=0))), iter=20, minit="++", rng=np.random.default_rng(1)
    )[0]
    own = np.where(seen, cKDTree(middles).query(space)[1].reshape(height, width), -1)
    own = np.where(seen, ndimage.median_filter(own, 5), -1)
    table = np.clip(np.round(255 * from_oklab(middles)), 0, 255).astype(np.uint8)
    order = [k for k in np.argsort(-middles[:, 0], kind="stable") if (own == k).any()]
    rank = np.full(len(middles) + 1, -1, np.int32)
    rank[order] = np.arange(len(order))
    own = rank[own]
    rows = []
    x, y = np.arange(-1, width + 1), np.arange(-1, height + 1)
    for k in range(len(order)):
        share = np.pad(ndimage.gaussian_filter((own >= k).astype(np.float32), 0.9), 1)
        following = contour_generator(x, y, share, line_type=LineType.Separate)
        rows.append(_lines(following.lines(0.5)))
    return _gathered(rows, (height, width), np.empty(0, np.float32), table[order], True)
