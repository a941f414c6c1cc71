"""Loops that tell what share of each pixel the cells of a map take, exactly."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown

__all__ = ["covered"]


@device()
def _lay(acc, x0, y0, x1, y1, first, last, left):
    """Add an edge's turn of cover to rows ``first`` to ``last``.
    Running sums along a row are then the share that is covered.

    After R. Levien's accumulation buffer for font outlines, 2016.
    """
    if y0 == y1:
        return
    turn = 1.0
    if y0 > y1:
        turn = -1.0
        x0, y0, x1, y1 = x1, y1, x0, y0
    slope = (x1 - x0) / (y1 - y0)
    begin, end = max(y0, float(first)), min(y1, float(last))
    if begin >= end:
        return
    x = x0 + (begin - y0) * slope - left
    for r in range(int(np.floor(begin)), min(int(np.ceil(end)), last)):
        high = min(float(r + 1), end)
        dy = high - max(float(r), begin)
        if dy <= 0.0:
            continue
        onward = x + dy * slope
        d = dy * turn
        a, b = (x, onward) if x < onward else (onward, x)
        a = max(a, 0.0)
        b = max(b, a)
        ai = int(np.floor(a))
        bi = int(np.ceil(b))
        row = acc[r - first]
        if bi <= ai + 1:
            mid = 0.5 * (a + b) - ai
            row[ai] += d * (1.0 - mid)
            row[ai + 1] += d * mid
        else:
            s = 1.0 / (b - a)
            af = a - ai
            a0 = 0.5 * s * (1.0 - af) * (1.0 - af)
            bf = b - bi + 1.0
            am = 0.5 * s * bf * bf
            row[ai] += d * a0
            if bi == ai + 2:
                row[ai + 1] += d * (1.0 - a0 - am)
            else:
                a1 = s * (1.5 - af)
                row[ai + 1] += d * (a1 - a0)
                for k in range(ai + 2, bi - 1):
                    row[k] += d * s
                a2 = a1 + (bi - ai - 3) * s
                row[bi - 1] += d * (1.0 - a2 - am)
            row[bi] += d * am
        x = onward


@kernel("f8[:,::1], i8[::1], i8[::1], f8[:,::1], i8, i8, i4[:,::1]")
def covered(points, ring_start, cell_ring, box, first, last, whole):
    """Cells over rows ``first`` to ``last`` of pixels: rows (pixel, cell, share) of the pixels that several share.

    ``points`` are ring after ring in pixels, each ring of a cell turned one way and its holes the other; ``ring_start``
    and ``cell_ring`` say where each begins; ``box`` (N, 4) left, top, right, bottom. A pixel of one cell alone is
    written into ``whole`` (h, w).
    """
    width = whole.shape[1]
    out_pixel = np.empty(1024, np.int64)
    out_cell = np.empty(1024, np.int32)
    out_share = np.empty(1024)
    rows = 0
    for n in range(len(box)):
        top, bottom = max(int(np.floor(box[n, 1])), first), min(int(np.ceil(box[n, 3])), last)
        if top >= bottom:
            continue
        left, right = max(int(np.floor(box[n, 0])), 0), min(int(np.ceil(box[n, 2])), width)
        acc = np.zeros((bottom - top, right - left + 3))
        for ring in range(cell_ring[n], cell_ring[n + 1]):
            for k in range(ring_start[ring], ring_start[ring + 1] - 1):
                y0, y1 = points[k, 1], points[k + 1, 1]
                if max(y0, y1) <= top or min(y0, y1) >= bottom:
                    continue
                _lay(acc, points[k, 0], y0, points[k + 1, 0], y1, top, bottom, float(left))
        for r in range(top, bottom):
            total = 0.0
            for c in range(left, right):
                total += acc[r - top, c - left]
                share = abs(total)
                if share > 0.999999:
                    whole[r, c] = n
                elif share > 1e-6:
                    if rows == out_pixel.size:
                        out_pixel, out_cell, out_share = grown(out_pixel), grown(out_cell), grown(out_share)
                    out_pixel[rows] = r * width + c
                    out_cell[rows] = n
                    out_share[rows] = share
                    rows += 1
    return out_pixel[:rows], out_cell[:rows], out_share[:rows]
