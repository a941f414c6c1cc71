"""The loop that lays washes.
For each pixel how densely pigment lies there, and what light comes back through it from the paper.

After A. Bousseau, M. Kaplan, J. Thollot and F. Sillion, "Interactive watercolor rendering with temporal coherence and
abstraction", 2006: what is seen is the pigment's colour to the power of its density, and all that water does is done to
the density.
"""

# Long: one loop over pixels, in pieces that are named by what water does.
from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.collage.kernels.records import Cover, Dials, Fields, Middle, Washes, Window
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import T3
from warmgraphite.noise.kernels import layered_row, ramp, smoothstep

__all__ = ["wash_rows"]

_F = np.float32
#: Ways in which a wash may thin out.
EVENLY, ALONG_THE_DRAWING, ALONG_EACH_FACE, FROM_A_POINT = 0.0, 1.0, 2.0, 3.0
#: Pixels of a row that are worked on at once.
PIECE = 512


@device(fast=True, borrows=True)
def _exp(x):
    """What e to the power of ``x`` is, float32 and not above 1, to some four places.
    Without a call, so that the compiler works on several at once.
    """
    t = max(x, _F(-60)) * _F(1 / 64)
    t = _F(1) + t * (_F(1) + t * (_F(1 / 2) + t * (_F(1 / 6) + t * _F(1 / 24))))
    t = t * t
    t = t * t
    t = t * t
    t = t * t
    t = t * t
    return t * t


@device(fast=True, borrows=True)
def _between(at, count):
    """Of cells in a row the one that lies before a place, and the share of the one behind it.
    ``at`` is in cells, from the first one's middle.
    """
    inside = min(max(at, 0.0), count - 1.001)
    cell = int(inside)
    return cell, inside - cell


class _Places(NamedTuple):
    """Places (n,): millimetres from the middle of the drawing, and moved for each wash, so that no two flow alike.
    How far from a border and how light; where the wash begins and ends; the size of a pixel.
    """

    x: np.ndarray
    y: np.ndarray
    own_x: np.ndarray
    own_y: np.ndarray
    away: np.ndarray
    lit: np.ndarray
    top: np.ndarray
    bottom: np.ndarray
    pixel: float


class _Laid(NamedTuple):
    """What is laid at places (n,).
    The ``share`` that has the wash, its ``density``, and how much of it is the ``second`` pigment; and, while it is
    laid, the ``big`` and ``middle`` unevenness, the paper's ``tooth``, how far ``along`` its way it thins out, and room
    for ``more``.
    """

    share: np.ndarray
    density: np.ndarray
    second: np.ndarray
    big: np.ndarray
    middle: np.ndarray
    tooth: np.ndarray
    along: np.ndarray
    more: np.ndarray
    other: np.ndarray
    room: np.ndarray


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True)
def _uneven(x, y, along, up, octaves, seed, laid, pixel, out):
    """Unevenness with a lattice of ``along`` by ``up`` millimetres, no finer than a ``pixel``."""
    # Many arguments, because a lattice has that many numbers.
    count, room = len(x), laid.room
    fine = room[0][:count]
    fine[:] = _F(min(along, up) / pixel)
    layered_row(x, y, along, up, octaves, seed, fine, room[1][:count], room[2][:count], out)


@device(fast=True)
def _noise(at, along, up, octaves, seed, laid, out):
    """The same of places of the sheet."""
    _uneven(at.x, at.y, along, up, octaves, seed, laid, at.pixel, out)


@device(fast=True)
def _own(at, along, up, octaves, seed, laid, out):
    """The same of the places of each wash."""
    _uneven(at.own_x, at.own_y, along, up, octaves, seed, laid, at.pixel, out)


@device(fast=True)
def _flowed(at, dials, laid):
    """Pigment that flows together in pools."""
    pools, strong, uneven = dials.pools, _F(dials.density), _F(dials.flow)
    big, middle, density, share, second = laid.big, laid.middle, laid.density, laid.share, laid.second
    _own(at, pools, pools, 3, 1, laid, big)
    _own(at, 0.23 * pools, 0.23 * pools, 3, 2, laid, middle)
    for n in range(len(density)):
        density[n] = strong * (_F(1) + uneven * (_F(0.75) * big[n] + _F(0.45) * middle[n]))
        share[n], second[n] = _F(1), _F(0)


