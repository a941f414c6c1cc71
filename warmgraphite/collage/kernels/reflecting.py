"""The loop that paints a mirrored picture: moved by ripples, broken by strokes, fading away from what is mirrored."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.collage.kernels.records import Window
from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import F2, S1, T2, T3
from warmgraphite.noise.kernels import eased, layered_row

__all__ = ["Mirrored", "Water", "reflect_rows"]

_F = np.float32


class Mirrored(NamedTuple):
    """A mirrored picture.
    It has ``texels`` (n, 4), each ``side`` pixels wide, and ``away`` (n,) metres its own, in a box of the window's
    pixels; ``plane`` (3, 3) takes millimetres to metres on the mirror, along the paper and into depth.
    """

    texels: T2
    away: S1
    side: int
    left: int
    top: int
    wide: int
    high: int
    plane: F2


class Water(NamedTuple):
    """What a mirror does: how far ripples move things, and their size in metres.
    Shares broken by strokes and faded, and the metres in which they fade; the most pixels that it may move; what piece
    of it; how much of the sky is mirrored, and its colour, 0–255.
    """

    ripple: float
    size: float
    strokes: float
    fade: float
    within: float
    most: float
    seed: int
    open: float
    red: float
    green: float
    blue: float


class _Room(NamedTuple):
    """A row of pixels.
    Places on the mirror, how many pixels there are to a wave and to a metre, noises, and room to work in.
    """

    u: np.ndarray
    v: np.ndarray
    per: np.ndarray
    fine: np.ndarray
    one: np.ndarray
    two: np.ndarray
    three: np.ndarray
    x: np.ndarray
    y: np.ndarray


@device(fast=True, borrows=True)
def _metres(plane, x, y):
    """A place of the paper on the mirror."""
    w = plane[2, 0] * x + plane[2, 1] * y + plane[2, 2]
    w = w if abs(w) > NO_LENGTH else NO_LENGTH
    return (plane[0, 0] * x + plane[0, 1] * y + plane[0, 2]) / w, (plane[1, 0] * x + plane[1, 1] * y + plane[1, 2]) / w


@device(fast=True)
def _rippled(r, window, plane, water, room):
    """Fill in where pixels of a row lie on the mirror, and how waves are there."""
    size, seed = water.size, water.seed
    y = window.y + (r + 0.5) * window.down
    for c in range(len(room.u)):
        x = window.x + (c + 0.5) * window.across
        u, v = _metres(plane, x, y)
        # How far one goes on the mirror in a pixel, across and down: ripples finer than that are not seen.
        below, deep = _metres(plane, x, y + window.down)
        aside, _ = _metres(plane, x + window.across, y)
        across = abs(aside - u)
        room.u[c], room.v[c] = u, v
        room.fine[c] = _F(size / max(abs(deep - v), abs(below - u), across, ROUNDING))
        room.per[c] = 1.0 / max(across, ROUNDING)
    layered_row(room.u, room.v, 3.2 * size, size, 3, seed, room.fine, room.x, room.y, room.one)
    layered_row(room.u, room.v, 1.1 * size, 0.45 * size, 2, seed + 1, room.fine, room.x, room.y, room.two)
    if water.strokes > 0:
        layered_row(room.u, room.v, 9.0 * size, 0.9 * size, 3, seed + 2, room.fine, room.x, room.y, room.three)


@device(fast=True, borrows=True)
def _at(mirrored, px, py):
    """What is mirrored at a place of the window's pixels, and how far away it is.
    Red, green, blue, 0–255, its share, metres.
    """
    texels, side, wide, high = mirrored.texels, mirrored.side, mirrored.wide, mirrored.high
    px, py = (px - 0.5 * (side - 1)) / side, (py - 0.5 * (side - 1)) / side
    px, py = min(max(px, 0.0), wide - 1.001), min(max(py, 0.0), high - 1.001)
    i, j = int(px), int(py)
    a, b = px - i, py - j
    k = j * wide + i
    right = 1 if i + 1 < wide else 0
    below = wide if j + 1 < high else 0
    w00, w10, w01, w11 = (1 - a) * (1 - b), a * (1 - b), (1 - a) * b, a * b
    p, q, s, t = k, k + right, k + below, k + below + right
    red = texels[p, 0] * w00 + texels[q, 0] * w10 + texels[s, 0] * w01 + texels[t, 0] * w11
    green = texels[p, 1] * w00 + texels[q, 1] * w10 + texels[s, 1] * w01 + texels[t, 1] * w11
    blue = texels[p, 2] * w00 + texels[q, 2] * w10 + texels[s, 2] * w01 + texels[t, 2] * w11
    solid = texels[p, 3] * w00 + texels[q, 3] * w10 + texels[s, 3] * w01 + texels[t, 3] * w11
    return red, green, blue, solid / 255.0, mirrored.away[k]


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@kernel(fast=True)
def reflect_rows(
    first: int, last: int, window: Window, label: T2, share: T2, number: int, mirrored: Mirrored, water: Water, out: T3
):  # fmt: skip
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4) uint8, premultiplied.
    Where ``label`` (h, w) has the ``number``, by its ``share`` (h, w) of each pixel.
    """
    # Many arguments, because what is written is asked pixel by pixel for which mirror it is.
    width = out.shape[1]
    room = _Room(
        np.empty(width), np.empty(width), np.empty(width), np.empty(width, _F), np.empty(width, _F),
        np.empty(width, _F),
        np.empty(width, _F), np.empty(width, _F), np.empty(width, _F),
    )  # fmt: skip
    strokes = water.strokes
    for r in range(first, last):
        any_here = False
        for c in range(width):
            any_here |= label[r, c] == number
        if not any_here:
            continue
        _rippled(r, window, mirrored.plane, water, room)
        for c in range(width):
            if label[r, c] != number:
                continue
            one, two = room.one[c], room.two[c]
            reach = min(water.ripple * water.size * 0.5 * room.per[c], water.most)
            px, py = c - mirrored.left + 0.45 * reach * two, r - mirrored.top + reach * (one + 0.35 * two)
            red, green, blue, solid, far = _at(mirrored, px, py)
            kept = 1.0 - water.fade * eased(far / water.within) if far < 1e8 else 1.0
            red, green, blue, solid = red * kept, green * kept, blue * kept, solid * kept
            clear = (1.0 - solid) * water.open
            red, green, blue, solid = (
                red + water.red * clear,
                green + water.green * clear,
                blue + water.blue * clear,
                solid + clear,
            )
            if strokes > 0:
                broken = 1.0 - strokes * eased((room.three[c] + 0.25 * two - 0.5 + 0.75 * strokes) / 0.3)
                red, green, blue, solid = red * broken, green * broken, blue * broken, solid * broken
            part = share[r, c] / 255.0
            out[r, c, 0] = min(255.0, red * part + 0.5)
            out[r, c, 1] = min(255.0, green * part + 0.5)
            out[r, c, 2] = min(255.0, blue * part + 0.5)
            out[r, c, 3] = min(255.0, 255.0 * solid * part + 0.5)
