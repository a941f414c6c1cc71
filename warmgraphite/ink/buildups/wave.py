"""What runs and stands along a layer: the wave of soft insulation, and members at a rhythm.

Both go by sections across the layer: rays inward from the outline of the side that it lies behind, cut off where the
layer ends.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import HAIR, NEAR, NO_LENGTH, ROUNDING
from warmgraphite.ink.layer import swung
from warmgraphite.passes.cut import polygonal

__all__ = ["Way", "about", "across", "waves_in", "ways_along"]

Points = NDArray[np.float64]

#: Degrees from which a turn of an outline is a corner.
CORNER = 25.0
#: How many times as thick as usual a layer may be across and still be crossed there, and not run along.
THICK = 1.7
#: Below which share of its usual thickness a layer ends.
THIN = 0.35
#: Share of a layer that waves leave at most before they look for another side to go from.
LEFT = 0.001
#: Pairs of a ray and a side that are looked at together.
BATCH = 400_000


@dataclass(frozen=True)
class Way:
    """A stretch of outline without a corner, the body at its left: points ``xy`` (n, 2)."""

    xy: Points

    @property
    def length(self) -> float:
        return float(np.linalg.norm(np.diff(self.xy, axis=0), axis=1).sum())

    def at(self, along: Points) -> tuple[Points, Points]:
        """Places (N, 2) so many metres ``along``, and the directions (N, 2) inward there.
        A way goes straight on beyond its ends.
        """
        step = np.diff(self.xy, axis=0)
        long = np.linalg.norm(step, axis=1)
        stop = np.append(0, np.cumsum(long))
        k = np.clip(np.searchsorted(stop, along, side="right") - 1, 0, len(long) - 1)
        unit = step / np.maximum(long, NO_LENGTH)[:, None]
        place = self.xy[k] + (along - stop[k])[:, None] * unit[k]
        # On a curve directions turn evenly from the middle of one side to the next.
        middle = (stop[:-1] + stop[1:]) / 2
        way = np.column_stack([np.interp(along, middle, unit[:, c]) for c in (0, 1)])
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), NO_LENGTH)
        return place, np.stack([-way[:, 1], way[:, 0]], 1)


def ways_along(lines: Sequence[Points]) -> list[Way]:
    """Outlines (n, 2) taken apart at their corners, the longest first."""
    out = []
    for line in lines:
        line = line[np.append(True, np.linalg.norm(np.diff(line, axis=0), axis=1) > ROUNDING)]
        if len(line) < 2:
            continue
        step = np.diff(line, axis=0)
        turn = np.degrees(np.arctan2(
            step[:-1, 0] * step[1:, 1] - step[:-1, 1] * step[1:, 0], (step[:-1] * step[1:]).sum(1)
        ))  # fmt: skip
        stops = [0, *(np.flatnonzero(np.abs(turn) > CORNER) + 1), len(line) - 1]
        out += [Way(line[a : b + 1]) for a, b in pairwise(stops)]
    return sorted(out, key=lambda w: -w.length)


def across(shape: shapely.Geometry, place: Points, inward: Points, reach: float) -> tuple[Points, NDArray[np.bool_]]:
    """(N, 2) from which to which depth the first stretch of a shape lies along rays.
    They reach ``reach`` metres inward, and (N,) whether one does.
    """
    corners, ring = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(shape)), return_index=True)
    side = np.flatnonzero(ring[1:] == ring[:-1])
    begin, way = corners[side], corners[side + 1] - corners[side]
    first = np.zeros((len(place), 2))
    # All rays against all sides: there are few sides, and asking each ray by itself takes twenty times as long.
    step = max(BATCH // max(len(side), 1), 1)
    for at in range(0, len(place), step):
        rows = slice(at, at + step)
        ray, gap = inward[rows, None], begin[None] - place[rows, None]
        turn = ray[..., 0] * way[:, 1] - ray[..., 1] * way[:, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            depth = (gap[..., 0] * way[:, 1] - gap[..., 1] * way[:, 0]) / turn
            share = (gap[..., 0] * ray[..., 1] - gap[..., 1] * ray[..., 0]) / turn
        met = (turn != 0) & (depth > 0) & (depth <= reach) & (share >= 0) & (share < 1)
        nearest = np.sort(np.where(met, depth, np.inf), axis=1)[:, :2]
        if nearest.shape[1] == 2:
            first[rows] = np.where(np.isfinite(nearest[:, 1:]), nearest, 0.0)
    return first, first[:, 1] - first[:, 0] > HAIR


def about(shape: shapely.Geometry, place: Points, reach: float) -> shapely.Geometry:
    """As much of a shape as lies within reach of places."""
    low, high = place.min(0) - reach, place.max(0) + reach
    return shapely.clip_by_rect(shape, *low, *high) if shapely.get_num_coordinates(shape) > 60 else shape


def waves_in(
    shape: shapely.Geometry, ways: Sequence[Way], spacing: float, reach: float
) -> tuple[list[Points], shapely.Geometry]:
    """A wave (n, 2) along all of a layer, and what is left of it.
    It is ``spacing`` metres from crest to crest, from one side of the layer to the other. ``ways`` are the outlines
    that it may lie behind, no more than ``reach`` metres away.
    """
    out: list[Points] = []
    pieces, left = shapely.get_parts(shape), []
    if not len(ways) or not len(pieces):
        return out, shape
    near, which = shapely.STRtree([shapely.LineString(w.xy) for w in ways]).query(
        pieces, predicate="dwithin", distance=reach
    )
    for number, piece in enumerate(pieces):
        # The longest first: it has the whole of a corner.
        waves, rest = _waved(piece, [ways[k] for k in np.sort(which[near == number])], spacing, reach)
        out += waves
        left += list(shapely.get_parts(rest))
    return out, polygonal(shapely.MultiPolygon([p for p in left if shapely.get_type_id(p) == 3]))


def _waved(
    shape: shapely.Geometry, ways: Sequence[Way], spacing: float, reach: float
) -> tuple[list[Points], shapely.Geometry]:
    """The waves of one piece of a layer, and what is left of it."""
    out, left = [], shape
    for way in ways:
        if left.is_empty or left.area < LEFT * shape.area:
            break
        step = spacing / 8
        # A little farther than the way goes: into the corner that its neighbour does not reach.
        along = np.arange(-reach, way.length + reach + step, step)
        place, inward = way.at(along)
        depth, there = across(about(left, place, 2 * reach + 1.0), place, inward, 2 * reach + 1.0)
        there &= depth[:, 0] <= reach + NEAR
        if not there.any():
            continue
        usual = float(np.median((depth[:, 1] - depth[:, 0])[there]))
        there &= depth[:, 1] - depth[:, 0] > THIN * usual
        end = np.minimum(depth[:, 1], depth[:, 0] + THICK * usual)
        taken = []
        for rows in np.split(np.arange(len(along)), np.flatnonzero(np.diff(there.astype(int))) + 1):
            if not there[rows[0]] or len(rows) < 3:
                continue
            # A stretch is broken where the layer jumps.
            jumps = np.flatnonzero(np.abs(np.diff(depth[rows, 0])) > max(0.5 * usual, step)) + 1
            for one in np.split(rows, jumps):
                if len(one) < 3:
                    continue
                a = place[one] + depth[one, :1] * inward[one]
                b = place[one] + end[one, None] * inward[one]
                out.append(swung(a, b, spacing))
                taken.append(shapely.make_valid(shapely.Polygon(np.concatenate([a, b[::-1]]))))
        if taken:
            left = polygonal(
                shapely.difference(left, shapely.buffer(shapely.union_all(taken), step, join_style="mitre"))
            )
    return out, left
