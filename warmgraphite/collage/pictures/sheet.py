"""A photographed sheet of paper becomes a clean drawing on nothing.

Its four corners are found, and it is laid flat by the perspective that they tell. What the paper is like where nothing
is drawn, shaded and tinged as it may be, is measured all over; what is darker than that, and than its noise, is ink.
Thin lines are weak, and so a weak pixel is kept where it hangs together with a strong one.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
import skia
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from warmgraphite.canvas.pixels import ORDER, skia_image
from warmgraphite.collage.kernels.following import followed
from warmgraphite.collage.pictures.specification import SheetSpec
from warmgraphite.colour import luminance
from warmgraphite.geometry.homography import homography
from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.geometry.tolerances import ROUNDING

__all__ = ["CleanSheet", "cleaned", "found_corners", "strokes_of"]

#: Pixels of the longer side at which corners are looked for, and of a sheet that is laid flat.
LOOK, FLAT = 900, 3600
#: By how many pixels the paper is made smaller to be measured.
COARSE = 12


@dataclass(frozen=True)
class CleanSheet:
    """``pixels`` (h, w, 4) straight: what is drawn, on nothing.
    Lines by their middles: points (V, 2) in shares of width and height, of line s those from ``first[s]`` to ``first[s
    + 1]``, each ``width`` (V,) of the sheet's width thick.
    """

    pixels: NDArray[np.uint8]
    points: NDArray[np.float32]
    first: NDArray[np.int64]
    width: NDArray[np.float32]


def found_corners(pixels: NDArray[np.uint8]) -> tuple[tuple[float, float], ...]:
    """The corners of the sheet in a picture (h, w, 4): top left, top right, bottom right, bottom left, in shares.
    Those of the picture where no sheet is found in it.
    """
    whole = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
    height, width = pixels.shape[:2]
    scale = min(1.0, LOOK / max(height, width))
    size = (max(8, round(width * scale)), max(8, round(height * scale)))
    small = np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BOX, reducing_gap=2.0), np.float32)[
        ..., :3
    ]
    light = ndimage.gaussian_filter(luminance(small), 2.0)
    from skimage.filters import threshold_otsu  # a third of a second that only a photographed sheet needs

    # Lines on the sheet are closed up, so that it is one bright patch; where it is shaded it still is lighter than
    # round about.
    light = ndimage.grey_closing(light, 15)
    bright = ndimage.binary_opening(light > threshold_otsu(light, nbins=128), iterations=3)
    rows, count = ndimage.label(bright)
    if not count:
        return whole
    patch = rows == 1 + int(np.argmax(ndimage.sum_labels(bright, rows, np.arange(1, count + 1))))
    patch = ndimage.binary_fill_holes(patch)
    if patch.mean() > 0.97 or patch.mean() < 0.06:
        return whole
    rim = patch & ~ndimage.binary_erosion(patch)
    points = np.argwhere(rim)[:, ::-1].astype(np.float64)
    corners = _four(points)
    if corners is None:
        return whole
    corners = _refined(light, corners)
    found = (corners + 0.5) / [size[0], size[1]]
    return tuple((float(np.clip(x, 0, 1)), float(np.clip(y, 0, 1))) for x, y in found)


def _four(points: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """The four-sided shape round points, from the hull: the side whose loss adds least goes until four are left."""
    hull = shapely.simplify(shapely.convex_hull(shapely.MultiPoint(points)), 2.0)
    if hull.geom_type != "Polygon":
        return None
    ring = shapely.get_coordinates(hull)[:-1]
    if np.sum(ring[:, 0] * np.roll(ring[:, 1], -1) - np.roll(ring[:, 0], -1) * ring[:, 1]) < 0:
        ring = ring[::-1]
    while len(ring) > 4:
        best: tuple[float, int, NDArray[np.float64]] | None = None
        for k in range(len(ring)):
            a, b, c, d = (ring[(k + j) % len(ring)] for j in range(-1, 3))
            cross = (b[0] - a[0]) * (c[1] - d[1]) - (b[1] - a[1]) * (c[0] - d[0])
            if abs(cross) < ROUNDING:
                continue
            t = ((d[0] - a[0]) * (c[1] - d[1]) - (d[1] - a[1]) * (c[0] - d[0])) / cross
            meet = a + t * (b - a)
            if t < 1:
                continue
            added = 0.5 * abs((c[0] - b[0]) * (meet[1] - b[1]) - (c[1] - b[1]) * (meet[0] - b[0]))
            if best is None or added < best[0]:
                best = (added, k, meet)
        if best is None:
            return None
        _, k, meet = best
        keep = [j for j in range(len(ring)) if j not in (k, (k + 1) % len(ring))]
        at = keep.index((k + 2) % len(ring)) if (k + 2) % len(ring) in keep else len(keep)
        ring = np.insert(ring[keep], at, meet, axis=0)
    if len(ring) < 4:
        return None
    start = int(np.argmin(ring.sum(1)))
    found: NDArray[np.float64] = np.roll(ring, -start, axis=0)
    return found


def _refined(light: NDArray[np.float32], corners: NDArray[np.float64]) -> NDArray[np.float64]:
    """Corners where the sides meet that run along the steepest fall of light beside the sides."""
    sides = []
    for k in range(4):
        a, b = corners[k], corners[(k + 1) % 4]
        along = b - a
        long = float(np.hypot(*along))
        out = np.array([along[1], -along[0]]) / max(long, ROUNDING)
        t = np.linspace(0.08, 0.92, 60)
        shift = np.arange(-7, 7.01, 0.5)
        at = a + t[:, None, None] * along + shift[None, :, None] * out
        levels = ndimage.map_coordinates(light, at.reshape(-1, 2).T[::-1], order=1, mode="nearest").reshape(
            len(t), len(shift)
        )
        fall = -np.diff(levels, axis=1)
        best = shift[np.argmax(fall, axis=1)] + 0.25
        good = fall.max(1) > 0.35 * np.median(fall.max(1))
        points = (a + t[:, None] * along + best[:, None] * out)[good]
        if len(points) < 8:
            sides.append((a, along / max(long, ROUNDING)))
            continue
        for _ in range(3):  # without those that lie aside
            middle = points.mean(0)
            way = np.linalg.svd(points - middle, full_matrices=False)[2][0]
            away = np.abs((points - middle) @ np.array([-way[1], way[0]]))
            points = points[away <= max(2.5 * np.median(away), 0.4)]
        sides.append((points.mean(0), way))
    found = []
    for k in range(4):
        (p, u), (q, v) = sides[k - 1], sides[k]
        cross = u[0] * v[1] - u[1] * v[0]
        if abs(cross) < 0.2:
            return corners
        t = ((q[0] - p[0]) * v[1] - (q[1] - p[1]) * v[0]) / cross
        found.append(p + t * u)
    out_ = np.array(found)
    return out_ if np.abs(out_ - corners).max() < 0.04 * max(light.shape) else corners


def _laid_flat(pixels: NDArray[np.uint8], spec: SheetSpec) -> NDArray[np.uint8]:
    """(h, w, 3) the sheet straight on."""
    height, width = pixels.shape[:2]
    corners = np.array(spec.corners, float) * [width, height]
    side = lambda a, b: float(np.hypot(*(corners[a] - corners[b])))
    across, down = (side(0, 1) + side(3, 2)) / 2, (side(0, 3) + side(1, 2)) / 2
    scale = min(1.0, FLAT / max(across, down))
    size = max(16, round(across * scale)), max(16, round(down * scale))
    ends = np.array([[0, 0], [size[0], 0], [size[0], size[1]], [0, size[1]]], float)
    out = np.empty((size[1], size[0], 4), np.uint8)
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(*size), out)
    canvas = surface.getCanvas()
    canvas.clear(skia.ColorWHITE)
    canvas.concat(skia.Matrix.MakeAll(*homography(corners, ends).reshape(-1).tolist()))
    canvas.drawImage(
        skia_image(np.ascontiguousarray(pixels), copy=False), 0, 0, skia.SamplingOptions(skia.CubicResampler.Mitchell())
    )
    surface.flushAndSubmit()
    return np.ascontiguousarray(out[..., list(ORDER)])


def _paper(flat: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(h, w, 3) what the sheet would be if nothing were drawn on it."""
    height, width = flat.shape[:2]
    size = (max(4, width // COARSE), max(4, height // COARSE))
    # Of every patch what is lightest but for a few grains of noise, then the middle of the patches round about.
    part = flat[: size[1] * COARSE, : size[0] * COARSE].reshape(size[1], COARSE, size[0], COARSE, 3)
    light = np.partition(
        part.transpose(0, 2, 1, 3, 4).reshape(size[1], size[0], -1, 3), int(0.8 * COARSE * COARSE), axis=2
    )[:, :, int(0.8 * COARSE * COARSE)]
    smooth = np.stack(
        [
            ndimage.gaussian_filter(
                ndimage.median_filter(ndimage.grey_closing(light[..., k], 9), 5).astype(np.float32), 2.5
            )
            for k in range(3)
        ],
        -1,
    )
    image = [
        Image.fromarray(np.ascontiguousarray(smooth[..., k])).resize((width, height), Image.Resampling.BICUBIC)
        for k in range(3)
    ]
    return np.stack([np.asarray(i, np.float32) for i in image], -1)


def _levelled(dark: NDArray[np.float32]) -> NDArray[np.float32]:
    """(h, w) how dark what is drawn is, so that paper is nothing in the middle: most patches of a sheet are bare."""
    height, width = dark.shape
    size = (max(4, width // COARSE), max(4, height // COARSE))
    part = dark[: size[1] * COARSE, : size[0] * COARSE].reshape(size[1], COARSE, size[0], COARSE)
    middle = np.median(part.transpose(0, 2, 1, 3).reshape(size[1], size[0], -1), axis=2)
    level = ndimage.gaussian_filter(ndimage.median_filter(middle, 9), 1.5).astype(np.float32)
    found: NDArray[np.float32] = dark - np.asarray(
        Image.fromarray(level).resize((width, height), Image.Resampling.BILINEAR)
    )
    return found


def cleaned(pixels: NDArray[np.uint8], spec: SheetSpec) -> CleanSheet:
    """A photographed sheet (h, w, 4) straight on, with what is drawn on it and nothing else."""
    flat = _laid_flat(pixels, spec)
    paper = _paper(flat)
    share = np.minimum(flat / np.maximum(paper, np.float32(8)), np.float32(1.15))
    dark = _levelled(1 - luminance(share))
    soft = ndimage.gaussian_filter(dark, 0.7)
    # Noise is what is lighter than the paper: as much of it is darker, and none of that is ink.
    below = soft[soft < 0][::7]
    noise = float(np.sqrt(np.mean(below**2))) if len(below) > 50 else 0.01
    least = max(0.012, noise * (5.2 - 3.2 * spec.faint))
    inked = soft > least
    strong = soft > max(2.2 * least, 0.05)
    rows, count = ndimage.label(inked, np.ones((3, 3), bool))
    hold = np.zeros(count + 1, bool)
    hold[np.unique(rows[strong])] = True
    hold[0] = False
    size = np.bincount(rows.reshape(-1), minlength=count + 1)
    hold &= size >= 6
    kept = hold[rows]
    full = float(np.clip(np.percentile(soft[kept], 85), 0.12, 1)) if kept.any() else 0.5
    alpha = np.clip((np.maximum(soft, 0.6 * dark) - 0.5 * least) / max(full - 0.5 * least, 0.05), 0, 1)
    alpha = alpha * ndimage.binary_dilation(kept)
    # The edge of the sheet is none of the drawing.
    rim = max(2, round(0.004 * max(kept.shape)))
    alpha[:rim], alpha[-rim:], alpha[:, :rim], alpha[:, -rim:] = 0, 0, 0, 0
    colour = np.clip((share - (1 - alpha[..., None])) / np.maximum(alpha[..., None], np.float32(0.05)), 0, 1)
    out = np.empty((*alpha.shape, 4), np.uint8)
    out[..., :3] = np.round(255 * colour)
    out[..., 3] = np.round(255 * alpha)
    points, first, width = (
        strokes_of(out[..., 3])
        if spec.lines
        else (np.empty((0, 2), np.float32), np.zeros(1, np.int64), np.empty(0, np.float32))
    )
    return CleanSheet(out, points, first, width)


def strokes_of(alpha: NDArray[np.uint8]) -> tuple[NDArray[np.float32], NDArray[np.int64], NDArray[np.float32]]:
    """The middles of what is drawn (h, w) as lines, and how wide they are, in shares."""
    from skimage.morphology import skeletonize

    height, wide = alpha.shape
    ink = np.pad((alpha > 70).astype(np.uint8), 2)
    thick = ndimage.distance_transform_edt(ink)
    skeleton = skeletonize(ink.view(bool)).view(np.uint8)
    count = int(skeleton.sum())
    points, first = np.empty((count + 1, 2), np.int32), np.zeros(count + 2, np.int64)
    lines = followed(skeleton, points, first)
    shapes, widths = [], []
    for k in range(lines):
        own = points[first[k] : first[k + 1]]
        if len(own) < 4:
            continue
        line = own[:, ::-1].astype(np.float64)
        # A skeleton goes from pixel to pixel: what lies between is smoother.
        if len(line) > 6:
            line = np.stack([ndimage.gaussian_filter1d(line[:, j], 1.2, mode="nearest") for j in (0, 1)], 1)
        simple = shapely.get_coordinates(shapely.simplify(shapely.linestrings(line), 0.45))
        shapes.append(simple - 2)
        at = np.clip(np.round(simple).astype(int), 0, [thick.shape[1] - 1, thick.shape[0] - 1])
        widths.append(2 * thick[at[:, 1], at[:, 0]] - 0.6)
    if not shapes:
        return np.empty((0, 2), np.float32), np.zeros(1, np.int64), np.empty(0, np.float32)
    starts = firsts_of(shapes)
    xy = (np.concatenate(shapes) + 0.5) / [wide, height]
    return np.asarray(xy, np.float32), starts, np.asarray(np.maximum(np.concatenate(widths), 0.6) / wide, np.float32)
