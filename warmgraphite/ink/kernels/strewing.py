"""The loop that strews points evenly."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel
from warmgraphite.noise.kernels import share

__all__ = ["evenly_strewn"]


@kernel()
def evenly_strewn(count: int, seed: int):
    """(count, 2) places on a torus of side 1 in an order of which every beginning lies evenly.
    Each is the best of several that were tried, the one farthest from all before (Mitchell 1991).
    """
    out = np.empty((count, 2))
    key = np.uint64(seed)
    grid = int(np.sqrt(count / 2.0)) + 1
    heads = np.full((grid, grid), -1, np.int64)
    after = np.full(count, -1, np.int64)
    tried = np.uint64(0)
    for n in range(count):
        best, best_x, best_y = -1.0, 0.0, 0.0
        reach = min(1.6 / np.sqrt(n + 1.0), 0.71)
        span = min(int(np.ceil(reach * grid)), grid // 2)
        for _ in range(14 if n > 0 else 1):
            tried += np.uint64(2)
            x, y = share(key, tried), share(key, tried + np.uint64(1))
            near = 2.0
            ci, cj = int(x * grid), int(y * grid)
            for di in range(-span, span + 1):
                for dj in range(-span, span + 1):
                    p = heads[(ci + di) % grid, (cj + dj) % grid]
                    while p >= 0:
                        dx, dy = abs(out[p, 0] - x), abs(out[p, 1] - y)
                        dx, dy = min(dx, 1.0 - dx), min(dy, 1.0 - dy)
                        near = min(near, dx * dx + dy * dy)
                        p = after[p]
            if near > best:
                best, best_x, best_y = near, x, y
        out[n, 0], out[n, 1] = best_x, best_y
        i, j = int(best_x * grid), int(best_y * grid)
        after[n] = heads[i, j]
        heads[i, j] = n
    return out
