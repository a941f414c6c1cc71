"""Loops that are compiled, each against a general library or against all pairs.
Whatever stands on them is drawn over many of them.
"""

from __future__ import annotations

import re
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import Delaunay

from tests.conftest import examples
from warmgraphite.canvas.kernels.marks import areas, outlines, path_data, tinted
from warmgraphite.collage.fields import STEPS, field_of
from warmgraphite.collage.kernels.following import followed
from warmgraphite.ink.kernels.strokes import dashed, lengths
from warmgraphite.ink.kernels.within import clipped
from warmgraphite.model.kernels import weld_points
from warmgraphite.passes.kernels.cover import covered
from warmgraphite.passes.kernels.crossings import Boxes, Faces, box_tree, crossings, morton_codes, triangle_boxes
from warmgraphite.passes.kernels.grid import Prepared, lay_in_cells, look_at, prepare_triangles, sort_cells
from warmgraphite.passes.kernels.records import Grid
from warmgraphite.passes.kernels.winding import single_loops, winding

Floats = NDArray[np.float64]
seeds = st.integers(0, 10_000)
HIGH, WIDE = 9, 13
PIXELS = shapely.box(*(np.stack(np.meshgrid(np.arange(WIDE), np.arange(HIGH)), -1).reshape(-1, 2).T), *(
    np.stack(np.meshgrid(np.arange(WIDE), np.arange(HIGH)), -1).reshape(-1, 2).T + 1.0
))  # fmt: skip


def star(rng: np.random.Generator, corners: int, reach: float) -> Floats:
    """A ring (n, 2) without crossings, once round the middle of the pixels, that may reach beyond them; closed."""
    turns = (np.arange(corners) + rng.random(corners)) * 2 * np.pi / corners
    away = rng.uniform(0.3, 1.0, corners) * reach
    ring = np.stack([WIDE / 2 + away * np.cos(turns), HIGH / 2 + away * np.sin(turns)], 1)
    return np.vstack([ring, ring[:1]])


# -- Shares of pixels


@settings(max_examples=examples(60, 15), deadline=None)
@given(seeds)
def test_cells_of_a_map_share_each_pixel_by_their_areas(seed: int) -> None:
    rng = np.random.default_rng(seed)
    corners = np.vstack([[[0, 0], [WIDE, 0], [0, HIGH], [WIDE, HIGH]], rng.uniform(0, [WIDE, HIGH], (12, 2))])
    cells = shapely.polygons(corners[Delaunay(corners).simplices])
    rings = [shapely.get_coordinates(shapely.normalize(c)) for c in cells]
    start = np.append(0, np.cumsum([len(r) for r in rings])).astype(np.int64)
    whole = np.full((HIGH, WIDE), -1, np.int32)
    pixel, cell, share = covered(
        np.concatenate(rings), start, np.arange(len(cells) + 1), np.array([c.bounds for c in cells]), 0, HIGH, whole
    )
    found = np.zeros((HIGH * WIDE, len(cells)))
    found[pixel, cell] = share
    alone = whole.reshape(-1)
    found[np.flatnonzero(alone >= 0), alone[alone >= 0]] = 1
    np.testing.assert_allclose(found, shapely.area(shapely.intersection(PIXELS[:, None], cells[None])), atol=2e-6)


@settings(max_examples=examples(80, 25), deadline=None)
@given(seeds, st.sampled_from([3.0, 8.0, 60.0]))
def test_an_area_takes_its_share_of_each_pixel_also_where_it_leaves_the_picture(seed: int, reach: float) -> None:
    ring = star(np.random.default_rng(seed), 9, reach)[:-1].astype(np.float32)
    acc = np.zeros((HIGH, WIDE + 2), np.float32)
    areas(ring, np.array([0, len(ring)]), 1.0, 1.0, 0.0, 0.0, acc)
    found = np.abs(np.cumsum(acc, 1))[:, :WIDE].reshape(-1)
    np.testing.assert_allclose(found, shapely.area(shapely.intersection(PIXELS, shapely.Polygon(ring))), atol=2e-4)
    out = np.zeros((HIGH, WIDE), np.uint32)
    tinted(acc, np.arange(256, dtype=np.uint32), out)
    assert np.abs(out.reshape(-1) / 255 - np.minimum(found, 1)).max() < 0.003


