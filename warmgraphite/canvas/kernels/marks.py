"""Loops over very many marks: outlines of ribbons, the areas of pixels that they cover, and their text."""

from __future__ import annotations

import numpy as np

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.kernels import device, kernel
from warmgraphite.raster.kernels import lay_edge

__all__ = ["areas", "outlines", "path_data", "tinted"]


@kernel("f4[:,::1], f4[::1], i8[::1]")
def outlines(xy, width, first):
    out = np.empty((2 * len(xy), 2), np.float32)
    for s in range(first.size - 1):
        a, b = first[s], first[s + 1]
        for k in range(a, b):
            # The side at a point lies between those of the segments before and after it.
            i, j = max(k - 1, a), min(k + 1, b - 1)
            dx, dy = xy[j, 0] - xy[i, 0], xy[j, 1] - xy[i, 1]
            size = max(np.sqrt(dx * dx + dy * dy), np.float32(ROUNDING))
            wide = np.float32(0.5) * width[k] / size
            out[a + k, 0], out[a + k, 1] = xy[k, 0] - dy * wide, xy[k, 1] + dx * wide
            back = 2 * b - 1 - (k - a)
            out[back, 0], out[back, 1] = xy[k, 0] + dy * wide, xy[k, 1] - dx * wide
    return out


@device()
def _side(acc, x0, y0, x1, y1):
    """One side of an outline, cut apart where it leaves the picture to the left or right.
    What lies left of it covers whole rows from their beginning, what lies right of it none.
    """
    high, wide = acc.shape[0], float(acc.shape[1] - 2)
    if (x0 <= 0.0 and x1 <= 0.0) or (x0 >= wide and x1 >= wide):
        border = 0.0 if x0 <= 0.0 else wide
        lay_edge(acc, border, y0, border, y1, 0, high, 0.0, wide)
        return
    for border in (0.0, wide):
        if (x0 < border) != (x1 < border) and x0 != border and x1 != border:
            y = y0 + (y1 - y0) * (border - x0) / (x1 - x0)
            # No part of what remains crosses this border again.
            _side(acc, x0, y0, border, y)
            _side(acc, border, y, x1, y1)
            return
    lay_edge(acc, x0, y0, x1, y1, 0, high, 0.0, wide)


@kernel("f4[:,::1], i8[::1], f8, f8, f8, f8, f4[:,::1]")
def areas(points, first, sx, sy, tx, ty, acc):
    """Add the signed areas of closed outlines to differences along rows (h, w + 2)."""
    high, wide = acc.shape[0], acc.shape[1] - 2
    for s in range(first.size - 1):
        a, b = first[s], first[s + 1]
        low_x, low_y, high_x, high_y = np.inf, np.inf, -np.inf, -np.inf
        for k in range(a, b):
            x, y = points[k, 0] * sx + tx, points[k, 1] * sy + ty
            low_x, high_x, low_y, high_y = min(low_x, x), max(high_x, x), min(low_y, y), max(high_y, y)
        if high_x <= 0.0 or low_x >= wide or high_y <= 0.0 or low_y >= high:
            continue
        p = b - 1
        for k in range(a, b):
            _side(
                acc, points[p, 0] * sx + tx, points[p, 1] * sy + ty, points[k, 0] * sx + tx, points[k, 1] * sy + ty,
            )  # fmt: skip
            p = k


@kernel("f4[:,::1], u4[::1], u4[:,::1]")
def tinted(acc, tints, out):
    """The tint (256,) of the share that each pixel (h, w) has of the areas (h, w + 2).
    None where there is none of it.
    """
    for y in range(out.shape[0]):
        total = 0.0
        for x in range(out.shape[1]):
            total += acc[y, x]
            share = np.uint8(min(abs(total), 1.0) * 255.0 + 0.5)
            if share:
                out[y, x] = tints[share]


@device()
def _written(out, n, value, digits, spaced):
    """One number, with a space before it where it has no sign."""
    if value < 0:
        out[n] = 45
        n += 1
        value = -value
    elif spaced:
        out[n] = 32
        n += 1
    unit = 1
    for _ in range(digits):
        unit *= 10
    whole, rest = value // unit, value % unit
    if whole > 0 or rest == 0:
        size = 1
        while whole // size >= 10:
            size *= 10
        while size > 0:
            out[n] = 48 + (whole // size) % 10
            n += 1
            size //= 10
    if rest > 0:
        out[n] = 46
        n += 1
        while rest > 0:
            unit //= 10
            out[n] = 48 + rest // unit
            n += 1
            rest %= unit
    return n


@kernel("i8[:,::1], i8[::1], b1, i8, b1")
def path_data(xy, first, closed, digits, steps):
    """The text of marks: places, or ``steps`` from each place to the next."""
    out = np.empty(44 * len(xy) + 4 * first.size, np.uint8)
    n = 0
    for s in range(first.size - 1):
        a, b = first[s], first[s + 1]
        if b <= a:
            continue
        out[n] = 77
        n = _written(out, n + 1, xy[a, 0], digits, False)
        n = _written(out, n, xy[a, 1], digits, True)
        ring = not closed and b - a > 2 and xy[a, 0] == xy[b - 1, 0] and xy[a, 1] == xy[b - 1, 1]
        for k in range(a + 1, b - 1 if ring else b):
            spaced = k > a + 1
            if not spaced:
                out[n] = 108 if steps else 76
                n += 1
            x, y = (xy[k - 1, 0], xy[k - 1, 1]) if steps else (0, 0)
            n = _written(out, n, xy[k, 0] - x, digits, spaced)
            n = _written(out, n, xy[k, 1] - y, digits, True)
        if closed or ring:
            out[n] = 90
            n += 1
    return out[:n]
