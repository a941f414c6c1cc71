"""The loop that paints pictures endlessly: in rows, strewn, or in patches.
See :mod:`warmgraphite.collage.pictures.example`.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.collage.kernels.placing import place_on
from warmgraphite.collage.kernels.records import Faces, Window
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import S1, S2, S3, T2, T3, W2
from warmgraphite.noise.kernels import chance

__all__ = ["Example", "Repeat", "picture_rows"]


class Example(NamedTuple):
    """What is made of a picture.
    ``texels`` (n, 4) of all its tiles and levels, ``start`` (tiles, levels) where each begins, ``shape`` (levels, 2)
    its rows and columns; the ``table`` and ``axes`` that colours are taken back by; its ``mean`` (4,).
    """

    texels: S2
    start: W2
    shape: W2
    table: S3
    axes: S2
    mean: S1


class Repeat(NamedTuple):
    """How it goes on: in rows 0, strewn 1, in patches 2.
    So many metres ``wide`` and ``tall``, turned, and what piece of it.
    """

    kind: int
    wide: float
    tall: float
    cosine: float
    sine: float
    seed: int


class _Place(NamedTuple):
    """A place in shares of the example, and the level at which a pixel is about a texel."""

    u: float
    v: float
    level: float


@device(fast=True, borrows=True)
def _texel(example, tile, level, u, v, wraps, out, weight):
    """Add what lies at a place of one level, between its four neighbours, to ``out`` (4,)."""
    texels, begin = example.texels, example.start[tile, level]
    rows, columns = example.shape[level, 0], example.shape[level, 1]
    x, y = u * columns - 0.5, v * rows - 0.5
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


@device(fast=True, borrows=True)
def _at(example, tile, place, wraps, out, weight):
    """The same between two levels."""
    top = len(example.shape) - 1
    level = min(max(place.level, 0.0), float(top))
    low = min(int(level), top - 1)
    far = level - low
    for k in range(2):
        part = weight * (far if k else 1.0 - far)
        if part > 0.0:
            _texel(example, tile, low + k, place.u, place.v, wraps, out, part)


@device(fast=True, borrows=True)
def _piece(example, place, i, j, seed, value, weight):
    """Add a piece of the example, moved as its corner of the triangles says."""
    moved = _Place(place.u + chance(i, j, seed), place.v + chance(i, j, seed + 1), place.level)
    _at(example, 0, moved, True, value, weight)


@device(fast=True, borrows=True)
def _strewn(example, place, seed, value, out):
    """Three pieces of the example on a grid of triangles, blended as Gaussian noise."""
    table, axes = example.table, example.axes
    # Triangles about a third of the example large (Heitz and Neyret, 2018).
    su, sv = place.u * 3.4641016, place.v * 3.4641016
    x, y = su - 0.5773503 * sv, 1.1547005 * sv
    fi, fj = np.floor(x), np.floor(y)
    i, j = int(fi), int(fj)
    p, q = x - fi, y - fj
    r = 1.0 - p - q
    value[:] = 0.0
    if r > 0.0:
        w0, w1, w2 = r, q, p
        _piece(example, place, i, j, seed, value, w0)
        _piece(example, place, i, j + 1, seed, value, w1)
        _piece(example, place, i + 1, j, seed, value, w2)
    else:
        w0, w1, w2 = -r, 1.0 - q, 1.0 - p
        _piece(example, place, i + 1, j + 1, seed, value, w0)
        _piece(example, place, i + 1, j, seed, value, w1)
        _piece(example, place, i, j + 1, seed, value, w2)
    norm = np.sqrt(w0 * w0 + w1 * w1 + w2 * w2)
    row = int(min(max(place.level + 0.5, 0.0), len(table) - 1.0))
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


@device(fast=True, borrows=True)
def _patched(example, place, seed, out):
    """The patch whose sides are of the colours that the lattice of places asks for."""
    i, j = int(np.floor(place.u)), int(np.floor(place.v))
    north = chance(i, j, seed + 2) < 0.5
    south = chance(i, j + 1, seed + 2) < 0.5
    west = chance(i, j, seed + 3) < 0.5
    east = chance(i + 1, j, seed + 3) < 0.5
    tile = 8 * north + 4 * east + 2 * south + west
    _at(example, tile, _Place(place.u - i, place.v - j, place.level), False, out, 1.0)


@kernel(fast=True)
def picture_rows(
    first: int, last: int, window: Window, faces: Faces, share: T2, example: Example, repeat: Repeat, out: T3
):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.
    Where faces have a ``share`` (h, w) of the pixel.
    """
    triangle, row_of, mean, shape = faces.triangle, faces.row_of, example.mean, example.shape
    width = triangle.shape[1]
    own, scratch = np.zeros(4), np.zeros(4)
    wide, tall, cosine, sine = repeat.wide, repeat.tall, repeat.cosine, repeat.sine
    for r in range(first, last):
        y = window.y + (r + 0.5) * window.down
        for c in range(width):
            k = triangle[r, c]
            row = row_of[k] if k >= 0 else -1
            if row < 0 or share[r, c] == 0:
                out[r, c] = 0
                continue
            x = window.x + (c + 0.5) * window.across
            u, v, ax, bx, ay, by = place_on(x, y, window, row, faces)
            if sine != 0.0:
                u, v = cosine * u + sine * v, cosine * v - sine * u
                ax, bx = cosine * ax + sine * bx, cosine * bx - sine * ax
                ay, by = cosine * ay + sine * by, cosine * by - sine * ay
            u, v = u / wide, -v / tall
            ax, bx, ay, by = ax / wide, -bx / tall, ay / wide, -by / tall
            # In a steep view a pixel is a long strip of the face: it is looked at in several places along that.
            columns, rows = shape[0, 1], shape[0, 0]
            one = np.sqrt((ax * columns) ** 2 + (bx * rows) ** 2)
            two = np.sqrt((ay * columns) ** 2 + (by * rows) ** 2)
            long, short = max(one, two), max(min(one, two), NEAR)
            count = int(min(max(np.ceil(long / max(short, 1.0)), 1.0), 8.0))
            dx, dy = (ax, bx) if one >= two else (ay, by)
            level = np.log2(max(long / count, short, NEAR))
            red, green, blue, alpha = 0.0, 0.0, 0.0, 0.0
            for n in range(count):
                t = (n + 0.5) / count - 0.5
                place = _Place(u + t * dx, v + t * dy, level)
                own[:] = 0.0
                if repeat.kind == 1:
                    _strewn(example, place, repeat.seed, scratch, own)
                elif repeat.kind == 2:
                    _patched(example, place, repeat.seed, own)
                else:
                    _at(example, 0, place, True, own, 1.0)
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
