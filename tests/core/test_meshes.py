"""How faces hang together, and level lines on them, against other ways of computing the same."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import box, examples, model_of
from tests.core.test_health import findings, watertight
from warmgraphite.model import Model
from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.health import check
from warmgraphite.model.mending import mend
from warmgraphite.model.model import Contours
from warmgraphite.model.shapes import forms_of, in_classes, same_body
from warmgraphite.model.succession import match_parts, succeed
from warmgraphite.model.welding import connected, edges_of, grouped, mixed, weld
from warmgraphite.passes.terrain import Levels, contours_of, is_index

BODIES = {
    "box": box((0, 0, 0), (2, 1, 3)),
    "ball": trimesh.creation.icosphere(subdivisions=2, radius=1.2),
    "ring": trimesh.creation.annulus(0.5, 1.0, 0.7, sections=14),
    "cone": trimesh.creation.cone(radius=1, height=2, sections=9),
}
names = st.lists(st.sampled_from(sorted(BODIES)), min_size=1, max_size=6)
seeds = st.integers(0, 2**31)


def scattered(picked: list[str], seed: int, far: bool = False) -> Model:
    """Bodies turned and moved, no two within ten metres of each other."""
    rng = np.random.default_rng(seed)
    rows = []
    for i, name in enumerate(picked):
        body = BODIES[name].copy()
        body.apply_transform(trimesh.transformations.random_rotation_matrix(rng.random(3)))
        body.apply_translation([10 * i + rng.random(), 8 * rng.random(), 5 * rng.random()])
        body.apply_translation([430_000.0, 5_800_000.0, 0] if far else [0, 0, 0])
        rows.append((f"{name} {i}", body, int(rng.integers(0, 3))))
    return model_of(*rows)


def soup(model: Model, seed: int) -> Model:
    """The same triangles with corners of their own, in another order, each begun at another corner."""
    rng = np.random.default_rng(seed)
    order = rng.permutation(len(model.triangles))
    turn = (np.arange(3) + rng.integers(0, 3, (len(order), 1))) % 3
    triangles = np.take_along_axis(model.triangles[order], turn, 1)
    return model.reshaped(vertices=model.vertices[triangles].reshape(-1, 3),
        triangles=np.arange(triangles.size, dtype=np.int32).reshape(-1, 3),
        triangle_part=model.triangle_part[order],
    )  # fmt: skip


@settings(max_examples=examples(25, 9), deadline=None)
@given(names, seeds, st.booleans())
def test_corners_are_joined_by_place_whatever_the_file_did(picked: list[str], seed: int, far: bool) -> None:
    model = soup(scattered(picked, seed, far), seed)
    welded = weld(model.mesh, model.anchor)
    edges = edges_of(welded)
    label = connected(welded)
    for i, name in enumerate(picked):
        rows = model.triangle_part == i
        body = BODIES[name]
        assert len(np.unique(welded[rows])) == len(body.vertices)
        assert len(np.unique(edges.of.reshape(-1, 3)[rows])) == len(body.edges_unique)
    assert len(np.unique(np.stack([label, model.triangle_part]), axis=1).T) == label.max() + 1 == len(picked)
    assert (edges.count == 2).all() and (edges.turn == 0).all()
    assert findings(model) == {}


def test_rows_are_told_apart_by_their_key() -> None:
    rng = np.random.default_rng(4)
    rows = rng.integers(-3, 3, (20_000, 3)) * rng.choice([1, 7, 10**6], (20_000, 3))
    _, wanted = np.unique(rows, axis=0, return_inverse=True)
    key = grouped(mixed(*rows.T))
    assert len(np.unique(key)) == len(np.unique(wanted)) == len(np.unique(np.stack([key, wanted.ravel()]), axis=1).T)


@settings(max_examples=examples(20, 7), deadline=None)
@given(names, seeds, st.data())
def test_faces_turned_at_random_are_turned_back(picked: list[str], seed: int, data: st.DataObject) -> None:
    model = scattered(picked, seed)
    turn = np.random.default_rng(seed).random(len(model.triangles)) < data.draw(st.sampled_from([0.05, 0.5, 1.0]))
    turn[0] = True
    triangles = model.triangles.copy()
    triangles[turn] = triangles[turn][:, ::-1]
    mended, _ = mend(model.reshaped(triangles=triangles), "flipped")
    assert "flipped" not in findings(mended)
    for part in model.parts:
        assert watertight(mended, part.name).volume == pytest.approx(watertight(model, part.name).volume, rel=1e-9)


@settings(max_examples=examples(20, 7), deadline=None)
@given(names, seeds, st.floats(1e-4, 4e-3), st.booleans())
def test_corners_shaken_less_than_the_tolerance_close_again(
    picked: list[str], seed: int, shake: float, far: bool
) -> None:
    model = soup(scattered(picked, seed, far), seed)
    rng = np.random.default_rng(seed)
    way = rng.normal(size=model.vertices.shape)
    shaken = model.reshaped(vertices=model.vertices + way / np.linalg.norm(way, axis=1, keepdims=True) * shake / 2)
    assert findings(shaken)["gaps"][0] > 0
    mended, said = mend(shaken, "gaps", 0.01)
    assert set(findings(mended, 0.01)) <= {"flipped"}
    most = np.linalg.norm(mended.vertices[mended.triangles] - shaken.vertices[shaken.triangles], axis=2).max()
    assert most <= shake + 1e-9 and said.endswith(" mm.")


@settings(max_examples=examples(15, 5), deadline=None)
@given(names, seeds, st.integers(0, 5))
def test_a_part_that_stands_twice_is_found_in_any_order_of_its_triangles(
    picked: list[str], seed: int, which: int
) -> None:
    model = scattered(picked, seed)
    which %= len(picked)
    rows = model.triangle_part == which
    twice = model.reshaped(triangles=np.concatenate([model.triangles, model.triangles[rows][::-1]]),
        parts=(*model.parts, replace(model.parts[which], name="Twin")),
        triangle_part=np.concatenate([model.triangle_part, np.full(int(rows.sum()), len(picked), np.int32)]),
    )  # fmt: skip
    assert findings(soup(twice, seed))["doubled_parts"] == (1, ["Twin"])
    mended, _ = mend(soup(twice, seed), "doubled_parts")
    assert mended.parts[-1].absent and len(mended.triangles) == len(model.triangles) and findings(mended) == {}


@settings(max_examples=examples(25, 9), deadline=None)
@given(names, seeds, st.booleans(), st.booleans())
def test_a_second_export_in_another_order_is_the_same_model(
    picked: list[str], seed: int, rename: bool, far: bool
) -> None:
    base = scattered(picked, seed, far)
    order = np.random.default_rng(seed + 1).permutation(len(picked))
    where = np.argsort(order)
    fresh = soup(base, seed)
    fresh = fresh.reshaped(triangle_part=where[fresh.triangle_part].astype(np.int32),
        parts=tuple(replace(base.parts[o], name=f"Object {i}" if rename else base.parts[o].name) for i,
            o in enumerate(order)),
    )  # fmt: skip
    one, two = in_classes(forms_of(base).signature, forms_of(fresh).signature)
    assert (two == one[order]).all() and len(np.unique(one)) == len(set(picked))  # turned as they are, alike is alike
    if not rename or len({tuple(s) for s in forms_of(base).middle.round(3).tolist()}) == len(picked):
        assert match_parts(base, fresh).tolist() == order.tolist()
    _, state, report = succeed(base, base, fresh)
    assert report.counts["gone"] == report.counts["new"] == report.counts["moved"] == report.counts["reshaped"] == 0
    assert np.allclose(state.part_bounds, base.part_bounds, atol=1e-9)


@settings(max_examples=examples(25, 9), deadline=None)
@given(names, seeds, st.sampled_from(["moved", "turned", "again", "dented"]), st.booleans())
def test_a_curved_part_written_with_six_decimals_is_the_same_shape_wherever_it_stands(
    picked: list[str], seed: int, what: str, far: bool
) -> None:
    """Of hundreds of corners some always fall on the other side of any rounding; none of that is a change."""
    rng = np.random.default_rng(seed)
    base = scattered([*picked, "ball"], seed, far)
    ours = base.triangle_part == 0
    vertices, mine = base.vertices.copy(), np.unique(base.triangles[ours])
    body, middle = vertices[mine], vertices[mine].mean(0)
    if what == "moved":
        body = body + rng.uniform(0.4, 0.6, 3)
    elif what == "turned":
        body = (
            (body - middle) @ trimesh.transformations.random_rotation_matrix(rng.random(3))[:3, :3].T
            + middle
            + [0.5, 0, 0]
        )
    elif what == "dented":
        body[int(rng.integers(len(body)))] += rng.choice([-1, 1], 3) * 0.02
    vertices[mine] = body
    fresh = soup(base.reshaped(vertices=np.round(vertices, 6)), seed)
    _, _, report = succeed(base, base, fresh)
    wanted = {"again": (0, 0), "dented": (0, 1)}.get(what, (1, 0))
    assert (report.counts["moved"], report.counts["reshaped"]) == wanted
    assert same_body(forms_of(base), 0, forms_of(fresh), 0) == (what != "dented")


def test_a_mirrored_body_without_symmetry_is_another() -> None:
    hook = trimesh.util.concatenate([box((0, 0, 0), (3, 1, 1)), box((0, 1, 0), (1, 2, 1)), box((0, 0, 1), (1, 1, 1.5))])
    flat = hook.copy()
    flat.vertices = flat.vertices * [1, 1, -1]
    one, two = (forms_of(model_of(("Hook", body, 0))) for body in (hook, flat))
    assert same_body(one, 0, one, 0) and not same_body(one, 0, two, 0)


def land(seed: int, size: int = 14) -> trimesh.Trimesh:
    """Hilly ground on a grid, some corners exactly on a level."""
    rng = np.random.default_rng(seed)
    x, y = np.meshgrid(np.arange(size) * 3.0, np.arange(size) * 3.0, indexing="ij")
    z = 4 * np.sin(x / 7 + rng.random()) * np.cos(y / 9) + rng.normal(0, 0.3, x.shape)
    z[rng.random(z.shape) < 0.1] = 1.0
    i, j = np.meshgrid(np.arange(size - 1), np.arange(size - 1), indexing="ij")
    a = (i * size + j).ravel()
    faces = np.concatenate([np.column_stack([a, a + size, a + size + 1]), np.column_stack([a, a + size + 1, a + 1])])
    return trimesh.Trimesh(np.column_stack([x.ravel(), y.ravel(), z.ravel()]), faces, process=False)


@settings(max_examples=examples(15, 5), deadline=None)
@given(seeds, st.sampled_from([0.25, 0.5, 1.0, 1.7]), st.integers(-300, 300))
def test_contours_are_the_sections_that_another_library_cuts(seed: int, interval: float, sea: int) -> None:
    ground = land(seed)
    model = model_of(("Land", ground, 2))
    model = replace(
        model, parts=(replace(model.parts[0], role="ground"),), contours=Contours(interval, 4), origin=(0, 0, sea)
    )
    levels = Levels(interval, 4, sea)
    found = contours_of(bodies_of(model), np.ones(1, bool), levels)
    assert np.allclose(found.start[:, 2], found.end[:, 2])
    level = np.round((found.start[:, 2] + sea) / interval)
    assert np.allclose(level * interval - sea, found.start[:, 2], atol=1e-9)
    assert (is_index(levels, found.start[:, 2]) == (level % 4 == 0)).all()
    for k in np.unique(level):
        # A hair below the level: a corner on it counts as above.
        height = k * interval - sea
        section = trimesh.intersections.mesh_plane(ground, [0, 0, 1], [0, 0, height - 2e-8])
        length = np.linalg.norm(found.end[level == k] - found.start[level == k], axis=1).sum()
        assert length == pytest.approx(np.linalg.norm(section[:, 0] - section[:, 1], axis=1).sum(), abs=2e-3)
        # Each lies on the triangle that it names.
        rows = np.flatnonzero(level == k)
        corners = model.vertices[model.triangles[found.face[rows]]]
        normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        assert np.abs(((found.start[rows] - corners[:, 0]) * normal).sum(1)).max() < 1e-9 * np.abs(normal).max() * 100


def test_a_model_of_many_parts_is_looked_at_as_a_whole_or_says_that_it_was_not(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(8)
    rows = []
    for i in range(3000):
        low = np.array([i % 60 * 4.0, i // 60 * 4.0, 0.0])
        rows.append((f"Box {i}", box(tuple(low), tuple(low + rng.uniform(1, 3, 3))), 0))
    model = model_of(*rows)
    inner = model.vertices[model.triangles[model.triangle_part == 1234]].mean((0, 1))
    model = model_of(*rows, ("Nut", box(tuple(inner - 0.1), tuple(inner + 0.1)), 2))
    found = check(model)
    monkeypatch.setattr("warmgraphite.model.health._MOST_TESTS", 10)
    assert [(f.kind, f.count, f.whole) for f in check(model)] == [("inside", 0, False)]  # cut short, and says so
    assert found[0].whole and [(f.kind, f.count, model.parts[f.places[0].part].name) for f in found] == [
        ("inside", 1, "Nut")
    ]
