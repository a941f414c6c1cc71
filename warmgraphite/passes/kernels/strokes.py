"""Loops that take double lines away and join pieces to chains."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH, NO_SIZE, ROUNDING
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, sort_stretches
from warmgraphite.kernels.records import F1, F2, I1, W1

__all__ = [
    "Cells",
    "Drawn",
    "Stretched",
    "back_to_metres",
    "joined_ends",
    "pieces_in_cells",
    "stretches",
    "subtract_doubles",
    "walk_chains",
]

#: Buckets of direction that a half turn is divided into.
WAYS = 8


@device(borrows=True)
def _ways_of(dx, dy, length, reach):
    """The buckets of direction, first and last, that a piece may lie in; a short one is unsure of its way."""
    way = np.arctan2(dy, dx) / np.pi
    way = (way - np.floor(way)) * WAYS
    loose = min(2.0 * reach / length / np.pi * WAYS + NEAR, 0.5 * WAYS)
    first = int(np.floor(way - loose))
    return first, min(int(np.floor(way + loose)), first + WAYS - 1)


@device(borrows=True)
def _rows_of(y0, y1, wide, cell, ny):
    return (
        max(0, int(np.floor((min(y0, y1) - wide) / cell)) + 1),
        min(ny - 1, int(np.floor((max(y0, y1) + wide) / cell)) + 1),
    )


@device(borrows=True)
def _columns_of(piece, r, many, wide, cell, nx):
    """The columns of a row of cells that a piece (x, y of both ends), ``wide`` to either side, crosses."""
    x0, y0, x1, y1 = piece
    dx, dy = x1 - x0, y1 - y0
    xa, xb = min(x0, x1), max(x0, x1)
    if many and abs(dy) > NO_LENGTH:
        ta = ((r - 1) * cell - wide - y0) / dy
        tb = (r * cell + wide - y0) / dy
        ta, tb = max(0.0, min(ta, tb)), min(1.0, max(ta, tb))
        if ta > tb:
            return 1, 0
        xa, xb = min(x0 + ta * dx, x0 + tb * dx), max(x0 + ta * dx, x0 + tb * dx)
    return max(0, int(np.floor((xa - wide) / cell)) + 1), min(nx - 1, int(np.floor((xb + wide) / cell)) + 1)


@kernel("f8[:,::1], f8[:,::1], i8, i8, f8, f8")
def pieces_in_cells(start, end, nx, ny, cell, reach):
    """Pieces (N, 2) listed by the cells of a grid that they cross and by their way.
    (where each list begins, pieces).
    """
    first_of = np.zeros(nx * ny * WAYS + 1, np.int64)
    held = np.empty(0, np.int32)
    for sweep in range(2):
        if sweep == 1:
            for k in range(first_of.size - 1):
                first_of[k + 1] += first_of[k]
            held = np.empty(first_of[-1], np.int32)
            fill = first_of[:-1].copy()
        for i in range(len(start)):
            x0, y0, x1, y1 = start[i, 0], start[i, 1], end[i, 0], end[i, 1]
            length = np.sqrt((x1 - x0) ** 2 + (y1 - y0) ** 2)
            if length <= 0.0:
                continue
            first_way, last_way = _ways_of(x1 - x0, y1 - y0, length, reach)
            r0, r1 = _rows_of(y0, y1, 0.0, cell, ny)
            for r in range(r0, r1 + 1):
                c0, c1 = _columns_of((x0, y0, x1, y1), r, r1 > r0, 0.0, cell, nx)
                for c in range(c0, c1 + 1):
                    for w in range(first_way, last_way + 1):
                        slot = (r * nx + c) * WAYS + w % WAYS
                        if sweep == 0:
                            first_of[slot + 1] += 1
                        else:
                            held[fill[slot]] = i
                            fill[slot] += 1
    return first_of, held


class Drawn(NamedTuple):
    """Pieces (N, 2) from ``start`` to ``end``; of two that draw one line the one of lower ``strength`` stays."""

    start: F2
    end: F2
    strength: F1


class Cells(NamedTuple):
    """Pieces listed by the square cells that they cross and by their way: where the list of each begins, the pieces."""

    first: W1
    held: I1
    columns: int
    rows: int
    size: float


@device(borrows=True)
def _along(line, ax, ay, bx, by, reach):
    """The stretch of a line (x, y, dx, dy, length) in which a piece runs close to it.
    The piece goes from a to b and runs within ``reach`` of it, at both ends of that; empty as (1, 0).
    """
    x0, y0, dx, dy, length = line
    # Distance of the piece's ends from the line, and its stretch along it.
    q0 = (-(ax - x0) * dy + (ay - y0) * dx) / length
    q1 = (-(bx - x0) * dy + (by - y0) * dx) / length
    if min(q0, q1) > reach or max(q0, q1) < -reach:
        return 1.0, 0.0
    p0 = ((ax - x0) * dx + (ay - y0) * dy) / (length * length)
    p1 = ((bx - x0) * dx + (by - y0) * dy) / (length * length)
    if p0 > p1:
        p0, p1 = p1, p0
        q0, q1 = q1, q0
    if p1 <= p0:
        return 1.0, 0.0
    low, high = max(0.0, p0), min(1.0, p1)
    # Only where both run together within reach.
    ql = q0 + (q1 - q0) * (low - p0) / (p1 - p0)
    qh = q0 + (q1 - q0) * (high - p0) / (p1 - p0)
    return (low, high) if abs(ql) <= reach and abs(qh) <= reach else (1.0, 0.0)


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(borrows=True)
def _doubled(i, mark, pieces, cells, reach, least, met, lows, highs):
    """Fill in the stretches of a piece that stronger ones draw: how many, −1 for want of room.
    Who was met has the ``mark``.
    """
    # Many arguments, because whatever is not in a record here is the thread's own.
    strength, first_of, held, start, end = pieces.strength, cells.first, cells.held, pieces.start, pieces.end
    x0, y0, x1, y1 = start[i, 0], start[i, 1], end[i, 0], end[i, 1]
    dx, dy = x1 - x0, y1 - y0
    length = np.sqrt(dx * dx + dy * dy)
    line = (x0, y0, dx, dy, length)
    first_way, last_way = _ways_of(dx, dy, length, reach)
    count = 0
    r0, r1 = _rows_of(y0, y1, reach, cells.size, cells.rows)
    for r in range(r0, r1 + 1):
        c0, c1 = _columns_of((x0, y0, x1, y1), r, r1 > r0, reach, cells.size, cells.columns)
        for c in range(c0, c1 + 1):
            for w in range(first_way, last_way + 1):
                slot = (r * cells.columns + c) * WAYS + w % WAYS
                for node in range(first_of[slot], first_of[slot + 1]):
                    j = held[node]
                    if met[j] == mark:
                        continue
                    met[j] = mark
                    if j == i or strength[j] > strength[i] or (strength[j] == strength[i] and j > i):
                        continue
                    low, high = _along(line, start[j, 0], start[j, 1], end[j, 0], end[j, 1], reach)
                    if (high - low) * length > least:
                        if count == lows.size:
                            return -1
                        lows[count], highs[count] = low, high
                        count += 1
    return count


@kernel()
def subtract_doubles(pieces: Drawn, cells: Cells, reach: float, gap: float, first: int, last: int, met: I1):
    """Pieces ``first`` to ``last`` (N, 2), each less what stronger ones draw: rows (piece, from, to).

    Two pieces draw one line where they run within ``reach`` millimetres of each other; stretches up to ``gap`` are
    dropped. The piece of lower strength, or the earlier one, stays. ``met`` (N,) is the thread's own memory.
    """
    start, end = pieces.start, pieces.end
    room = 2 * (last - first) + 64
    out_piece = np.empty(room, np.int32)
    out_from = np.empty(room)
    out_to = np.empty(room)
    rows = 0
    lows = np.empty(16)
    highs = np.empty(16)
    for i in range(first, last):
        dx, dy = end[i, 0] - start[i, 0], end[i, 1] - start[i, 1]
        length = np.sqrt(dx * dx + dy * dy)
        if length <= 0.0:
            continue
        # What is left of a piece may be too short to be a line; a short piece of a curve is not.
        least = min(gap, 0.5 * length)
        mark = i
        count = _doubled(i, mark, pieces, cells, reach, least, met, lows, highs)
        while count < 0:
            lows, highs, mark = grown(lows), grown(highs), mark + len(start)
            count = _doubled(i, mark, pieces, cells, reach, least, met, lows, highs)
        sort_stretches(lows, highs, count)
        position = 0.0
        while rows + count + 2 > out_piece.size:
            out_piece = grown(out_piece)
            out_from = grown(out_from)
            out_to = grown(out_to)
        for k in range(count + 1):
            low = lows[k] if k < count else 1.0
            if (low - position) * length > least:
                out_piece[rows] = i
                out_from[rows] = position
                out_to[rows] = low
                rows += 1
            if k < count:
                position = max(position, highs[k])
    return out_piece[:rows], out_from[:rows], out_to[:rows]


@kernel("i8[::1], f8[:,::1], f8[:,::1]")
def joined_ends(node, start, end):
    """For each end of a piece (2 N: starts, then ends), the end that a stroke goes on with at its node; −1 for none.

    Of the ends that meet, those that go on straightest are joined first, so that strokes run through crossings.
    """
    n = len(start)
    top = 0
    for i in range(2 * n):
        top = max(top, node[i] + 1)
    first = np.zeros(top + 1, np.int64)
    for i in range(2 * n):
        first[node[i] + 1] += 1
    for k in range(top):
        first[k + 1] += first[k]
    ends = np.empty(2 * n, np.int32)
    fill = first[:top].copy()
    for i in range(2 * n):
        ends[fill[node[i]]] = i
        fill[node[i]] += 1
    partner = np.full(2 * n, -1, np.int32)
    way = np.empty((32, 2))
    for k in range(top):
        count = min(first[k + 1] - first[k], 32)
        if count < 2:
            continue
        own = ends[first[k] : first[k] + count]
        for m in range(count):
            i = own[m] % n
            dx, dy = end[i, 0] - start[i, 0], end[i, 1] - start[i, 1]
            size = max(np.sqrt(dx * dx + dy * dy), NO_SIZE)
            if own[m] >= n:
                size = -size
            way[m, 0], way[m, 1] = dx / size, dy / size
        for _ in range(count // 2):
            best = 2.0
            best_i = -1
            best_j = -1
            for i in range(count):
                if partner[own[i]] >= 0:
                    continue
                for j in range(i + 1, count):
                    if partner[own[j]] >= 0 or own[i] % n == own[j] % n:
                        continue
                    # −1 where the one goes straight on as the other.
                    even = way[i, 0] * way[j, 0] + way[i, 1] * way[j, 1]
                    if even < best - ROUNDING:
                        best, best_i, best_j = even, i, j
            if best_i < 0 or (count > 2 and best > 0.9):
                break
            partner[own[best_i]] = own[best_j]
            partner[own[best_j]] = own[best_i]
    return partner


@kernel("i4[::1]")
def walk_chains(partner):
    """Pieces in the order of their chains: (piece, whether it is walked from end to start, number of its chain)."""
    n = partner.size // 2
    piece = np.empty(n, np.int32)
    turned = np.empty(n, np.bool_)
    chain = np.empty(n, np.int32)
    used = np.zeros(n, np.bool_)
    at = 0
    number = 0
    for sweep in range(2):
        for e in range(2 * n if sweep == 0 else n):
            if used[e % n] or (sweep == 0 and partner[e] >= 0):
                continue
            here = e
            while True:
                i = here % n
                used[i] = True
                piece[at] = i
                turned[at] = here >= n
                chain[at] = number
                at += 1
                far = i if here >= n else i + n
                here = partner[far]
                if here < 0 or used[here % n]:
                    break
            number += 1
    return piece, turned, chain


class Stretched(NamedTuple):
    """Stretches (N,) of segments: which, from ``low`` to ``high`` of it."""

    row: I1
    low: F1
    high: F1


@kernel(borrows=True)
def stretches(start: F2, end: F2, asked: Stretched, first: int, last: int, a: F2, b: F2):
    """Fill in the ends a and b (N, 3) of stretches ``first`` to ``last`` of segments."""
    row, low, high = asked
    for i in range(first, last):
        r = row[i]
        for k in range(start.shape[1]):
            step = end[r, k] - start[r, k]
            a[i, k] = start[r, k] + low[i] * step
            b[i, k] = start[r, k] + high[i] * step


@kernel("f8[:,::1], f8[:,::1], i8, i8, f8[:,::1]")
def back_to_metres(points, inverse, first, last, out):
    """Fill in the points ``first`` to ``last`` of the model for frame points (N, 3)."""
    for i in range(first, last):
        x, y, z = points[i, 0], points[i, 1], points[i, 2]
        w = inverse[3, 0] * x + inverse[3, 1] * y + inverse[3, 2] * z + inverse[3, 3]
        for k in range(3):
            out[i, k] = (inverse[k, 0] * x + inverse[k, 1] * y + inverse[k, 2] * z + inverse[k, 3]) / w
