"""What each kind of mark looks like on its plane: lines, and an inside where it has one."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.ink.marks.specification import Mark

__all__ = ["inside_of", "line_of"]

Points = NDArray[np.float64]

#: Points of a whole turn.
TURN = 144
CLOSED = ("rectangle", "polygon", "circle")


def line_of(kind: str, flat: Points) -> Points:
    """(n, 2) the line that a kind of mark draws through its points (N, 2); closed where its ends are one."""
    if kind == "rectangle":
        (x, y), (right, top) = flat
        return np.array([(x, y), (right, y), (right, top), (x, top), (x, y)])
    if kind == "polygon":
        return np.concatenate([flat, flat[:1]])
    if kind == "circle":
        turn = np.linspace(0, 2 * np.pi, TURN + 1)
        return np.asarray(flat[0] + np.linalg.norm(flat[1] - flat[0]) * np.column_stack([np.cos(turn), np.sin(turn)]))
    if kind == "arc":
        return _arc(*flat)
    return flat


def _arc(a: Points, b: Points, c: Points) -> Points:
    """The arc from ``a`` to ``c`` through ``b``; a line where they lie in one."""
    (bx, by), (cx, cy) = b - a, c - a
    size = 2 * (bx * cy - by * cx)
    if abs(size) < ROUNDING * max(np.abs([bx, by, cx, cy]).max() ** 2, NO_LENGTH):
        return np.array([a, b, c])
    middle = (
        a + np.array([cy * (bx**2 + by**2) - by * (cx**2 + cy**2), bx * (cx**2 + cy**2) - cx * (bx**2 + by**2)]) / size
    )
    begin, through, end = (np.arctan2(*(p - middle)[::-1]) for p in (a, b, c))
    way = (end - begin) % (2 * np.pi)
    if (through - begin) % (2 * np.pi) > way:  # the other way round
        way -= 2 * np.pi
    turn = begin + np.linspace(0, way, max(int(abs(way) / (2 * np.pi) * TURN), 2) + 1)
    return np.asarray(middle + np.linalg.norm(a - middle) * np.column_stack([np.cos(turn), np.sin(turn)]))


def inside_of(mark: Mark, flat: Points) -> shapely.Geometry:
    """What a mark goes round, on its plane; nothing where it is open."""
    if mark.kind not in CLOSED:
        return shapely.Polygon()
    return shapely.make_valid(shapely.Polygon(line_of(mark.kind, flat)))
