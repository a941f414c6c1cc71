"""Foliage.
Lobes of leaves on clumps at the tips of twigs, as open faces that together make one mass with a lively edge.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.figures.planting.habit import Growth
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.geometry.triangles import unit_rows
from warmgraphite.model.solids import Mesh

__all__ = ["blades", "lobes", "over_clumps", "tuft"]

Array = NDArray[np.float64]


def _units(vectors: Array) -> Array:
    return np.asarray(unit_rows(vectors, ROUNDING))


def lobes(
    centre: Array, normal: Array, way: Array, size: Array, long: float, chance: np.random.Generator, corners: int = 6
) -> Mesh:
    """Lobes (N) about their centres, facing ``normal``, ``long`` times as long along ``way`` as wide.
    Uneven, a little cupped.
    """
    count = len(centre)
    normal = _units(normal)
    along = _units(way - (way * normal).sum(1, keepdims=True) * normal + NEAR)
    across = np.cross(normal, along)
    angle = 2 * np.pi * (np.arange(corners) + chance.uniform(-0.22, 0.22, (count, corners))) / corners
    # Large ones have a rim of three or four tufts, as a hand draws foliage.
    tufts = np.tile([0.76, 1.0, 1.03], corners // 3)[None] if corners >= 9 and corners % 3 == 0 else 1.0
    reach = size[:, None] * tufts * chance.uniform(0.80 if corners >= 9 else 0.72, 1.12, (count, corners))
    u, v = reach * np.cos(angle) * long**0.5, reach * np.sin(angle) / long**0.5
    cup = -0.16 * reach * chance.uniform(0.2, 1.4, (count, 1))
    rim = (
        centre[:, None]
        + u[..., None] * along[:, None]
        + v[..., None] * across[:, None]
        + cup[..., None] * normal[:, None]
    )
    points = np.concatenate([rim, centre[:, None]], axis=1).reshape(-1, 3)
    k = np.arange(corners)
    fan = np.column_stack([np.full(corners, corners), k, (k + 1) % corners])
    return points, (fan[None] + (np.arange(count) * (corners + 1))[:, None, None]).reshape(-1, 3).astype(np.int32)


# Many arguments: the dials of foliage, each with what is usual.
def over_clumps(
    clumps: Array, radius: Array, heart: Array, lobe: float, each: float, level: float, long: float,
    chance: np.random.Generator, corners: int = 6, most: int = 480
) -> Mesh:  # fmt: skip
    """Lobes over clumps (N, 3) of ``radius`` (N,) round the ``heart`` of a crown, no more than ``most``.
    What lies inside another clump is left out.
    """
    count = np.maximum((each * (radius / lobe) ** 2).astype(int), 2)
    if count.sum() > 2 * most:
        count = np.maximum((count * (2 * most / count.sum())).astype(int), 1)
    owner = np.repeat(np.arange(len(clumps)), count)
    out = _units(clumps - heart)
    ways = _units(chance.normal(size=(len(owner), 3)) + 0.75 * out[owner] + [0, 0, 0.25])
    # Turned outwards and upwards, where the light is.
    flat = ways * [1, 1, 1 - 0.6 * level]
    places = clumps[owner] + flat * radius[owner][:, None] * chance.uniform(0.75, 1.05, (len(owner), 1))
    keep = np.ones(len(owner), bool)
    for first in range(0, len(owner), 512):
        some = slice(first, first + 512)
        gap = np.linalg.norm(places[some][:, None] - clumps[None], axis=2) / radius[None]
        gap[np.arange(len(gap)), owner[some]] = 9.0
        keep[some] = gap.min(1) > 0.72
    rows = np.flatnonzero(keep)
    rows = chance.permutation(rows)[:most]
    # One that would fly by itself is left out.
    near = (
        cKDTree(places[rows]).query(places[rows], k=min(4, len(rows)))[0][:, -1]
        if len(rows) > 3
        else np.zeros(len(rows))
    )
    rows = rows[near < 2.6 * lobe + 0.25 * float(radius.mean())]
    places, ways, owner = places[rows], ways[rows], owner[rows]
    face = (
        _units(0.55 * ways + 0.45 * out[owner] + chance.normal(0, 0.28, ways.shape)) * (1 - level)
        + np.array([0, 0, 1.0]) * level
    )
    size = lobe * chance.uniform(0.75, 1.3, len(places))
    return lobes(places, face, chance.normal(size=places.shape) + ways, size, long, chance, corners)


def blades(foot: Array, way: Array, height: Array, wide: Array, bend: Array, steps: int = 3) -> Mesh:
    """Blades (N) that rise from their feet and bend over to a point.
    They bend towards ``way`` (N, 2) by ``bend`` (N,) shares of their height, to a point.
    """
    count = len(foot)
    t = np.linspace(0, 1, steps + 1)
    side = np.column_stack([-way[:, 1], way[:, 0]])
    x = foot[:, None, :2] + (bend * height)[:, None, None] * (t**2.2)[None, :, None] * way[:, None]
    z = foot[:, None, 2] + height[:, None] * (t - 0.35 * np.minimum(bend, 1.2)[:, None] * t**3)
    half = wide[:, None] / 2 * (1 - t**1.6)[None]
    left = np.concatenate([x - half[..., None] * side[:, None], z[..., None]], axis=2)
    right = np.concatenate([x + half[..., None] * side[:, None], z[..., None]], axis=2)
    points = np.concatenate([left, right[:, :-1]], axis=1)
    rows = []
    for k in range(steps):
        a, b, c = k, k + 1, steps + 1 + k
        rows.append((a, c, b))
        if k < steps - 1:
            rows.append((c, c + 1, b))
    each = 2 * steps + 1
    return points.reshape(-1, 3), (np.array(rows)[None] + (np.arange(count) * each)[:, None, None]).reshape(
        -1, 3
    ).astype(np.int32)


def tuft(ask: Growth, count: int, radius: float, tall: float, wide: float, bend: float) -> Mesh:
    """The blades of a tuft, ``radius`` metres about the origin."""
    chance = ask.chance
    turn, r = chance.uniform(0, 2 * np.pi, count), radius * np.sqrt(chance.uniform(0, 1, count))
    foot = np.column_stack([r * np.cos(turn), r * np.sin(turn), np.zeros(count)])
    lean = turn + chance.normal(0, 0.7, count)
    way = np.column_stack([np.cos(lean), np.sin(lean)])
    return blades(
        foot,
        way,
        tall * chance.uniform(0.55, 1.05, count),
        np.full(count, wide),
        bend * chance.uniform(0.3, 1.4, count),
        3 if ask.detail == 0 else 2,
    )