@settings(max_examples=examples(60, 20), deadline=None)
@given(seeds, st.floats(0.05, 3))
def test_the_outline_of_a_straight_stroke_is_as_wide_as_the_pen(seed: int, width: float) -> None:
    ends = np.random.default_rng(seed).uniform(-50, 50, (2, 2)).astype(np.float32)
    shape = shapely.Polygon(outlines(ends, np.full(2, width, np.float32), np.array([0, 2])))
    line = shapely.LineString(ends)
    assert shape.is_valid and shape.area == pytest.approx(line.length * width, rel=1e-4)
    assert shape.symmetric_difference(line.buffer(width / 2, cap_style="flat")).area < 1e-3 * shape.area + 1e-4


@settings(max_examples=examples(100, 30), deadline=None)
@given(
    st.lists(st.lists(st.tuples(st.integers(-99_999, 99_999), st.integers(-99_999, 99_999)), max_size=6), max_size=4),
    st.integers(0, 4),
    st.booleans(),
)
def test_the_text_of_marks_says_their_places_to_the_last_digit(
    rows: list[list[tuple[int, int]]], digits: int, steps: bool
) -> None:
    xy = np.array([p for row in rows for p in row], np.int64).reshape(-1, 2)
    first = np.append(0, np.cumsum([len(r) for r in rows])).astype(np.int64)
    text = path_data(xy, first, False, digits, steps).tobytes().decode()
    found = []
    for words in re.findall(r"M[^M]*", text):
        numbers = np.array([round(float(v) * 10**digits) for v in re.findall(r"-?[\d.]+", words)]).reshape(-1, 2)
        line = np.cumsum(numbers, 0) if steps else numbers
        found.append([tuple(p) for p in (np.vstack([line, line[:1]]) if "Z" in words else line).tolist()])
    assert found == [row for row in rows if row]


# -- Cuts, triangles, cells


def test_a_line_through_an_outline_with_hundreds_of_edges_stays_within_it() -> None:
    """A comb of three hundred teeth: a hatch line crosses six hundred of its edges."""
    teeth = np.arange(300)
    comb = np.array(
        [p for x in teeth for p in ((x, 0.0), (x, 10.0), (x + 0.5, 10.0), (x + 0.5, 0.0))]
        + [(300.0, 0.0), (300.0, -1), (0, -1)]
    )
    line = np.array([(-5.0, 5.0), (305.0, 5.2)])
    found, starts, _ = clipped(comb, np.array([0, len(comb)]), line, np.array([0, 2]))
    exact = shapely.Polygon(comb).intersection(shapely.LineString(line))
    drawn = shapely.MultiLineString([found[a:b] for a, b in pairwise(starts)])
    assert (
        len(starts) - 1 == 300
        and drawn.length == pytest.approx(exact.length)
        and drawn.hausdorff_distance(exact) < 1e-9
    )


@settings(max_examples=examples(60, 20), deadline=None)
@given(seeds)
def test_points_lie_within_a_ring_where_a_geometry_library_says_so(seed: int) -> None:
    rng = np.random.default_rng(seed)
    ring = star(rng, 11, 6.0)
    points = rng.uniform([-2, -2], [WIDE + 2, HIGH + 2], (200, 2))
    for way in (1, -1):
        path = np.ascontiguousarray(ring[::way])
        signed, crossed = winding(points, path[:-1].copy(), path[1:].copy())
        within = shapely.contains_xy(shapely.Polygon(ring), points)
        assert (signed == way * within).all() and (crossed % 2 == within).all()


@given(st.permutations(range(7)), st.sampled_from(["ring", "two rings", "open", "twice through one corner"]))
def test_only_what_goes_round_once_is_a_loop(order: list[int], what: str) -> None:
    nodes = {
        "ring": [(0, 1), (1, 2), (2, 3), (3, 4), (4, 5), (5, 6), (6, 0)],
        "two rings": [(0, 1), (1, 2), (2, 0), (3, 4), (4, 5), (5, 6), (6, 3)],
        "open": [(0, 1), (1, 2), (2, 3), (3, 4), (4, 5), (5, 6), (6, 7)],
        "twice through one corner": [(0, 1), (1, 2), (2, 0), (0, 3), (3, 4), (4, 5), (5, 0)],
    }[what]
    ends = np.array(nodes, np.int64)[order]
    loop, path = single_loops(np.array([0, 7]), ends[:, 0].copy(), ends[:, 1].copy(), 8)
    assert loop.tolist() == [what == "ring"]
    if what == "ring":
        assert (ends[path, 1] == ends[np.roll(path, -1), 0]).all()


