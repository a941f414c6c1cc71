"""Loops that tell what lies within outlines: places, polylines.

Outlines are closed rings: points (V, 2), of ring r those from ``first[r]`` to ``first[r + 1]``. What lies within is
told by counting crossings, whatever the order and direction of the rings, so that rings of neighbours together are one
shape.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown, grown_rows
from warmgraphite.kernels.records import F1, F2, W1

__all__ = ["clipped", "depth_within", "inside", "kept_points"]


@device()
def _bands(points, first):
    """The sides of outlines by bands of y.
    (lowest y, bands to a unit, where each band begins, sides as first and last point).
    """
    sides = len(points)
    low, high = np.inf, -np.inf
    for k in range(sides):
        low, high = min(low, points[k, 1]), max(high, points[k, 1])
    count = max(1, min(int(sides / 2), 4096))
    per = count / max(high - low, NO_LENGTH)
    begin, end = np.empty(sides, np.int64), np.empty(sides, np.int64)
    n = 0
    for r in range(first.size - 1):
        p = first[r + 1] - 1
        for q in range(first[r], first[r + 1]):
            begin[n], end[n] = p, q
            p = q
            n += 1
    starts = np.zeros(count + 1, np.int64)
    held = np.empty(0, np.int64)
    for sweep in range(2):
        if sweep == 1:
            for k in range(count):
                starts[k + 1] += starts[k]
            held = np.empty(starts[count], np.int64)
            fill = starts[:-1].copy()
        for s in range(n):
            y0, y1 = points[begin[s], 1], points[end[s], 1]
            a = min(max(int((min(y0, y1) - low) * per), 0), count - 1)
            b = min(max(int((max(y0, y1) - low) * per), 0), count - 1)
            for k in range(a, b + 1):
                if sweep == 0:
                    starts[k + 1] += 1
                else:
                    held[fill[k]] = s
                    fill[k] += 1
    return low, per, starts, held, begin, end


@device(borrows=True)
def _within(points, bands, x, y):
    low, per, starts, held, begin, end = bands
    count = starts.size - 1
    k = int(np.floor((y - low) * per))
    if k < 0 or k > count:
        return False
    k = min(k, count - 1)
    found = False
    for s in held[starts[k] : starts[k + 1]]:
        p, q = begin[s], end[s]
        if (points[p, 1] <= y) != (points[q, 1] <= y):
            at = points[p, 0] + (y - points[p, 1]) / (points[q, 1] - points[p, 1]) * (points[q, 0] - points[p, 0])
            if at > x:
                found = not found
    return found


@device()
def inside(points, first, xy):
    """(N,) which places lie within outlines."""
    out = np.zeros(len(xy), np.bool_)
    if len(points):
        bands = _bands(points, first)
        for n in range(len(xy)):
            out[n] = _within(points, bands, xy[n, 0], xy[n, 1])
    return out


@kernel()
def depth_within(points: F2, first: W1, xy: F2, width: float, height: float, level: bool):
    """(N,) how far places (N, 2) lie from the nearest surface.
    A side of the outlines within a paper ``width`` by ``height``, beyond which the paper ends, and, unless what is seen
    is ``level``, not one that what it fills lies above. Infinite where none is.
    """
    out = np.full(len(xy), np.inf)
    bands = _bands(points, first)
    for r in range(first.size - 1):
        p = first[r + 1] - 1
        for q in range(first[r], first[r + 1]):
            x0, y0, x1, y1 = points[p, 0], points[p, 1], points[q, 0], points[q, 1]
            p = q
            if (
                (x0 < 0 and x1 < 0)
                or (y0 < 0 and y1 < 0)
                or (x0 > width and x1 > width)
                or (y0 > height and y1 > height)
            ):
                continue
            dx, dy = x1 - x0, y1 - y0
            size = dx * dx + dy * dy
            if not level and _within(points, bands, 0.5 * (x0 + x1), 0.5 * (y0 + y1) - 0.02):
                continue
            for n in range(len(xy)):
                ex, ey = xy[n, 0] - x0, xy[n, 1] - y0
                t = 0.0 if size == 0.0 else min(max((ex * dx + ey * dy) / size, 0.0), 1.0)
                ex -= t * dx
                ey -= t * dy
                out[n] = min(out[n], ex * ex + ey * ey)
    return np.sqrt(out)


@kernel()
def kept_points(points: F2, first: W1, xy: F2, reach: F1):
    """(N,) which places (N, 2) lie within outlines, at least ``reach`` (N,) from every side."""
    out = np.zeros(len(xy), np.bool_)
    if not len(points):
        return out
    bands = _bands(points, first)
    low, per, starts, held, begin, end = bands
    count = starts.size - 1
    for n in range(len(xy)):
        x, y, r = xy[n, 0], xy[n, 1], reach[n]
        if not _within(points, bands, x, y):
            continue
        free = True
        a = min(max(int((y - r - low) * per), 0), count - 1)
        b = min(max(int((y + r - low) * per), 0), count - 1)
        for s in held[starts[a] : starts[b + 1]]:
            p, q = begin[s], end[s]
            dx, dy = points[q, 0] - points[p, 0], points[q, 1] - points[p, 1]
            size = dx * dx + dy * dy
            t = 0.0 if size == 0.0 else min(max(((x - points[p, 0]) * dx + (y - points[p, 1]) * dy) / size, 0.0), 1.0)
            if np.hypot(points[p, 0] + t * dx - x, points[p, 1] + t * dy - y) < r:
                free = False
                break
        out[n] = free
    return out


@device()
def _cuts(points, sides, begin, end, way, cuts):
    """Where a way (x, y, dx, dy) crosses sides of outlines, in order.
    Shares of it, with room for more, and how many.
    """
    x0, y0, dx, dy = way
    m = 0
    for e in sides:
        p, q = begin[e], end[e]
        ex, ey = points[q, 0] - points[p, 0], points[q, 1] - points[p, 1]
        across = dx * ey - dy * ex
        if across == 0.0:
            continue
        gx, gy = points[p, 0] - x0, points[p, 1] - y0
        t, u = (gx * ey - gy * ex) / across, (gx * dy - gy * dx) / across
        if 0.0 < t < 1.0 and 0.0 <= u <= 1.0:
            if m == cuts.size:
                cuts = grown(cuts)
            cuts[m] = t
            m += 1
    for c in range(1, m):  # few, and a sort of the library's takes a second to compile
        value, place = cuts[c], c
        while place > 0 and cuts[place - 1] > value:
            cuts[place] = cuts[place - 1]
            place -= 1
        cuts[place] = value
    return cuts, m


@kernel()
def clipped(points: F2, first: W1, xy: F2, begins: W1):
    """What of polylines (``xy`` (V, 2), each from ``begins[s]`` to ``begins[s + 1]``) lies within outlines.
    Points, where each piece begins, and the polyline that it is of.
    """
    room = 2 * len(xy) + 16
    out, starts, of = np.empty((room, 2)), np.empty(room, np.int64), np.empty(room, np.int64)
    n, pieces = 0, 0
    if not len(points):
        return out[:0].copy(), np.zeros(1, np.int64), of[:0].copy()
    bands = _bands(points, first)
    low, per, lists, held, begin, end = bands
    count = lists.size - 1
    cuts = np.empty(256)
    for s in range(begins.size - 1):
        opened = False
        for k in range(begins[s], begins[s + 1] - 1):
            x0, y0, x1, y1 = xy[k, 0], xy[k, 1], xy[k + 1, 0], xy[k + 1, 1]
            a = min(max(int((min(y0, y1) - low) * per), 0), count - 1)
            b = min(max(int((max(y0, y1) - low) * per), 0), count - 1)
            dx, dy = x1 - x0, y1 - y0
            cuts, m = _cuts(points, held[lists[a] : lists[b + 1]], begin, end, (x0, y0, dx, dy), cuts)
            before = 0.0
            for c in range(m + 1):
                after = cuts[c] if c < m else 1.0
                if after - before > NO_LENGTH:
                    mid = 0.5 * (before + after)
                    if _within(points, bands, x0 + mid * dx, y0 + mid * dy):
                        if n + 4 > room:
                            out, starts, of, room = grown_rows(out, 2 * room), grown(starts), grown(of), 2 * room
                        if not opened:
                            starts[pieces], of[pieces] = n, s
                            pieces += 1
                            out[n, 0], out[n, 1] = x0 + before * dx, y0 + before * dy
                            n += 1
                        out[n, 0], out[n, 1] = x0 + after * dx, y0 + after * dy
                        n += 1
                        opened = True
                    else:
                        opened = False
                before = after
    starts[pieces] = n
    return out[:n].copy(), starts[: pieces + 1].copy(), of[:pieces].copy()
