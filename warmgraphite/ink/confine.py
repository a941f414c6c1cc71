"""Strokes kept within a shape: cut where they cross its edge, as vectors.

Lines are cut all at once, and not one by one from the whole shape: of a town's shadows that takes minutes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.ink.strokes import Strokes
from warmgraphite.passes.chains import JOIN

__all__ = ["Confine", "confined"]

Points = NDArray[np.float64]


@dataclass(frozen=True)
class Confine:
    """What is confined to.
    A ``shape`` in frame millimetres, and ``around`` it so much more that a line on its edge lies within.
    """

    shape: shapely.Geometry
    around: shapely.Geometry

    @classmethod
    def of(cls, shape: shapely.Geometry) -> Confine:
        return cls(shape, shapely.buffer(shape, 2 * JOIN))


def confined(work: Sequence[Strokes], room: Confine) -> list[Strokes]:
    """What of the strokes lies within a room, or on its edge."""
    rings = shapely.get_rings(shapely.get_parts(room.around))
    if not len(rings):
        return []
    shapely.prepare(room.around)
    corners, ring = shapely.get_coordinates(rings, return_index=True)
    side = np.flatnonzero(ring[1:] == ring[:-1])
    edge = np.stack([corners[side], corners[side + 1]], 1)
    tree = shapely.STRtree(shapely.linestrings(edge))
    found = [Strokes(s.style, _within(s.lines, room.around, edge, tree)) for s in work if s.lines]
    return [s for s in found if s.lines]


def _within(lines: list[Points], shape: shapely.Geometry, edge: Points, tree: shapely.STRtree) -> list[Points]:
    """The pieces of polylines (n, 2) within a prepared shape.
    Its edge (M, 2, 2) is in ``tree``, in the order of the lines: what lies between two cuts is kept where its middle
    lies inside.
    """
    points, of = np.concatenate(lines), np.repeat(np.arange(len(lines)), [len(line) for line in lines])
    first = np.flatnonzero(of[1:] == of[:-1])
    begin, step = points[first], points[first + 1] - points[first]
    row, at = _cuts(begin, step, edge, tree)
    row, at = np.concatenate([np.arange(len(first)), row]), np.concatenate([np.zeros(len(first)), at])
    order = np.lexsort((at, row))
    row, at = row[order], at[order]
    ends = np.append(row[1:] != row[:-1], True)  # the last piece of its segment, which ends with it
    until = np.where(ends, 1.0, np.append(at[1:], 1.0))
    start = begin[row] + at[:, None] * step[row]
    end = np.where(ends[:, None], points[first[row] + 1], begin[row] + until[:, None] * step[row])
    kept = np.flatnonzero(shapely.contains_xy(shape, (start + end) / 2) & (until > at))
    line = of[first[row[kept]]]
    breaks = np.flatnonzero((np.diff(kept) > 1) | (np.diff(line) > 0)) + 1
    pieces: list[Points] = []
    of_line, opening = -1, 0
    for stretch in np.split(kept, breaks) if len(kept) else ():
        piece, number = np.concatenate([start[stretch[:1]], end[stretch]]), int(of[first[row[stretch[0]]]])
        if number != of_line:
            of_line, opening = number, len(pieces)
        elif _same(lines[number][0], piece[-1]) and _same(pieces[opening][0], piece[-1]):
            pieces[opening] = np.concatenate([piece, pieces[opening][1:]])  # a ring goes on where it began
            continue
        pieces.append(piece)
    return pieces


def _cuts(begin: Points, step: Points, edge: Points, tree: shapely.STRtree) -> tuple[NDArray[np.int64], Points]:
    """Which of the segments (N, 2) are cut by an edge, and at which share of their length."""
    segment, side = tree.query(shapely.linestrings(np.stack([begin, begin + step], 1)))
    way, gap, own = edge[side, 1] - edge[side, 0], edge[side, 0] - begin[segment], step[segment]
    across = own[:, 0] * way[:, 1] - own[:, 1] * way[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):  # along an edge there is no cut
        t = (gap[:, 0] * way[:, 1] - gap[:, 1] * way[:, 0]) / across
        u = (gap[:, 0] * own[:, 1] - gap[:, 1] * own[:, 0]) / across
    cut = (t > 0) & (t < 1) & (u >= 0) & (u <= 1)
    return segment[cut], t[cut]


def _same(one: Points, other: Points) -> bool:
    return bool((one == other).all())