def met(a: Floats, b: Floats) -> Floats | None:
    """The stretch (2, 3) that two triangles have in common, from where the sides of each run through the other.
    None where they miss.
    """
    found = []
    for one, other in ((a, b), (b, a)):
        u, v = other[1] - other[0], other[2] - other[0]
        for i in range(3):
            way = one[(i + 1) % 3] - one[i]
            try:
                t, p, q = np.linalg.solve(np.stack([-way, u, v], 1), one[i] - other[0])
            except np.linalg.LinAlgError:
                continue
            if 0 <= t <= 1 and p >= 0 and q >= 0 and p + q <= 1:
                found.append(one[i] + t * way)
    return np.array(found) if len(found) == 2 else None


@settings(max_examples=examples(30, 8), deadline=None)
@given(seeds)
def test_triangles_that_run_through_each_other_are_found_as_all_pairs_find_them(seed: int) -> None:
    rng = np.random.default_rng(seed)
    points = (rng.uniform(0, 4, (24, 1, 3)) + rng.normal(0, 0.7, (24, 3, 3))).reshape(-1, 3)
    triangles, part = np.arange(72, dtype=np.int32).reshape(24, 3), np.arange(24, dtype=np.int32)
    low, high = np.empty((24, 3)), np.empty((24, 3))
    triangle_boxes(points, triangles, low, high, 0, 24)
    order = np.argsort(morton_codes(low, high, low.min(0), float(np.ptp(points)))).astype(np.int32)
    boxes, levels = box_tree(low, high, order)
    assert (boxes[-1] == np.concatenate([low.min(0), high.max(0)])).all()
    touched = np.zeros(24, bool)
    flat = np.zeros((24, 3), bool)
    tree = Boxes(low, high, order, boxes, levels)
    pairs, ends = crossings(Faces(points, triangles, part, flat), tree, 1e-9, touched, 0, levels[1])
    found = {tuple(sorted(p)): e.reshape(2, 3) for p, e in zip(pairs.tolist(), ends, strict=True)}
    wanted = {
        (a, b): s
        for a in range(24)
        for b in range(a + 1, 24)
        if (s := met(points[triangles[a]], points[triangles[b]])) is not None
    }
    assert found.keys() == wanted.keys() and touched[[k for pair in wanted for k in pair]].all()
    for pair, stretch in wanted.items():
        straight, turned = (np.abs(found[pair][::way] - stretch).max() for way in (1, -1))
        assert min(straight, turned) < 1e-6


@settings(max_examples=examples(40, 12), deadline=None)
@given(seeds)
def test_what_is_seen_at_a_place_is_the_nearest_of_all_triangles(seed: int) -> None:
    """Through cells, sorted by depth, as through none; a pane is seen through, and told where it is glass."""
    rng = np.random.default_rng(seed)
    corners = rng.uniform(0, 10, (40, 1, 3)) + rng.normal(0, 1.6, (40, 3, 3))
    laid = Prepared(np.empty((40, 3, 3)), np.empty(40), np.empty(40), np.empty((40, 3)), np.empty((40, 13)))
    prepare_triangles(corners, np.eye(4), False, 1e-9, 0, 40, laid)
    cells = 100
    grid = Grid(np.zeros(cells + 1, np.int64), np.empty(0, np.int32), -2.0, -2.0, 1.5, 10, 10)
    lay_in_cells(laid, grid, 0.01, 0, 40, grid.start[1:])
    np.cumsum(grid.start, out=grid.start)
    grid = grid._replace(triangle=np.empty(grid.start[-1], np.int32))
    lay_in_cells(laid, grid, 0.01, 0, 40, grid.start[:-1].copy())
    sort_cells(grid, laid.near, 0, cells)
    places = rng.uniform(-2, 12, (300, 2))
    pane, glass = rng.random(40) < 0.3, rng.random(40) < 0.5
    found, depth, before = look_at(places, laid.forms, pane, pane & glass, laid.near, grid)
    inside = shapely.contains_xy(shapely.polygons(corners[..., :2])[:, None], *places.T)
    planes = np.linalg.solve(np.concatenate([corners[..., :2], np.ones((40, 3, 1))], 2), corners[..., 2:])[..., 0]
    deep = np.where(inside, planes[:, :2] @ places.T + planes[:, 2:], np.inf)
    solid = np.where(pane[:, None], np.inf, deep)
    nearest = solid.min(0)
    assert (found == np.where(np.isfinite(nearest), solid.argmin(0), -1)).all()
    np.testing.assert_allclose(depth, nearest, atol=1e-6)
    assert (before == (np.where((pane & glass)[:, None], deep, np.inf).min(0) < nearest)).all()


