"""Lines one after another: where several lie upon each other one is drawn, and what goes on is chained."""

from __future__ import annotations

import threading
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.model.kernels import weld_points
from warmgraphite.passes.drawn_edges import (
    columns,
)
from warmgraphite.passes.kernels import strokes
from warmgraphite.threads import in_stretches, in_threads

__all__ = [
    "CHUNK",
    "JOIN",
    "STUB",
    "chained",
    "drawn_once",
    "trim_contours",
]

#: Millimetres of paper within which two ends of line meet.
JOIN = 0.01
#: Millimetres of paper up to which facets may leave a stub of a silhouette over.
STUB = 0.6
CHUNK = 2048


def drawn_once(
    a: NDArray,
    b: NDArray,
    strength: NDArray[np.float64],
    groups: list[NDArray],
    width: float,
    height: float,
    same: float,
) -> tuple[NDArray, NDArray, NDArray]:
    """Pieces a to b (N, 2), less what stronger ones (of lower ``strength``) of the same group draw.
    Rows (piece, from, to). Nearer than ``same`` millimetres two of them are one.
    """

    def listed(k: int) -> tuple[strokes.Drawn, strokes.Cells]:
        start, end = a[groups[k], :2], b[groups[k], :2]
        cell = float(np.clip(2 * np.sqrt(width * height / max(len(start), 1)), 0.5, 8.0))
        nx, ny = int(width / cell) + 3, int(height / cell) + 3
        first, held = strokes.pieces_in_cells(start, end, nx, ny, cell, same)
        return strokes.Drawn(start, end, strength[groups[k]]), strokes.Cells(first, held, nx, ny, cell)

    rows: list[tuple[NDArray, ...]] = []
    for group, pieces in zip(groups, in_threads(listed, range(len(groups))), strict=True):
        memory = threading.local()

        def once(first: int, last: int, pieces: Any = pieces, memory: threading.local = memory) -> tuple[NDArray, ...]:
            if not hasattr(memory, "met"):
                memory.met = np.full(len(pieces[0].start), -1, np.int32)
            return strokes.subtract_doubles(*pieces, same, same, first, last, memory.met)

        row, low, high = columns(in_stretches(once, len(group), 4 * CHUNK))
        rows.append((group[row], low, high))
    row, low, high = columns(rows)
    return row, low, high


def _nodes(a: NDArray, b: NDArray, group: NDArray[np.int64]) -> NDArray[np.int64]:
    """(2 N,) a number for each end of the pieces a to b (N, 2), starts first: the same where ends of one group meet."""
    flat = np.concatenate([a, b])
    points = np.full((len(flat), 3), 2 * JOIN)
    points[:, :2] = flat
    owner = np.concatenate([group, group])
    return np.maximum.reduce(in_threads(lambda share: weld_points(points, owner, JOIN, share, 3), range(3)))


def trim_contours(a: NDArray, b: NDArray, group: NDArray[np.int64], contour: NDArray[np.bool_], same: float) -> None:
    """Make ends of silhouettes meet, in place, where facets of a saddle make them pass each other by.

    The contour of a faceted saddle changes from one edge to the next where they cross as seen; what then shows of the
    second edge before that point is a stub that its facets leave and the curve has not. ``contour`` (N,) says which
    pieces a to b (N, 3, frame) are such silhouettes.
    """
    if not contour.any():
        return
    node = _nodes(a[:, :2], b[:, :2], group)
    loose = np.flatnonzero((np.bincount(node)[node] == 1) & np.concatenate([contour, contour]))
    if len(loose) < 2:
        return
    n = len(a)
    at = np.where((loose < n)[:, None], a[loose % n], b[loose % n])
    away = np.where((loose < n)[:, None], b[loose % n], a[loose % n])
    tree = cKDTree(at[:, :2])
    pair = tree.query_pairs(STUB, output_type="ndarray")
    pair = np.concatenate([pair, pair[:, ::-1]])
    pair = pair[
        (group[loose[pair[:, 0]] % n] == group[loose[pair[:, 1]] % n])
        & (loose[pair[:, 0]] % n != loose[pair[:, 1]] % n)
    ]
    # Of each pair, the first end stays, and the second is drawn back, or on, to it.
    stays, moves = at[pair[:, 0]], pair[:, 1]
    way = away[moves] - at[moves]
    length = np.maximum(np.linalg.norm(way[:, :2], axis=1), NO_LENGTH)
    t = ((stays - at[moves])[:, :2] * way[:, :2]).sum(1) / length**2
    gap = np.linalg.norm(at[moves, :2] + np.clip(t, 0, 1)[:, None] * way[:, :2] - stays[:, :2], axis=1)
    good = np.flatnonzero((gap <= same) & (t < 0.999))
    for row in good[np.argsort(gap[good] + t[good] * length[good], kind="stable")]:
        end, partner = loose[moves[row]], loose[pair[row, 0]]
        side, other = (a if end < n else b), (a if partner < n else b)
        if np.isfinite(at[moves[row], 0]) and np.isfinite(at[pair[row, 0], 0]):
            side[end % n] = other[partner % n]
            at[[moves[row], pair[row, 0]], 0] = np.nan  # both have met someone


def chained(a: NDArray, b: NDArray, group: NDArray[np.int64]) -> tuple[NDArray, NDArray, NDArray]:
    """Pieces a to b (N, 2) of the same group put end to end: (piece, whether it is turned, number of its chain)."""
    if not len(a):
        return np.empty(0, np.int32), np.empty(0, bool), np.empty(0, np.int32)
    partner = strokes.joined_ends(_nodes(a, b, group), np.ascontiguousarray(a), np.ascontiguousarray(b))
    return strokes.walk_chains(partner)
