"""The loops that turn sight lines about a plane, and light what they meet."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import FINEST, HAIR, ROUNDING
from warmgraphite.kernels import kernel
from warmgraphite.kernels.records import B1, F1, F2, S2

__all__ = ["Sight", "Turned", "coloured", "lit", "turned"]

#: Metres by which a sun's ray sets out above what is mirrored.
LIFT = 2e-3


class Sight(NamedTuple):
    """Sight lines: ``start`` and ``way`` (3, 3) times (x, y, 1) are where they begin and where they go.
    Those that are not ``parallel`` begin at the eye, which is before what one sees. Rays count from ``middle`` (3,).
    """

    start: F2
    way: F2
    parallel: bool
    middle: F1


class Turned(NamedTuple):
    """Rays turned about a plane: where they set out, and unit ways (n, 3); whether they come upon it (n,)."""

    start: S2
    ahead: S2
    meets: B1


@kernel(fast=True, borrows=True)
def turned(x: F1, y: F1, sight: Sight, plane: F1, out: Turned):
    """Sight lines through frame points ``x``, ``y`` (n,) turned about a ``plane`` (4,)."""
    start, way, parallel, middle = sight
    from_, ahead, meets = out
    a, b, c, offset = plane[0], plane[1], plane[2], plane[3]
    for k in range(len(x)):
        px, py = x[k], y[k]
        ox = start[0, 0] * px + start[0, 1] * py + start[0, 2]
        oy = start[1, 0] * px + start[1, 1] * py + start[1, 2]
        oz = start[2, 0] * px + start[2, 1] * py + start[2, 2]
        dx = way[0, 0] * px + way[0, 1] * py + way[0, 2]
        dy = way[1, 0] * px + way[1, 1] * py + way[1, 2]
        dz = way[2, 0] * px + way[2, 1] * py + way[2, 2]
        size = 1.0 / np.sqrt(dx * dx + dy * dy + dz * dz)
        dx, dy, dz = dx * size, dy * size, dz * size
        fall = dx * a + dy * b + dz * c
        good = fall < -ROUNDING
        t = (offset - (ox * a + oy * b + oz * c)) / fall if good else 0.0
        good &= parallel or t > 0.0
        meets[k] = good
        from_[k, 0] = ox + t * dx + HAIR * a - middle[0]
        from_[k, 1] = oy + t * dy + HAIR * b - middle[1]
        from_[k, 2] = oz + t * dz + HAIR * c - middle[2]
        ahead[k, 0], ahead[k, 1], ahead[k, 2] = dx - 2 * fall * a, dy - 2 * fall * b, dz - 2 * fall * c


@kernel("i4[::1], f4[::1], f4[:,::1], f4[:,::1], f4[:,::1], f8[::1], i8[::1], f4[:,::1]", fast=True)
def lit(hit, away, from_, ahead, normal, sun, row, at):
    """Of rays that ``hit`` triangles with a ``normal`` (T, 3) those on the sun's side.
    Their ``row`` (n,), and where they are ``at`` (n, 3), a little above; and how many there are.
    """
    count = 0
    for k in range(len(hit)):
        h = hit[k]
        if h < 0:
            continue
        nx, ny, nz = normal[h, 0], normal[h, 1], normal[h, 2]
        side = -1.0 if nx * ahead[k, 0] + ny * ahead[k, 1] + nz * ahead[k, 2] > 0 else 1.0
        if side * (nx * sun[0] + ny * sun[1] + nz * sun[2]) <= FINEST:
            continue
        far, lift = away[k], LIFT * side
        at[count, 0] = from_[k, 0] + far * ahead[k, 0] + lift * nx
        at[count, 1] = from_[k, 1] + far * ahead[k, 1] + lift * ny
        at[count, 2] = from_[k, 2] + far * ahead[k, 2] + lift * nz
        row[count] = k
        count += 1
    return count


@kernel("i4[::1], f4[:,::1], b1[::1], f4[:,::1], f4[:,::1], f8[::1], f4[:,::1]", fast=True)
def coloured(hit, ahead, dark, normal, colour, sun, out):
    """The colour (n, 4) float32, premultiplied, 0–255, of what rays hit, where ``dark`` (n,) keeps the sun off.
    Clear where they hit nothing.
    """
    for k in range(len(hit)):
        h = hit[k]
        if h < 0:
            out[k, 0] = out[k, 1] = out[k, 2] = out[k, 3] = 0.0
            continue
        nx, ny, nz = normal[h, 0], normal[h, 1], normal[h, 2]
        side = -1.0 if nx * ahead[k, 0] + ny * ahead[k, 1] + nz * ahead[k, 2] > 0 else 1.0
        facing = max(side * (nx * sun[0] + ny * sun[1] + nz * sun[2]), 0.0)
        light = 0.56 + 0.06 * max(side * nz, 0.0)
        if not dark[k]:
            light += 0.38 * np.sqrt(facing)
        out[k, 0], out[k, 1], out[k, 2] = colour[h, 0] * light, colour[h, 1] * light, colour[h, 2] * light
        out[k, 3] = 255.0
