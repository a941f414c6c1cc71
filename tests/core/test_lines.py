"""A line engine is judged by rays.
What it draws must be seen, what it hides must be hidden, and nothing may be missing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.conftest import box, examples, model_of
from tests.core.cases import SLANT, drawing_of, judge_of, judged
from tests.core.judge import Camera, Judge
from warmgraphite.drawing import Drawing, Need
from warmgraphite.model import Model, Part
from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.obj import write_obj
from warmgraphite.model.read import read_model
from warmgraphite.model.store import load_model, save_model
from warmgraphite.passes.edges import intersections_of
from warmgraphite.passes.line_set import KINDS, RANKS, LineSet
from warmgraphite.regions.query import Match
from warmgraphite.view.specification import Cut, Frame, Lines, Parallel, PartChoice, Perspective, ViewSpecification

CUT = Cut(point=(2.5, 0, 0), normal=(-1, 0, 0))
VIEWS = {
    "axonometric": ViewSpecification(projection=Parallel(direction=(0.5, 1.0, -0.6))),
    "elevation": ViewSpecification(projection=Parallel(direction=(0, 1, 0))),
    "perspective": ViewSpecification(projection=Perspective(eye=(-7, -10, 4), target=(3, 0, 2), field_of_view=60)),
    "section": ViewSpecification(projection=Parallel(direction=(1, 0.15, -0.1)), cuts=(CUT,)),
    "section perspective": ViewSpecification(
        projection=Perspective(eye=(-6, 0.5, 2.6), target=(2.5, 0.4, 2.2), field_of_view=65), cuts=(CUT,)
    ),
}


VIEWS_FROM_SOUTH = ViewSpecification(projection=Parallel(direction=(0, 1, 0)))


@pytest.mark.parametrize("subject", [("Tower", "Pipe"), ("Base",), ("Ball", "Beam")], ids=lambda s: s[0])
def test_the_outline_of_a_subject_is_closed_and_holds_just_what_is_seen_of_it(
    yard: Model, subject: tuple[str, ...]
) -> None:
    numbers = tuple(i for i, p in enumerate(yard.parts) if p.name in subject)
    model = replace(yard, sets={"Subject": numbers})
    view = ViewSpecification(projection=Parallel(direction=SLANT, centre=(3, 0, 2)), frame=Frame(scale=50))
    outline = Drawing(model, view).result(Need("outline", Match(sets=("Subject",))))
    assert outline.is_valid and not outline.is_empty
    x, y = np.meshgrid(np.arange(0.35, 420, 0.7), np.arange(0.35, 297, 0.7))
    judge, flat = Judge(model, view), np.column_stack([x.ravel(), y.ravel()])
    _, part = judge.first(*Camera(view).rays(flat, 60.0))
    away = shapely.distance(shapely.boundary(outline), shapely.points(flat)) > 0.05
    inside = shapely.contains_xy(outline, flat)
    assert (inside[away] == np.isin(part, numbers)[away]).mean() > 0.9999


@pytest.mark.parametrize(("model", "view"), judged())
def test_no_line_is_missing_and_none_is_too_many(model: Callable[[], Model], view: ViewSpecification) -> None:
    """Judged by rays.
    What is drawn is seen, what is hidden is hidden, every edge of the picture has a line, every line an edge.
    """
    lines = drawing_of(model, view).lines()
    camera, judge = Camera(view), judge_of(model, view)
    assert np.abs(camera.flat(lines.start) - lines.from_mm).max() < 1e-6
    blocked, weight = judge.obstructed(camera, lines, np.flatnonzero(lines.visible), 0.03)
    assert weight[blocked == 2].sum() / weight.sum() < 0.001, "visible length that is obstructed"
    blocked, weight = judge.obstructed(camera, lines, np.flatnonzero(~lines.visible), -0.0005)
    assert weight[blocked == 0].sum() / weight.sum() < 0.005, "hidden length that is free"
    assert judge.missing(camera, lines) < 0.003, "edges of the picture without a line"
    assert judge.idle(camera, lines) < 0.03, "drawn length at which nothing changes"


def test_an_obj_of_ones_own_far_from_the_origin_gives_the_same_drawing(yard: Model, scratch) -> None:  # type: ignore[no-untyped-def]
    view = VIEWS["axonometric"]
    write_obj(yard, scratch / "yard.obj")
    write_obj(yard.reshaped(vertices=yard.vertices + np.array([4.5e5, 5.4e6, 300.0])), scratch / "far.obj")
    found = [Drawing(read_model(scratch / n, "m", "z"), view).lines() for n in ("yard.obj", "far.obj")]
    lengths = [float(np.linalg.norm(f.to_mm - f.from_mm, axis=1)[f.visible].sum()) for f in found]
    assert lengths[1] == pytest.approx(lengths[0], rel=2e-3)


def test_a_box_shows_nine_edges_and_hides_three() -> None:
    drawing = Drawing(model_of(("Box", box((0, 0, 0), (2, 3, 4)), 0)), VIEWS["axonometric"])
    lines = drawing.lines()
    ranks = [RANKS[r] for r in lines.rank[lines.visible]]
    assert ranks.count("outline") == 6 and ranks.count("edge") == 3 and (~lines.visible).sum() == 3


def test_a_wall_behind_glass_is_drawn_through_one_pane_whether_single_or_solid() -> None:
    wall = ("Wall", box((0, 5, 0), (4, 5.3, 3)), 0)
    single = trimesh.Trimesh([[1, 2, -1], [6, 2, -1], [6, 2, 5], [1, 2, 5]], [[0, 1, 2], [0, 2, 3]])
    for pane in (single, box((1, 2, -1), (6, 2.04, 5))):
        drawing = Drawing(model_of(wall, ("Pane", pane, 1)), VIEWS["elevation"])
        lines = drawing.lines()
        mine = lines.visible & (lines.part == 0)
        middle = (lines.start[mine] + lines.end[mine]) / 2
        assert set(lines.through[mine][middle[:, 0] > 1.01]) == {1} and set(
            lines.through[mine][middle[:, 0] < 0.99]
        ) == {0}


def test_bodies_that_run_through_each_other_meet_in_a_line() -> None:
    post = trimesh.creation.cylinder(0.5, 4, sections=64)
    drawing = Drawing(model_of(("Slab", box((-3, -3, -0.2), (3, 3, 0.2)), 0), ("Post", post, 2)), VIEWS["axonometric"])
    lines = drawing.lines()
    kind = lines.kind == KINDS.index("intersection")
    length = np.linalg.norm(lines.end - lines.start, axis=1)
    whole = 2 * 64 * 2 * 0.5 * np.sin(np.pi / 64)  # two circles of 64 sides
    assert length[kind].sum() == pytest.approx(whole, rel=0.01)
    assert 0.3 * whole / 2 < length[kind & lines.visible].sum() < 0.75 * whole / 2


def test_a_round_body_shows_no_facets_and_a_flush_joint_of_one_material_no_seam() -> None:
    tower = model_of(("Tower", trimesh.creation.cylinder(1, 3, sections=48), 0))
    lines = Drawing(tower, VIEWS["elevation"]).lines()
    upright = lines.visible & (np.abs(lines.end[:, 2] - lines.start[:, 2]) > 0.1)
    assert np.linalg.norm(lines.end - lines.start, axis=1)[upright].sum() == pytest.approx(6, rel=1e-3)  # its two sides
    halves = model_of(("West", box((0, 0, 0), (2, 1, 3)), 0), ("East", box((2, 0, 0), (4, 1, 3)), 0))
    lines = Drawing(halves, VIEWS["elevation"]).lines()
    assert not (lines.visible & (np.abs(lines.start[:, 0] - 2) < 1e-6) & (np.abs(lines.end[:, 0] - 2) < 1e-6)).any()
    joint = model_of(("West", box((0, 0, 0), (2, 1, 3)), 0), ("East", box((2, 0, 0), (4, 1, 3)), 2))
    lines = Drawing(joint, VIEWS["elevation"]).lines()
    seam = lines.visible & (np.abs(lines.start[:, 0] - 2) < 1e-6) & (np.abs(lines.end[:, 0] - 2) < 1e-6)
    assert [(KINDS[k], RANKS[r]) for k, r in zip(lines.kind[seam], lines.rank[seam])] == [("material", "surface")]


def test_which_edges_are_lines_is_settable() -> None:
    """A slab with a rounded corner: tangent edges, finer creases, seams and facets are there for who asks for them."""
    from scipy.spatial import ConvexHull

    turn = np.radians(np.linspace(0, 90, 13))
    outline = np.concatenate([[[0, 0], [4, 0]], np.column_stack([3 + np.cos(turn), 2 + np.sin(turn)]), [[0, 3]]])
    slab = trimesh.creation.extrude_polygon(shapely.Polygon(outline[ConvexHull(outline).vertices]), 2)
    model = model_of(("Slab", slab, 0), ("Next", box((-2, 0, 0), (0, 3, 2)), 0))

    def upright(**asked: object) -> dict[str, float]:
        """Metres of upright visible line by kind, from the north-east, where the curve is."""
        view = ViewSpecification(projection=Parallel(direction=(-1, -1, -0.4)), lines=Lines(**asked))  # type: ignore[arg-type]
        lines = Drawing(model, view).lines()
        length = np.abs(lines.end[:, 2] - lines.start[:, 2])
        near = lines.visible & (length > 0.01) & (np.abs(lines.start[:, :2] - lines.end[:, :2]).max(1) < 1e-6)
        return {
            k: float(length[near & (lines.kind == KINDS.index(k))].sum())
            for k in KINDS
            if (near & (lines.kind == KINDS.index(k))).any()
        }

    usual = upright()
    assert usual == pytest.approx({"silhouette": 4.0})  # the two far corners; the curve and the seam show nothing
    assert upright(smooth=True) == pytest.approx(usual | {"smooth": 4.0})  # where the curve begins and where it ends
    assert upright(crease_angle=5) == pytest.approx(
        usual | {"crease": 11 * 2.0}
    )  # all facets but the half-turned first and last
    assert upright(facets=True)["crease"] > 12 * 2.0
    assert sum(upright(seams=True).values()) == pytest.approx(sum(usual.values()) + 2.0)


def test_how_far_a_line_is_and_what_lies_behind_it_is_known() -> None:
    model = model_of(("Post", box((2, 0, 0), (2.4, 0.4, 3)), 0), ("Wall", box((0, 5, 0), (6, 5.3, 2)), 0))
    lines = Drawing(model, VIEWS_FROM_SOUTH).lines()
    post = (
        lines.visible
        & (lines.part == 0)
        & (np.abs(lines.start[:, 0] - 2) < 1e-6)
        & (np.abs(lines.end[:, 0] - 2) < 1e-6)
    )
    low = post & (np.maximum(lines.start[:, 2], lines.end[:, 2]) < 2.01)
    assert lines.behind[low] - lines.distance[low] == pytest.approx(5) and np.isinf(lines.behind[post & ~low]).all()
    sides = {(int(a), int(b)) for a, b in zip(lines.left[low], lines.right[low])}
    assert sides in ({(1, 0)}, {(0, 1)}) and (lines.rank[post] == RANKS.index("outline")).all()
    far = Drawing(model, VIEWS_FROM_SOUTH.model_copy(update={"lines": Lines(outline_depth=6)})).lines()
    near = far.visible & (far.part == 0) & (np.abs(far.start[:, 0] - 2) < 1e-6) & (np.abs(far.end[:, 0] - 2) < 1e-6)
    length = np.abs(far.end[:, 2] - far.start[:, 2])
    assert length[near & (far.rank == RANKS.index("edge"))].sum() == pytest.approx(2, abs=1e-3)


def test_a_line_is_split_where_what_lies_behind_it_changes() -> None:
    """A rail before a near wall that ends half-way: an edge before the wall, an outline beyond it."""
    rail = ("Rail", box((0, 0, 1.0), (8, 0.1, 1.1)), 2)
    wall = ("Wall", box((-1, 0.12, 0), (5, 0.3, 3)), 0)
    lines = Drawing(model_of(rail, wall), VIEWS["elevation"]).lines()
    top = lines.visible & (np.abs(lines.start[:, 2] - 1.1) < 1e-6) & (np.abs(lines.end[:, 2] - 1.1) < 1e-6)
    length = np.abs(lines.end[:, 0] - lines.start[:, 0])
    outline = lines.rank == RANKS.index("outline")
    assert length[top & outline].sum() == pytest.approx(3, abs=0.01) and length[top & ~outline].sum() == pytest.approx(
        5, abs=0.01
    )


def tumbled(seed: int, count: int = 12) -> Model:
    """Boxes turned any way and run into each other: nothing lies flush, nothing is doubled."""
    rng = np.random.default_rng(seed)
    rows = []
    for i in range(count):
        body = box((0, 0, 0), tuple(rng.uniform(0.5, 3, 3)))
        body.apply_transform(trimesh.transformations.random_rotation_matrix(rng.random(3)))
        body.apply_translation(rng.uniform(-3, 3, 3))
        rows.append((f"Box {i}", body, 2 * (i % 2)))
    return model_of(*rows)


def lengths(lines: LineSet) -> np.ndarray:
    """Metres of line by visibility, kind and rank."""
    length = np.linalg.norm(lines.end - lines.start, axis=1)
    cell = (lines.visible.astype(int) * len(KINDS) + lines.kind) * len(RANKS) + lines.rank
    return np.bincount(cell, length, 2 * len(KINDS) * len(RANKS))


#: So large that 0.02 mm of paper, within which two lines are one, is a hair of the model.
LARGE = Frame(width=5000, height=5000, scale=4)
ANY_VIEW = st.tuples(st.integers(0, 10**6), st.floats(-3.1, 3.1), st.floats(-1.2, 1.2), st.booleans())


def view_from(azimuth: float, altitude: float, central: bool, turn: np.ndarray, move: np.ndarray) -> ViewSpecification:
    sight = np.array([np.cos(azimuth) * np.cos(altitude), np.sin(azimuth) * np.cos(altitude), np.sin(altitude)])
    up = tuple(turn @ [0, 0, 1])
    if central:
        eye, target = tuple(move - 11 * turn @ sight), tuple(move)
        return ViewSpecification(projection=Perspective(eye=eye, target=target, up=up, field_of_view=120), frame=LARGE)
    projection = Parallel(direction=tuple(turn @ sight), up=up, centre=tuple(move))
    return ViewSpecification(projection=projection, frame=LARGE)


def none_edge_on(model: Model, projection: Parallel | Perspective) -> bool:
    """Whether the viewer is off the plane of every face by 0.1 degrees or more."""
    bodies = trimesh.Trimesh(model.vertices, model.triangles, process=False)
    sight = (
        np.asarray(projection.direction)
        if isinstance(projection, Parallel)
        else bodies.triangles_center - projection.eye
    )
    away = np.sum(bodies.face_normals * sight, axis=1) / np.linalg.norm(sight, axis=-1)
    return bool(np.abs(away).min() > 0.002)


@settings(max_examples=examples(25, 9), deadline=None)
@given(ANY_VIEW, st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
def test_turning_and_moving_model_and_camera_together_changes_nothing(
    view: tuple, x: float, y: float, z: float
) -> None:
    seed, azimuth, altitude, central = view
    model = tumbled(seed)
    before = lengths(Drawing(model, view_from(azimuth, altitude, central, np.eye(3), np.zeros(3))).lines())
    turn = trimesh.transformations.random_rotation_matrix(np.array([x, y, z]))[:3, :3]
    far = np.array([1e6, -3e6, 250.0])
    moved = model.reshaped(vertices=model.vertices @ turn.T + far)
    after = lengths(Drawing(moved, view_from(azimuth, altitude, central, turn, far)).lines())
    assert after == pytest.approx(before, rel=1e-3, abs=5e-3)


@settings(max_examples=examples(25, 9), deadline=None)
@given(ANY_VIEW)
def test_what_is_seen_and_what_is_hidden_make_up_the_whole(view: tuple) -> None:
    seed, azimuth, altitude, central = view
    model = tumbled(seed)
    specification = view_from(azimuth, altitude, central, np.eye(3), np.zeros(3))
    assume(none_edge_on(model, specification.projection))  # all lines of such a face are drawn as one
    lines = Drawing(model, specification).lines()
    bodies = trimesh.Trimesh(model.vertices, model.triangles)
    ends = bodies.vertices[bodies.face_adjacency_edges[bodies.face_adjacency_angles > 0.1]]
    whole = float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum())
    crossing = intersections_of(bodies_of(model))
    whole += float(np.linalg.norm(crossing.end - crossing.start, axis=1).sum())
    assert lengths(lines).sum() == pytest.approx(whole, rel=2e-3)


def _with_line_elements(model: Model, ends: np.ndarray) -> Model:
    """A model with line elements of a part of their own, which has no face."""
    return model.reshaped(
        parts=(*model.parts, Part("Survey", "Site")),
        line_ends=ends,
        line_part=np.full(len(ends), len(model.parts), np.int32),
    )


@pytest.mark.parametrize("name", ["axonometric", "perspective", "section", "section perspective"])
def test_line_elements_are_hidden_and_cut_like_edges_and_leave_all_others_as_they_are(yard: Model, name: str) -> None:
    chance = np.random.default_rng(3)
    low, high = yard.bounds
    ends = chance.uniform(low - 0.5, high + 0.5, (60, 2, 3))
    given = VIEWS[name]
    centre = {"centre": (3.0, 0.0, 2.0)} if isinstance(given.projection, Parallel) else {}
    view = given.model_copy(
        update={
            "projection": given.projection.model_copy(update=centre),
            "frame": Frame(width=420, height=297, scale=50 if centre else None),
        }
    )
    plain, lines = Drawing(yard, view).lines(), Drawing(_with_line_elements(yard, ends), view).lines()
    own = lines.kind == KINDS.index("line")
    others = lines.only(~own)
    length = lambda found: np.linalg.norm(found.to_mm - found.from_mm, axis=1)[found.visible].sum()
    # What they draw over is drawn once; nothing else changes.
    assert own.sum() > 20 and abs(length(others) - length(plain)) < 0.02 * length(plain)
    assert (lines.rank[own] == RANKS.index("edge")).all()
    # Each piece lies on one of them, on the side that planes leave.
    mine = lines.only(own)
    middle = (mine.start + mine.end) / 2
    way = ends[:, 1] - ends[:, 0]
    t = np.clip(((middle[:, None] - ends[None, :, 0]) * way).sum(2) / (way**2).sum(1), 0, 1)
    assert np.linalg.norm(ends[None, :, 0] + t[..., None] * way - middle[:, None], axis=2).min(1).max() < 1e-5
    for cut in view.cuts:
        assert ((middle - cut.point) @ np.array(cut.normal, float)).max() < 1e-6
    # Rays say which are seen: those that meet nothing before they come to it.
    judge, camera = Judge(yard, view), Camera(view)
    start, ray = camera.rays((mine.from_mm + mine.to_mm) / 2, 60.0)
    reach = ((middle - start) * ray).sum(1)
    first = judge.hits(start, ray)[0]
    sure = (np.abs(first - reach) > 0.004) & (np.linalg.norm(mine.to_mm - mine.from_mm, axis=1) > 0.2)
    assert (mine.visible == (first > reach))[sure].mean() > 0.99 and sure.sum() > 40 and (~mine.visible).any()


def test_line_elements_stay_with_their_part_wherever_the_model_goes(yard: Model, scratch: Path) -> None:
    ends = np.array([[(0, 0, 0), (1, 2, 3)], [(1, 2, 3), (4, 4, 4)]], float)
    model = _with_line_elements(yard, ends)
    save_model(model, scratch / "kept.npz")
    again = load_model(scratch / "kept.npz")
    assert again.version == model.version != yard.version and np.array_equal(again.mesh.line_ends, ends)
    turn = np.array([(0, -2.0, 0, 5), (2, 0, 0, 0), (0, 0, 2, 1), (0, 0, 0, 1)])
    moved = model.transformed(turn)
    assert (
        np.allclose(moved.mesh.line_ends, ends @ turn[:3, :3].T + turn[:3, 3])
        and moved.part_shape[-1] != model.part_shape[-1] != 0
    )
    assert np.allclose(model.part_bounds[-1], [(0, 0, 0), (4, 4, 4)])
    # A newer file in which they went on is told as a change of that part alone.
    newer = _with_line_elements(yard, ends + np.array([0, 0, 1.0]))
    assert np.flatnonzero(newer.part_shape != model.part_shape).tolist() == [len(yard.parts)]
    hidden = VIEWS["axonometric"].model_copy(update={"parts": PartChoice(hidden=("Survey",))})
    assert not (Drawing(model, hidden).lines().kind == KINDS.index("line")).any()
