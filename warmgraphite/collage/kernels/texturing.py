"""The loop that paints textures: each a function of metres on its face, so that it has no seam and never comes again.

What is finer than a pixel is not sampled but averaged: joints by the share of the pixel that they take, unevenness octave by
octave, units by fading into their mean (A. Norton, A. Rockwood, P. Skolmoski, "Clamping", 1982). So far off a texture goes quiet,
and nothing shimmers between two zooms.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from warmgraphite.collage.kernels.noise import chance, layered, noise

__all__ = ["NUMBERS", "SORTS", "place_on", "texture_rows"]

#: What a texture is made of, and the numbers that say how, in the order in which the loop has them.
SORTS = ("plain", "units", "cells", "strewn", "ribs", "mesh")
NUMBERS = (
    "sort", "length", "height", "joint", "bond", "loose", "rough", "unit_tone", "unit_hue", "lap", "bevel", "bulge", "basket",
    "mark_length", "mark_width", "mark_angle", "mark_turn", "weather", "hue_cell", "hue", "layers",
)  # fmt: skip
_SORT, _LENGTH, _HEIGHT, _JOINT, _BOND, _LOOSE, _ROUGH, _TONE, _HUE, _LAP, _BEVEL, _BULGE, _BASKET = range(13)
_MARK_LENGTH, _MARK_WIDTH, _MARK_ANGLE, _MARK_TURN, _WEATHER, _HUE_CELL, _HUE_SHARE, _LAYERS = range(13, 21)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _smooth(low, high, value):
    t = min(max((value - low) / (high - low), 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _line(away, half, foot):
    """Share of a pixel ``foot`` wide that a line ``half`` wide to either side takes, ``away`` from it."""
    low, high = max(away - 0.5 * foot, -half), min(away + 0.5 * foot, half)
    return max(high - low, 0.0) / foot


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _lines(at, apart, half, foot):
    """The same of lines ``apart``, where ``at`` is the place between two of them."""
    near = _line(at, half, foot) + _line(apart - at, half, foot)
    far = 2.0 * half / apart
    return near + (far - near) * _smooth(0.6, 1.2, foot / apart)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _seen(size, foot):
    """How much of a thing of this size a pixel shows: all of it, or nothing but its mean."""
    return min(max(size / foot - 1.0, 0.0), 1.0)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _units(u, v, du, dv, t, seed):
    """Bricks, boards, tiles: laid in courses. Tone, hue, share of joint, and the slope both ways."""
    length, height, half = t[_LENGTH], t[_HEIGHT], 0.5 * t[_JOINT]
    if t[_BASKET] > 0.0:
        i, j = np.floor(u / t[_BASKET]), np.floor(v / t[_BASKET])
        if (int(i) + int(j)) & 1:
            u, v, du, dv = v, u, dv, du
            seed += 1
    if t[_ROUGH] > 0.0:
        strong = t[_ROUGH] * _seen(0.12, max(du, dv))
        if strong > 0.0:
            u, v = u + strong * noise(u / 0.12, v / 0.12, seed + 91), v + strong * noise(u / 0.17, v / 0.17, seed + 92)
    course = np.floor(v / height)
    row = int(course)
    y = v - course * height
    shift = t[_BOND] * row if t[_BOND] >= 0.0 else chance(row, 3, seed)
    s = u / length - shift
    i = np.floor(s)
    column = int(i)
    loose = t[_LOOSE]
    left = i + loose * (chance(column, row, seed + 5) - 0.5)
    if s < left:
        column -= 1
        right = left
        left = column + loose * (chance(column, row, seed + 5) - 0.5)
    else:
        right = i + 1.0 + loose * (chance(column + 1, row, seed + 5) - 0.5)
        if s >= right:
            column += 1
            left = right
            right = column + 1.0 + loose * (chance(column + 1, row, seed + 5) - 0.5)
    x, own = (s - left) * length, (right - left) * length
    upright = _lines(x, own, half, du) if length < 1e5 else 0.0
    level = _lines(y, height, half, dv)
    joint = 1.0 - (1.0 - upright) * (1.0 - level)
    seen = _seen(own, du) * _seen(height, dv)
    tone = t[_TONE] * (2.0 * chance(column, row, seed + 7) - 1.0) * seen
    hue = t[_HUE] * chance(column, row, seed + 8) * seen + 0.5 * t[_HUE] * (1.0 - seen)
    if t[_LAP] > 0.0:  # one course lies over the next, and its edge throws a little shadow on it
        under = t[_LAP] * np.exp(-(height - y) / (0.10 * height + 0.5 * dv)) * _seen(height, dv)
        tone -= under - 0.1 * t[_LAP] * _seen(height, dv)
    nx, ny = 0.0, 0.0
    if t[_BEVEL] > 0.0:
        b = t[_BEVEL] + 0.5 * du
        c = t[_BEVEL] + 0.5 * dv
        nx = (np.exp(-(own - x) / b) - np.exp(-x / b)) * _seen(own, 2.0 * du) * (1.0 if length < 1e5 else 0.0)
        ny = (np.exp(-(height - y) / c) - np.exp(-y / c)) * _seen(height, 2.0 * dv)
    if t[_BULGE] > 0.0 and length < 1e5:
        nx += t[_BULGE] * (2.0 * x / own - 1.0) * _seen(own, 2.0 * du)
    return tone, hue, joint, nx, ny


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _cells(u, v, du, dv, t, seed):
    """Stones, pebbles, clods: what is nearest to points strewn (S. Worley, "A cellular texture basis function", 1996)."""
    x, y = u / t[_LENGTH], v / t[_HEIGHT]
    i, j = int(np.floor(x)), int(np.floor(y))
    first, second = 9.0, 9.0
    column, row, cx, cy = i, j, 0.0, 0.0
    loose = t[_LOOSE]
    for dj in range(-1, 2):
        for di in range(-1, 2):
            px = i + di + 0.5 + loose * (chance(i + di, j + dj, seed + 11) - 0.5)
            py = j + dj + 0.5 + loose * (chance(i + di, j + dj, seed + 12) - 0.5)
            away = np.sqrt((x - px) ** 2 + (y - py) ** 2)
            if away < first:
                second = first
                first = away
                column, row, cx, cy = i + di, j + dj, x - px, y - py
            elif away < second:
                second = away
    foot = max(du / t[_LENGTH], dv / t[_HEIGHT])
    size = min(t[_LENGTH], t[_HEIGHT])
    seen = _seen(1.0, foot)
    border = 0.5 * (second - first) * size
    half = 0.5 * t[_JOINT]
    joint = _line(border, half, foot * size) * (2.0 if border < half else 1.0)
    usual = min(2.2 * t[_JOINT] / size, 1.0)
    joint = min(joint, 1.0) * seen + usual * (1.0 - seen)
    tone = t[_TONE] * (2.0 * chance(column, row, seed + 7) - 1.0) * seen
    hue = t[_HUE] * chance(column, row, seed + 8) * seen + 0.5 * t[_HUE] * (1.0 - seen)
    b = max(t[_BEVEL], 1e-6) / size + 0.5 * foot
    turn = np.exp(-border / size / b) * seen if t[_BEVEL] > 0.0 else 0.0
    reach = max(first, 1e-6)
    return tone, hue, joint, turn * cx / reach, turn * cy / reach


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _strewn(u, v, du, dv, t, seed):
    """Blades, leaves, straw: short strokes strewn in two sheets. Tone, hue, nothing, and no slope."""
    foot = max(du, dv)
    cover, tone = 0.0, 0.0
    seen = _seen(t[_MARK_LENGTH], foot)
    if seen <= 0.0:
        return 0.0, 0.5 * t[_HUE], 0.0, 0.0, 0.0
    for sheet in range(2):
        x, y = u / t[_LENGTH] + 0.37 * sheet, v / t[_HEIGHT] + 0.61 * sheet
        i, j = int(np.floor(x)), int(np.floor(y))
        for dj in range(-1, 2):
            for di in range(-1, 2):
                a, b, own = i + di, j + dj, seed + 20 + 7 * sheet
                px = (a + chance(a, b, own) - x) * t[_LENGTH]
                py = (b + chance(a, b, own + 1) - y) * t[_HEIGHT]
                turn = t[_MARK_ANGLE] + t[_MARK_TURN] * (2.0 * chance(a, b, own + 2) - 1.0)
                size = t[_MARK_LENGTH] * (0.6 + 0.8 * chance(a, b, own + 3))
                ex, ey = np.cos(turn), np.sin(turn)
                along = min(max(-(px * ex + py * ey), -0.5 * size), 0.5 * size)
                gx, gy = px + along * ex, py + along * ey
                # Pointed at its ends.
                half = 0.5 * t[_MARK_WIDTH] * (1.0 - (2.0 * along / size) ** 2 * 0.8)
                share = min(_line(np.sqrt(gx * gx + gy * gy), half, foot) * (2.0 if foot > 2 * half else 1.0), 1.0)
                if share > 0.0:
                    tone = tone * (1.0 - share) + share * (2.0 * chance(a, b, own + 4) - 1.0)
                    cover = cover + share * (1.0 - cover)
    return t[_TONE] * tone * seen, t[_HUE] * (cover * seen + 0.5 * (1.0 - seen)), 0.0, 0.0, 0.0


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _ribs(u, du, t):
    """Corrugations, or standing seams where they have a joint."""
    length = t[_LENGTH]
    at = u - np.floor(u / length) * length
    seen = _seen(length, 2.0 * du)
    if t[_JOINT] > 0.0:
        joint = _lines(at, length, 0.5 * t[_JOINT], du)
        b = t[_BEVEL] + 0.5 * du
        return 0.0, 0.0, joint, (np.exp(-(length - at) / b) - np.exp(-at / b)) * seen, 0.0
    wave = np.cos(2.0 * np.pi * at / length)
    return 0.0, 0.0, 0.0, t[_BULGE] * wave * seen, 0.0


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def place_on(x, y, row, table, usual, lying):
    """Metres along and up at frame millimetres."""
    a, w = table[row], 0.0
    w = a[3, 0] * x + a[3, 1] * y + a[3, 2]
    u = (a[0, 0] * x + a[0, 1] * y + a[0, 2]) / w
    v = (a[1, 0] * x + a[1, 1] * y + a[1, 2]) / w
    if usual[row] > 0.0:
        turn = np.arctan2(v, u)
        if turn < 0.0:
            turn += 2.0 * np.pi
        u, v = turn * usual[row], (a[2, 0] * x + a[2, 1] * y + a[2, 2]) / w
        if lying[row]:
            u, v = v, u
    return u, v


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def texture_rows(
    first, last, place, triangle, row_of, table, usual, lying, axes, sun, shadow, share, numbers, layers, colours, size, turned, relief,
    joints, variation, seed, out,
):  # fmt: skip
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), straight colour with alpha.

    ``place`` is the window's corner and a pixel, each across and down in millimetres; ``triangle`` (h, w) what each pixel sees, ``row_of`` (T,) where its face stands in ``table`` (R, 4, 3), ``usual``, ``lying`` and
    ``axes`` (R, 3, 3); ``sun`` (3,) towards the sun, ``shadow`` and ``share`` (h, w); ``numbers`` as :data:`NUMBERS` names them, ``layers``
    (L, 4): cell along and up in metres, strength, octaves; ``colours`` (3, 3) of itself, its second and its joints, 0–1; ``size``
    enlarges, ``turned`` (2,) cosine and sine; ``relief``, ``joints`` and ``variation`` are shares.
    """
    x0, y0, across, down = place
    width = triangle.shape[1]
    t = numbers
    sort = int(t[_SORT])
    for r in range(first, last):
        y = y0 + (r + 0.5) * down
        for c in range(width):
            k = triangle[r, c]
            row = row_of[k] if k >= 0 else -1
            if row < 0 or share[r, c] == 0:
                out[r, c] = 0
                continue
            x = x0 + (c + 0.5) * across
            u, v = place_on(x, y, row, table, usual, lying)
            ux, vx = place_on(x + across, y, row, table, usual, lying)
            uy, vy = place_on(x, y + down, row, table, usual, lying)
            du, dv = max(abs(ux - u), abs(uy - u)), max(abs(vx - v), abs(vy - v))
            if usual[row] > 0.0:  # where it begins anew
                du, dv = min(du, 4.0 * usual[row]), min(dv, 4.0 * usual[row]) if lying[row] else dv
            if turned[1] != 0.0:
                u, v = turned[0] * u + turned[1] * v, turned[0] * v - turned[1] * u
                du, dv = abs(turned[0]) * du + abs(turned[1]) * dv, abs(turned[0]) * dv + abs(turned[1]) * du
            u, v, du, dv = u / size, v / size, max(du / size, 1e-9), max(dv / size, 1e-9)
            tone, hue, joint, nx, ny = 0.0, 0.0, 0.0, 0.0, 0.0
            alpha = 1.0
            if sort == 1:
                tone, hue, joint, nx, ny = _units(u, v, du, dv, t, seed)
            elif sort == 2:
                tone, hue, joint, nx, ny = _cells(u, v, du, dv, t, seed)
            elif sort == 3:
                tone, hue, joint, nx, ny = _strewn(u, v, du, dv, t, seed)
            elif sort == 4:
                tone, hue, joint, nx, ny = _ribs(u, du, t)
            elif sort == 5:
                a, b = 0.7071 * (u + v), 0.7071 * (v - u)
                foot = 0.7071 * (du + dv)
                one = _lines(a - np.floor(a / t[_LENGTH]) * t[_LENGTH], t[_LENGTH], 0.5 * t[_JOINT], foot)
                two = _lines(b - np.floor(b / t[_LENGTH]) * t[_LENGTH], t[_LENGTH], 0.5 * t[_JOINT], foot)
                alpha = 1.0 - (1.0 - one) * (1.0 - two)
            for i in range(int(t[_LAYERS])):
                cu, cv = layers[i, 0], layers[i, 1]
                tone += layers[i, 2] * layered(u / cu, v / cv, 1.0, int(layers[i, 3]), seed + 31 + i, max(du / cu, dv / cv))
            if t[_HUE_SHARE] > 0.0:
                cell = t[_HUE_CELL]
                hue += t[_HUE_SHARE] * (0.5 + 0.9 * layered(u, v, cell, 3, seed + 51, max(du, dv)))
            if t[_WEATHER] > 0.0:
                streak = layered(u / 0.5, v / 3.0, 1.0, 3, seed + 61, max(du / 0.5, dv / 3.0))
                tone -= 0.3 * t[_WEATHER] * _smooth(-0.1, 0.7, streak + 0.2 * layered(u, v, 5.0, 2, seed + 62, max(du, dv)))
            tone *= variation
            if relief > 0.0 and (nx != 0.0 or ny != 0.0):
                ax = axes[row]
                if usual[row] > 0.0:
                    turn = (v if lying[row] else u) * size / usual[row]
                    su = -np.sin(turn) * _dot(sun, ax[0]) + np.cos(turn) * _dot(sun, ax[1])
                    sv = _dot(sun, ax[2])
                    if lying[row]:
                        su, sv = sv, su
                else:
                    su, sv = _dot(sun, ax[0]), _dot(sun, ax[1])
                if turned[1] != 0.0:
                    su, sv = turned[0] * su + turned[1] * sv, turned[0] * sv - turned[1] * su
                lit = 1.0 - 0.85 * shadow[r, c] / 255.0
                tone += 0.4 * relief * lit * (nx * su + ny * sv)
            hue = min(max(hue, 0.0), 1.0)
            joint = min(max(joint * joints, 0.0), 1.0)
            light = max(1.0 + tone, 0.0)
            part = alpha * share[r, c]
            for m in range(3):
                own = (colours[0, m] * (1.0 - hue) + colours[1, m] * hue) * light
                own = own * (1.0 - joint) + colours[2, m] * joint * (0.7 + 0.3 * light)
                out[r, c, m] = int(min(max(own, 0.0), 1.0) * part + 0.5)
            out[r, c, 3] = int(part + 0.5)
