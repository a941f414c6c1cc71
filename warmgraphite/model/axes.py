"""What a model tells beside its bodies: grid axes, and how its doors open; and axes that are found along walls."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.geometry.triangles import normals

if TYPE_CHECKING:
    from warmgraphite.model.model import Model

__all__ = ["Axis", "Door", "wall_axes"]

Place = tuple[float, float, float]

#: Metres of the thickest wall, and of the shortest that has an axis; and within which two axes are one.
THICKEST, SHORTEST, ONE = 0.75, 2.0, 0.3
#: An axis at least, of what the longest wall stands for.
SHARE = 0.12
MOST = 24


@dataclass(frozen=True)
class Axis:
    """An axis of a grid: its letter or number, and two points of it in metres."""

    name: str
    start: Place
    end: Place


@dataclass(frozen=True)
class Door:
    """How a leaf of a door opens.
    It hangs at ``hinge``, is shut along the unit vector ``shut`` (x, y), opens to the side of ``open``, and is
    ``width`` metres wide. ``part`` is the lasting name of its part.
    """

    hinge: Place
    shut: tuple[float, float]
    open: tuple[float, float]
    width: float
    part: str = ""


class _Wall(NamedTuple):
    angle: float
    off: float
    long: float


def wall_axes(model: Model) -> list[Axis]:
    """Axes along the middle of walls, numbered in one direction and lettered in the other.
    None where the model has no upright faces that belong together.

    A wall is two upright faces that look away from each other, no more than :data:`THICKEST` metres apart.
    """
    rows = np.flatnonzero(np.isin(model.parts.role, ["structure", "envelope", "subject"])[model.triangle_part])
    corners = model.vertices[model.triangles[rows]]
    normal = normals(corners) / 2
    area = np.linalg.norm(normal, axis=1)
    upright = (np.abs(normal[:, 2]) < 0.01 * area) & (area > NEAR)
    corners, normal, area = corners[upright], normal[upright], area[upright]
    if not len(area):
        return []
    angle = np.degrees(np.arctan2(normal[:, 1], normal[:, 0])) % 180
    step = np.round(angle / 0.5).astype(int) % 360
    weight = np.bincount(step, area, 360)
    main = int(np.argmax(weight))
    found: list[list[Axis]] = []
    for way in (main, (main + 180) % 360):
        near = np.minimum(np.abs(step - way), 360 - np.abs(step - way)) <= 1
        found.append(_along(corners[near], normal[near], area[near], way * 0.5, model))
    numbered, lettered = found
    named = [Axis(str(k + 1), a.start, a.end) for k, a in enumerate(numbered)]
    letters = [c for c in "ABCDEFGHJKLMNPQRSTUVWXYZ"]
    return named + [Axis(letters[k], a.start, a.end) for k, a in enumerate(lettered[: len(letters)])]


def _along(
    corners: NDArray[np.float64], normal: NDArray[np.float64], area: NDArray[np.float64], degrees: float, model: Model
) -> list[Axis]:
    """The axes whose walls face one way, in degrees from the model's right."""
    if not len(area):
        return []
    way = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])
    off = corners[:, :, :2].mean(1) @ way
    sign = np.sign(normal[:, :2] @ way)
    # Faces of one plane and one side together.
    key = np.round(off / 0.02).astype(np.int64) * 2 + (sign > 0)
    keys, at = np.unique(key, return_inverse=True)
    size = np.bincount(at, area)
    place = np.bincount(at, off * area) / size
    side = keys % 2
    order = np.argsort(-size)
    taken = np.zeros(len(keys), bool)
    rows: list[tuple[float, float]] = []
    for k in order:
        if taken[k]:
            continue
        # Its other face lies behind it.
        behind = (side != side[k]) & ~taken & (np.abs(place - place[k]) > 0.02) & (np.abs(place - place[k]) <= THICKEST)
        behind &= (place < place[k]) if side[k] else (place > place[k])
        if not behind.any():
            continue
        other = int(np.flatnonzero(behind)[np.argmax(size[behind])])
        taken[k] = taken[other] = True
        rows.append(((place[k] + place[other]) / 2, float(min(size[k], size[other]))))
    if not rows:
        return []
    best = max(s for _, s in rows)
    kept: list[float] = []
    for where, much in sorted(rows, key=lambda r: -r[1]):
        if much >= SHARE * best and all(abs(where - other) > ONE for other in kept) and len(kept) < MOST:
            kept.append(where)
    low, high = model.focus
    across = np.array([-way[1], way[0]])
    box = np.array([(x, y) for x in (low[0], high[0]) for y in (low[1], high[1])]) @ across
    out = []
    for where in sorted(kept):
        a, b = (way * where + across * float(t) for t in (box.min(), box.max()))
        out.append(Axis("", (float(a[0]), float(a[1]), float(low[2])), (float(b[0]), float(b[1]), float(low[2]))))
    return out


def transformed(
    axes: Sequence[Axis], doors: Sequence[Door], matrix: NDArray[np.float64]
) -> tuple[tuple[Axis, ...], tuple[Door, ...]]:
    """Axes and doors by a 4×4 matrix that turns, stretches evenly and moves."""
    turn, move = matrix[:3, :3], matrix[:3, 3]
    scale = float(np.cbrt(abs(np.linalg.det(turn))))

    def place(p: Place) -> Place:
        x, y, z = (turn @ np.array(p) + move).tolist()
        return x, y, z

    def way(v: tuple[float, float]) -> tuple[float, float]:
        x, y, _ = (turn @ np.array([*v, 0.0]) / scale).tolist()
        return x, y

    return (
        tuple(Axis(a.name, place(a.start), place(a.end)) for a in axes),
        tuple(Door(place(d.hinge), way(d.shut), way(d.open), d.width * scale, d.part) for d in doors),
    )
