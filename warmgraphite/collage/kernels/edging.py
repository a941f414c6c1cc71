"""The loop that softens, tears or grows the edge of a region, from how far each place lies within it."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.noise.kernels import eased, layered_row

__all__ = ["edge_rows"]

_F = np.float32


@device(fast=True)
def _deep(away, within, across, down, x, y):
    """Millimetres within the border at a place of the paper, below zero beside it."""
    height, width = away.shape
    c = min(max(x / across - 0.5, 0.0), width - 1.001)
    r = min(max(y / down - 0.5, 0.0), height - 1.001)
    i, j = int(c), int(r)
    u, v = c - i, r - j
    total = 0.0
    for dj in range(2):
        for di in range(2):
            weight = (u if di else 1.0 - u) * (v if dj else 1.0 - v)
            own = away[j + dj, i + di] / 128.0
            total += weight * (own if within[j + dj, i + di] else -own)
    return total


@device(fast=True)
def _noise(x, y, along, up, octaves, seed, pixel, room, out):
    fine = room[0]
    fine[:] = _F(min(along, up) / pixel)
    layered_row(x, y, along, up, octaves, seed, fine, room[1], room[2], out)


@kernel("i8, i8, f8, f8, f8, f8, f8, f8, u2[:,::1], u1[:,::1], f8, f8, i8, f8, b1, i8, f4[:,::1]", fast=True)
def edge_rows(
    first, last, x0, y0, across, down, middle_x, middle_y, away, within, step_x, step_y, kind, reach, outward, seed, out
):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w) float32: the share of each pixel that an edge leaves.

    ``kind`` is 1 feathered, 2 torn, 3 wet, 4 grown; ``reach`` the millimetres that it takes, inwards or ``outward``.
    """
    pixel = max(across, down)
    soft = max(0.10, pixel)
    width = out.shape[1]
    x, y, deeps = np.empty(width), np.empty(width), np.empty(width)
    one, two, room = np.empty(width, _F), np.empty(width, _F), np.empty((3, width), _F)
    for c in range(width):
        x[c] = x0 + (c + 0.5) * across - middle_x
    for r in range(first, last):
        fy = y0 + (r + 0.5) * down
        busy = False
        for c in range(width):
            deep = _deep(away, within, step_x, step_y, x[c] + middle_x, fy)
            deeps[c] = deep + reach if outward else deep
            busy |= -soft < deeps[c] < 1.3 * reach + soft
        if busy:
            y[:] = fy - middle_y
            if kind == 2:
                _noise(x, y, max(2.4 * reach, 1.0), max(2.4 * reach, 1.0), 5, seed, pixel, room, one)
                _noise(x, y, max(0.5 * reach, 0.4), max(0.5 * reach, 0.4), 3, seed + 1, pixel, room, two)
            elif kind == 3:
                _noise(x, y, max(1.6 * reach, 1.0), max(1.6 * reach, 1.0), 4, seed, pixel, room, one)
                _noise(x, y, 3.0 * reach, 3.0 * reach, 1, seed + 3, pixel, room, two)
            elif kind == 4:
                _noise(x, y, 0.16 * reach, 1.4 * reach, 2, seed, pixel, room, one)
                _noise(x, y, 2.2 * reach, 2.2 * reach, 2, seed + 1, pixel, room, two)
        for c in range(width):
            deep = deeps[c]
            if deep > 1.3 * reach + soft:
                share = 1.0
            elif deep <= -soft:
                share = 0.0
            elif kind == 1:
                share = eased(deep / reach)
            elif kind == 2:  # torn paper: a ragged line, and beside it a thin strip where only fibres are left
                line = reach * (0.5 + 0.75 * one[c])
                fibres = 0.18 * reach * (1.0 + two[c])
                share = 0.45 * eased((deep - line + fibres) / soft) + 0.55 * eased((deep - line) / soft)
            elif kind == 3:  # water that went its own way
                share = eased((deep + 0.45 * reach * one[c]) / (reach * (0.35 + 0.3 * (1.0 + two[c]))))
            else:  # blades that stand up over it, each with its own height
                blade = abs(one[c]) * 1.6
                share = eased((deep - reach * min(blade * (0.9 + 0.6 * two[c]), 1.0)) / soft)
            out[r, c] = share
