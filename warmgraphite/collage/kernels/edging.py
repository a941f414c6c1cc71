"""The loop that softens, tears or grows the edge of a region, from how far each place lies within it."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import numpy as np
from numba import types
from numpy.typing import NDArray

from warmgraphite.collage.kernels.records import Window
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import S2, T2
from warmgraphite.noise.kernels import eased, layered_row

__all__ = ["Border", "Edge", "edge_rows"]

_F = np.float32


class Border(NamedTuple):
    """How far from a border places of the paper lie.
    ``away`` (h, w) in 128ths of a millimetre, whether ``within`` (h, w), and the size of a cell of both in millimetres.
    """

    away: Annotated[NDArray[np.uint16], types.uint16[:, ::1]]
    within: T2
    across: float
    down: float


class Edge(NamedTuple):
    """An edge: 1 feathered, 2 torn, 3 wet, 4 grown; the millimetres that it takes, inwards or ``outward``.
    What piece of it, about the middle of the drawing.
    """

    kind: int
    reach: float
    outward: bool
    seed: int
    middle_x: float
    middle_y: float


@device(fast=True, borrows=True)
def _deep(border, x, y):
    """Millimetres within the border at a place of the paper, below zero beside it."""
    away, within = border.away, border.within
    height, width = away.shape
    c = min(max(x / border.across - 0.5, 0.0), width - 1.001)
    r = min(max(y / border.down - 0.5, 0.0), height - 1.001)
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
def _noise(places, along, up, octaves, seed, out):
    """Fill in unevenness with a lattice of ``along`` by ``up`` millimetres, no finer than a pixel."""
    x, y, pixel, room = places
    fine = room[0]
    fine[:] = _F(min(along, up) / pixel)
    layered_row(x, y, along, up, octaves, seed, fine, room[1], room[2], out)


@kernel(fast=True)
def edge_rows(first: int, last: int, window: Window, border: Border, edge: Edge, out: S2):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w) float32: the share of each pixel that an edge leaves."""
    x0, y0, across, down = window
    middle_x, middle_y = edge.middle_x, edge.middle_y
    kind, reach, outward, seed = edge.kind, edge.reach, edge.outward, edge.seed
    pixel = max(across, down)
    soft = max(0.10, pixel)
    width = out.shape[1]
    x, y, deeps = np.empty(width), np.empty(width), np.empty(width)
    one, two, room = np.empty(width, _F), np.empty(width, _F), np.empty((3, width), _F)
    places = (x, y, pixel, room)
    for c in range(width):
        x[c] = x0 + (c + 0.5) * across - middle_x
    for r in range(first, last):
        fy = y0 + (r + 0.5) * down
        busy = False
        for c in range(width):
            deep = _deep(border, x[c] + middle_x, fy)
            deeps[c] = deep + reach if outward else deep
            busy |= -soft < deeps[c] < 1.3 * reach + soft
        if busy:
            y[:] = fy - middle_y
            if kind == 2:
                _noise(places, max(2.4 * reach, 1.0), max(2.4 * reach, 1.0), 5, seed, one)
                _noise(places, max(0.5 * reach, 0.4), max(0.5 * reach, 0.4), 3, seed + 1, two)
            elif kind == 3:
                _noise(places, max(1.6 * reach, 1.0), max(1.6 * reach, 1.0), 4, seed, one)
                _noise(places, 3.0 * reach, 3.0 * reach, 1, seed + 3, two)
            elif kind == 4:
                _noise(places, 0.16 * reach, 1.4 * reach, 2, seed, one)
                _noise(places, 2.2 * reach, 2.2 * reach, 2, seed + 1, two)
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
