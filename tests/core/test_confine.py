"""Strokes kept within a shape: all that lies inside and nothing else, whatever the shape."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from tests.conftest import deeper
from warmgraphite.ink.assign import Style
from warmgraphite.ink.confine import Confine, confined
from warmgraphite.ink.strokes import Strokes

PEN = Style("edge", 0.18, "#000000", ())


def shapes(rng: np.random.Generator) -> shapely.Geometry:
    """Discs with holes, slivers, rings that touch in a point, and squares side by side."""
    discs = [
        shapely.Point(*rng.uniform(0, 100, 2)).buffer(rng.uniform(2, 15), quad_segs=int(rng.integers(1, 9)))
        for _ in range(12)
    ]
    holes = [shapely.Point(*rng.uniform(0, 100, 2)).buffer(rng.uniform(1, 5)) for _ in range(14)]
    slivers = [
        shapely.Polygon([p, p + np.array([60, 0.01]), p + np.array([0, 0.004])]) for p in rng.uniform(0, 60, (4, 2))
    ]
    at = rng.uniform(10, 80, 2)
    touching = [
        shapely.box(*at, *(at + 6)),
        shapely.box(*(at + 6), *(at + 12)),
        shapely.box(at[0] + 6, at[1], at[0] + 9, at[1] + 6),
    ]
    return shapely.union_all(
        [shapely.difference(shapely.union_all(discs), shapely.union_all(holes)), *slivers, *touching]
    )


def lines(rng: np.random.Generator, shape: shapely.Geometry) -> list[np.ndarray]:
    """Strokes of every length, rings, strokes along the edges of the shape, and some that are a point."""
    found = [
        np.cumsum(np.vstack([rng.uniform(-10, 110, 2), rng.normal(0, 9, (rng.integers(1, 9), 2))]), 0)
        for _ in range(300)
    ]
    found += [np.vstack([line, line[:1]]) for line in found[:60] if len(line) > 2]
    rings = shapely.get_rings(shapely.get_parts(shape))
    found += [shapely.get_coordinates(ring) for ring in rings]
    return [*found, np.array([[5.0, 5], [5, 5]])]


@pytest.mark.parametrize("seed", deeper(range(4), range(4, 24)))
def test_all_of_a_stroke_that_lies_inside_is_kept_and_nothing_else(seed: int) -> None:
    rng = np.random.default_rng(seed)
    shape = shapes(rng)
    drawn = lines(rng, shape)
    room = Confine.of(shape)
    roomy = room.around.buffer(1e-7)
    for number, line in enumerate(drawn):
        kept = confined([Strokes(PEN, [line])], room)
        pieces = [p for strokes in kept for p in strokes.lines]
        # Where a stroke runs over itself a union counts it once, so lengths are compared side by side.
        sides = shapely.linestrings(np.stack([line[:-1], line[1:]], 1))
        length = sum(float(np.linalg.norm(np.diff(p, axis=0), axis=1).sum()) for p in pieces)
        assert length == pytest.approx(
            float(shapely.length(shapely.intersection(sides, room.around)).sum()), abs=1e-6
        ), number
        assert all(roomy.covers(shapely.linestrings(piece)) for piece in pieces)
        on_edge = number >= len(drawn) - 1 - len(shapely.get_rings(shapely.get_parts(shape)))
        if on_edge and number < len(drawn) - 1:
            assert len(pieces) == 1 and np.array_equal(pieces[0], line), "the edge itself belongs to the shape"


def test_a_ring_that_is_cut_goes_on_where_it_began_and_strokes_stay_in_order() -> None:
    square = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10], [0, 0]])
    across = np.array([[-5.0, 5], [20, 5]])
    (kept,) = confined([Strokes(PEN, [across, square, across + 1])], Confine.of(shapely.box(-1, -1, 6, 20)))
    first, ring, last = kept.lines
    assert np.allclose(ring, [[6, 10], [0, 10], [0, 0], [6, 0]], atol=0.05) and first[0, 1] == 5 and last[0, 1] == 6
    assert confined([Strokes(PEN, [across])], Confine.of(shapely.Polygon())) == []
