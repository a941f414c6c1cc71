"""A line engine is judged by rays: what it draws must be seen, what it hides must be hidden, and nothing may be missing."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from scipy.spatial import cKDTree

from tests.conftest import box, model_of
from tests.core.judge import Judge
from warmgraphite.drawing import Drawing
from warmgraphite.model import Model
from warmgraphite.model.obj import write_obj
from warmgraphite.model.read import read_model
from warmgraphite.passes.lines import KINDS, RANKS, LineSet
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, ViewSpecification

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


def samples(lines: LineSet, rows: np.ndarray, step: float = 0.6) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points along the chosen lines about every ``step`` mm: model metres, frame mm, and the length each stands for."""
    a, b = lines.from_mm[rows], lines.to_mm[rows]
    length = np.linalg.norm(b - a, axis=1)
    count = np.maximum(1, np.ceil(length / step)).astype(int)
    which = np.repeat(np.arange(len(rows)), count)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[which]
    flat = a[which] + t[:, None] * (b - a)[which]
    start, end = lines.start[rows][which], lines.end[rows][which]
    return start, end, np.column_stack([flat, t, (length / count)[which]])


def obstructed(drawing: Drawing, judge: Judge, rows: np.ndarray, slack: float) -> tuple[np.ndarray, np.ndarray]:
    """For samples of the chosen lines: on how many sides something stands before them, and the length each stands for.

    A ray is sent past the line on either side. Where a line runs exactly behind an outline, one of the two is free.
    """
    frame = drawing.scene.projection
    start, end, about = samples(drawing.lines(), rows)
    f0, f1 = frame.project(start), frame.project(end)
    flat, t = about[:, :2], about[:, 2:3]
    depth = frame.distance((f0 + t * (f1 - f0))[:, 2])
    side = f1[:, :2] - f0[:, :2]
    side = np.column_stack([-side[:, 1], side[:, 0]]) / np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-12)
    free = np.zeros(len(flat), int)
    for sign in (-1, 1):
        origins, directions = frame.rays(flat + sign * 0.03 * side, -60.0)
        distance, _ = judge.first(np.ascontiguousarray(origins), np.ascontiguousarray(directions))
        along = directions @ (frame.sight if frame.eye is not None else drawing.scene.projection.sight)
        reach = distance * along if frame.eye is not None else distance * 1.0 - 60.0
        free += reach > depth - slack - 0.004 * np.abs(depth) * (frame.eye is not None)
    return 2 - free, about[:, 3]


@pytest.mark.parametrize("name", VIEWS)
def test_what_is_drawn_is_seen_and_what_is_hidden_is_hidden(yard: Model, name: str) -> None:
    drawing = Drawing(yard, VIEWS[name])
    judge = Judge(yard, VIEWS[name])
    lines = drawing.lines()
    blocked, weight = obstructed(drawing, judge, np.flatnonzero(lines.visible), 0.03)
    assert weight[blocked < 2].sum() / weight.sum() > 0.999, "visible length that is obstructed"
    blocked, weight = obstructed(drawing, judge, np.flatnonzero(~lines.visible), -0.0005)
    assert weight[blocked > 0].sum() / weight.sum() > 0.995, "hidden length that is free"


@pytest.mark.parametrize("name", VIEWS)
def test_no_line_is_missing_where_one_part_ends_before_another(yard: Model, name: str) -> None:
    """Neighbouring pixels of a ray-cast picture that see different parts, or a step in depth, lie by a drawn line."""
    drawing = Drawing(yard, VIEWS[name])
    judge = Judge(yard, VIEWS[name])
    frame = drawing.scene.projection
    width, height = 700, 495
    x, y = np.meshgrid((np.arange(width) + 0.5) * frame.width / width, (np.arange(height) + 0.5) * frame.height / height)
    xy = np.column_stack([x.ravel(), y.ravel()])
    origins, directions = frame.rays(xy, -60.0)
    distance, part = judge.first(np.ascontiguousarray(origins), np.ascontiguousarray(directions))
    part, distance = part.reshape(height, width), np.minimum(distance, 1e4).reshape(height, width)
    # Parts of one material that merge into one flat mass have no line between them.
    edge = (part[:, 1:] != part[:, :-1]) & (np.abs(np.diff(distance, axis=1)) > 0.02)
    places = (xy.reshape(height, width, 2)[:, 1:][edge] + xy.reshape(height, width, 2)[:, :-1][edge]) / 2
    lines = drawing.lines()
    _, _, about = samples(lines, np.flatnonzero(lines.visible), 0.2)
    gap, _ = cKDTree(about[:, :2]).query(places)
    assert (gap < 2 * frame.width / width).mean() > 0.997


def test_on_the_sample_model_drawn_lines_are_seen(kiln_house: Model) -> None:
    from demo.views import sample_views

    for view in (sample_views()[0], sample_views()[4]):
        drawing = Drawing(kiln_house, view)
        blocked, weight = obstructed(drawing, Judge(kiln_house, view), np.flatnonzero(drawing.lines().visible), 0.03)
        assert weight[blocked < 2].sum() / weight.sum() > 0.998


def test_an_obj_of_ones_own_far_from_the_origin_gives_the_same_drawing(yard: Model, scratch) -> None:  # type: ignore[no-untyped-def]
    view = VIEWS["axonometric"]
    write_obj(yard, scratch / "yard.obj")
    write_obj(replace(yard, vertices=yard.vertices + np.array([4.5e5, 5.4e6, 300.0])), scratch / "far.obj")
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
        assert set(lines.through[mine][middle[:, 0] > 1.01]) == {1} and set(lines.through[mine][middle[:, 0] < 0.99]) == {0}


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


def test_turning_model_and_camera_together_changes_nothing(yard: Model) -> None:
    turn = trimesh.transformations.rotation_matrix(0.7, [0, 0, 1])
    before = Drawing(yard, ViewSpecification(projection=Parallel(direction=(0.5, 1.0, -0.6)), frame=Frame(scale=50))).lines()
    sight = tuple(turn[:3, :3] @ [0.5, 1.0, -0.6])
    after = Drawing(
        yard.transformed(turn), ViewSpecification(projection=Parallel(direction=sight), frame=Frame(scale=50))
    ).lines()

    def total(f: LineSet) -> list[float]:
        length = np.linalg.norm(f.to_mm - f.from_mm, axis=1)
        return [float(length[f.visible & (f.rank == r)].sum()) for r in range(4)]

    assert total(after) == pytest.approx(total(before), rel=0.01, abs=0.5)
