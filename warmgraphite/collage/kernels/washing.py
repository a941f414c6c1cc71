"""The loop that lays washes: for each pixel how densely pigment lies there, and what light comes back through it from the paper.

After A. Bousseau, M. Kaplan, J. Thollot and F. Sillion, "Interactive watercolor rendering with temporal coherence and abstraction",
2006: what is seen is the pigment's colour to the power of its density, and all that water does is done to the density.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from warmgraphite.collage.kernels.noise import layered_row

__all__ = ["sampled", "wash_rows"]

_F = np.float32
#: Pixels of a row that are worked on at once.
PIECE = 512


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
def _noise(x, y, along, up, octaves, seed, pixel, room, out):
    """Unevenness with a lattice of ``along`` by ``up`` millimetres, no finer than a ``pixel``."""
    count = len(x)
    fine = room[0][:count]
    fine[:] = _F(min(along, up) / pixel)
    layered_row(x, y, along, up, octaves, seed, fine, room[1][:count], room[2][:count], out)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _laid(x, y, own_x, own_y, away, lit, top, bottom, said, pixel, room, share, density, second):
    """Fill for places (n,) the ``share`` that has the wash, its ``density``, and how much of it is the ``second`` pigment.

    ``x``, ``y`` are millimetres from the middle of the drawing, ``own_x`` and ``own_y`` the same moved for each wash, so that no two
    flow alike; ``said`` the numbers of :func:`wash_rows`, ``room`` arrays to work in.
    """
    count = len(x)
    blotch, amount, rim = said[2], said[0], said[4]
    big, middle, tooth, more = room[3][:count], room[4][:count], room[5][:count], room[6][:count]
    _noise(own_x, own_y, blotch, blotch, 3, 1, pixel, room, big)
    _noise(own_x, own_y, 0.23 * blotch, 0.23 * blotch, 3, 2, pixel, room, middle)
    for n in range(count):
        density[n] = amount * (1.0 + said[1] * (0.75 * big[n] + 0.45 * middle[n]))
        share[n], second[n] = 1.0, 0.0
    if said[6] > 0.0:  # clean water dropped in: paler, with soft edges
        _noise(own_x, own_y, 1.5 * blotch, 1.5 * blotch, 2, 3, pixel, room, more)
        for n in range(count):
            density[n] *= 1.0 - 0.8 * said[6] * _smooth(0.05, 0.6, more[n] + 0.12 * middle[n])
    if said[7] > 0.0:  # water that runs back: a crinkled dark edge, and paler within
        fringe = room[7][:count]
        _noise(own_x, own_y, 1.1 * blotch, 1.1 * blotch, 1, 4, pixel, room, more)
        _noise(own_x, own_y, 0.12 * blotch, 0.12 * blotch, 3, 5, pixel, room, fringe)
        for n in range(count):
            crinkled = more[n] + 0.12 * fringe[n]
            density[n] *= 1.0 - 0.45 * said[7] * _smooth(0.30, 0.42, crinkled)
            density[n] += 0.5 * said[7] * amount * np.exp(-(((crinkled - 0.29) / 0.03) ** 2))
    if rim > 0.0:
        for n in range(count):
            if away[n] < 14.0 * said[5]:
                density[n] += amount * rim * (0.75 + 0.6 * middle[n]) * np.exp(-away[n] / said[5])
                density[n] *= 1.0 - 0.22 * rim * np.exp(-(((away[n] - 3.5 * said[5]) / (2.0 * said[5])) ** 2))
    along = room[8][:count]
    for n in range(count):  # graded: thinner and thinner along a way
        t = 0.0
        if said[12] == 1.0:
            t = (y[n] - said[14]) / (said[15] - said[14])
        elif said[12] == 2.0:
            t = (y[n] - top[n]) / (bottom[n] - top[n])
        elif said[12] == 3.0:
            t = np.sqrt((x[n] - said[14]) ** 2 + (y[n] - said[15]) ** 2) / said[16]
        t = min(max(t + 0.10 * big[n], 0.0), 1.0)
        along[n] = t
        density[n] *= 1.0 - said[13] * t * t * (3.0 - 2.0 * t)
    if said[11] > 0.0:  # edges lost in the light
        _noise(own_x, own_y, 21.0, 21.0, 2, 6, pixel, room, more)
        for n in range(count):
            patch = _smooth(-0.25, 0.35, more[n] + said[11] - 0.5)
            density[n] *= 1.0 - said[11] * lit[n] * patch * np.exp(-away[n] / 4.5)
    if said[8] > 0.0 or said[9] > 0.0:
        _noise(x, y, 0.9, 0.9, 2, 7, pixel, room, tooth)
        for n in range(count):
            density[n] *= 1.0 + 0.9 * said[8] * tooth[n]
    if said[10] > 0.0:  # white left between this wash and the next
        _noise(x, y, 9.0, 9.0, 2, 8, pixel, room, more)
        for n in range(count):
            gap = said[10] * (0.55 + 0.9 * more[n])
            share[n] = _smooth(gap - 0.5 * max(0.12, pixel), gap + max(0.16, pixel), away[n])
    if said[9] > 0.0:  # a brush that runs dry
        _noise(own_x, own_y, 11.0, 0.6, 2, 9, pixel, room, more)
        for n in range(count):
            dry = said[9] * (0.25 + 0.6 * np.exp(-away[n] / 6.0) + 0.6 * along[n])
            share[n] *= 1.0 - _smooth(0.6 - dry, 1.1 - dry, 0.7 * more[n] + 0.5 * tooth[n] + 0.35)
    if (
        said[17] > 0.0
    ):  # it stops short of the frame, in a line that wavers: dried here with a sharp edge, drawn out there with water
        wide = room[7][:count]
        _noise(x, y, 70.0, 70.0, 2, 10, pixel, room, wide)
        _noise(x, y, 45.0, 45.0, 1, 11, pixel, room, more)
        for n in range(count):
            edge = min(min(x[n] + said[18], said[19] - x[n]), min(y[n] + said[20], said[21] - y[n]))
            edge += (2.0 + 0.45 * said[17]) * wide[n] + 3.0 * middle[n]
            drawn_out = _smooth(-0.15, 0.45, more[n])
            share[n] *= _smooth(said[17], said[17] + 1.2 + drawn_out * (4.0 + said[17]), edge)
            thin = 1.0 - said[13] * along[n] * along[n] * (3.0 - 2.0 * along[n])
            density[n] += 0.4 * amount * thin * rim * (1.0 - drawn_out) * np.exp(-(((edge - said[17] - 1.4) / 1.1) ** 2))
    if said[3] > 0.0:
        _noise(own_x, own_y, 1.25 * blotch, 1.25 * blotch, 2, 12, pixel, room, more)
        for n in range(count):
            second[n] = said[3] * _smooth(-0.35, 0.45, more[n] + 0.1 * middle[n])
    for n in range(count):
        density[n] = min(max(density[n], 0.0), 4.0)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def wash_rows(first, last, place, cover, wash_of, pigments, reach, seeds, shadow, away, step, said, out):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.

    ``place`` is the window's corner, a pixel and the middle of the drawing, each across and down in millimetres; ``cover`` says which
    cell each pixel belongs to (whole, pixel, start, cell, share); ``wash_of`` (N,) the wash of each cell, −1 for none; ``pigments``
    (W, 2, 3) logarithms of both colours, ``reach`` (W, 2) where it begins and ends downwards, ``seeds`` (W,). ``shadow`` (h, w), ``away``
    the field and the ``step`` of it, ``said``: density, turbulence, blotch mm, second pigment, rim, its mm, bloom, back-run,
    granulation, dry brush, white mm, lost edges, way of the grade, fade, its place (x, y, mm), its reach, short mm, and the frame's
    left, right, top and bottom from the middle.
    """
    x0, y0, across, down, middle_x, middle_y = place
    whole, mixed, start, cell, cover_share = cover
    width = whole.shape[1]
    pixel = max(across, down)
    most = 4 * PIECE  # a pixel at an edge may have several washes
    column, wash, weight = np.empty(most, np.int32), np.empty(most, np.int32), np.empty(most, np.float32)
    x, y, own_x, own_y = np.empty(most), np.empty(most), np.empty(most), np.empty(most)
    distance, lit, top, bottom = np.empty(most, _F), np.empty(most, _F), np.empty(most), np.empty(most)
    share, density, second = np.empty(most, _F), np.empty(most, _F), np.empty(most, _F)
    room = np.empty((9, most), _F)
    sums = np.empty((PIECE, 4), _F)
    pieces = (width + PIECE - 1) // PIECE
    at = np.searchsorted(mixed, first * width)
    # A piece of a row at a time, so that all that is known of it stays close to the processor.
    for piece in range(first * pieces, last * pieces):
        r, begin = piece // pieces, piece % pieces * PIECE
        end = min(begin + PIECE, width)
        fy = y0 + (r + 0.5) * down
        count = 0
        for c in range(begin, end):
            k = whole[r, c]
            low, high = 0, 1
            if k < 0:
                flat = r * width + c
                while at < len(mixed) and mixed[at] < flat:
                    at += 1
                if at == len(mixed) or mixed[at] != flat:
                    continue
                low = start[at]
                high = start[at + 1] if at + 1 < len(mixed) else len(cell)
            begun = count
            for i in range(low, high):
                w, part = (wash_of[cell[i]], cover_share[i] / 255.0) if k < 0 else (wash_of[k], 1.0)
                if w < 0 or count == most:
                    continue
                known = -1
                for n in range(begun, count):
                    if wash[n] == w:
                        known = n
                if known >= 0:
                    weight[known] += part
                    continue
                column[count], wash[count], weight[count] = c, w, part
                fx = x0 + (c + 0.5) * across
                x[count], y[count] = fx - middle_x, fy - middle_y
                # Each wash flows by itself: as if it lay elsewhere on an endless sheet.
                own_x[count] = x[count] + 397.0 * (seeds[w] % 61)
                own_y[count] = y[count] + 419.0 * (seeds[w] % 53)
                distance[count] = sampled(away, step[0], step[1], fx, fy)
                lit[count] = 1.0 - shadow[r, c] / 255.0
                top[count], bottom[count] = reach[w, 0], reach[w, 1]
                count += 1
        sums[:] = _F(0)
        if count:
            _laid(
                x[:count], y[:count], own_x[:count], own_y[:count], distance[:count], lit[:count], top[:count], bottom[:count], said,
                pixel, room, share[:count], density[:count], second[:count],
            )  # fmt: skip
        for n in range(count):
            part = weight[n] * share[n]
            if part <= 0.0:
                continue
            w, c, d, s = wash[n], column[n] - begin, density[n], second[n]
            sums[c, 0] += part * np.exp(d * (pigments[w, 0, 0] + s * (pigments[w, 1, 0] - pigments[w, 0, 0])))
            sums[c, 1] += part * np.exp(d * (pigments[w, 0, 1] + s * (pigments[w, 1, 1] - pigments[w, 0, 1])))
            sums[c, 2] += part * np.exp(d * (pigments[w, 0, 2] + s * (pigments[w, 1, 2] - pigments[w, 0, 2])))
            sums[c, 3] += part
        for c in range(begin, end):
            for m in range(4):
                out[r, c, m] = np.uint8(min(_F(255) * sums[c - begin, m] + _F(0.5), _F(255)))
