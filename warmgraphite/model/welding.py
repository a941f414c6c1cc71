"""Corners that lie together made one: the first step of all that asks how faces hang together."""

from __future__ import annotations

import os
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.components import components
from warmgraphite.geometry.tolerances import WELD
from warmgraphite.model.kernels import weld_points
from warmgraphite.model.mesh import Mesh
from warmgraphite.threads import in_threads

__all__ = ["Edges", "connected", "edges_of", "grouped", "mixed", "weld"]

_FACTORS = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9, 0xD6E8FEB86659FD93], np.uint64)


def mixed(*columns: NDArray[np.int64]) -> NDArray[np.uint64]:
    """(N,) one number for rows of up to four integers, the same for the same; others meet it once in 10¹⁹."""
    found = np.zeros(len(columns[0]), np.uint64)
    for column, factor in zip(columns, _FACTORS, strict=False):
        found ^= column.astype(np.int64).view(np.uint64)
        found *= factor
        found ^= found >> np.uint64(29)
    found *= _FACTORS[0]
    return found ^ (found >> np.uint64(32))


def grouped(keys: NDArray) -> NDArray[np.int64]:
    """(N,) a number from 0 for each different key, in the order of the sorted keys."""
    order = np.argsort(keys)
    ranked = keys[order]
    fresh = np.ones(len(keys), bool)
    fresh[1:] = ranked[1:] != ranked[:-1]
    found = np.empty(len(keys), np.int64)
    found[order] = np.cumsum(fresh) - 1
    return found


def _united(points: NDArray[np.float64], owner: NDArray[np.int64]) -> NDArray[np.int64]:
    """(N,) for each point (N, 3) the first one of its owner that lies with it; −1 for points of owner −1."""
    shares = os.cpu_count() or 1
    # Shares are told apart by owner: a model of one part is done by one.
    shares = min(shares, int(owner.max(initial=0)) + 1)
    found = in_threads(lambda share: weld_points(points, owner, WELD, share, shares), range(shares))
    united = found[0]
    for other in found[1:]:
        np.maximum(united, other, out=united)
    return united


def weld(mesh: Mesh, anchor: NDArray[np.float64], apart: bool = True) -> NDArray[np.int64]:
    """(T, 3) triangles in which corners that lie together share one number.
    Told by places that count from ``anchor`` (3,), in metres; ``apart`` keeps different parts apart.
    """
    points = mesh.vertices - anchor
    triangles, part = mesh.triangles, mesh.triangle_part
    if not apart:
        return _united(points, np.zeros(len(points), np.int64))[triangles]
    owner = np.full(len(points), -1, np.int64)
    owner[triangles] = part[:, None]
    if (owner[triangles] == part[:, None]).all():
        return _united(points, owner)[triangles]
    # Some vertex serves two parts: each corner is looked at by itself.
    return _united(points[triangles.ravel()], np.repeat(part.astype(np.int64), 3)).reshape(-1, 3)


@dataclass(frozen=True)
class Edges:
    """Edges (E) of welded faces: ``low`` < ``high`` corner numbers; ``count`` faces that meet there.
    ``turn`` how many more of them run from low to high than back; ``half`` (E,) one of the half-edges, 3 · face + side;
    ``of`` (3 F,) the edge of each half-edge.
    """

    low: NDArray[np.int64]
    high: NDArray[np.int64]
    count: NDArray[np.int64]
    turn: NDArray[np.int64]
    half: NDArray[np.int64]
    of: NDArray[np.int64]


def edges_of(welded: NDArray[np.int64]) -> Edges:
    """The edges of welded faces (F, 3); half-edge ``3 f + i`` runs from corner i of face f to the next."""
    start = welded.ravel()
    end = np.roll(welded, -1, 1).ravel()
    low, high = np.minimum(start, end), np.maximum(start, end)
    key = low * (int(welded.max(initial=0)) + 1) + high
    order = np.argsort(key)
    ranked = key[order]
    fresh = np.ones(len(key), bool)
    fresh[1:] = ranked[1:] != ranked[:-1]
    first = np.flatnonzero(fresh)
    number = np.empty(len(key), np.int64)
    number[order] = np.cumsum(fresh) - 1
    forward = np.where(start < end, 1, -1)[order]
    half = order[first]
    return Edges(
        low[half], high[half], np.diff(np.append(first, len(key))),
        np.add.reduceat(forward, first) if len(first) else np.empty(0, np.int64), half, number,
    )  # fmt: skip


def connected(welded: NDArray[np.int64]) -> NDArray[np.int64]:
    """(F,) the number of the connected body of each welded face."""
    if not len(welded):
        return np.empty(0, np.int64)
    count = int(welded.max()) + 1
    a, b = np.concatenate([welded[:, 0], welded[:, 1]]), np.concatenate([welded[:, 1], welded[:, 2]])
    return grouped(components(count, a, b)[welded[:, 0]])
