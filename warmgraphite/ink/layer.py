"""Marks that follow a layer: a wave between its two long sides."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING

__all__ = ["shape_of", "swung", "wave_across"]

Points = NDArray[np.float64]

#: How much longer than its thickness a side may be and still be an end of the layer.
END = 1.8
#: Millimetres of a layer in which nothing can be seen to wave.
THINNEST = 0.02
#: Points of one wave.
FINE = 14


def shape_of(rings: list[Points]) -> shapely.Geometry:
    """Outlines and holes (n, 2) as one shape, by even-odd."""
    closed = [np.concatenate([r, r[:1]]) if (r[0] != r[-1]).any() else r for r in rings if len(r) >= 3]
    solid = [shapely.make_valid(shapely.Polygon(r)) for r in closed if len(r) >= 4]
    if not solid:
        return shapely.Polygon()
    # Two and two: one after another, each of thousands is laid over all of those before it.
    left = np.array(solid, dtype=object)
    while len(left) > 1:
        even = len(left) - len(left) % 2
        left = np.append(shapely.symmetric_difference(left[:even:2], left[1:even:2]), left[even:])
    return left[0]


def wave_across(rings: list[Points], spacing: float) -> list[Points]:
    """A wave (n, 2) for each piece of a layer, ``spacing`` from crest to crest, which touches both of its sides."""
    out = []
    for piece in shapely.get_parts(shape_of(rings)):
        if shapely.get_type_id(piece) != 3 or 2 * piece.area < THINNEST * piece.length:
            continue
        sides = _sides(piece.simplify(0.02 * 2 * piece.area / piece.length))
        if sides is not None:
            out += _within(piece, _wave(*sides, spacing))
    return out


def _within(piece: shapely.Polygon, lines: list[Points]) -> list[Points]:
    """What of lines lies within a piece: where that is no layer, but a wedge, a wave swings out of it."""
    room = shapely.buffer(piece, 0.02)
    shapely.prepare(room)
    found: list[Points] = []
    for line in lines:
        own = shapely.linestrings(line)
        if shapely.covers(room, own):
            found.append(line)
            continue
        left = shapely.get_parts(shapely.line_merge(shapely.intersection(own, room)))
        found += [shapely.get_coordinates(p) for p in left if shapely.get_type_id(p) == 1]
    return found


def _sides(piece: shapely.Polygon) -> tuple[Points, Points] | None:
    """The two long sides of a layer, both in one direction; ``None`` of nothing."""
    ring = np.asarray(piece.exterior.coords)[:-1, :2]
    if len(piece.interiors) == 1:
        inner = np.asarray(piece.interiors[0].coords)[:, :2]
        outer = np.concatenate([ring, ring[:1]])
        if shapely.LinearRing(inner).is_ccw != piece.exterior.is_ccw:
            inner = inner[::-1]
        # Both begin where they are nearest.
        start = int(np.argmin(np.linalg.norm(inner[:-1] - outer[0], axis=1)))
        inner = np.concatenate([inner[start:-1], inner[: start + 1]])
        return outer, inner
    thick = 2 * piece.area / piece.length
    if not piece.exterior.is_ccw:
        ring = ring[::-1]
    step = np.roll(ring, -1, 0) - ring
    length = np.linalg.norm(step, axis=1)
    way = step / np.maximum(length, NO_LENGTH)[:, None]
    before = np.roll(way, 1, 0)
    turn = np.arctan2(before[:, 0] * way[:, 1] - before[:, 1] * way[:, 0], (before * way).sum(1))
    sharp = (turn > 0.8) & (turn < 2.4)
    ends = np.flatnonzero(sharp & np.roll(sharp, -1) & (length < END * thick))
    if len(ends) < 2 or len(ring) < 4:
        return _sides_of_box(piece)
    at = np.append(0, np.cumsum(length))[:-1] + length / 2
    gap = np.abs(at[ends][:, None] - at[ends][None])
    gap = np.minimum(gap, length.sum() - gap)
    i, j = np.unravel_index(int(gap.argmax()), gap.shape)
    first, second = sorted((int(ends[i]), int(ends[j])))
    count = len(ring)
    one = ring[first + 1 : second + 1]
    other = np.roll(ring, -(second + 1), 0)[: count - (second - first)][::-1]
    return (one, other) if len(one) > 1 and len(other) > 1 else _sides_of_box(piece)


def _sides_of_box(piece: shapely.Polygon) -> tuple[Points, Points] | None:
    """The long sides of the smallest box about a piece."""
    box = shapely.minimum_rotated_rectangle(piece)
    if shapely.get_type_id(box) != 3:
        return None
    a, b, c, d = np.asarray(box.exterior.coords)[:4, :2]
    if np.linalg.norm(b - a) < np.linalg.norm(c - b):
        a, b, c, d = b, c, d, a
    return np.stack([a, b]), np.stack([d, c])


def _wave(one: Points, other: Points, spacing: float) -> list[Points]:
    lines = sorted((shapely.LineString(one), shapely.LineString(other)), key=lambda line: -line.length)
    # From the longer side to what is nearest of the shorter, so that a wave goes round a bend like a fan.
    fine = max(int(lines[0].length / spacing * 4), 8)
    a = shapely.get_coordinates(shapely.line_interpolate_point(lines[0], np.linspace(0, 1, fine + 1), normalized=True))
    b = shapely.get_coordinates(
        shapely.line_interpolate_point(lines[1], shapely.line_locate_point(lines[1], shapely.points(a)))
    )
    return [swung(a, b, spacing)]


def swung(a: Points, b: Points, spacing: float) -> Points:
    """A wave (n, 2), about ``spacing`` from crest to crest, between two lines (m, 2) whose points belong together."""
    middle = (a + b) / 2
    along = np.append(0, np.cumsum(np.linalg.norm(np.diff(middle, axis=0), axis=1)))
    waves = max(round(along[-1] / spacing), 1)
    at = np.linspace(0, along[-1], waves * FINE + 1)
    a, b = (np.column_stack([np.interp(at, along, side[:, k]) for k in (0, 1)]) for side in (a, b))
    swing = np.tanh(1.8 * np.cos(2 * np.pi * waves * at / max(along[-1], ROUNDING))) / np.tanh(1.8)
    share = (0.5 - 0.5 * swing)[:, None]
    return a * (1 - share) + b * share
