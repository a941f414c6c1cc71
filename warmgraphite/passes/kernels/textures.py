"""Loops that find the colour of a texture under a pixel."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import B1, F1, F2, F3, I1, S2, S3, W2, W3

__all__ = ["Pictures", "Seen", "paint"]


@device(borrows=True)
def _metres_at(x, y, t, forms, inverse, at):
    z = forms[t, 9] * x + forms[t, 10] * y + forms[t, 11]
    w = inverse[3, 0] * x + inverse[3, 1] * y + inverse[3, 2] * z + inverse[3, 3]
    for k in range(3):
        at[k] = (inverse[k, 0] * x + inverse[k, 1] * y + inverse[k, 2] * z + inverse[k, 3]) / w


@device(borrows=True)
def _place(at, corner, uv, by_uv, axes, size, out):
    """Where a point of the model lies on its picture, in widths and heights of it."""
    if by_uv:
        uu = uv_ = vv = wu = wv = 0.0
        for k in range(3):
            u = corner[1, k] - corner[0, k]
            v = corner[2, k] - corner[0, k]
            d = at[k] - corner[0, k]
            uu += u * u
            uv_ += u * v
            vv += v * v
            wu += d * u
            wv += d * v
        det = uu * vv - uv_ * uv_
        p = (vv * wu - uv_ * wv) / det if det > 0 else 0.0
        q = (uu * wv - uv_ * wu) / det if det > 0 else 0.0
        for m in range(2):
            out[m] = uv[0, m] + p * (uv[1, m] - uv[0, m]) + q * (uv[2, m] - uv[0, m])
        return
    for m in range(2):
        out[m] = (at[0] * axes[m, 0] + at[1] * axes[m, 1] + at[2] * axes[m, 2]) / size[m]


class Seen(NamedTuple):
    """Triangles (T) as they are seen: linear forms, the model's triangle.
    The matrix back to metres, millimetres of a pixel (2,).
    """

    forms: F2
    source: I1
    inverse: F2
    pixel: F1


class Pictures(NamedTuple):
    """Pictures of materials: ``of`` (T,) that of each triangle, −1 for none.
    The model's corners (M, 3, 3) and places on the picture (M, 3, 2), where there are any; axes (T, 2, 3) of the plane
    else; ``size`` (pictures, 2) in metres. ``texels`` are all of them one after another, each at its own size and at
    halves of it: ``offset`` and ``shape`` (pictures, levels, …) say where each begins and how large it is.
    """

    of: I1
    corner: F3
    uv: S3
    has_uv: B1
    axes: F3
    size: F2
    offset: W2
    shape: W3
    texels: S2


@kernel()
def paint(points: F2, triangle: I1, seen: Seen, pictures: Pictures, colour: S2):
    """Set the colours (N, 4), premultiplied 0–255, of frame points on triangles whose material has a picture.

    The level is taken at which a pixel is about as wide as a texel.
    """
    forms, source, inverse, pixel = seen
    picture, corner, uv, has_uv, axes, sizes, offsets, shapes, texels = pictures
    at = np.empty(3)
    here = np.empty(2)
    right = np.empty(2)
    below = np.empty(2)
    levels = offsets.shape[1]
    for i in range(len(points)):
        t = triangle[i]
        if t < 0 or picture[t] < 0 or source[t] < 0:
            continue
        s, k = source[t], picture[t]
        x, y = points[i, 0], points[i, 1]
        _metres_at(x, y, t, forms, inverse, at)
        _place(at, corner[s], uv[s] if has_uv[s] else uv[0], has_uv[s], axes[t], sizes[k], here)
        _metres_at(x + pixel[0], y, t, forms, inverse, at)
        _place(at, corner[s], uv[s] if has_uv[s] else uv[0], has_uv[s], axes[t], sizes[k], right)
        _metres_at(x, y + pixel[1], t, forms, inverse, at)
        _place(at, corner[s], uv[s] if has_uv[s] else uv[0], has_uv[s], axes[t], sizes[k], below)
        h, w = shapes[k, 0, 0], shapes[k, 0, 1]
        wide = max(
            np.hypot((right[0] - here[0]) * w, (right[1] - here[1]) * h),
            np.hypot((below[0] - here[0]) * w, (below[1] - here[1]) * h),
        )
        level = min(max(int(np.log2(max(wide, 1.0)) + 0.5), 0), levels - 1)
        h, w = shapes[k, level, 0], shapes[k, level, 1]
        # A picture's rows count from its top; texture coordinates from its foot.
        fx = (here[0] - np.floor(here[0])) * w - 0.5
        fy = (1.0 - (here[1] - np.floor(here[1]))) * h - 0.5
        c0, r0 = int(np.floor(fx)), int(np.floor(fy))
        fx, fy = fx - c0, fy - r0
        for m in range(4):
            value = 0.0
            for dr in range(2):
                for dc in range(2):
                    r, c = (r0 + dr) % h, (c0 + dc) % w
                    weight = (fy if dr else 1.0 - fy) * (fx if dc else 1.0 - fx)
                    value += weight * texels[offsets[k, level] + r * w + c, m]
            colour[i, m] = value