@settings(max_examples=examples(60, 20), deadline=None)
@given(seeds, st.integers(1, 3))
def test_points_are_welded_to_the_first_of_their_owner_within_reach(seed: int, shares: int) -> None:
    rng = np.random.default_rng(seed)
    points = np.round(rng.uniform(0, 1, (60, 3)), 1) + rng.uniform(-0.004, 0.004, (60, 3))
    owner, reach = rng.integers(0, 3, 60), 0.02
    found = np.full(60, -1)
    for share in range(shares):
        found = np.maximum(found, weld_points(points, owner, reach, share, shares))
    near = (np.abs(points[:, None] - points[None]).max(2) <= reach) & (owner[:, None] == owner[None])
    assert (found == near.argmax(1)).all()  # points are clusters here: the first of a cluster is the first within reach


# -- Lines


@settings(max_examples=examples(60, 20), deadline=None)
@given(seeds, st.lists(st.floats(0.3, 4), min_size=1, max_size=3))
def test_dashes_lie_on_their_line_and_end_where_it_ends(seed: int, pattern: list[float]) -> None:
    rng = np.random.default_rng(seed)
    line = np.cumsum(rng.normal(0, 4, (6, 2)), 0)
    dash = np.array([v for p in pattern for v in (p, 0.5 * p)])
    assert lengths(line, np.array([0, 6]))[0] == pytest.approx(shapely.LineString(line).length)
    points, begins, of = dashed(line, np.array([0, 6]), dash)
    assert (of == 0).all() and np.allclose(points[0], line[0]) and np.allclose(points[-1], line[-1], atol=1e-6)
    on = shapely.LineString(line)
    assert shapely.distance(shapely.points(points), on).max() < 1e-6
    drawn = sum(shapely.LineString(points[a:b]).length for a, b in pairwise(begins) if b - a > 1)
    if len(begins) > 2:  # as many whole patterns as fit, stretched alike, and one mark more
        marks, gaps = sum(pattern), 0.5 * sum(pattern)
        times = (len(begins) - 2) // len(pattern)
        assert (len(begins) - 2) % len(pattern) == 0 and drawn / on.length == pytest.approx(
            (times * marks + dash[0]) / (times * (marks + gaps) + dash[0]), rel=1e-6
        )
    else:
        assert drawn == pytest.approx(on.length)


@settings(max_examples=examples(40, 12), deadline=None)
@given(seeds)
def test_a_skeleton_is_followed_from_pixel_to_neighbour_and_none_twice(seed: int) -> None:
    from skimage.draw import line
    from skimage.morphology import skeletonize

    rng = np.random.default_rng(seed)
    ink = np.zeros((44, 60), np.uint8)
    for a, b in rng.integers(3, 40, (5, 2, 2)):
        ink[line(*a, *b)] = 1
    ink = skeletonize(ink.view(bool)).view(np.uint8)
    left = ink.copy()
    points, first = np.empty((int(ink.sum()) + 1, 2), np.int32), np.zeros(int(ink.sum()) + 2, np.int64)
    count = followed(left, points, first)
    taken = points[: first[count]]
    assert len(np.unique(taken, axis=0)) == len(taken) and ink[taken[:, 0], taken[:, 1]].all() and not left.any()
    for k in range(count):
        own = points[first[k] : first[k + 1]]
        assert len(own) > 1 and (np.abs(np.diff(own, axis=0)).max(1) == 1).all()
    assert len(taken) >= 0.9 * ink.sum(), "what is left over is single pixels at branches"


@settings(max_examples=examples(20, 6), deadline=None)
@given(seeds, st.integers(2, 9))
def test_distances_to_a_border_are_those_of_a_general_library(seed: int, smooth: int) -> None:
    noise = ndimage.gaussian_filter(np.random.default_rng(seed).normal(size=(70, 110)), smooth)
    labels = np.digitize(noise, np.quantile(noise, [0.3, 0.7])).astype(np.int32) - 1
    border = np.zeros(labels.shape, bool)
    for axis in (0, 1):
        unlike = np.diff(labels, axis=axis) != 0
        border |= np.pad(unlike, [(0, 1) if k == axis else (0, 0) for k in (0, 1)])
        border |= np.pad(unlike, [(1, 0) if k == axis else (0, 0) for k in (0, 1)])
    away = ndimage.distance_transform_edt(~border)
    soft = ndimage.convolve(away, np.outer([1, 2, 1], [1, 2, 1]) / 16, mode="nearest")
    found = field_of(labels, (110.0, 70.0))
    assert np.abs(found.away / STEPS - (soft + 0.5)).max() < 0.02
    assert (found.within == np.where(labels >= 0, 255, 0)).all()
