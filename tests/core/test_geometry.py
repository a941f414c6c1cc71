"""Plain geometry against lists, general libraries and published values."""

from __future__ import annotations

import networkx
import numpy as np
import pytest
import shapely
import skimage.transform
import trimesh

from warmgraphite.geometry import ragged
from warmgraphite.geometry.components import components
from warmgraphite.geometry.frames import about, level_axes, looking
from warmgraphite.geometry.homography import homography
from warmgraphite.geometry.tolerances import NO_AREA, WELD, Tolerances
from warmgraphite.geometry.triangles import areas, holds, normals, sixths, unit_rows


@pytest.mark.parametrize("seed", range(6))
def test_rows_of_unequal_length_are_what_lists_are(seed: int) -> None:
    chance = np.random.default_rng(seed)
    lists = [chance.normal(size=(n, 2)).tolist() for n in chance.integers(0, 5, chance.integers(0, 9))]
    flat, first = ragged.joined([np.reshape(row, (-1, 2)) for row in lists], np.empty((0, 2)))
    assert [r.tolist() for r in ragged.split_rows(flat, first)] == lists and first.dtype == np.int64
    counts = np.diff(first)
    assert counts.tolist() == [len(row) for row in lists] and (ragged.firsts(counts) == first).all()
    assert ragged.row_of(counts).tolist() == [k for k, row in enumerate(lists) for _ in row]
    assert ragged.ordinals(counts).tolist() == [k for row in lists for k in range(len(row))]
    chosen = chance.permutation(len(lists))[: len(lists) // 2]
    for rows in (chosen, np.isin(np.arange(len(lists)), chosen)):
        at, begins = ragged.taken(first, rows)
        asked = chosen if rows.dtype != bool else np.sort(chosen)
        assert [r.tolist() for r in ragged.split_rows(flat[at], begins)] == [lists[k] for k in asked]


def test_triangles_are_as_large_and_hold_as_much_as_a_general_library_says() -> None:
    body = trimesh.creation.icosphere(subdivisions=2, radius=1.7).apply_translation([3, 4, 5])
    corners = np.asarray(body.triangles)
    assert areas(corners) == pytest.approx(body.area_faces) and sixths(corners).sum() == pytest.approx(body.volume)
    assert unit_rows(normals(corners), NO_AREA) == pytest.approx(np.asarray(body.face_normals))
    assert (unit_rows(np.zeros((1, 3)), NO_AREA) == 0).all(), "what has no direction gets none"


def test_a_place_is_on_a_triangle_where_a_general_library_has_it() -> None:
    chance = np.random.default_rng(4)
    flat, at = chance.uniform(size=(400, 3, 2)), chance.uniform(size=(400, 2))
    turn = np.linalg.qr(chance.normal(size=(3, 3)))[0]
    corners = np.concatenate([flat, np.zeros((400, 3, 1))], 2) @ turn
    points = np.column_stack([at, np.zeros(400)]) @ turn
    asked = shapely.contains(shapely.polygons(flat), shapely.points(at))
    assert (holds(corners, points, unit_rows(normals(corners), NO_AREA), 0.0) == asked).all() and 0 < asked.sum() < 200


@pytest.mark.parametrize("seed", range(4))
def test_axes_are_upright_to_one_another_and_level_where_they_are_said_to_be(seed: int) -> None:
    normal = unit_rows(np.random.default_rng(seed).normal(size=(1, 3)), NO_AREA)[0]
    for u, v in (level_axes(normal, 1e-6), about(normal), looking(normal)[:2]):
        frame = np.stack([u, v, normal])
        assert frame @ frame.T == pytest.approx(np.eye(3), abs=1e-12)
    assert level_axes(normal, 1e-6)[0][2] == looking(normal)[0][2] == 0 and looking(normal)[1][2] > 0
    assert np.array(level_axes(np.array([0, 0, 1.0]), 1e-6)).tolist() == [[1, 0, 0], [0, 1, 0]], "east and north"


def test_what_hangs_together_is_what_a_general_library_finds() -> None:
    a, b = np.random.default_rng(2).integers(0, 90, (2, 60))
    found = components(90, a, b)
    graph = networkx.Graph(zip(a.tolist(), b.tolist(), strict=True))
    graph.add_nodes_from(range(90))
    asked = sorted(sorted(c) for c in networkx.connected_components(graph))
    assert sorted(np.flatnonzero(found == k).tolist() for k in range(found.max() + 1)) == asked
    firsts = [int(np.flatnonzero(found == k)[0]) for k in range(found.max() + 1)]
    assert firsts == sorted(firsts) and components(3, a[:0], b[:0]).tolist() == [0, 1, 2]


def test_a_projective_map_is_that_of_a_general_library() -> None:
    start, end = np.array([[0, 0], [4, 0], [4, 3], [0, 3.0]]), np.array([[1, 1], [7, 2], [6, 5], [0, 4.0]])
    other = skimage.transform.ProjectiveTransform.from_estimate(start, end)
    points = np.random.default_rng(1).uniform(0, 4, (20, 2))
    found = np.column_stack([points, np.ones(20)]) @ homography(start, end).T
    assert found[:, :2] / found[:, 2:] == pytest.approx(other(points))


def test_tolerances_follow_the_model_and_never_fall_below_the_weld() -> None:
    small, large = Tolerances.of(2.0), Tolerances.of(900.0)
    assert small.contact == WELD < large.contact == pytest.approx(900 * 3e-6)
    # Single precision over the large one: numbers of its size lie no farther apart than surfaces that touch may.
    assert np.spacing(np.float32(900)) < large.contact / 10 and large.near(3) == 3 * large.contact
    assert small.near(3, 1.0) == 1.0