@device(fast=True)
def _watered(at, dials, laid):
    """Clean water dropped in: paler, with soft edges; and water that runs back.
    A crinkled dark edge, and paler within.
    """
    pools, density, middle, more, fringe = dials.pools, laid.density, laid.middle, laid.more, laid.other
    if dials.bloom > 0.0:
        _own(at, 1.5 * pools, 1.5 * pools, 2, 3, laid, more)
        for n in range(len(density)):
            density[n] *= 1.0 - 0.8 * dials.bloom * smoothstep(0.05, 0.6, more[n] + 0.12 * middle[n])
    if dials.back_run > 0.0:
        _own(at, 1.1 * pools, 1.1 * pools, 1, 4, laid, more)
        _own(at, 0.12 * pools, 0.12 * pools, 3, 5, laid, fringe)
        for n in range(len(density)):
            crinkled = more[n] + 0.12 * fringe[n]
            density[n] *= 1.0 - 0.45 * dials.back_run * smoothstep(0.30, 0.42, crinkled)
            density[n] += 0.5 * dials.back_run * dials.density * np.exp(-(((crinkled - 0.29) / 0.03) ** 2))


@device(fast=True)
def _rimmed(at, dials, laid):
    """The dark edge where a wash dries, and the paler strip within it."""
    if dials.rim <= 0.0:
        return
    density, middle, away = laid.density, laid.middle, at.away
    dark, pale, near = _F(dials.density * dials.rim), _F(0.22 * dials.rim), _F(1.0 / dials.rim_width)
    for n in range(len(density)):
        off = away[n] * near
        beyond = _F(0.5) * off - _F(1.75)
        own = density[n] + dark * (_F(0.75) + _F(0.6) * middle[n]) * _exp(-off)
        density[n] = own * (_F(1) - pale * _exp(-beyond * beyond))


@device(fast=True)
def _graded(at, dials, laid):
    """Thinner and thinner along a way; without one, thinner only where it lies thin anyway."""
    density, along, big = laid.density, laid.along, laid.big
    if dials.way == EVENLY:
        thinner = _F(dials.fade)
        for n in range(len(density)):
            t = min(max(_F(0.1) * big[n], _F(0)), _F(1))
            along[n] = t
            density[n] *= _F(1) - thinner * ramp(t)
        return
    for n in range(len(density)):
        t = 0.0
        if dials.way == ALONG_THE_DRAWING:
            t = (at.y[n] - dials.place_0) / (dials.place_1 - dials.place_0)
        elif dials.way == ALONG_EACH_FACE:
            t = (at.y[n] - at.top[n]) / (at.bottom[n] - at.top[n])
        elif dials.way == FROM_A_POINT:
            t = np.sqrt((at.x[n] - dials.place_0) ** 2 + (at.y[n] - dials.place_1) ** 2) / dials.reach
        t = min(max(t + 0.10 * big[n], 0.0), 1.0)
        along[n] = t
        density[n] *= 1.0 - dials.fade * ramp(t)


@device(fast=True)
def _worn(at, dials, laid):
    """Edges lost in the light, pigment in the paper's tooth, white left beside borders, a brush that runs dry."""
    density, share, more, tooth, away = laid.density, laid.share, laid.more, laid.tooth, at.away
    count = len(density)
    if dials.lost > 0.0:
        _own(at, 21.0, 21.0, 2, 6, laid, more)
        for n in range(count):
            patch = smoothstep(-0.25, 0.35, more[n] + dials.lost - 0.5)
            density[n] *= 1.0 - dials.lost * at.lit[n] * patch * np.exp(-away[n] / 4.5)
    if dials.granulation > 0.0 or dials.dry > 0.0:
        _noise(at, 0.9, 0.9, 2, 7, laid, tooth)
        grained = _F(0.9 * dials.granulation)
        for n in range(count):
            density[n] *= _F(1) + grained * tooth[n]
    if dials.white > 0.0:
        _noise(at, 9.0, 9.0, 2, 8, laid, more)
        for n in range(count):
            gap = dials.white * (0.55 + 0.9 * more[n])
            share[n] = smoothstep(gap - 0.5 * max(0.12, at.pixel), gap + max(0.16, at.pixel), away[n])
    if dials.dry > 0.0:
        _own(at, 11.0, 0.6, 2, 9, laid, more)
        for n in range(count):
            dry = dials.dry * (0.25 + 0.6 * np.exp(-away[n] / 6.0) + 0.6 * laid.along[n])
            share[n] *= 1.0 - smoothstep(0.6 - dry, 1.1 - dry, 0.7 * more[n] + 0.5 * tooth[n] + 0.35)


