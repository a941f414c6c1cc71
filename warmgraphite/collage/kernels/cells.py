"""Stones, pebbles, clods: what is nearest to points strewn (S. Worley, "A cellular texture basis function", 1996)."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.kernels.filtering import BEVEL, HEIGHT, HUE, JOINT, LENGTH, LOOSE, PIECE, TONE, fading, line
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.kernels import device
from warmgraphite.noise.kernels import hashed, lattice, share_high, share_low, stirred

__all__ = ["CELLS_ROOM", "cells_row"]

_F = np.float32
#: Where in its room a row's places stand, how many pixels a cell has, how far the nearest and the next point are, and
#: where the nearest is: one array, so that the compiler knows that none lies over another.
_X, _Y, _FINE, _FIRST, _SECOND, _AT_X, _AT_Y = (k * PIECE for k in range(7))
CELLS_ROOM = 7 * PIECE


@device(fast=True)
def _nearest(count, base, di, dj, loose, room, which):
    """Ask for every place whether the point of another cell is nearer than those before.
    The cell lies ``di`` to the right and ``dj`` above its own.
    """
    right, above, base = _F(di + 0.5), _F(dj + 0.5), np.int32(base + lattice(di, dj))
    for n in range(count):
        x, y = room[_X + n], room[_Y + n]
        i, j = np.floor(x), np.floor(y)
        h = hashed(np.int32(base + lattice(i, j)))
        px = x - i - right - loose * (share_low(h) - _F(0.5))
        py = y - j - above - loose * (share_high(h) - _F(0.5))
        away = px * px + py * py
        first = room[_FIRST + n]
        nearer = away < first
        room[_SECOND + n] = first if nearer else min(room[_SECOND + n], away)
        room[_FIRST + n] = away if nearer else first
        room[_AT_X + n] = px if nearer else room[_AT_X + n]
        room[_AT_Y + n] = py if nearer else room[_AT_Y + n]
        which[n] = h if nearer else which[n]


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True)
def cells_row(us, vs, many_u, many_v, t, seed, room, which, tone, hue, joint, nx, ny):
    """Fill for places (n,): tone, hue, share of joint, and the slope both ways.
    ``room`` (CELLS_ROOM,) float32 and ``which`` (n,) int32 are room to work in.
    """
    length, height, half, loose = t[LENGTH], t[HEIGHT], _F(0.5 * t[JOINT]), _F(t[LOOSE])
    unlike, other_hue, bevel = _F(t[TONE]), _F(t[HUE]), _F(t[BEVEL])
    size, usual = _F(min(length, height)), _F(min(2.2 * t[JOINT] / min(length, height), 1.0))
    count = len(us)
    left, top = np.floor(us[0] / length), np.floor(vs[0] / height)
    per_length, per_height = 1.0 / length, 1.0 / height
    finest = _F(0)
    for n in range(count):
        room[_X + n], room[_Y + n] = _F(us[n] * per_length - left), _F(vs[n] * per_height - top)
        fine = min(_F(length) * many_u[n], _F(height) * many_v[n])
        room[_FINE + n] = fine
        room[_FIRST + n], room[_SECOND + n], room[_AT_X + n], room[_AT_Y + n] = _F(9), _F(9), _F(0), _F(0)
        finest = max(finest, fine)
    if finest <= 1.0:  # no stone is seen
        tone[:], hue[:], joint[:], nx[:], ny[:] = _F(0), _F(0.5) * other_hue, usual, _F(0), _F(0)
        return
    base = np.int32(lattice(np.int64(left), np.int64(top)) + lattice(0, 0, seed + 11))
    for dj in range(-1, 2):
        for di in range(-1, 2):
            _nearest(count, base, di, dj, loose, room, which)
    for n in range(count):
        fine = room[_FINE + n]
        seen = min(max(fine - _F(1), _F(0)), _F(1))
        hidden = _F(1) - seen
        foot, many = size / fine, fine / size
        first, second = np.sqrt(room[_FIRST + n]), np.sqrt(room[_SECOND + n])
        border = _F(0.5) * (second - first) * size
        own = line(border, half, foot, many) * (_F(2) if border < half else _F(1))
        joint[n] = min(own, _F(1)) * seen + usual * hidden
        k = stirred(which[n])
        tone[n] = unlike * (_F(2) * share_low(k) - _F(1)) * seen
        hue[n] = other_hue * (share_high(k) * seen + _F(0.5) * hidden)
        turn = fading(border / (bevel + _F(0.5) * foot)) * seen / max(first, _F(NEAR))
        nx[n], ny[n] = turn * room[_AT_X + n], turn * room[_AT_Y + n]
    if bevel <= 0.0:
        nx[:], ny[:] = _F(0), _F(0)
