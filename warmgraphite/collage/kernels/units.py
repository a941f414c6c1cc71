"""Bricks, boards, slates: units laid in courses."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.kernels.filtering import (
    BASKET,
    BEVEL,
    BOND,
    BULGE,
    HEIGHT,
    HUE,
    JOINT,
    LAP,
    LENGTH,
    LOOSE,
    TONE,
    fading,
    lines,
    seen,
)  # fmt: skip
from warmgraphite.kernels import device
from warmgraphite.noise.kernels import chance, quarters

__all__ = ["units_row"]


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(fast=True)
def units_row(us, vs, waver, many_u, many_v, t, seed, state, tone, hue, joint, nx, ny):
    """Fill for places (n,) laid in courses, as bricks, boards and tiles are.
    Tone, hue, share of joint, and the slope both ways. ``waver`` are metres that edges leave their line, ``many_u`` and
    ``many_v`` pixels to a metre, ``state`` what was found of the unit before.
    """
    # Out of the array once: what is written in between could be it, for all that the compiler knows.
    length, height, half, bond, loose = t[LENGTH], t[HEIGHT], 0.5 * t[JOINT], t[BOND], t[LOOSE]
    unlike, other_hue, lap, bevel, bulge, basket = t[TONE], t[HUE], t[LAP], t[BEVEL], t[BULGE], t[BASKET]
    per_length, per_height = 1.0 / length, 1.0 / height
    known_row, known_left, known_right, light, other = state[0], state[1], state[2], state[3], state[4]
    moved_row, moved = state[5], state[6]
    known_seed = seed
    for n in range(len(us)):
        u, v, iu, iv, own_seed = us[n] + waver[n], vs[n] - waver[n], float(many_u[n]), float(many_v[n]), seed
        if basket > 0.0:
            i, j = np.floor(u / basket), np.floor(v / basket)
            if (int(i) + int(j)) & 1:
                u, v, iu, iv = v, u, iv, iu
                own_seed += 1
        a, b = 1.0 / iu, 1.0 / iv
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
        upright = lines(x, own, half, a, iu)
        level = lines(y, height, half, b, iv)
        joint[n] = upright + level - upright * level
        across, over = seen(own, iu), seen(height, iv)
        both = across * over
        found = unlike * (2.0 * light - 1.0) * both
        hue[n] = other_hue * (other * both + 0.5 * (1.0 - both))
        if lap > 0.0:  # one course lies over the next, and its edge throws a little shadow on it
            deep = 0.10 * height + 0.5 * b
            under = lap * fading((height - y) / deep) if height - y < 5.0 * deep else 0.0
            found -= (under - 0.1 * lap) * over
        tone[n] = found
        lean = bulge * (2.0 * x / own - 1.0) * seen(own, 0.5 * iu) if bulge > 0.0 else 0.0
        if bevel > 0.0:
            c, d = bevel + 0.5 * a, bevel + 0.5 * b
            side, end = min(x, own - x), min(y, height - y)
            if side < 4.0 * c:
                lean += fading(side / c) * (1.0 if x > 0.5 * own else -1.0) * seen(own, 0.5 * iu)
            ny[n] = (
                fading(end / d) * (1.0 if y > 0.5 * height else -1.0) * seen(height, 0.5 * iv) if end < 4.0 * d else 0.0
            )
        nx[n] = lean
    state[0], state[1], state[2], state[3], state[4] = known_row, known_left, known_right, light, other
    state[5], state[6] = moved_row, moved
    if known_seed != seed:
        state[0], state[5] = -1e18, -1e18
