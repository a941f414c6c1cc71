"""Curves of notes: smooth lines through points, strokes that taper, heads of arrows, waves."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.geometry.triangles import unit_rows
from warmgraphite.notes.written import Area, Ribbon

__all__ = ["arrow_head", "beside", "long_of", "resampled", "smooth", "tapering", "wavy"]

Array = NDArray[np.float64]


def smooth(points: Array, per: int = 16) -> Array:
    """A curve (M, 2) through points (N, 2).
    Centripetal Catmull–Rom (Catmull and Rom, 1974; Yuksel et al., 2011), which makes no loops.
    """
    points = points[np.append(True, np.linalg.norm(np.diff(points, axis=0), axis=1) > ROUNDING)]
    if len(points) < 3:
        return resampled(points, per) if len(points) == 2 else points
    first, last = 2 * points[0] - points[1], 2 * points[-1] - points[-2]
    rows = np.vstack([first, points, last])
    out = []
    for p0, p1, p2, p3 in zip(rows, rows[1:], rows[2:], rows[3:], strict=False):
        t1 = np.sqrt(np.linalg.norm(p1 - p0))
        t2 = t1 + np.sqrt(np.linalg.norm(p2 - p1))
        t3 = t2 + np.sqrt(np.linalg.norm(p3 - p2))
        t = np.linspace(t1, t2, per, endpoint=False)[:, None]
        a1 = (t1 - t) / t1 * p0 + t / t1 * p1
        a2 = (t2 - t) / (t2 - t1) * p1 + (t - t1) / (t2 - t1) * p2
        a3 = (t3 - t) / (t3 - t2) * p2 + (t - t2) / (t3 - t2) * p3
        b1 = (t2 - t) / t2 * a1 + t / t2 * a2
        b2 = (t3 - t) / (t3 - t1) * a2 + (t - t1) / (t3 - t1) * a3
        out.append((t2 - t) / (t2 - t1) * b1 + (t - t1) / (t2 - t1) * b2)
    return np.vstack([*out, points[-1:]])


def long_of(line: Array) -> float:
    """Millimetres along a line."""
    return float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())


def resampled(line: Array, count: int) -> Array:
    """A line by so many points, evenly along it."""
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    at = np.linspace(0, along[-1], max(count, 2))
    return np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])


def _ways(line: Array) -> Array:
    way = np.gradient(line, axis=0)
    return unit_rows(way, NO_LENGTH)


def beside(line: Array, by: Array | float) -> Array:
    """A line moved to its left, as one goes along it on the paper, by so many millimetres at each point."""
    way = _ways(line)
    return line + np.column_stack([way[:, 1], -way[:, 0]]) * np.reshape(by, (-1, 1))


def tapering(
    line: Array, width: float, colour: str, opacity: float = 1.0, ends: tuple[float, float] = (0.0, 0.35)
) -> Ribbon:
    """A stroke that swells and runs out.
    As wide as said at its heaviest, ``ends`` shares of it at beginning and end.
    """
    line = resampled(line, max(12, int(long_of(line) / 1.2)))
    t = np.linspace(0, 1, len(line))
    swell = np.interp(t, [0, 0.3, 0.75, 1], [ends[0], 1.0, 0.85, ends[1]])
    return Ribbon(line, np.maximum(width * swell, 0.02), colour, opacity)


def arrow_head(tip: Array, way: Array, size: float, colour: str, opacity: float = 1.0) -> Area:
    """A slim filled head."""
    way = way / max(float(np.linalg.norm(way)), NO_LENGTH)
    across = np.array([-way[1], way[0]])
    ring = np.array(
        [
            tip,
            tip - way * size + across * size * 0.3,
            tip - way * size * 0.78,
            tip - way * size - across * size * 0.3,
            tip,
        ]
    )
    return Area([ring], colour, opacity)


def wavy(line: Array, high: float, long: float) -> Array:
    """A line that waves: ``high`` to either side, ``long`` from crest to crest, calm at its ends."""
    total = long_of(line)
    line = resampled(line, max(16, int(total / long * 16)))
    t = np.linspace(0, 1, len(line))
    calm = np.minimum(1.0, np.minimum(t, 1 - t) * 8)
    return beside(line, high * calm * np.sin(t * total / long * 2 * np.pi))
