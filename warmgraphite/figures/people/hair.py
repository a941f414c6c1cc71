"""Hair: a cap round the skull, and what hangs or stands of it."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.flesh import head_rings
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.model.solids import Mesh, lathe, limb, loft

__all__ = ["STYLES", "hair"]

STYLES = ("short", "bob", "bun", "tail", "long", "curls", "receding")


def _cap(body: Skeleton, thick: float, forehead: float, nape: float, sides: float) -> Mesh:
    """A cap ``thick`` heads off the skull, down to ``forehead``, ``sides`` and ``nape``, in heights of the head."""
    h, turn, around = body.build.head, body.turns["head"], body.build.around(12, 4)
    rings = head_rings(body, around)
    angle = 2 * np.pi * np.arange(around) / around
    front, side = np.sin(angle), np.abs(np.cos(angle))
    edge = np.where(front > 0, forehead * front**2 + sides * side**2, nape * front**2 + sides * side**2)
    centre = body.head + turn @ np.array([0, 0.0, 0.08 * h])
    heights = (np.einsum("rsk,k->rs", rings - body.head, turn[:, 2])) / h + 0.5
    out = []
    for t in np.linspace(0, 1, 5):
        ring = np.empty((around, 3))
        for k in range(around):
            z = edge[k] + (0.985 - edge[k]) * t
            order = np.argsort(heights[:, k])
            point = np.array([np.interp(z, heights[order, k], rings[order, k, c]) for c in range(3)])
            away = point - centre
            ring[k] = point + away / max(float(np.linalg.norm(away)), NEAR) * thick * h * (0.55 if t == 0 else 1.0)
        out.append(ring)
    return loft(np.array(out))


def hair(body: Skeleton, style: str, chance: np.random.Generator) -> list[Mesh]:
    """Hair in a style."""
    h, turn = body.build.head, body.turns["head"]

    def place(x: float, y: float, z: float) -> np.ndarray:
        return np.asarray(body.head + turn @ (np.array([x, y, z]) * h))

    side = turn @ np.array([1.0, 0, 0])
    if style == "receding":
        return [_cap(body, 0.02, 0.93, 0.22, 0.42)]
    if style == "short":
        return [_cap(body, 0.045, 0.76, 0.18, 0.46)]
    if style == "curls":
        return [_cap(body, 0.12, 0.74, 0.10, 0.30)]
    if style == "bob":
        back = np.array([place(0, -0.10, 0.42), place(0, -0.2, 0.12), place(0, -0.19, -0.2), place(0, -0.15, -0.5)])
        return [
            _cap(body, 0.06, 0.74, 0.1, 0.42),
            limb(back, np.array([0.2, 0.36, 0.40, 0.38]) * h, np.array([0.1, 0.26, 0.28, 0.24]) * h, side, 14),
        ]
    if style == "bun":
        high = float(chance.uniform(0.0, 0.3))
        ball = [(0, -0.15), (0.11, -0.11), (0.155, 0), (0.11, 0.11), (0, 0.15)]
        points, faces = lathe([(r * h, z * h) for r, z in ball], 10)
        return [_cap(body, 0.045, 0.76, 0.16, 0.44), (points + place(0, -0.46 + 0.1 * high, high), faces)]
    if style == "tail":
        tail = np.array([place(0, -0.40, 0.14), place(0, -0.56, 0.06), place(0, -0.56, -0.25), place(0, -0.48, -0.62)])
        return [
            _cap(body, 0.04, 0.76, 0.16, 0.44),
            limb(tail, np.array([0.06, 0.1, 0.1, 0.03]) * h, np.array([0.06, 0.1, 0.09, 0.03]) * h, side, 8),
        ]
    back = np.array(
        [
            place(0, -0.10, 0.42),
            place(0, -0.24, 0.1),
            place(0, -0.27, -0.4),
            place(0, -0.27, -0.95),
            place(0, -0.25, -1.15),
        ]
    )
    return [
        _cap(body, 0.055, 0.76, 0.1, 0.36),
        limb(back, np.array([0.2, 0.35, 0.38, 0.36, 0.3]) * h, np.array([0.1, 0.22, 0.17, 0.11, 0.06]) * h, side, 14),
    ]
