"""The loop that paints textures: each a function of metres on its face, so that it has no seam and never comes again.

What is finer than a pixel is not sampled but averaged: joints by the share of the pixel that they take, unevenness octave by
octave, units by fading into their mean (A. Norton, A. Rockwood, P. Skolmoski, "Clamping", 1982). So far off a texture goes quiet,
and nothing shimmers between two zooms.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from warmgraphite.collage.kernels.noise import chance, layered_row, quarters

__all__ = ["NUMBERS", "SORTS", "place_on", "texture_rows"]

_F = np.float32

#: Pixels of a row that are worked on at once.
PIECE = 320

#: What a texture is made of, and the numbers that say how, in the order in which the loop has them.
SORTS = ("plain", "units", "cells", "strewn", "ribs", "mesh")
NUMBERS = (
    "sort", "length", "height", "joint", "bond", "loose", "rough", "unit_tone", "unit_hue", "lap", "bevel", "bulge", "basket",
    "mark_length", "mark_width", "mark_turn", "sheets", "weather", "hue_cell", "hue", "layers",
)  # fmt: skip
_SORT, _LENGTH, _HEIGHT, _JOINT, _BOND, _LOOSE, _ROUGH, _TONE, _HUE, _LAP, _BEVEL, _BULGE, _BASKET = range(13)
_MARK_LENGTH, _MARK_WIDTH, _MARK_TURN, _SHEETS, _WEATHER, _HUE_CELL, _HUE_SHARE, _LAYERS = range(13, 21)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _smooth(low, high, value):
    t = min(max((value - low) / (high - low), 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _line(away, half, foot, many):
    """Share of a pixel ``foot`` wide, of which there are ``many`` to a metre, that a line ``half`` wide to either side takes, ``away``
    from it."""
    low, high = max(away - 0.5 * foot, -half), min(away + 0.5 * foot, half)
    return max(high - low, 0.0) * many


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _lines(at, apart, half, foot, many):
    """The same of lines ``apart``, where ``at`` is the place between two of them."""
    if foot < 0.6 * apart:
        reach = half + 0.5 * foot
        if reach < at < apart - reach:
            return 0.0
        return _line(at, half, foot, many) + _line(apart - at, half, foot, many)
    near = _line(at, half, foot, many) + _line(apart - at, half, foot, many)
    return near + (2.0 * half / apart - near) * _smooth(0.6, 1.2, foot / apart)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _seen(size, many):
    """How much of a thing of this size a pixel shows: all of it, or nothing but its mean."""
    return min(max(size * many - 1.0, 0.0), 1.0)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _units_row(us, vs, waver, du, dv, many_u, many_v, t, seed, state, tone, hue, joint, nx, ny):
    """Fill for places (n,) laid in courses, as bricks, boards and tiles are: tone, hue, share of joint, and the slope both ways.
    ``waver`` are metres that edges leave their line, ``many_u`` and ``many_v`` pixels to a metre, ``state`` what was found of the unit
    before."""
    # Out of the array once: what is written in between could be it, for all that the compiler knows.
    length, height, half, bond, loose = t[_LENGTH], t[_HEIGHT], 0.5 * t[_JOINT], t[_BOND], t[_LOOSE]
    unlike, other_hue, lap, bevel, bulge, basket = t[_TONE], t[_HUE], t[_LAP], t[_BEVEL], t[_BULGE], t[_BASKET]
    per_length, per_height = 1.0 / length, 1.0 / height
    known_row, known_left, known_right, light, other = state[0], state[1], state[2], state[3], state[4]
    moved_row, moved = state[5], state[6]
    known_seed = seed
    for n in range(len(us)):
        u, v, a, b, iu, iv, own_seed = us[n] + waver[n], vs[n] - waver[n], du[n], dv[n], float(many_u[n]), float(many_v[n]), seed
        if basket > 0.0:
            i, j = np.floor(u / basket), np.floor(v / basket)
            if (int(i) + int(j)) & 1:
                u, v, a, b, iu, iv = v, u, b, a, iv, iu
                own_seed += 1
        course = np.floor(v * per_height)
        row = int(course)
        y = v - course * height
        shift = bond * course
        if bond < 0.0:
            if moved_row != course or known_seed != own_seed:
                moved_row, moved = course, chance(row, 3, own_seed)
            shift = moved
        s = u * per_length - shift
        # Mostly it is the unit of the pixel before.
        if known_row != course or s < known_left or s >= known_right or known_seed != own_seed:
            i = np.floor(s)
            column = int(i)
            left, right = i, i + 1.0
            if loose > 0.0:
                left = i + loose * (chance(column, row, own_seed + 5) - 0.5)
                if s < left:
                    column -= 1
                    right = left
                    left = column + loose * (chance(column, row, own_seed + 5) - 0.5)
                else:
                    right = i + 1.0 + loose * (chance(column + 1, row, own_seed + 5) - 0.5)
                    if s >= right:
                        column += 1
                        left = right
                        right = column + 1.0 + loose * (chance(column + 1, row, own_seed + 5) - 0.5)
            light, other, _, _ = quarters(column, row, own_seed + 7)
            known_row, known_left, known_right, known_seed = course, left, right, own_seed
        x, own = (s - known_left) * length, (known_right - known_left) * length
        upright = _lines(x, own, half, a, iu)
        level = _lines(y, height, half, b, iv)
        joint[n] = upright + level - upright * level
        across, over = _seen(own, iu), _seen(height, iv)
        seen = across * over
        found = unlike * (2.0 * light - 1.0) * seen
        hue[n] = other_hue * (other * seen + 0.5 * (1.0 - seen))
        if lap > 0.0:  # one course lies over the next, and its edge throws a little shadow on it
            deep = 0.10 * height + 0.5 * b
            under = lap * np.exp(-(height - y) / deep) if height - y < 5.0 * deep else 0.0
            found -= (under - 0.1 * lap) * over
        tone[n] = found
        lean = bulge * (2.0 * x / own - 1.0) * _seen(own, 0.5 * iu) if bulge > 0.0 else 0.0
        if bevel > 0.0:
            c, d = bevel + 0.5 * a, bevel + 0.5 * b
            side, end = min(x, own - x), min(y, height - y)
            if side < 4.0 * c:
                lean += np.exp(-side / c) * (1.0 if x > 0.5 * own else -1.0) * _seen(own, 0.5 * iu)
            ny[n] = np.exp(-end / d) * (1.0 if y > 0.5 * height else -1.0) * _seen(height, 0.5 * iv) if end < 4.0 * d else 0.0
        nx[n] = lean
    state[0], state[1], state[2], state[3], state[4] = known_row, known_left, known_right, light, other
    state[5], state[6] = moved_row, moved
    if known_seed != seed:
        state[0], state[5] = -1e18, -1e18


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _cells(u, v, du, dv, t, seed):
    """Stones, pebbles, clods: what is nearest to points strewn (S. Worley, "A cellular texture basis function", 1996)."""
    foot = max(du / t[_LENGTH], dv / t[_HEIGHT])
    size = min(t[_LENGTH], t[_HEIGHT])
    seen = _seen(1.0, 1.0 / foot)
    usual = min(2.2 * t[_JOINT] / size, 1.0)
    if seen <= 0.0:
        return 0.0, 0.5 * t[_HUE], usual, 0.0, 0.0
    x, y = u / t[_LENGTH], v / t[_HEIGHT]
    i, j = int(np.floor(x)), int(np.floor(y))
    first, second = 9.0, 9.0
    light, other, cx, cy = 0.0, 0.0, 0.0, 0.0
    loose = t[_LOOSE]
    for dj in range(-1, 2):
        for di in range(-1, 2):
            a, b, c, d = quarters(i + di, j + dj, seed + 11)
            px, py = x - (i + di + 0.5 + loose * (a - 0.5)), y - (j + dj + 0.5 + loose * (b - 0.5))
            away = px * px + py * py
            if away < first:
                second = first
                first, light, other, cx, cy = away, c, d, px, py
            elif away < second:
                second = away
    first, second = np.sqrt(first), np.sqrt(second)
    border = 0.5 * (second - first) * size
    half = 0.5 * t[_JOINT]
    joint = min(_line(border, half, foot * size, 1.0 / (foot * size)) * (2.0 if border < half else 1.0), 1.0) * seen + usual * (
        1.0 - seen
    )
    tone = t[_TONE] * (2.0 * light - 1.0) * seen
    hue = t[_HUE] * (other * seen + 0.5 * (1.0 - seen))
    turn = np.exp(-border / (t[_BEVEL] + 0.5 * foot * size)) * seen if t[_BEVEL] > 0.0 else 0.0
    reach = max(first, 1e-6)
    return tone, hue, joint, turn * cx / reach, turn * cy / reach


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _strewn(u, v, du, dv, t, seed):
    """Blades, leaves, straw: short strokes, one to a rectangle, over those of the rectangles about. Tone and hue."""
    foot = max(du, dv)
    many = 1.0 / foot
    seen = _seen(t[_MARK_LENGTH], many)
    if seen <= 0.0:
        return 0.0, 0.5 * t[_HUE]
    cover, tone = 0.0, 0.0
    lean, width, per_mark = np.sin(t[_MARK_TURN]), 0.5 * t[_MARK_WIDTH], 1.0 / t[_MARK_LENGTH]
    far = t[_MARK_LENGTH] * lean + width + 0.5 * foot
    for sheet in range(int(t[_SHEETS])):
        u, v = u + 0.37 * t[_LENGTH] * sheet, v + 0.53 * t[_HEIGHT] * sheet
        i, j = int(np.floor(u / t[_LENGTH])), int(np.floor(v / t[_HEIGHT]))
        for dj in range(-1, 1):
            for di in range(-1, 2):
                a, b, c, d = quarters(i + di, j + dj, seed + 20 + sheet)
                # It grows from its foot, so that none from above reaches down.
                px, py = u - (i + di + a) * t[_LENGTH], v - (j + dj + b) * t[_HEIGHT]
                if abs(px) > far or py < -0.5 * foot:
                    continue
                e = lean * (2.0 * c - 1.0)
                f = np.sqrt(max(1.0 - e * e, 0.0))
                end = (px * e + py * f) * per_mark / (0.6 + 0.4 * d)
                beside = abs(px * f - py * e)
                if end <= 0.0 or end >= 1.0 or beside > width + 0.5 * foot:
                    continue
                half = width * 4.0 * end * (1.0 - end)  # pointed at its ends
                share = min(_line(beside, half, foot, many), 1.0)
                tone = tone * (1.0 - share) + share * (2.0 * (a + c - np.floor(a + c)) - 1.0)
                cover = cover + share * (1.0 - cover)
    return t[_TONE] * tone * seen, t[_HUE] * (cover * seen + 0.5 * (1.0 - seen))


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _ribs(u, du, iu, t):
    """Corrugations, or standing seams where they have a joint. Share of joint, and the slope."""
    length = t[_LENGTH]
    at = u - np.floor(u / length) * length
    seen = _seen(length, 0.5 * iu)
    if t[_JOINT] > 0.0:
        joint = _lines(at, length, 0.5 * t[_JOINT], du, iu)
        b = t[_BEVEL] + 0.5 * du
        return joint, (np.exp(-(length - at) / b) - np.exp(-at / b)) * seen
    wave = np.cos(2.0 * np.pi * at / length)
    return 0.0, t[_BULGE] * wave * seen


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _mesh(u, v, du, dv, t):
    """Share of wire in a mesh of squares that stand on a corner."""
    a, b, foot, apart = 0.7071 * (u + v), 0.7071 * (v - u), 0.7071 * (du + dv), t[_LENGTH]
    one = _lines(a - np.floor(a / apart) * apart, apart, 0.5 * t[_JOINT], foot, 1.0 / foot)
    two = _lines(b - np.floor(b / apart) * apart, apart, 0.5 * t[_JOINT], foot, 1.0 / foot)
    return 1.0 - (1.0 - one) * (1.0 - two)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def place_round(x, y, row, table, usual, lying):
    """Metres along and up a round face, laid flat, at frame millimetres."""
    w = 1.0 / (table[row, 3, 0] * x + table[row, 3, 1] * y + table[row, 3, 2])
    u = (table[row, 0, 0] * x + table[row, 0, 1] * y + table[row, 0, 2]) * w
    v = (table[row, 1, 0] * x + table[row, 1, 1] * y + table[row, 1, 2]) * w
    turn = np.arctan2(v, u)
    if turn < 0.0:
        turn += 2.0 * np.pi
    u, v = turn * usual[row], (table[row, 2, 0] * x + table[row, 2, 1] * y + table[row, 2, 2]) * w
    return (v, u) if lying[row] else (u, v)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def place_on(x, y, across, down, row, table, usual, lying):
    """Metres along and up a face at frame millimetres, and how much these change from there to the next pixel ``across`` and ``down``: u, v,
    then u and v across, u and v down."""
    if usual[row] > 0.0:
        u, v = place_round(x, y, row, table, usual, lying)
        ux, vx = place_round(x + across, y, row, table, usual, lying)
        uy, vy = place_round(x, y + down, row, table, usual, lying)
        ux, vx, uy, vy = ux - u, vx - v, uy - u, vy - v
        most = 4.0 * usual[row]
        if abs(ux) > most or abs(uy) > most or abs(vx) > most or abs(vy) > most:  # where it begins anew
            ux, vx, uy, vy = 0.0, 0.0, 0.0, 0.0
        return u, v, ux, vx, uy, vy
    # Number by number: a row taken out as an array of its own takes longer than all the rest.
    wx, wy = table[row, 3, 0], table[row, 3, 1]
    ax, ay, bx, by = table[row, 0, 0], table[row, 0, 1], table[row, 1, 0], table[row, 1, 1]
    w = 1.0 / (wx * x + wy * y + table[row, 3, 2])
    u, v = (ax * x + ay * y + table[row, 0, 2]) * w, (bx * x + by * y + table[row, 1, 2]) * w
    i, j = across * w, down * w
    return u, v, (ax - u * wx) * i, (bx - v * wx) * i, (ay - u * wy) * j, (by - v * wy) * j


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _run(x, y, across, down, row, table, us, vs, dus, dvs):
    """Fill metres along and up a flat face, and how much a pixel shows of both, for pixels side by side from (x, y) on."""
    ax, ay, a = table[row, 0, 0], table[row, 0, 1], table[row, 0, 2]
    bx, by, b = table[row, 1, 0], table[row, 1, 1], table[row, 1, 2]
    wx, wy, w = table[row, 3, 0], table[row, 3, 1], table[row, 3, 2]
    a, b, w = a + ay * y, b + by * y, w + wy * y
    for n in range(len(us)):
        px = x + n * across
        i = 1.0 / (wx * px + w)
        u, v = (ax * px + a) * i, (bx * px + b) * i
        us[n], vs[n] = u, v
        dus[n] = max(abs((ax - u * wx) * across), abs((ay - u * wy) * down)) * abs(i)
        dvs[n] = max(abs((bx - v * wx) * across), abs((by - v * wy) * down)) * abs(i)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _towards(sun, axes, row, axis):
    """How far the sun stands along an axis of a face."""
    return sun[0] * axes[row, axis, 0] + sun[1] * axes[row, axis, 1] + sun[2] * axes[row, axis, 2]


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _noise(u, v, many_u, many_v, along, up, octaves, seed, room, out):
    """Unevenness with a lattice of ``along`` by ``up`` metres, no finer than what pixels show of the face: ``many_u`` and ``many_v`` (n,)
    float32 are how many of them there are to a metre."""
    count = len(u)
    fine = room[0][:count]
    a, b = _F(along), _F(up)
    for n in range(count):
        fine[n] = min(a * many_u[n], b * many_v[n])
    layered_row(u, v, along, up, octaves, seed, fine, room[1][:count], room[2][:count], out)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def texture_rows(
    first, last, place, triangle, row_of, table, usual, lying, axes, sun, shadow, share, numbers, layers, colours, size, turned, relief,
    joints, variation, seed, out,
):  # fmt: skip
    """Fill rows ``first`` to ``last`` of ``out`` (h, w, 4), premultiplied.

    ``place`` is the window's corner and a pixel, each across and down in millimetres; ``triangle`` (h, w) what each pixel sees,
    ``row_of`` (T,) where its face stands in ``table`` (R, 4, 3), ``usual``, ``lying`` and ``axes`` (R, 3, 3); ``sun`` (3,) towards the sun,
    ``shadow`` and ``share`` (h, w); ``numbers`` as :data:`NUMBERS` names them, ``layers`` (L, 4): cell along and up in metres, strength,
    octaves; ``colours`` (3, 3) of itself, its second and its joints, 0–1; ``size`` enlarges, ``turned`` (2,) cosine and sine; ``relief``,
    ``joints`` and ``variation`` are shares.
    """
    x0, y0, across, down = place
    width = triangle.shape[1]
    t = numbers
    sort = int(t[_SORT])
    column, face = np.empty(PIECE, np.int32), np.empty(PIECE, np.int32)
    us, vs, dus, dvs = np.empty(PIECE), np.empty(PIECE), np.empty(PIECE), np.empty(PIECE)
    tones, hues, levels, cover = np.empty(PIECE, _F), np.empty(PIECE, _F), np.empty(PIECE, _F), np.empty(PIECE, _F)
    nxs, nys, more = np.empty(PIECE, _F), np.empty(PIECE, _F), np.empty(PIECE, _F)
    red_0, green_0, blue_0 = _F(colours[0, 0]), _F(colours[0, 1]), _F(colours[0, 2])
    red_1, green_1, blue_1 = _F(colours[1, 0]) - red_0, _F(colours[1, 1]) - green_0, _F(colours[1, 2]) - blue_0
    red_2, green_2, blue_2 = _F(colours[2, 0]), _F(colours[2, 1]), _F(colours[2, 2])
    mortar, spread, strong = _F(joints), _F(variation), _F(0.4 * relief / 255.0)
    suns_u, suns_v = np.empty(PIECE, _F), np.empty(PIECE, _F)
    per_size = 1.0 / size
    state = np.full(8, -1e18)
    mus, mvs, room = np.empty(width, _F), np.empty(width, _F), np.empty((3, width), _F)
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
                out[r, c, 0], out[r, c, 1], out[r, c, 2], out[r, c, 3] = 0, 0, 0, 0
                c += 1
                continue
            # As far as the face goes on it is one run of places.
            begun, start = c, count
            while c < right and share[r, c] > 0 and triangle[r, c] >= 0 and row_of[triangle[r, c]] == row:
                column[count], face[count] = c, row
                count += 1
                c += 1
            x = x0 + (begun + 0.5) * across
            if usual[row] > 0.0:
                for n in range(start, count):
                    u, v, ux, vx, uy, vy = place_on(x + (n - start) * across, y, across, down, row, table, usual, lying)
                    us[n], vs[n] = u, v
                    dus[n], dvs[n] = max(abs(ux), abs(uy)), max(abs(vx), abs(vy))
            else:
                _run(x, y, across, down, row, table, us[start:count], vs[start:count], dus[start:count], dvs[start:count])
            if relief > 0.0:
                su, sv = _towards(sun, axes, row, 0), _towards(sun, axes, row, 1)
                for n in range(start, count):
                    if usual[row] > 0.0:
                        turn = (vs[n] if lying[row] else us[n]) / usual[row]
                        su = -np.sin(turn) * _towards(sun, axes, row, 0) + np.cos(turn) * _towards(sun, axes, row, 1)
                        sv = _towards(sun, axes, row, 2)
                        if lying[row]:
                            su, sv = sv, su
                    suns_u[n] = turned[0] * su + turned[1] * sv
                    suns_v[n] = turned[0] * sv - turned[1] * su
        for n in range(count):
            u, v, du, dv = us[n], vs[n], dus[n], dvs[n]
            us[n] = (turned[0] * u + turned[1] * v) * per_size
            vs[n] = (turned[0] * v - turned[1] * u) * per_size
            dus[n] = max((abs(turned[0]) * du + abs(turned[1]) * dv) * per_size, 1e-9)
            dvs[n] = max((abs(turned[0]) * dv + abs(turned[1]) * du) * per_size, 1e-9)
        if count == 0:
            continue
        u, v, du, dv = us[:count], vs[:count], dus[:count], dvs[:count]
        tone, hue, joint, alpha = tones[:count], hues[:count], levels[:count], cover[:count]
        many_u, many_v = mus[:count], mvs[:count]
        for n in range(count):
            many_u[n], many_v[n] = _F(1.0 / du[n]), _F(1.0 / dv[n])
        nx, ny, one = nxs[:count], nys[:count], more[:count]
        one[:] = _F(0)
        if sort == 1 and t[_ROUGH] * max(many_u.max(), many_v.max()) > 0.3:  # edges that waver, where that is seen
            _noise(u, v, many_u, many_v, 0.12, 0.12, 1, seed + 91, room, one)
        tone[:], hue[:], joint[:], nx[:], ny[:], alpha[:] = _F(0), _F(0), _F(0), _F(0), _F(0), _F(1)
        if sort == 1:
            for n in range(count):
                one[n] *= t[_ROUGH]
            _units_row(u, v, one, du, dv, many_u, many_v, t, seed, state, tone, hue, joint, nx, ny)
        elif sort == 2:
            for n in range(count):
                tone[n], hue[n], joint[n], nx[n], ny[n] = _cells(u[n], v[n], du[n], dv[n], t, seed)
        elif sort == 3:
            for n in range(count):
                tone[n], hue[n] = _strewn(u[n], v[n], du[n], dv[n], t, seed)
        elif sort == 4:
            for n in range(count):
                joint[n], nx[n] = _ribs(u[n], du[n], many_u[n], t)
        elif sort == 5:
            for n in range(count):
                alpha[n] = _mesh(u[n], v[n], du[n], dv[n], t)
        for i in range(int(t[_LAYERS])):
            _noise(u, v, many_u, many_v, layers[i, 0], layers[i, 1], int(layers[i, 3]), seed + 31 + i, room, one)
            for n in range(count):
                tone[n] += layers[i, 2] * one[n]
        if t[_HUE_SHARE] > 0.0:
            _noise(u, v, many_u, many_v, t[_HUE_CELL], t[_HUE_CELL], 3, seed + 51, room, one)
            for n in range(count):
                hue[n] += t[_HUE_SHARE] * (0.5 + 0.9 * one[n])
        if t[_WEATHER] > 0.0:  # streaks that run down, in places
            _noise(u, v, many_u, many_v, 0.5, 3.0, 2, seed + 61, room, one)
            for n in range(count):
                tone[n] -= 0.3 * t[_WEATHER] * _smooth(-0.1, 0.7, one[n])
        for n in range(count):
            light = tone[n] * spread
            if relief > 0.0:
                light += strong * (_F(255) - _F(0.85) * shadow[r, column[n]]) * (nx[n] * suns_u[n] + ny[n] * suns_v[n])
            tone[n] = max(_F(1) + light, _F(0))
        for n in range(count):
            shade, line = min(max(hue[n], _F(0)), _F(1)), min(max(joint[n] * mortar, _F(0)), _F(1))
            part = alpha[n] * _F(share[r, column[n]])
            bare, laid = (_F(1) - line) * tone[n], line * (_F(0.7) + _F(0.3) * tone[n])
            red = (red_0 + shade * red_1) * bare + red_2 * laid
            green = (green_0 + shade * green_1) * bare + green_2 * laid
            blue = (blue_0 + shade * blue_1) * bare + blue_2 * laid
            c = column[n]
            out[r, c, 0] = np.uint8(min(red, _F(1)) * part + _F(0.5))
            out[r, c, 1] = np.uint8(min(green, _F(1)) * part + _F(0.5))
            out[r, c, 2] = np.uint8(min(blue, _F(1)) * part + _F(0.5))
            out[r, c, 3] = np.uint8(part + _F(0.5))
