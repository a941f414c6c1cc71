"""The loop that paints textures: each a function of metres on its face, so that it has no seam and never comes again.

What is finer than a pixel is not sampled but averaged: joints by the share of the pixel that they take, unevenness
octave by octave, units by fading into their mean. So far off a texture goes quiet, and nothing shimmers between two
zooms.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.collage.kernels.cells import CELLS_ROOM, cells_row
from warmgraphite.collage.kernels.filtering import HUE_CELL, HUE_SHARE, LAYERS, PIECE, ROUGH, SORT, WEATHER
from warmgraphite.collage.kernels.marks import MARKS_ROOM, marks_row
from warmgraphite.collage.kernels.placing import place_on, place_run
from warmgraphite.collage.kernels.records import Faces, Window
from warmgraphite.collage.kernels.ribs import mesh_row, ribs_row
from warmgraphite.collage.kernels.units import units_row
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import F1, F2, F3, I2, S1, S2, T2
from warmgraphite.noise.kernels import layered_row, smoothstep

__all__ = ["Light", "Texture", "texture_rows"]

_F, _I = np.float32, np.int32
_8, _16, _24 = np.int32(8), np.int32(16), np.int32(24)
#: Where in their room the last loops have what they mix: one array, so that the compiler knows that none lies over
#: another.
_TONE, _HUE, _JOINT, _COVER, _NX, _NY, _SUN_U, _SUN_V, _SHADE, _SHARE = (k * PIECE for k in range(10))
_ROOM = max(CELLS_ROOM, MARKS_ROOM)


class Light(NamedTuple):
    """What falls on faces.
    Their ``axes`` (R, 3, 3), the way towards the ``sun`` (3,), and the ``shadow`` (h, w) on them.
    """

    axes: F3
    sun: F1
    shadow: T2


class Texture(NamedTuple):
    """A texture: ``numbers`` as :data:`~warmgraphite.collage.kernels.filtering.NUMBERS` names them.
    ``layers`` (L, 4) of unevenness: cell along and up in metres, strength, octaves; ``colours`` (3, 3) of itself, its
    second and its joints, 0–1; how it is enlarged and turned; shares of relief, joints and variation; and what piece of
    it.
    """

    numbers: F1
    layers: F2
    colours: S2
    size: float
    cosine: float
    sine: float
    relief: float
    joints: float
    variation: float
    seed: int


class _Run(NamedTuple):
    """Places in metres along and up, and how much of both a pixel shows."""

    u: F1
    v: F1
    du: F1
    dv: F1


class _Row(NamedTuple):
    """Room for a piece of a row: its places, how many pixels there are to a metre, and what is mixed."""

    u: F1
    v: F1
    many_u: S1
    many_v: S1
    mix: S1
    one: S1
    noise: S2


@device(fast=True, borrows=True)
def _towards(light, row, axis):
    """How far the sun stands along an axis of a face."""
    sun, axes = light.sun, light.axes
    return sun[0] * axes[row, axis, 0] + sun[1] * axes[row, axis, 1] + sun[2] * axes[row, axis, 2]


@device(fast=True)
def _noise(row, along, up, octaves, seed):
    """Fill the last room of a row with unevenness.
    It has a lattice of ``along`` by ``up`` metres, no finer than what pixels show of the face.
    """
    count = len(row.u)
    room, many_u, many_v = row.noise, row.many_u, row.many_v
    fine = room[0][:count]
    a, b = _F(along), _F(up)
    for n in range(count):
        fine[n] = min(a * many_u[n], b * many_v[n])
    layered_row(row.u, row.v, along, up, octaves, seed, fine, room[1][:count], room[2][:count], row.one)


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


@device(fast=True, borrows=True)
def _sun_on(run, faces, light, row, texture, suns_u, suns_v):
    """Fill how far the sun stands along and up the texture at places of one face."""
    cosine, sine = texture.cosine, texture.sine
    usual, lying = faces.usual[row], faces.lying[row]
    if usual == 0.0:
        su, sv = _towards(light, row, 0), _towards(light, row, 1)
        suns_u[:], suns_v[:] = cosine * su + sine * sv, cosine * sv - sine * su
        return
    for n in range(len(run.u)):
        turn = (run.v[n] if lying else run.u[n]) / usual
        su = -np.sin(turn) * _towards(light, row, 0) + np.cos(turn) * _towards(light, row, 1)
        sv = _towards(light, row, 2)
        if lying:
            su, sv = sv, su
        suns_u[n], suns_v[n] = cosine * su + sine * sv, cosine * sv - sine * su


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True, borrows=True)
def _gathered(r, left, right, faces, light, share, column, mix, out):
    """Gather the pixels of a row, from one on, as far as one face goes.
    (the row of that face, the first of them, where it ends, how many); pixels before it that see none are cleared.
    """
    triangle, row_of = faces.triangle, faces.row_of
    c, count = left, 0
    while c < right:
        k = triangle[r, c]
        row = row_of[k] if k >= 0 else -1
        if row >= 0 and share[r, c] > 0:
            begun = c
            while c < right and share[r, c] > 0 and triangle[r, c] >= 0 and row_of[triangle[r, c]] == row:
                column[count] = c
                mix[_SHARE + count], mix[_SHADE + count] = share[r, c], light.shadow[r, c]
                count += 1
                c += 1
            return row, begun, c, count
        out[r, c] = 0
        c += 1
    return -1, right, right, 0


@device(fast=True, borrows=True)
def _placed(x, y, window, row, faces, run):
    """Fill in where pixels side by side from (x, y) on lie on their face."""
    if faces.usual[row] == 0.0:
        place_run(x, y, window, row, faces.table, run)
        return
    for n in range(len(run.u)):
        u, v, ux, vx, uy, vy = place_on(x + n * window.across, y, window, row, faces)
        run.u[n], run.v[n] = u, v
        run.du[n], run.dv[n] = max(abs(ux), abs(uy)), max(abs(vx), abs(vy))


@device(fast=True)
def _turned(run, texture, many_u, many_v):
    """Turn places the way of the texture, in place, and fill in how many pixels there are to a metre of it."""
    cos, sin = texture.cosine / texture.size, texture.sine / texture.size
    much_cos, much_sin = abs(texture.cosine) / texture.size, abs(texture.sine) / texture.size
    for n in range(len(run.u)):
        a, b, du, dv = run.u[n], run.v[n], run.du[n], run.dv[n]
        run.u[n], run.v[n] = cos * a + sin * b, cos * b - sin * a
        many_u[n] = _F(1) / _F(max(much_cos * du + much_sin * dv, ROUNDING))
        many_v[n] = _F(1) / _F(max(much_cos * dv + much_sin * du, ROUNDING))


@device(fast=True)
def _pieces_of(row, texture, room, which, state):
    """Fill the mix with what a texture is made of: units, cells, strewn marks, ribs or a mesh."""
    t, seed, mix, one, count = texture.numbers, texture.seed, row.mix, row.one, len(row.u)
    u, v, many_u, many_v = row.u, row.v, row.many_u, row.many_v
    tone, hue, joint = mix[_TONE : _TONE + count], mix[_HUE : _HUE + count], mix[_JOINT : _JOINT + count]
    nx, ny, alpha = mix[_NX : _NX + count], mix[_NY : _NY + count], mix[_COVER : _COVER + count]
    tone[:], hue[:], joint[:], nx[:], ny[:], alpha[:] = _F(0), _F(0), _F(0), _F(0), _F(0), _F(1)
    sort = int(t[SORT])
    if sort == 1:
        one[:] = _F(0)
        if t[ROUGH] * max(many_u.max(), many_v.max()) > 0.3:  # edges that waver, where that is seen
            _noise(row, 0.12, 0.12, 1, seed + 91)
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


@device(fast=True)
def _uneven(row, texture):
    """Add to the mix what is uneven in a texture: layers of tone, patches of the second hue, streaks of weather."""
    t, seed, mix, one, count = texture.numbers, texture.seed, row.mix, row.one, len(row.u)
    tone, hue = mix[_TONE : _TONE + count], mix[_HUE : _HUE + count]
    layers = texture.layers
    for i in range(int(t[LAYERS])):
        _noise(row, layers[i, 0], layers[i, 1], int(layers[i, 3]), seed + 31 + i)
        strength = _F(layers[i, 2])
        for n in range(count):
            tone[n] += strength * one[n]
    if t[HUE_SHARE] > 0.0:
        _noise(row, t[HUE_CELL], t[HUE_CELL], 3, seed + 51)
        strength = _F(t[HUE_SHARE])
        for n in range(count):
            hue[n] += strength * (_F(0.5) + _F(0.9) * one[n])
    if t[WEATHER] > 0.0:  # streaks that run down, in places
        _noise(row, 0.5, 3.0, 2, seed + 61)
        strength = _F(0.3 * t[WEATHER])
        for n in range(count):
            tone[n] -= strength * smoothstep(_F(-0.1), _F(0.7), one[n])


@kernel(fast=True)
def texture_rows(
    first: int, last: int, window: Window, faces: Faces, light: Light, share: T2, texture: Texture, out: I2
):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w) int32.
    Each holds the four channels of a premultiplied pixel from its low byte up.

    Plainly: tone, hue and joint at a place on its face, averaged over the pixel, lit by the sun and mixed of three
    colours.
    """
    width = faces.triangle.shape[1]
    column, which = np.empty(PIECE, _I), np.empty(PIECE, _I)
    us, vs, dus, dvs = np.empty(PIECE), np.empty(PIECE), np.empty(PIECE), np.empty(PIECE)
    many_u, many_v, mix, one = np.empty(PIECE, _F), np.empty(PIECE, _F), np.empty(10 * PIECE, _F), np.empty(PIECE, _F)
    room, noise = np.empty(_ROOM, _F), np.empty((3, PIECE), _F)
    state = np.full(8, -1e18)
    joints, variation, strong = _F(texture.joints), _F(texture.variation), _F(0.4 * texture.relief / 255.0)
    # A piece of a row at a time, so that all that is known of it stays close to the processor.
    pieces = (width + PIECE - 1) // PIECE
    for piece in range(first * pieces, last * pieces):
        r, right = piece // pieces, min((piece % pieces + 1) * PIECE, width)
        y = window.y + (r + 0.5) * window.down
        count, c = 0, piece % pieces * PIECE
        while c < right:
            # As far as a face goes it is one run of places.
            row, begun, c, more = _gathered(r, c, right, faces, light, share, column[count:], mix[count:], out)
            if more == 0:
                continue
            start, count = count, count + more
            run = _Run(us[start:count], vs[start:count], dus[start:count], dvs[start:count])
            _placed(window.x + (begun + 0.5) * window.across, y, window, row, faces, run)
            suns_u, suns_v = mix[_SUN_U + start : _SUN_U + count], mix[_SUN_V + start : _SUN_V + count]
            _sun_on(run, faces, light, row, texture, suns_u, suns_v)
        if count == 0:
            continue
        laid = _Row(us[:count], vs[:count], many_u[:count], many_v[:count], mix, one[:count], noise)
        _turned(_Run(laid.u, laid.v, dus[:count], dvs[:count]), texture, laid.many_u, laid.many_v)
        _pieces_of(laid, texture, room, which, state)
        _uneven(laid, texture)
        _mixed(count, joints, variation, strong, texture.colours, mix, which)
        for n in range(count):
            out[r, column[n]] = which[n]
