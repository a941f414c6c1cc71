"""The loop that lays washes: for each pixel how densely pigment lies there, and what light comes back through it from the paper.

After A. Bousseau, M. Kaplan, J. Thollot and F. Sillion, "Interactive watercolor rendering with temporal coherence and abstraction",
2006: what is seen is the pigment's colour to the power of its density, and all that water does is done to the density.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from warmgraphite.collage.kernels.noise import layered, noise

__all__ = ["sampled", "wash_rows"]


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _smooth(low, high, value):
    t = min(max((value - low) / (high - low), 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def sampled(away, across, down, x, y):
    """Millimetres to the nearest border at a place of the paper, of a field's steps."""
    height, width = away.shape
    c = min(max(x / across - 0.5, 0.0), width - 1.001)
    r = min(max(y / down - 0.5, 0.0), height - 1.001)
    i, j = int(c), int(r)
    u, v = c - i, r - j
    low = away[j, i] * (1.0 - u) + away[j, i + 1] * u
    high = away[j + 1, i] * (1.0 - u) + away[j + 1, i + 1] * u
    return (low * (1.0 - v) + high * v) / 128.0


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _laid(x, y, away, lit, top, bottom, seed, said, pixel):
    """Share of the pixel that has the wash, its density, and how much of it is the second pigment.

    ``x``, ``y`` are millimetres from the middle of the drawing; ``said`` the numbers of :func:`wash_rows`.
    """
    blotch = said[2]
    big = layered(x, y, blotch, 3, seed, pixel)
    middle = layered(x, y, blotch * 0.23, 3, seed + 1, pixel)
    tooth = layered(x, y, 0.9, 2, 7, pixel)
    density = said[0] * (1.0 + said[1] * (0.75 * big + 0.45 * middle))
    if said[6] > 0.0:  # clean water dropped in: paler, with soft edges
        bloom = layered(x + 3.0 * middle, y + 3.0 * big, blotch * 1.5, 2, seed + 2, pixel)
        density *= 1.0 - 0.8 * said[6] * _smooth(0.05, 0.6, bloom)
    if said[7] > 0.0:  # water that runs back: a crinkled dark edge, and paler within
        crinkled = layered(x, y, blotch * 1.1, 1, seed + 3, pixel) + 0.12 * layered(x, y, blotch * 0.12, 3, seed + 4, pixel)
        density *= 1.0 - 0.45 * said[7] * _smooth(0.30, 0.42, crinkled)
        density += 0.5 * said[7] * said[0] * np.exp(-(((crinkled - 0.29) / 0.03) ** 2))
    rim = said[4]
    if rim > 0.0:
        near = np.exp(-away / said[5])
        density += said[0] * rim * (0.75 + 0.6 * middle) * near
        density *= 1.0 - 0.22 * rim * np.exp(-(((away - 3.5 * said[5]) / (2.0 * said[5])) ** 2))
    # Graded: thinner and thinner along a way.
    along = 0.0
    if said[12] == 1.0:
        along = (y - said[14]) / (said[15] - said[14])
    elif said[12] == 2.0:
        along = (y - top) / (bottom - top)
    elif said[12] == 3.0:
        along = np.sqrt((x - said[14]) ** 2 + (y - said[15]) ** 2) / said[16]
    along = min(max(along + 0.10 * big, 0.0), 1.0)
    thin = 1.0 - said[13] * along * along * (3.0 - 2.0 * along)
    density *= thin
    if said[11] > 0.0:  # edges lost in the light
        patch = _smooth(-0.25, 0.35, layered(x, y, 21.0, 2, seed + 5, pixel) + said[11] - 0.5)
        density *= 1.0 - said[11] * lit * patch * np.exp(-away / 4.5)
    density *= 1.0 + 0.9 * said[8] * tooth
    share = 1.0
    if said[10] > 0.0:  # white left between this wash and the next
        gap = said[10] * (0.55 + 0.9 * layered(x, y, 9.0, 2, 61, pixel))
        share = _smooth(gap - 0.5 * max(0.12, pixel), gap + max(0.16, pixel), away)
    if said[9] > 0.0:  # a brush that runs dry
        streak = 0.7 * noise(x / 11.0, y / 0.6, 71 + seed) * min(0.6 / pixel, 1.0) + 0.5 * tooth
        dry = said[9] * (0.25 + 0.6 * np.exp(-away / 6.0) + 0.6 * along)
        share *= 1.0 - _smooth(0.6 - dry, 1.1 - dry, streak + 0.35)
    if said[17] > 0.0:  # it stops short of the frame, in a line that wavers
        wide = layered(x, y, 70.0, 2, seed + 8, pixel)
        edge = min(min(x + said[18], said[19] - x), min(y + said[20], said[21] - y))
        edge += (2.0 + 0.45 * said[17]) * wide + 3.0 * middle
        # Here it dried with a sharp edge, there it was drawn out with water.
        drawn_out = _smooth(-0.15, 0.45, layered(x, y, 45.0, 1, seed + 9, pixel))
        share *= _smooth(said[17], said[17] + 1.2 + drawn_out * (4.0 + said[17]), edge)
        density += 0.4 * said[0] * thin * rim * (1.0 - drawn_out) * np.exp(-(((edge - said[17] - 1.4) / 1.1) ** 2))
    second = 0.0
    if said[3] > 0.0:
        second = said[3] * _smooth(-0.35, 0.45, layered(x + 2.0 * middle, y, blotch * 1.25, 2, seed + 6, pixel))
    return share, min(max(density, 0.0), 4.0), second


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def wash_rows(first, last, place, cover, wash_of, pigments, reach, seeds, shadow, away, step, said, out):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.

    ``place`` is the window's corner, a pixel and the middle of the drawing, each across and down in millimetres; ``cover`` says which
    cell each pixel belongs to (whole, pixel, start, cell, share); ``wash_of`` (N,) the wash of each cell, −1 for none; ``pigments`` (W, 2, 3) logarithms of both
    colours, ``reach`` (W, 2) where it begins and ends downwards, ``seeds`` (W,). ``shadow`` (h, w), ``away`` the field, ``said``:
    density, turbulence, blotch mm, second pigment, rim, its mm, bloom, back-run, granulation, dry brush, white mm, lost edges, way
    of the grade, fade, its place (x, y, mm), short mm, and the frame's left, right, top and bottom from the middle.
    """
    x0, y0, across, down, middle_x, middle_y = place
    whole, mixed, start, cell, cover_share = cover
    width = whole.shape[1]
    pixel = max(across, down)
    at = np.searchsorted(mixed, first * width)
    for r in range(first, last):
        fy = y0 + (r + 0.5) * down
        y = fy - middle_y
        for c in range(width):
            k = whole[r, c]
            flat = r * width + c
            low, high = 0, 1
            if k < 0:
                while at < len(mixed) and mixed[at] < flat:
                    at += 1
                if at == len(mixed) or mixed[at] != flat:
                    out[r, c] = 0
                    continue
                low = start[at]
                high = start[at + 1] if at + 1 < len(mixed) else len(cell)
            fx = x0 + (c + 0.5) * across
            x = fx - middle_x
            red, green, blue, alpha = 0.0, 0.0, 0.0, 0.0
            last_wash, share, density, second, distance = -1, 0.0, 0.0, 0.0, -1.0
            for i in range(low, high):
                weight = 1.0
                if k < 0:
                    w, weight = wash_of[cell[i]], cover_share[i] / 255.0
                else:
                    w = wash_of[k]
                if w < 0:
                    continue
                if distance < 0.0:
                    distance = sampled(away, step[0], step[1], fx, fy)
                if w != last_wash:
                    share, density, second = _laid(
                        x, y, distance, 1.0 - shadow[r, c] / 255.0, reach[w, 0], reach[w, 1], seeds[w], said, pixel
                    )
                    last_wash = w
                weight *= share
                p = pigments[w]
                red += weight * np.exp(density * (p[0, 0] + second * (p[1, 0] - p[0, 0])))
                green += weight * np.exp(density * (p[0, 1] + second * (p[1, 1] - p[0, 1])))
                blue += weight * np.exp(density * (p[0, 2] + second * (p[1, 2] - p[0, 2])))
                alpha += weight
            out[r, c, 0] = int(255.0 * red + 0.5)
            out[r, c, 1] = int(255.0 * green + 0.5)
            out[r, c, 2] = int(255.0 * blue + 0.5)
            out[r, c, 3] = int(255.0 * alpha + 0.5)