@device(fast=True)
def _stopped_short(at, dials, laid):
    """It stops short of the frame, in a line that wavers: dried here with a sharp edge, drawn out there with water."""
    if dials.short <= 0.0:
        return
    density, share, middle, wide, more = laid.density, laid.share, laid.middle, laid.other, laid.more
    _noise(at, 70.0, 70.0, 2, 10, laid, wide)
    _noise(at, 45.0, 45.0, 1, 11, laid, more)
    short = dials.short
    for n in range(len(density)):
        edge = min(min(at.x[n] + dials.left, dials.right - at.x[n]), min(at.y[n] + dials.top, dials.bottom - at.y[n]))
        edge += (2.0 + 0.45 * short) * wide[n] + 3.0 * middle[n]
        drawn_out = smoothstep(-0.15, 0.45, more[n])
        share[n] *= smoothstep(short, short + 1.2 + drawn_out * (4.0 + short), edge)
        thin = 1.0 - dials.fade * ramp(laid.along[n])
        density[n] += (
            0.4 * dials.density * thin * dials.rim * (1.0 - drawn_out) * np.exp(-(((edge - short - 1.4) / 1.1) ** 2))
        )


@device(fast=True)
def _two_pigments(at, dials, laid):
    """Where the second pigment runs into the first; and no density beyond what paper takes."""
    density, second, middle, more = laid.density, laid.second, laid.middle, laid.more
    if dials.wet > 0.0:
        _own(at, 1.25 * dials.pools, 1.25 * dials.pools, 2, 12, laid, more)
        most = _F(dials.wet)
        for n in range(len(density)):
            t = min(max((more[n] + _F(0.1) * middle[n] + _F(0.35)) * _F(1.25), _F(0)), _F(1))
            second[n] = most * ramp(t)
    for n in range(len(density)):
        density[n] = min(max(density[n], _F(0)), _F(4))


@device(fast=True)
def _lay(at, dials, laid):
    """Fill in what is laid at places."""
    _flowed(at, dials, laid)
    _watered(at, dials, laid)
    _rimmed(at, dials, laid)
    _graded(at, dials, laid)
    _worn(at, dials, laid)
    _stopped_short(at, dials, laid)
    _two_pigments(at, dials, laid)


class _Gathered(NamedTuple):
    """Places of a piece of a row before they are laid: the column, the wash and the share of the pixel of each."""

    column: np.ndarray
    wash: np.ndarray
    weight: np.ndarray


@device(fast=True, borrows=True)
def _gather(c, low, high, of, cover, count, out):
    """Add the washes of a pixel that several cells share, each once; how many places there are then."""
    begun = count
    for i in range(low, high):
        w, part = of[cover.cell[i]], cover.share[i] / 255.0
        if w < 0 or count == len(out.wash):
            continue
        known = -1
        for n in range(begun, count):
            if out.wash[n] == w:
                known = n
        if known >= 0:
            out.weight[known] += part
            continue
        out.column[count], out.wash[count], out.weight[count] = c, w, part
        count += 1
    return count


@device(fast=True, borrows=True)
def _gathered(r, begin, end, at, of, cover, out):
    """Gather the washes of pixels ``begin`` to ``end`` of a row.
    How many places, and where among shared pixels the next row goes on.
    """
    whole, mixed, start = cover.whole, cover.pixel, cover.start
    width, count = whole.shape[1], 0
    for c in range(begin, end):
        k = whole[r, c]
        if k >= 0:
            if of[k] >= 0 and count < len(out.wash):
                out.column[count], out.wash[count], out.weight[count] = c, of[k], 1.0
                count += 1
            continue
        flat = r * width + c
        while at < len(mixed) and mixed[at] < flat:
            at += 1
        if at < len(mixed) and mixed[at] == flat:
            until = start[at + 1] if at + 1 < len(mixed) else len(cover.cell)
            count = _gather(c, start[at], until, of, cover, count, out)
    return count, at


