"""The loop that lays washes: for each pixel how densely pigment lies there, and what light comes back through it from the paper.

After A. Bousseau, M. Kaplan, J. Thollot and F. Sillion, "Interactive watercolor rendering with temporal coherence and abstraction",
2006: what is seen is the pigment's colour to the power of its density, and all that water does is done to the density.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.noise.kernels import layered_row, ramp, smoothstep

__all__ = ["wash_rows"]

_F = np.float32
#: Pixels of a row that are worked on at once.
PIECE = 512


@device(fast=True)
def _exp(x):
    """What e to the power of ``x`` is, float32 and not above 1, to some four places: without a call, so that the compiler works on several
    at once."""
    t = max(x, _F(-60)) * _F(1 / 64)
    t = _F(1) + t * (_F(1) + t * (_F(1 / 2) + t * (_F(1 / 6) + t * _F(1 / 24))))
    t = t * t
    t = t * t
    t = t * t
    t = t * t
    t = t * t
    return t * t


@device(fast=True)
def _between(at, count):
    """Of cells in a row the one that lies before a place, and the share of the one behind it; ``at`` is in cells, from the first one's
    middle."""
    inside = min(max(at, 0.0), count - 1.001)
    cell = int(inside)
    return cell, inside - cell


@device(fast=True)
def _noise(x, y, along, up, octaves, seed, pixel, room, out):
    """Unevenness with a lattice of ``along`` by ``up`` millimetres, no finer than a ``pixel``."""
    count = len(x)
    fine = room[0][:count]
    fine[:] = _F(min(along, up) / pixel)
    layered_row(x, y, along, up, octaves, seed, fine, room[1][:count], room[2][:count], out)


@device(fast=True)
def _laid(x, y, own_x, own_y, away, lit, top, bottom, said, pixel, room, share, density, second):
    """Fill for places (n,) the ``share`` that has the wash, its ``density``, and how much of it is the ``second`` pigment.

    ``x``, ``y`` are millimetres from the middle of the drawing, ``own_x`` and ``own_y`` the same moved for each wash, so that no two
    flow alike; ``said`` the numbers of :func:`wash_rows`, ``room`` arrays to work in.
    """
    count = len(x)
    pools, amount, rim = said[2], said[0], said[4]
    big, middle, tooth, more = room[3][:count], room[4][:count], room[5][:count], room[6][:count]
    _noise(own_x, own_y, pools, pools, 3, 1, pixel, room, big)
    _noise(own_x, own_y, 0.23 * pools, 0.23 * pools, 3, 2, pixel, room, middle)
    strong, uneven = _F(amount), _F(said[1])
    for n in range(count):
        density[n] = strong * (_F(1) + uneven * (_F(0.75) * big[n] + _F(0.45) * middle[n]))
        share[n], second[n] = _F(1), _F(0)
    if said[6] > 0.0:  # clean water dropped in: paler, with soft edges
        _noise(own_x, own_y, 1.5 * pools, 1.5 * pools, 2, 3, pixel, room, more)
        for n in range(count):
            density[n] *= 1.0 - 0.8 * said[6] * smoothstep(0.05, 0.6, more[n] + 0.12 * middle[n])
    if said[7] > 0.0:  # water that runs back: a crinkled dark edge, and paler within
        fringe = room[7][:count]
        _noise(own_x, own_y, 1.1 * pools, 1.1 * pools, 1, 4, pixel, room, more)
        _noise(own_x, own_y, 0.12 * pools, 0.12 * pools, 3, 5, pixel, room, fringe)
        for n in range(count):
            crinkled = more[n] + 0.12 * fringe[n]
            density[n] *= 1.0 - 0.45 * said[7] * smoothstep(0.30, 0.42, crinkled)
            density[n] += 0.5 * said[7] * amount * np.exp(-(((crinkled - 0.29) / 0.03) ** 2))
    if rim > 0.0:
        dark, pale, near = _F(amount * rim), _F(0.22 * rim), _F(1.0 / said[5])
        for n in range(count):
            off = away[n] * near
            beyond = _F(0.5) * off - _F(1.75)
            own = density[n] + dark * (_F(0.75) + _F(0.6) * middle[n]) * _exp(-off)
            density[n] = own * (_F(1) - pale * _exp(-beyond * beyond))
    along = room[8][:count]
    thinner = _F(said[13])
    for n in range(count if said[12] == 0.0 else 0):  # evenly, but for where it lies thin anyway
        t = min(max(_F(0.1) * big[n], _F(0)), _F(1))
        along[n] = t
        density[n] *= _F(1) - thinner * ramp(t)
    for n in range(0 if said[12] == 0.0 else count):  # graded: thinner and thinner along a way
        t = 0.0
        if said[12] == 1.0:
            t = (y[n] - said[14]) / (said[15] - said[14])
        elif said[12] == 2.0:
            t = (y[n] - top[n]) / (bottom[n] - top[n])
        elif said[12] == 3.0:
            t = np.sqrt((x[n] - said[14]) ** 2 + (y[n] - said[15]) ** 2) / said[16]
        t = min(max(t + 0.10 * big[n], 0.0), 1.0)
        along[n] = t
        density[n] *= 1.0 - said[13] * ramp(t)
    if said[11] > 0.0:  # edges lost in the light
        _noise(own_x, own_y, 21.0, 21.0, 2, 6, pixel, room, more)
        for n in range(count):
            patch = smoothstep(-0.25, 0.35, more[n] + said[11] - 0.5)
            density[n] *= 1.0 - said[11] * lit[n] * patch * np.exp(-away[n] / 4.5)
    if said[8] > 0.0 or said[9] > 0.0:
        _noise(x, y, 0.9, 0.9, 2, 7, pixel, room, tooth)
        grained = _F(0.9 * said[8])
        for n in range(count):
            density[n] *= _F(1) + grained * tooth[n]
    if said[10] > 0.0:  # white left between this wash and the next
        _noise(x, y, 9.0, 9.0, 2, 8, pixel, room, more)
        for n in range(count):
            gap = said[10] * (0.55 + 0.9 * more[n])
            share[n] = smoothstep(gap - 0.5 * max(0.12, pixel), gap + max(0.16, pixel), away[n])
    if said[9] > 0.0:  # a brush that runs dry
        _noise(own_x, own_y, 11.0, 0.6, 2, 9, pixel, room, more)
        for n in range(count):
            dry = said[9] * (0.25 + 0.6 * np.exp(-away[n] / 6.0) + 0.6 * along[n])
            share[n] *= 1.0 - smoothstep(0.6 - dry, 1.1 - dry, 0.7 * more[n] + 0.5 * tooth[n] + 0.35)
    if (
        said[17] > 0.0
    ):  # it stops short of the frame, in a line that wavers: dried here with a sharp edge, drawn out there with water
        wide = room[7][:count]
        _noise(x, y, 70.0, 70.0, 2, 10, pixel, room, wide)
        _noise(x, y, 45.0, 45.0, 1, 11, pixel, room, more)
        for n in range(count):
            edge = min(min(x[n] + said[18], said[19] - x[n]), min(y[n] + said[20], said[21] - y[n]))
            edge += (2.0 + 0.45 * said[17]) * wide[n] + 3.0 * middle[n]
            drawn_out = smoothstep(-0.15, 0.45, more[n])
            share[n] *= smoothstep(said[17], said[17] + 1.2 + drawn_out * (4.0 + said[17]), edge)
            thin = 1.0 - said[13] * ramp(along[n])
            density[n] += 0.4 * amount * thin * rim * (1.0 - drawn_out) * np.exp(-(((edge - said[17] - 1.4) / 1.1) ** 2))
    if said[3] > 0.0:
        _noise(own_x, own_y, 1.25 * pools, 1.25 * pools, 2, 12, pixel, room, more)
        most = _F(said[3])
        for n in range(count):
            t = min(max((more[n] + _F(0.1) * middle[n] + _F(0.35)) * _F(1.25), _F(0)), _F(1))
            second[n] = most * ramp(t)
    for n in range(count):
        density[n] = min(max(density[n], _F(0)), _F(4))


@kernel(
    "i8, i8, UniTuple(f8, 6), Tuple((i4[:,::1], i8[::1], i8[::1], i4[::1], u1[::1])), i4[::1], f8[:,:,::1], f8[:,::1], "
    "i8[::1], u1[:,::1], u2[:,::1], UniTuple(f8, 2), f8[::1], u1[:,:,::1]",
    fast=True,
)
def wash_rows(first, last, place, cover, wash_of, pigments, reach, seeds, shadow, away, step, said, out):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.

    ``place`` is the window's corner, a pixel and the middle of the drawing, each across and down in millimetres; ``cover`` says which
    cell each pixel belongs to (whole, pixel, start, cell, share); ``wash_of`` (N,) the wash of each cell, −1 for none; ``pigments``
    (W, 2, 3) logarithms of both colours, ``reach`` (W, 2) where it begins and ends downwards, ``seeds`` (W,). ``shadow`` (h, w), ``away``
    the field and the ``step`` of it, ``said``: density, flow, pools mm, second pigment, rim, its mm, bloom, back-run,
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
    per_x, per_y = 1.0 / step[0], 1.0 / step[1]
    # Each wash flows by itself: as if it lay elsewhere on an endless sheet.
    aside, below = 397.0 * (seeds % 61), 419.0 * (seeds % 53)
    at = np.searchsorted(mixed, first * width)
    # A piece of a row at a time, so that all that is known of it stays close to the processor.
    for piece in range(first * pieces, last * pieces):
        r, begin = piece // pieces, piece % pieces * PIECE
        end = min(begin + PIECE, width)
        fy = y0 + (r + 0.5) * down
        j, v = _between(fy * per_y - 0.5, away.shape[0])
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
                own_x[count], own_y[count] = x[count] + aside[w], y[count] + below[w]
                near, u = _between(fx * per_x - 0.5, away.shape[1])
                high_up = away[j, near] * (1.0 - u) + away[j, near + 1] * u
                low_down = away[j + 1, near] * (1.0 - u) + away[j + 1, near + 1] * u
                distance[count] = (high_up * (1.0 - v) + low_down * v) / 128.0
                lit[count] = 1.0 - shadow[r, c] / 255.0
                top[count], bottom[count] = reach[w, 0], reach[w, 1]
                count += 1
        if count == 0:
            out[r, begin:end] = 0
            continue
        sums[:] = _F(0)
        _laid(
            x[:count], y[:count], own_x[:count], own_y[:count], distance[:count], lit[:count], top[:count], bottom[:count], said,
            pixel, room, share[:count], density[:count], second[:count],
        )  # fmt: skip
        for n in range(count):
            part = weight[n] * share[n]
            if part <= 0.0:
                continue
            w, c, d, s = wash[n], column[n] - begin, density[n], second[n]
            for m in range(3):
                low, high = _F(pigments[w, 0, m]), _F(pigments[w, 1, m])
                sums[c, m] += part * _exp(d * (low + s * (high - low)))
            sums[c, 3] += part
        for c in range(begin, end):
            for m in range(4):
                out[r, c, m] = np.uint8(min(_F(255) * sums[c - begin, m] + _F(0.5), _F(255)))
