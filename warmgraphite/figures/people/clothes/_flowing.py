"""Cloth that hangs round both legs: skirts, dresses and coats."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.geometry.tolerances import NEAR

__all__ = ["hanging_rings"]


def hanging_rings(
    body: Skeleton, until: float, ease: float, flare: float, folds: float, chance: np.random.Generator,
    around: int = 18, top: float = 0.0
) -> NDArray[np.float64]:  # fmt: skip
    """Rings (R, around, 3) round both legs from the hips down, ``until`` that share of the leg (0.5 is the knee).
    ``flare`` is how many metres wider the hem is, ``folds`` how deep those at the hem are; their first point lies to
    the right.
    """
    build, unit = body.build, body.build.stature
    stout = build.girth**0.7
    side = body.turns["hip"] @ np.array([1.0, 0, 0])
    shares = np.linspace(top, until, 6)
    angle = 2 * np.pi * np.arange(around) / around
    count, phase = int(chance.integers(5, 8)), float(chance.uniform(0, 6.28))
    rings = []
    for share in shares:
        middles, radii = [], []
        for k in (0, 1):
            hip, knee, ankle = body.hips[k], body.knees[k], body.ankles[k]
            at = hip + (knee - hip) * min(share * 2, 1) + (ankle - knee) * max(share * 2 - 1, 0)
            middles.append(at)
            radii.append(
                float(np.interp(share, [0, 0.3, 0.5, 0.75, 1], [0.058, 0.05, 0.038, 0.036, 0.03])) * unit * stout
            )
        left, right = middles
        middle, gap = (left + right) / 2, right - left
        # Down along the legs; as they are sat on, ahead first and then down.
        ahead = (body.knees[0] + body.knees[1]) / 2 - (body.hips[0] + body.hips[1]) / 2
        down = (body.ankles[0] + body.ankles[1]) / 2 - (body.knees[0] + body.knees[1]) / 2
        way = ahead / np.linalg.norm(ahead) * np.clip(1.15 - share * 1.6, 0, 1) + down / np.linalg.norm(down) * np.clip(
            share * 1.6 - 0.15, 0, 1
        )
        if share < 0.06:
            way = way * 0.5 - body.turns["hip"] @ np.array([0, 0, 0.5])
        way /= np.linalg.norm(way)
        across = side - (side @ way) * way
        across /= np.linalg.norm(across)
        front = np.cross(across, way)
        hang = np.clip((share - top) / max(until - top, NEAR), 0, 1)
        wide = abs(gap @ across) / 2 + max(radii) + ease + flare * hang**1.4
        deep = abs(gap @ front) / 2 + max(radii) * 1.05 + ease + flare * 0.75 * hang**1.4
        deep = max(deep, 0.055 * unit * stout + ease)
        waves = 1 + folds * hang**2 * np.sin(count * angle + phase)
        rings.append(
            middle + (np.cos(angle) * wide * waves)[:, None] * across + (np.sin(angle) * deep * waves)[:, None] * front
        )
    return np.array(rings)
