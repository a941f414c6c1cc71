"""Compiled inner loops of the model. They release the interpreter lock."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel

__all__ = ["weld_points"]


@device()
def _slot(x, y, z, owner, mask):
    """Where a cell of the grid starts in the table."""
    h = np.uint64(x) * np.uint64(0x9E3779B97F4A7C15) ^ np.uint64(y) * np.uint64(0xC2B2AE3D27D4EB4F)
    h ^= np.uint64(z) * np.uint64(0x165667B19E3779F9) ^ np.uint64(owner) * np.uint64(0xD6E8FEB86659FD93)
    h ^= h >> np.uint64(29)
    h *= np.uint64(0x9E3779B97F4A7C15)
    return np.int64((h ^ (h >> np.uint64(32))) & np.uint64(mask))


@kernel("f8[:,::1], i8[::1], f8, i8, i8")
def weld_points(points, owner, reach, share, shares):
    """For points (N, 3) whose owner falls to this share: the first point of that owner within ``reach``, else itself.

    A grid of cells four times as wide as ``reach`` is kept as a hash table; a point close to a cell's side is looked
    for in the neighbouring cell too, so that no pair is missed for lying on either side of one. Others' points are −1.
    """
    n = len(points)
    count = 0
    for i in range(n):
        count += owner[i] >= 0 and owner[i] % shares == share
    size = 16
    while size < 2 * count:
        size *= 2
    table = np.full(size, -1, np.int64)
    mask = size - 1
    found = np.full(n, -1, np.int64)
    cell = 4.0 * reach
    base = np.empty(3, np.int64)
    low = np.empty(3, np.int64)
    high = np.empty(3, np.int64)
    for i in range(n):
        if owner[i] < 0 or owner[i] % shares != share:
            continue
        for k in range(3):
            at = points[i, k] / cell
            base[k] = np.int64(np.floor(at))
            part = at - base[k]
            low[k] = base[k] - (1 if part < 0.25 else 0)
            high[k] = base[k] + (1 if part > 0.75 else 0)
        best = -1
        for x in range(low[0], high[0] + 1):
            for y in range(low[1], high[1] + 1):
                for z in range(low[2], high[2] + 1):
                    s = _slot(x, y, z, owner[i], mask)
                    while table[s] >= 0:
                        j = table[s]
                        if (
                            (best < 0 or j < best) and owner[j] == owner[i]
                            and abs(points[j, 0] - points[i, 0]) <= reach
                            and abs(points[j, 1] - points[i, 1]) <= reach
                            and abs(points[j, 2] - points[i, 2]) <= reach
                        ):  # fmt: skip
                            best = j
                        s = (s + 1) & mask
        if best >= 0:
            found[i] = best
            continue
        found[i] = i
        s = _slot(base[0], base[1], base[2], owner[i], mask)
        while table[s] >= 0:
            s = (s + 1) & mask
        table[s] = i
    return found
