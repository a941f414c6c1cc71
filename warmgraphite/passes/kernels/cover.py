"""Loops that tell what share of each pixel the cells of a map take, exactly."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel
from warmgraphite.kernels.arrays import grown
from warmgraphite.raster.kernels import lay_edge

__all__ = ["covered"]

#: The share of a pixel that rounding may leave of one that is not touched, or take from one that is full.
NOTHING = 1e-6


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
                lay_edge(acc, points[k, 0], y0, points[k + 1, 0], y1, top, bottom, float(left), float(right - left + 1))
        for r in range(top, bottom):
            total = 0.0
            for c in range(left, right):
                total += acc[r - top, c - left]
                share = abs(total)
                if share > 1.0 - NOTHING:
                    whole[r, c] = n
                elif share > NOTHING:
                    if rows == out_pixel.size:
                        out_pixel, out_cell, out_share = grown(out_pixel), grown(out_cell), grown(out_share)
                    out_pixel[rows] = r * width + c
                    out_cell[rows] = n
                    out_share[rows] = share
                    rows += 1
    return out_pixel[:rows], out_cell[:rows], out_share[:rows]
