"""The loop that paints textures: each a function of metres on its face, so that it has no seam and never comes again.

What is finer than a pixel is not sampled but averaged: joints by the share of the pixel that they take, unevenness octave by
octave, units by fading into their mean. So far off a texture goes quiet, and nothing shimmers between two zooms.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.kernels.cells import CELLS_ROOM, cells_row
from warmgraphite.collage.kernels.filtering import HUE_CELL, HUE_SHARE, LAYERS, PIECE, ROUGH, SORT, WEATHER
from warmgraphite.collage.kernels.marks import MARKS_ROOM, marks_row
from warmgraphite.collage.kernels.placing import place_on, place_run
from warmgraphite.collage.kernels.ribs import mesh_row, ribs_row
from warmgraphite.collage.kernels.units import units_row
from warmgraphite.kernels import device, kernel
from warmgraphite.noise.kernels import layered_row, smoothstep

__all__ = ["texture_rows"]

_F, _I = np.float32, np.int32
_8, _16, _24 = np.int32(8), np.int32(16), np.int32(24)
#: Where in their room the last loops have what they mix: one array, so that the compiler knows that none lies over another.
_TONE, _HUE, _JOINT, _COVER, _NX, _NY, _SUN_U, _SUN_V, _SHADE, _SHARE = (k * PIECE for k in range(10))
_ROOM = max(CELLS_ROOM, MARKS_ROOM)


@device(fast=True)
def _towards(sun, axes, row, axis):
    """How far the sun stands along an axis of a face."""
    return sun[0] * axes[row, axis, 0] + sun[1] * axes[row, axis, 1] + sun[2] * axes[row, axis, 2]


@device(fast=True)
def _noise(u, v, many_u, many_v, along, up, octaves, seed, room, out):
    """Unevenness with a lattice of ``along`` by ``up`` metres, no finer than what pixels show of the face: ``many_u`` and ``many_v`` (n,)
    float32 are how many of them there are to a metre."""
    count = len(u)
    fine = room[0][:count]
    a, b = _F(along), _F(up)
    for n in range(count):
        fine[n] = min(a * many_u[n], b * many_v[n])
    layered_row(u, v, along, up, octaves, seed, fine, room[1][:count], room[2][:count], out)


@device(fast=True)
def _mixed(count, mortar, spread, strong, colours, mix, packed):
    """Fill ``packed`` (n,) with premultiplied pixels, out of tone, hue and all the rest in ``mix``."""
    red_0, green_0, blue_0 = colours[0, 0], colours[0, 1], colours[0, 2]
    red_1, green_1, blue_1 = colours[1, 0] - red_0, colours[1, 1] - green_0, colours[1, 2] - blue_0
    red_2, green_2, blue_2 = colours[2, 0], colours[2, 1], colours[2, 2]
    for n in range(count):
        slope = mix[_NX + n] * mix[_SUN_U + n] + mix[_NY + n] * mix[_SUN_V + n]
        light = mix[_TONE + n] * spread + strong * (_F(255) - _F(0.85) * mix[_SHADE + n]) * slope
        tone = max(_F(1) + light, _F(0))
        shade, line = min(max(mix[_HUE + n], _F(0)), _F(1)), min(max(mix[_JOINT + n] * mortar, _F(0)), _F(1))
        part = mix[_COVER + n] * mix[_SHARE + n]
        bare, laid = (_F(1) - line) * tone, line * (_F(0.7) + _F(0.3) * tone)
        red = min((red_0 + shade * red_1) * bare + red_2 * laid, _F(1))
        green = min((green_0 + shade * green_1) * bare + green_2 * laid, _F(1))
        blue = min((blue_0 + shade * blue_1) * bare + blue_2 * laid, _F(1))
        r, g, b, a = _I(red * part + _F(0.5)), _I(green * part + _F(0.5)), _I(blue * part + _F(0.5)), _I(part + _F(0.5))
        packed[n] = _I(r | _I(g << _8) | _I(b << _16) | _I(a << _24))


@device(fast=True)
def _sun_on(us, vs, usual, lying, sun, axes, row, turned, suns_u, suns_v):
    """Fill how far the sun stands along and up the texture at places of one face."""
    if usual[row] == 0.0:
        su, sv = _towards(sun, axes, row, 0), _towards(sun, axes, row, 1)
        suns_u[:], suns_v[:] = turned[0] * su + turned[1] * sv, turned[0] * sv - turned[1] * su
        return
    for n in range(len(us)):
        turn = (vs[n] if lying[row] else us[n]) / usual[row]
        su = -np.sin(turn) * _towards(sun, axes, row, 0) + np.cos(turn) * _towards(sun, axes, row, 1)
        sv = _towards(sun, axes, row, 2)
        if lying[row]:
            su, sv = sv, su
        suns_u[n], suns_v[n] = turned[0] * su + turned[1] * sv, turned[0] * sv - turned[1] * su


@kernel(
    "i8, i8, UniTuple(f8, 4), i4[:,::1], i4[::1], f8[:,:,::1], f8[::1], b1[::1], f8[:,:,::1], f8[::1], u1[:,::1], u1[:,::1], "
    "f8[::1], f8[:,::1], f4[:,::1], f8, f8[::1], f8, f8, f8, i8, i4[:,::1]",
    fast=True,
)
def texture_rows(
    first, last, place, triangle, row_of, table, usual, lying, axes, sun, shadow, share, numbers, layers, colours, size, turned, relief,
    joints, variation, seed, out,
):  # fmt: skip
    """Fill rows ``first`` to ``last`` of ``out`` (h, w) int32, the four channels of a premultiplied pixel from its low byte up.

    ``place`` is the window's corner and a pixel, each across and down in millimetres; ``triangle`` (h, w) what each pixel sees,
    ``row_of`` (T,) where its face stands in ``table`` (R, 4, 3), ``usual``, ``lying`` and ``axes`` (R, 3, 3); ``sun`` (3,) towards the sun,
    ``shadow`` and ``share`` (h, w); ``numbers`` as :data:`~warmgraphite.collage.kernels.filtering.NUMBERS` names them, ``layers`` (L, 4):
    cell along and up in metres, strength, octaves; ``colours`` (3, 3) float32 of itself, its second and its joints, 0–1; ``size``
    enlarges, ``turned`` (2,) cosine and sine; ``relief``, ``joints`` and ``variation`` are shares.
    """
    x0, y0, across, down = place
    width = triangle.shape[1]
    t = numbers
    sort = int(t[SORT])
    column = np.empty(PIECE, _I)
    us, vs, dus, dvs, mus, mvs = (
        np.empty(PIECE),
        np.empty(PIECE),
        np.empty(PIECE),
        np.empty(PIECE),
        np.empty(PIECE, _F),
        np.empty(PIECE, _F),
    )
    mix, more, which = np.empty(10 * PIECE, _F), np.empty(PIECE, _F), np.empty(PIECE, _I)
    room, noise_room = np.empty(_ROOM, _F), np.empty((3, PIECE), _F)
    cos, sin, much_cos, much_sin = turned[0] / size, turned[1] / size, abs(turned[0]) / size, abs(turned[1]) / size
    state = np.full(8, -1e18)
    # A piece of a row at a time, so that all that is known of it stays close to the processor.
    pieces = (width + PIECE - 1) // PIECE
    for piece in range(first * pieces, last * pieces):
        r, right = piece // pieces, min((piece % pieces + 1) * PIECE, width)
        y = y0 + (r + 0.5) * down
        count, c = 0, piece % pieces * PIECE
        while c < right:
            k = triangle[r, c]
            row = row_of[k] if k >= 0 else -1
            if row < 0 or share[r, c] == 0:
                out[r, c] = 0
                c += 1
                continue
            # As far as the face goes on it is one run of places.
            begun, start = c, count
            while c < right and share[r, c] > 0 and triangle[r, c] >= 0 and row_of[triangle[r, c]] == row:
                column[count], mix[_SHARE + count], mix[_SHADE + count] = c, share[r, c], shadow[r, c]
                count += 1
                c += 1
            x = x0 + (begun + 0.5) * across
            if usual[row] > 0.0:
                for n in range(start, count):
                    u, v, ux, vx, uy, vy = place_on(x + (n - start) * across, y, across, down, row, table, usual, lying)
                    us[n], vs[n] = u, v
                    dus[n], dvs[n] = max(abs(ux), abs(uy)), max(abs(vx), abs(vy))
            else:
                place_run(x, y, across, down, row, table, us[start:count], vs[start:count], dus[start:count], dvs[start:count])
            _sun_on(
                us[start:count], vs[start:count], usual, lying, sun, axes, row, turned, mix[_SUN_U + start : _SUN_U + count],
                mix[_SUN_V + start : _SUN_V + count],
            )  # fmt: skip
        if count == 0:
            continue
        u, v, many_u, many_v = us[:count], vs[:count], mus[:count], mvs[:count]
        for n in range(count):
            a, b, du, dv = us[n], vs[n], dus[n], dvs[n]
            us[n], vs[n] = cos * a + sin * b, cos * b - sin * a
            mus[n] = _F(1) / _F(max(much_cos * du + much_sin * dv, 1e-9))
            mvs[n] = _F(1) / _F(max(much_cos * dv + much_sin * du, 1e-9))
        tone, hue, joint = mix[_TONE : _TONE + count], mix[_HUE : _HUE + count], mix[_JOINT : _JOINT + count]
        nx, ny, alpha, one = mix[_NX : _NX + count], mix[_NY : _NY + count], mix[_COVER : _COVER + count], more[:count]
        tone[:], hue[:], joint[:], nx[:], ny[:], alpha[:] = _F(0), _F(0), _F(0), _F(0), _F(0), _F(1)
        if sort == 1:
            one[:] = _F(0)
            if t[ROUGH] * max(many_u.max(), many_v.max()) > 0.3:  # edges that waver, where that is seen
                _noise(u, v, many_u, many_v, 0.12, 0.12, 1, seed + 91, noise_room, one)
                for n in range(count):
                    one[n] *= _F(t[ROUGH])
            units_row(u, v, one, many_u, many_v, t, seed, state, tone, hue, joint, nx, ny)
        elif sort == 2:
            cells_row(u, v, many_u, many_v, t, seed, room, which, tone, hue, joint, nx, ny)
        elif sort == 3:
            marks_row(u, v, many_u, many_v, t, seed, room, which, tone, hue)
        elif sort == 4:
            ribs_row(u, many_u, t, joint, nx)
        elif sort == 5:
            mesh_row(u, v, many_u, many_v, t, alpha)
        for i in range(int(t[LAYERS])):
            _noise(u, v, many_u, many_v, layers[i, 0], layers[i, 1], int(layers[i, 3]), seed + 31 + i, noise_room, one)
            strength = _F(layers[i, 2])
            for n in range(count):
                tone[n] += strength * one[n]
        if t[HUE_SHARE] > 0.0:
            _noise(u, v, many_u, many_v, t[HUE_CELL], t[HUE_CELL], 3, seed + 51, noise_room, one)
            strength = _F(t[HUE_SHARE])
            for n in range(count):
                hue[n] += strength * (_F(0.5) + _F(0.9) * one[n])
        if t[WEATHER] > 0.0:  # streaks that run down, in places
            _noise(u, v, many_u, many_v, 0.5, 3.0, 2, seed + 61, noise_room, one)
            strength = _F(0.3 * t[WEATHER])
            for n in range(count):
                tone[n] -= strength * smoothstep(_F(-0.1), _F(0.7), one[n])
        _mixed(count, _F(joints), _F(variation), _F(0.4 * relief / 255.0), colours, mix, which)
        for n in range(count):
            out[r, column[n]] = which[n]
