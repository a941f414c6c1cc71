"""Loops over the segments of a cut."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["single_loops", "winding"]


@kernel("f8[:,::1], f8[:,::1], f8[:,::1]")
def winding(points, start, end):
    """Signed and absolute crossings of a ray to the right from each point (N, 2) with directed segments (S, 2)."""
    signed = np.zeros(len(points), np.int64)
    crossed = np.zeros(len(points), np.int64)
    for i in range(len(points)):
        x = points[i, 0]
        y = points[i, 1]
        for s in range(len(start)):
            ay = start[s, 1]
            by = end[s, 1]
            if (ay > y) == (by > y):
                continue
            at = start[s, 0] + (y - ay) / (by - ay) * (end[s, 0] - start[s, 0])
            if at > x:
                crossed[i] += 1
                signed[i] += 1 if by > ay else -1
    return signed, crossed


@kernel("i8[::1], i8[::1], i8[::1], i8")
def single_loops(begin, node_from, node_to, nodes):
    """For parts with segments ``begin[p]`` to ``begin[p + 1]``, which are one closed loop.
    (P,) and the order of segments.

    Segments run from node to node; a part whose every node is left once and reached once, all in one round, is a loop.
    """
    parts = begin.size - 1
    loop = np.zeros(parts, np.bool_)
    order = np.empty(node_from.size, np.int64)
    leaves = np.full(nodes, -1, np.int64)
    for p in range(parts):
        first, last = begin[p], begin[p + 1]
        fits = last - first >= 3
        for s in range(first, last):
            if leaves[node_from[s]] >= 0:
                fits = False
            leaves[node_from[s]] = s
        if fits:
            at = first
            count = 0
            while count < last - first:
                order[first + count] = at
                count += 1
                at = leaves[node_to[at]]
                if at < 0 or at == first:
                    break
            loop[p] = at == first and count == last - first
        for s in range(first, last):
            leaves[node_from[s]] = -1
    return loop, order