@device(fast=True, borrows=True)
def _stand(r, count, window, middle, gathered, washes, fields, at):
    """Fill in places of a row.
    Where they are, how far from a border, how light, and where their washes begin and end.
    """
    away, shadow, seeds, reach, column = fields.away, fields.shadow, washes.seeds, washes.reach, gathered.column
    fy = window.y + (r + 0.5) * window.down
    per_x, per_y = 1.0 / fields.across, 1.0 / fields.down
    j, v = _between(fy * per_y - 0.5, away.shape[0])
    for n in range(count):
        c, w = column[n], gathered.wash[n]
        fx = window.x + (c + 0.5) * window.across
        x, y = fx - middle.x, fy - middle.y
        at.x[n], at.y[n] = x, y
        # Each wash flows by itself: as if it lay elsewhere on an endless sheet.
        at.own_x[n], at.own_y[n] = x + 397.0 * (seeds[w] % 61), y + 419.0 * (seeds[w] % 53)
        near, u = _between(fx * per_x - 0.5, away.shape[1])
        high_up = away[j, near] * (1.0 - u) + away[j, near + 1] * u
        low_down = away[j + 1, near] * (1.0 - u) + away[j + 1, near + 1] * u
        at.away[n] = (high_up * (1.0 - v) + low_down * v) / 128.0
        at.lit[n] = 1.0 - shadow[r, c] / 255.0
        at.top[n], at.bottom[n] = reach[w, 0], reach[w, 1]


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True, borrows=True)
def _seen(count, begin, end, gathered, laid, pigments, sums, r, out):
    """Fill in pixels of a row: the light that comes back through what is laid there."""
    # Many arguments, because it writes into a piece of a row.
    sums[:] = _F(0)
    for n in range(count):
        part = gathered.weight[n] * laid.share[n]
        if part <= 0.0:
            continue
        w, c, d, s = gathered.wash[n], gathered.column[n] - begin, laid.density[n], laid.second[n]
        for m in range(3):
            low, high = _F(pigments[w, 0, m]), _F(pigments[w, 1, m])
            sums[c, m] += part * _exp(d * (low + s * (high - low)))
        sums[c, 3] += part
    for c in range(begin, end):
        for m in range(4):
            out[r, c, m] = np.uint8(min(_F(255) * sums[c - begin, m] + _F(0.5), _F(255)))


@device()
def _places_for(most):
    return _Places(
        np.empty(most), np.empty(most), np.empty(most), np.empty(most), np.empty(most, _F), np.empty(most, _F),
        np.empty(most),
        np.empty(most), 0.0,
    )  # fmt: skip


@device()
def _first(at, count, pixel):
    """The first so many places."""
    return _Places(
        at.x[:count], at.y[:count], at.own_x[:count], at.own_y[:count], at.away[:count], at.lit[:count], at.top[:count],
        at.bottom[:count], pixel,
    )  # fmt: skip


@device()
def _laid_on(count, rows, room):
    """Room for what is laid at so many places, out of rows (9, n)."""
    return _Laid(
        rows[0][:count], rows[1][:count], rows[2][:count], rows[3][:count], rows[4][:count], rows[5][:count],
        rows[6][:count],
        rows[7][:count], rows[8][:count], room,
    )  # fmt: skip


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@kernel(fast=True)
def wash_rows(
    first: int, last: int, window: Window, middle: Middle, cover: Cover, washes: Washes, fields: Fields, dials: Dials,
    out: T3
):  # fmt: skip
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.

    Plainly: a pixel is its pigment's colour to the power of what :func:`_lay` gives there, mixed by the shares of its
    cells.
    """
    # Many arguments, because a wash reads a map, a field, a shadow and its dials.
    width = cover.whole.shape[1]
    pixel = max(window.across, window.down)
    most = 4 * PIECE  # a pixel at an edge may have several washes
    gathered = _Gathered(np.empty(most, np.int32), np.empty(most, np.int32), np.empty(most, _F))
    places = _places_for(most)
    rows, room, sums = np.empty((9, most), _F), np.empty((3, most), _F), np.empty((PIECE, 4), _F)
    pieces = (width + PIECE - 1) // PIECE
    at = np.searchsorted(cover.pixel, first * width)
    # A piece of a row at a time, so that all that is known of it stays close to the processor.
    for piece in range(first * pieces, last * pieces):
        r, begin = piece // pieces, piece % pieces * PIECE
        end = min(begin + PIECE, width)
        count, at = _gathered(r, begin, end, at, washes.of, cover, gathered)
        if count == 0:
            out[r, begin:end] = 0
            continue
        _stand(r, count, window, middle, gathered, washes, fields, places)
        laid = _laid_on(count, rows, room)
        _lay(_first(places, count, pixel), dials, laid)
        _seen(count, begin, end, gathered, laid, washes.pigments, sums, r, out)
