"""The loop that paints pictures endlessly: in rows, strewn, or in patches; see :mod:`warmgraphite.collage.pictures.example`."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.kernels.placing import place_on
from warmgraphite.kernels import device, kernel
from warmgraphite.noise.kernels import chance

__all__ = ["picture_rows"]


@device(fast=True)
def _texel(texels, begin, rows, columns, x, y, wraps, out, weight):
    """Add what lies at a place (in texels) of one level, between its four neighbours, to ``out`` (4,)."""
    x, y = x - 0.5, y - 0.5
    fx, fy = np.floor(x), np.floor(y)
    u, v = x - fx, y - fy
    i, j = int(fx), int(fy)
    for dj in range(2):
        for di in range(2):
            r, c = j + dj, i + di
            if wraps:
                r, c = r % rows, c % columns
            else:
                r, c = min(max(r, 0), rows - 1), min(max(c, 0), columns - 1)
            own = weight * (u if di else 1.0 - u) * (v if dj else 1.0 - v)
            t = texels[begin + r * columns + c]
            out[0] += own * t[0]
            out[1] += own * t[1]
            out[2] += own * t[2]
            out[3] += own * t[3]


@device(fast=True)
def _at(texels, start, shape, tile, u, v, level, wraps, out, weight):
    """The same between two levels; ``u``, ``v`` in shares of the example."""
    top = len(shape) - 1
    level = min(max(level, 0.0), float(top))
    low = min(int(level), top - 1)
    far = level - low
    for k in range(2):
        part = weight * (far if k else 1.0 - far)
        if part > 0.0:
            rows, columns = shape[low + k, 0], shape[low + k, 1]
            _texel(texels, start[tile, low + k], rows, columns, u * columns, v * rows, wraps, out, part)


@device(fast=True)
def _strewn(texels, start, shape, table, axes, u, v, level, seed, value, out):
    """Three pieces of the example on a grid of triangles, blended as Gaussian noise."""
    # Triangles about a third of the example large (Heitz and Neyret, 2018).
    su, sv = u * 3.4641016, v * 3.4641016
    x, y = su - 0.5773503 * sv, 1.1547005 * sv
    fi, fj = np.floor(x), np.floor(y)
    i, j = int(fi), int(fj)
    p, q = x - fi, y - fj
    r = 1.0 - p - q
    if r > 0.0:
        w0, w1, w2 = r, q, p
        i0, j0, i1, j1, i2, j2 = i, j, i, j + 1, i + 1, j
    else:
        w0, w1, w2 = -r, 1.0 - q, 1.0 - p
        i0, j0, i1, j1, i2, j2 = i + 1, j + 1, i + 1, j, i, j + 1
    norm = np.sqrt(w0 * w0 + w1 * w1 + w2 * w2)
    value[:] = 0.0
    _at(texels, start, shape, 0, u + chance(i0, j0, seed), v + chance(i0, j0, seed + 1), level, True, value, w0)
    _at(texels, start, shape, 0, u + chance(i1, j1, seed), v + chance(i1, j1, seed + 1), level, True, value, w1)
    _at(texels, start, shape, 0, u + chance(i2, j2, seed), v + chance(i2, j2, seed + 1), level, True, value, w2)
    row = int(min(max(level + 0.5, 0.0), len(table) - 1.0))
    size = table.shape[1]
    own0, own1, own2 = 0.0, 0.0, 0.0
    for m in range(3):
        g = (value[m] - 0.5) / norm + 0.5
        at = min(max(g * (size - 1), 0.0), size - 1.001)
        k = int(at)
        found = table[row, k, m] + (at - k) * (table[row, k + 1, m] - table[row, k, m])
        own0 += found * axes[m, 0]
        own1 += found * axes[m, 1]
        own2 += found * axes[m, 2]
    out[0], out[1], out[2] = own0 + axes[3, 0], own1 + axes[3, 1], own2 + axes[3, 2]
    out[3] = value[3]


@kernel(
    "i8, i8, UniTuple(f8, 4), i4[:,::1], i4[::1], f8[:,:,::1], f8[::1], b1[::1], u1[:,::1], f4[:,::1], i8[:,::1], i8[:,::1], "
    "i8, f4[:,:,::1], f4[:,::1], f4[::1], f8, f8, f8[::1], i8, u1[:,:,::1]",
    fast=True,
)
def picture_rows(
    first, last, place, triangle, row_of, table, usual, lying, share, texels, start, shape, kind, colours, axes, mean, aspect, wide,
    turned, seed, out,
):  # fmt: skip
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.

    ``place`` is the window's corner and a pixel, each across and down in millimetres; ``triangle`` to ``lying`` say how faces lie, as in
    :func:`texture_rows`; ``texels`` to ``aspect`` are the example, ``wide`` the metres that it, or a patch of it, is wide.
    """
    x0, y0, across, down = place
    width = triangle.shape[1]
    own, scratch = np.zeros(4), np.zeros(4)
    tall = wide * aspect
    for r in range(first, last):
        y = y0 + (r + 0.5) * down
        for c in range(width):
            k = triangle[r, c]
            row = row_of[k] if k >= 0 else -1
            if row < 0 or share[r, c] == 0:
                out[r, c] = 0
                continue
            x = x0 + (c + 0.5) * across
            u, v, ax, bx, ay, by = place_on(x, y, across, down, row, table, usual, lying)
            if turned[1] != 0.0:
                u, v = turned[0] * u + turned[1] * v, turned[0] * v - turned[1] * u
                ax, bx = turned[0] * ax + turned[1] * bx, turned[0] * bx - turned[1] * ax
                ay, by = turned[0] * ay + turned[1] * by, turned[0] * by - turned[1] * ay
            u, v = u / wide, -v / tall
            ax, bx, ay, by = ax / wide, -bx / tall, ay / wide, -by / tall
            # In a steep view a pixel is a long strip of the face: it is looked at in several places along that.
            columns, rows = shape[0, 1], shape[0, 0]
            one = np.sqrt((ax * columns) ** 2 + (bx * rows) ** 2)
            two = np.sqrt((ay * columns) ** 2 + (by * rows) ** 2)
            long, short = max(one, two), max(min(one, two), 1e-6)
            count = int(min(max(np.ceil(long / max(short, 1.0)), 1.0), 8.0))
            dx, dy = (ax, bx) if one >= two else (ay, by)
            level = np.log2(max(long / count, short, 1e-6))
            red, green, blue, alpha = 0.0, 0.0, 0.0, 0.0
            for n in range(count):
                t = (n + 0.5) / count - 0.5
                pu, pv = u + t * dx, v + t * dy
                own[:] = 0.0
                if kind == 1:
                    _strewn(texels, start, shape, colours, axes, pu, pv, level, seed, scratch, own)
                elif kind == 2:
                    su, sv = pu, pv
                    i, j = int(np.floor(su)), int(np.floor(sv))
                    north = chance(i, j, seed + 2) < 0.5
                    south = chance(i, j + 1, seed + 2) < 0.5
                    west = chance(i, j, seed + 3) < 0.5
                    east = chance(i + 1, j, seed + 3) < 0.5
                    tile = 8 * north + 4 * east + 2 * south + west
                    _at(texels, start, shape, tile, su - i, sv - j, level, False, own, 1.0)
                else:
                    _at(texels, start, shape, 0, pu, pv, level, True, own, 1.0)
                red += own[0]
                green += own[1]
                blue += own[2]
                alpha += own[3]
            # Farther off than all of its levels, only its colour is left.
            gone = min(max(level - len(shape) + 2.0, 0.0), 1.0)
            red, green = red / count * (1.0 - gone) + mean[0] * gone, green / count * (1.0 - gone) + mean[1] * gone
            blue, alpha = blue / count * (1.0 - gone) + mean[2] * gone, alpha / count * (1.0 - gone) + mean[3] * gone
            part = min(max(alpha, 0.0), 1.0) * share[r, c]
            out[r, c, 0] = int(min(max(red, 0.0), 1.0) * part + 0.5)
            out[r, c, 1] = int(min(max(green, 0.0), 1.0) * part + 0.5)
            out[r, c, 2] = int(min(max(blue, 0.0), 1.0) * part + 0.5)
            out[r, c, 3] = int(part + 0.5)
