"""Blades, leaves, straw: short strokes, one to a rectangle, over those of the rectangles about it."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.kernels.filtering import (
    HEIGHT,
    HUE,
    LENGTH,
    MARK_LENGTH,
    MARK_TURN,
    MARK_WIDTH,
    PIECE,
    SHEETS,
    TONE,
)  # fmt: skip
from warmgraphite.kernels import device
from warmgraphite.noise.kernels import hashed, lattice, share_high, share_low, stirred

__all__ = ["MARKS_ROOM", "marks_row"]

_F = np.float32
#: Where in its room a row's places in their rectangles stand, the width of a pixel and how many there are to a metre,
#: and what was laid so far.
_X, _Y, _FOOT, _MANY, _TONE, _COVER = (k * PIECE for k in range(6))
MARKS_ROOM = 6 * PIECE


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True)
def _mark(count, base, di, dj, length, height, lean, width, per_mark, room, own):
    """Lay the mark of the rectangle ``di`` to the right and ``dj`` above its own over every place."""
    base, aside, above = np.int32(base + lattice(di, dj)), _F(di) * length, _F(dj) * height
    for n in range(count):
        h = hashed(np.int32(base + own[n]))
        k = stirred(h)
        a, c = share_low(h), share_low(k)
        px, py, foot = room[_X + n] - aside - a * length, room[_Y + n] - above - share_high(h) * height, room[_FOOT + n]
        e = lean * (_F(2) * c - _F(1))
        f = np.sqrt(max(_F(1) - e * e, _F(0)))
        end = (px * e + py * f) * per_mark / (_F(0.6) + _F(0.4) * share_high(k))
        beside = abs(px * f - py * e)
        half = width * _F(4) * end * (_F(1) - end)  # pointed at its ends, less than nothing beyond them
        low, high = max(beside - _F(0.5) * foot, -half), min(beside + _F(0.5) * foot, half)
        share = min(max(high - low, _F(0)) * room[_MANY + n], _F(1))
        share = (
            share if py >= _F(-0.5) * foot else _F(0)
        )  # it grows from its foot, so that none from above reaches down
        bright = a + c
        bright = _F(2) * (bright - np.floor(bright)) - _F(1)
        room[_TONE + n] += share * (bright - room[_TONE + n])
        room[_COVER + n] += share * (_F(1) - room[_COVER + n])


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True)
def marks_row(us, vs, many_u, many_v, t, seed, room, own, tone, hue):
    """Fill tone and hue for places (n,). ``room`` (MARKS_ROOM,) float32 and ``own`` (n,) int32 are room to work in."""
    length, height, long, unlike, other_hue = t[LENGTH], t[HEIGHT], _F(t[MARK_LENGTH]), _F(t[TONE]), _F(t[HUE])
    count = len(us)
    lean, width, finest = _F(np.sin(t[MARK_TURN])), _F(0.5 * t[MARK_WIDTH]), _F(0)
    for n in range(count):
        many = min(many_u[n], many_v[n])
        room[_FOOT + n], room[_MANY + n], room[_TONE + n], room[_COVER + n] = _F(1) / many, many, _F(0), _F(0)
        finest = max(finest, many)
    if long * finest <= 1.0:  # no mark is seen
        tone[:], hue[:] = _F(0), _F(0.5) * other_hue
        return
    for sheet in range(int(t[SHEETS])):
        # Each sheet is moved, so that its rectangles lie over the edges of those beneath.
        aside, above = 0.37 * length * sheet, 0.53 * height * sheet
        left, top = np.floor((us[0] + aside) / length), np.floor((vs[0] + above) / height)
        per_length, per_height = 1.0 / length, 1.0 / height
        for n in range(count):
            x, y = _F((us[n] + aside) * per_length - left), _F((vs[n] + above) * per_height - top)
            i, j = np.floor(x), np.floor(y)
            own[n] = lattice(i, j)
            room[_X + n], room[_Y + n] = (x - i) * _F(length), (y - j) * _F(height)
        base = np.int32(lattice(np.int64(left), np.int64(top)) + lattice(0, 0, seed + 20 + sheet))
        for dj in range(-1, 1):
            for di in range(-1, 2):
                _mark(count, base, di, dj, _F(length), _F(height), lean, width, _F(1) / long, room, own)
    for n in range(count):
        seen = min(max(long * room[_MANY + n] - _F(1), _F(0)), _F(1))
        tone[n] = unlike * room[_TONE + n] * seen
        hue[n] = other_hue * (room[_COVER + n] * seen + _F(0.5) * (_F(1) - seen))
