"""Where a hatch is only suggested, and how near its lines lie to one another where it covers more or less."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy import ndimage

from warmgraphite.geometry.ragged import ordinals, row_of
from warmgraphite.ink.hatch_marks import (
    CELLS,
    MOST,
    STREWN,
    Asked,
    Marks,
    Points,
    ToneField,
    evenly,
    joined_marks,
    marks_at,
    sizes,
    turn_matrix,
)
from warmgraphite.ink.kernels import courses, within
from warmgraphite.ink.pattern import Scatter
from warmgraphite.noise.hashing import hashed, unit_share
from warmgraphite.noise.value import value_over

__all__ = [
    "halving_steps",
    "patch_share",
    "stays_at",
    "strewn",
]


def strewn(asked: Asked, scatter: Scatter) -> Marks:
    """Marks without order: the beginning of an even order as long as is wanted there, tile by tile."""
    hatch, apart = asked.hatch, scatter.apart * asked.unit
    matrix = asked.lie.matrix @ turn_matrix(hatch.angle)
    points = asked.rings.under(np.linalg.inv(matrix))
    side = np.sqrt(STREWN) * apart
    _, size = sizes(matrix, points, apart, apart)
    most = float(size.max(initial=0.0))
    share = 0.5**asked.place.drop * (min(1.0, (most / asked.least) ** 2) if asked.least else 1.0)
    low, high = np.floor(points.min(0) / side).astype(int), np.floor(points.max(0) / side).astype(int)
    tiles = int(np.prod(high - low + 1))
    share = min(share, MOST / tiles / STREWN)
    count = int(STREWN * share)
    if not count:
        return joined_marks([])
    i, j, n = (
        g.ravel()
        for g in np.meshgrid(
            np.arange(low[0], high[0] + 1), np.arange(low[1], high[1] + 1), np.arange(count), indexing="ij"
        )
    )
    place = (evenly(scatter.seed)[n] + np.stack([i, j], 1)) * side
    margin = 1.5 * apart
    near = _is_near(points, asked.rings.first, place, margin)
    i, j, n, place = i[near], j[near], n[near], place[near]
    flat = place @ matrix[:, :2].T + matrix[:, 2]
    ahead = flat[:, 2] * (points[0] @ matrix[2, :2] + matrix[2, 2]) > 0  # on this side of the plane's horizon
    i, j, n, place, flat = i[ahead], j[ahead], n[ahead], place[ahead], flat[ahead]
    xy = np.ascontiguousarray(flat[:, :2] / flat[:, 2:])
    number = hashed(i, j, n, np.full(len(n), scatter.seed))
    rank = (n + unit_share(number ^ np.uint64(5))) / STREWN
    kept = np.ones(len(n), bool)
    if asked.least and len(place):
        _, here = sizes(matrix, place, apart, apart)
        kept &= rank < (here / asked.least) ** 2
    if scatter.sinks:
        depth = within.depth_within(asked.rings.points, asked.rings.first, xy, *asked.place.paper, asked.place.level)
        kept &= rank < np.exp(-np.maximum(depth - 0.6, 0.0) / scatter.sinks)
    if len(asked.field.tone):
        kept &= rank < _tone_at(asked.field, xy) ** 1.3
    if hatch.suggested:
        patch = patch_share(asked, xy)
        kept &= patch + 0.45 * asked.dark >= 1.12 * hatch.suggested * (0.6 + 0.4 * unit_share(number ^ np.uint64(9)))
    return marks_at(asked, scatter, place[kept], xy[kept], number[kept], matrix)


def patch_share(asked: Asked, xy: Points) -> Points:
    """(N,) from 0 to 1: where a pattern is drawn out that is only suggested.
    At places of the paper, counted from what stays when that is drawn out; as in the loops over courses.
    """
    u, v = ((xy - asked.middle) / courses.PATCH).T
    return 0.5 + 0.5 * value_over(asked.place.key, u, v)


def _is_near(points: Points, first: NDArray[np.int64], place: Points, margin: float) -> NDArray[np.bool_]:
    """(N,) whether places lie within outlines, or about ``margin`` from them.
    Told in coarse cells, so that of a long thin shape not all that lies round it is looked at.
    """
    low, high = points.min(0) - margin, points.max(0) + margin
    near = ((place >= low) & (place <= high)).all(1)
    cell = max(margin, float((high - low).max()) / CELLS)
    size = np.ceil((high - low) / cell).astype(int) + 2
    inside = np.zeros(size[::-1], bool)
    edges = np.zeros_like(inside)
    for a, b in itertools.pairwise(first):
        image = Image.new("1", (int(size[0]), int(size[1])))
        ImageDraw.Draw(image).polygon([tuple(p) for p in ((points[a:b] - low) / cell + 1).tolist()], fill=1, outline=1)
        inside ^= np.asarray(image, bool)
        # Outlines count as within, whichever way the halves of two rings fall out.
        step = np.abs(np.diff(points[a:b], axis=0, append=points[a : a + 1])).max(1)
        count = np.maximum(np.ceil(2 * step / cell), 1).astype(int)
        k = row_of(count)
        share = ordinals(count) / count[k]
        edge = points[a:b][k] + share[:, None] * (np.roll(points[a:b], -1, 0) - points[a:b])[k]
        x, y = ((edge - low) / cell + 1).astype(int).T
        edges[y, x] = True
    inside = ndimage.binary_dilation(inside | edges, iterations=int(np.ceil(margin / cell)) + 1)
    rows = np.flatnonzero(near)
    x, y = ((place[rows] - low) / cell + 1).astype(int).T
    near[rows] = inside[y, x]
    return near


def _tone_at(field: ToneField, xy: Points) -> Points:
    j, i = (xy * [field.per_mm[0], field.per_mm[1]]).astype(int).T
    rows, columns = field.tone.shape
    return field.tone[np.clip(i, 0, rows - 1), np.clip(j, 0, columns - 1)] / 255.0


def halving_steps(number: int) -> int:
    """Through how many halvings a whole number but 0 is left.
    1, 3, 5, … go first, then 2, 6, 10, …
    """
    return (number & -number).bit_length() - 1


def stays_at(number: int, marks: int, row: NDArray[np.int64]) -> NDArray[np.float64]:
    """(N,) how many halvings a mark of a tile stays through where tiles lie too close.
    The first of its marks, when all others are gone, goes with every other row.
    """
    if number:
        return np.full(len(row), float(halving_steps(number)))
    lowest = np.where(row == 0, 1 << 20, row & -row)
    return np.ceil(np.log2(marks)) + np.log2(lowest)  # type: ignore[no-any-return]
