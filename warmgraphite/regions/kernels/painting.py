"""The loops that lay a brush on a tile of a mask, read masks between their pixels, and measure from drawn outlines."""

from __future__ import annotations

import numpy as np

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.kernels import device, kernel
from warmgraphite.noise.kernels import ramp

__all__ = ["brush_tile", "outline_distance", "sampled", "sampled_at"]

#: Square of a length in pixels below which a stretch of a stroke is a point.
POINT = 1e-18


@kernel("u1[:,::1], f8[:,::1], f8, f8, f8, b1", division="numpy")
def brush_tile(tile, points, radius, softness, strength, erases):  # type: ignore[no-untyped-def]
    """Lay a stroke through ``points`` (n, 2) in pixels of a tile (t, t) uint8, in place.
    Gives whether it touched it: all within ``1 − softness`` of the ``radius``, less and less beyond.
    """
    size = tile.shape[0]
    nearest = np.full((size, size), np.float32(1e12))
    hit = False
    for k in range(max(1, len(points) - 1)):
        ax, ay = points[k]
        bx, by = points[min(k + 1, len(points) - 1)]
        x0 = max(0, int(np.floor(min(ax, bx) - radius)))
        x1 = min(size - 1, int(np.ceil(max(ax, bx) + radius)))
        y0 = max(0, int(np.floor(min(ay, by) - radius)))
        y1 = min(size - 1, int(np.ceil(max(ay, by) + radius)))
        dx, dy = bx - ax, by - ay
        long2 = max(dx * dx + dy * dy, ROUNDING)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                px, py = x + 0.5 - ax, y + 0.5 - ay
                t = min(max((px * dx + py * dy) / long2, 0.0), 1.0)
                ex, ey = px - t * dx, py - t * dy
                near = np.float32(ex * ex + ey * ey)
                if near < nearest[y, x]:
                    nearest[y, x] = near
                hit = True
    if not hit:
        return False
    hard = radius * (1.0 - softness)
    wide = max(radius - hard, 1.0)  # a hard brush fades across one pixel, so that its edge is smooth
    changed = False
    for y in range(size):
        for x in range(size):
            if nearest[y, x] > 1e11:
                continue
            away = np.sqrt(nearest[y, x])
            t = min(max((radius - away) / wide + (0.5 / wide if softness == 0.0 else 0.0), 0.0), 1.0)
            share = strength * ramp(t)
            if share <= 0.0:
                continue
            own = tile[y, x] / 255.0
            found = own * (1.0 - share) if erases else own + (1.0 - own) * share
            value = int(255.0 * found + 0.5)
            if value != tile[y, x]:
                tile[y, x] = value
                changed = True
    return changed


@device(division="numpy", inline="always")
def _between(whole, x, y):  # type: ignore[no-untyped-def]
    i, j = int(np.floor(x)), int(np.floor(y))
    height, width = whole.shape
    if i < -1 or j < -1 or i >= width or j >= height:
        return np.float32(0)
    u, v = np.float32(x - i), np.float32(y - j)
    a = np.float32(whole[j, i]) if i >= 0 and j >= 0 else np.float32(0)
    b = np.float32(whole[j, i + 1]) if i + 1 < width and j >= 0 else np.float32(0)
    c = np.float32(whole[j + 1, i]) if i >= 0 and j + 1 < height else np.float32(0)
    d = np.float32(whole[j + 1, i + 1]) if i + 1 < width and j + 1 < height else np.float32(0)
    return ((a * (1 - u) + b * u) * (1 - v) + (c * (1 - u) + d * u) * v) / np.float32(255)


@kernel("u1[:,::1], f8[::1], f8[::1], f4[:,::1]", division="numpy")
def sampled(whole, x, y, out):  # type: ignore[no-untyped-def]
    """Fill ``out`` (h, w) with shares between the pixels of ``whole`` at columns ``x`` (w,) and rows ``y`` (h,).
    Nothing lies beside.
    """
    for r in range(len(y)):
        for c in range(len(x)):
            out[r, c] = _between(whole, x[c], y[r])


@kernel("u1[:,::1], f8[::1], f8[::1], f4[::1]", division="numpy")
def sampled_at(whole, x, y, out):  # type: ignore[no-untyped-def]
    """As :func:`sampled`, of points (n,)."""
    for k in range(len(x)):
        out[k] = _between(whole, x[k], y[k])


@kernel("f8[::1], f8[::1], f8[:,::1], f8[::1]", division="numpy")
def outline_distance(x, y, outline, out):  # type: ignore[no-untyped-def]
    """Fill ``out`` (n,) with how far points lie from the edge of a closed ``outline`` (m, 2), negative within it."""
    m = len(outline)
    for k in range(len(x)):
        px, py = x[k], y[k]
        nearest, inside = 1e30, False
        for i in range(m):
            ax, ay = outline[i]
            bx, by = outline[i + 1 - m if i + 1 == m else i + 1]
            dx, dy = bx - ax, by - ay
            t = min(max(((px - ax) * dx + (py - ay) * dy) / max(dx * dx + dy * dy, POINT), 0.0), 1.0)
            ex, ey = px - ax - t * dx, py - ay - t * dy
            nearest = min(nearest, ex * ex + ey * ey)
            if (ay > py) != (by > py) and px < ax + (py - ay) / (by - ay) * dx:
                inside = not inside
        away = np.sqrt(nearest)
        out[k] = -away if inside else away
