"""The inner loop of growth."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import FINEST
from warmgraphite.kernels import kernel

__all__ = ["colonise"]


# Many arguments: the dials of growth as its source has them, and the room that it grows in.
@kernel("f8[:,::1], i4[::1], i8, f8[:,::1], f8, f8, f8, f8, f8, f8[::1]")
def colonise(
    points: NDArray[np.float64], parent: NDArray[np.int32], count: int, attractors: NDArray[np.float64], step: float,
    reach: float, kill: float,
    up: float, wander: float, chance: NDArray[np.float64],
) -> int:  # fmt: skip
    """Let branches grow towards attractors, in place: ``count`` of the ``points`` (N, 3) are there to begin with.
    Gives how many then are.

    Each attractor draws the nearest node within ``reach`` metres and is gone when one comes as near as ``kill`` (after
    Runions, Lane and Prusinkiewicz, "Modeling trees with a space colonization algorithm", 2007). ``up`` is how far all
    turn upwards, ``wander`` by chance.
    """
    live = np.ones(len(attractors), np.bool_)
    near = np.full(len(attractors), -1, np.int32)
    gap = np.full(len(attractors), np.inf)
    first, drawn = 0, 0
    pull = np.zeros((len(points), 3))
    pulls = np.zeros(len(points), np.int32)
    for turn in range(200):
        for a in range(len(attractors)):
            if not live[a]:
                continue
            for n in range(first, count):
                d = 0.0
                for k in range(3):
                    d += (attractors[a, k] - points[n, k]) ** 2
                if d < gap[a]:
                    gap[a] = d
                    near[a] = n
            if gap[a] < kill * kill:
                live[a] = False
        pull[:count] = 0.0
        pulls[:count] = 0
        wide = reach * (2.2 if turn < 12 else 1.0)
        for a in range(len(attractors)):
            if live[a] and gap[a] < wide * wide:
                n = near[a]
                d = np.sqrt(gap[a])
                for k in range(3):
                    pull[n, k] += (attractors[a, k] - points[n, k]) / d
                pulls[n] += 1
        first = count
        for n in range(first):
            if pulls[n] == 0 or count >= len(points):
                continue
            x, y, z = pull[n, 0] / pulls[n], pull[n, 1] / pulls[n], pull[n, 2] / pulls[n] + up
            x += wander * chance[drawn % len(chance)]
            y += wander * chance[(drawn + 1) % len(chance)]
            z += wander * chance[(drawn + 2) % len(chance)]
            drawn += 3
            size = np.sqrt(x * x + y * y + z * z)
            if size < FINEST:
                continue
            x, y, z = points[n, 0] + step * x / size, points[n, 1] + step * y / size, points[n, 2] + step * z / size
            # A node that stands where another is already would grow there for ever.
            free = True
            for m in range(count):
                if (points[m, 0] - x) ** 2 + (points[m, 1] - y) ** 2 + (points[m, 2] - z) ** 2 < (0.4 * step) ** 2:
                    free = False
                    break
            if free:
                points[count, 0], points[count, 1], points[count, 2] = x, y, z
                parent[count] = n
                count += 1
        if first == count:
            break
    return count
