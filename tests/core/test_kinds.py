"""Kinds of view as an illustrator names them reduce to the view file, and mean there what their names say."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from tests.conftest import box, examples, model_of
from tests.core.judge import Camera
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.study import fresh_document
from warmgraphite.study.views import (
    duplicate_view,
    mark_view,
    order_view,
    paste_view,
    remove_view,
    save_view,
)  # fmt: skip
from warmgraphite.view.differences import differences
from warmgraphite.view.frame import extended, fitted
from warmgraphite.view.kinds import KINDS, ViewKind, begun, kind_of, of_kind
from warmgraphite.view.kinds.dimetric import Dimetric
from warmgraphite.view.kinds.elevation import Elevation
from warmgraphite.view.kinds.elevation_oblique import ElevationOblique
from warmgraphite.view.kinds.isometric import Isometric
from warmgraphite.view.kinds.one_point import OnePoint
from warmgraphite.view.kinds.plan import Plan
from warmgraphite.view.kinds.plan_oblique import PlanOblique
from warmgraphite.view.kinds.reflected_plan import ReflectedPlan
from warmgraphite.view.kinds.section import Section
from warmgraphite.view.kinds.section_perspective import SectionPerspective
from warmgraphite.view.kinds.three_point import ThreePoint
from warmgraphite.view.kinds.trimetric import Trimetric
from warmgraphite.view.kinds.two_point import TwoPoint
from warmgraphite.view.kinds.worms_eye import WormsEye  # fmt: skip
from warmgraphite.view.projection import Projection
from warmgraphite.view.scales import SCALES, USUAL, scale_label
from warmgraphite.view.specification import Cut, Frame, Jog, Parallel, Perspective, ViewSpecification
from warmgraphite.view.surfaces import surfaces_of

HOUSE = model_of(
    ("Room", box((0, 0, 0), (8, 5, 3)), 0),
    ("Tower", box((6, 3, 3), (8, 5, 9)), 2),
    ("Step", box((-1, 2, 0), (0, 3, 0.4)), 2),
)
EXTENT = HOUSE.bounds
START = ViewSpecification(projection=Parallel(direction=(0, 1, 0)), frame=Frame(scale=100))
ALL = [
    Plan(storey=3, height=1.5, top=20), ReflectedPlan(height=2), Elevation(bearing=90),
    Section(bearing=180, place=-2.5), Isometric(corner=135),
    Dimetric(corner=225, down=15), Trimetric(bearing=40, down=20), WormsEye(bearing=30), PlanOblique(top=30, ratio=0.8),
    ElevationOblique(bearing=270, angle=30), OnePoint(bearing=90, distance=12), TwoPoint(bearing=40),
    ThreePoint(bearing=40, eye_height=15),
    SectionPerspective(bearing=0, place=2, distance=9),
]  # fmt: skip


def seen(kind, point: tuple[float, float, float]) -> np.ndarray:  # type: ignore[no-untyped-def]
    """Where a point is drawn, in millimetres, by a camera that shares no code with the product."""
    return Camera(of_kind(START, kind, EXTENT)).flat(np.array([point], float))[0]


def step(kind, along: tuple[float, float, float]) -> np.ndarray:  # type: ignore[no-untyped-def]
    """How a metre in a direction is drawn at 1:100, to the right and up, in tenths of its true length."""
    return (seen(kind, along) - seen(kind, (0, 0, 0))) * [1, -1] / 10


@pytest.mark.parametrize("kind", ALL, ids=lambda k: k.kind)
def test_a_kind_is_recognised_in_the_view_that_it_makes_and_makes_it_again(kind) -> None:  # type: ignore[no-untyped-def]
    view = of_kind(START, TypeAdapter(ViewKind).validate_python(kind.model_dump()), EXTENT)
    again = kind_of(view, EXTENT)
    assert again.kind == kind.kind
    # A plan is the same whether its height counts from zero or from a storey.
    expected = kind.model_dump() | (
        {"storey": 0, "height": kind.storey + kind.height} if hasattr(kind, "storey") else {}
    )
    assert {k: v for k, v in again.model_dump().items() if k != "kind"} == pytest.approx(
        {k: v for k, v in expected.items() if k != "kind"}
    )
    assert Drawing(HOUSE, view).lines().visible.any()


def test_the_cut_that_made_a_view_goes_with_its_kind_and_other_cuts_stay() -> None:
    plain = Cut(point=(0, 2, 0), normal=(0, -1, 0))
    limit = Cut(point=(0, 4, 0), normal=(0, 1, 0), role="limit")
    section = START.model_copy(update={"cuts": (plain, limit)})
    assert kind_of(section, EXTENT) == Section(bearing=0, place=2)
    moved = of_kind(section, Section(bearing=0, place=2.5), EXTENT)
    assert [c.point[1] for c in moved.cuts] == [2.5, 4] and moved.cuts[1] == limit
    assert of_kind(moved, Isometric(), EXTENT).cuts == (limit,)
    # A perspective that happens to have a cut keeps it, unless a section perspective is made of that very cut.
    central = section.model_copy(update={"projection": of_kind(START, OnePoint(), EXTENT).projection})
    assert of_kind(central, TwoPoint(), EXTENT).cuts == (plain, limit)
    assert len(of_kind(central, SectionPerspective(bearing=0, place=2), EXTENT).cuts) == 2


def test_axes_are_drawn_as_the_names_say() -> None:
    x, y, z = (1, 0, 0), (0, 1, 0), (0, 0, 1)

    def sizes(kind) -> list[float]:  # type: ignore[no-untyped-def]
        return [float(np.linalg.norm(step(kind, axis))) for axis in (x, y, z)]

    assert sizes(Isometric()) == pytest.approx([np.sqrt(2 / 3)] * 3)
    two, _, one = sorted(sizes(Dimetric(down=15)), key=lambda s: round(s, 6))
    assert sizes(Dimetric(down=15))[0] == pytest.approx(sizes(Dimetric(down=15))[1]) and two != pytest.approx(one)
    assert len({round(s, 6) for s in sizes(Trimetric(bearing=20, down=30))}) == 3
    assert step(Plan(), x) == pytest.approx([1, 0]) and step(Plan(), y) == pytest.approx([0, 1])
    assert step(Plan(top=90), x) == pytest.approx([0, 1])  # east is at the paper's top
    assert step(Elevation(bearing=0), x) == pytest.approx([1, 0]) and step(Elevation(bearing=180), x) == pytest.approx(
        [-1, 0]
    )
    assert step(PlanOblique(top=0, ratio=0.5), x) == pytest.approx([1, 0]) and step(
        PlanOblique(top=0, ratio=0.5), z
    ) == pytest.approx([0, 0.5])
    assert step(ElevationOblique(angle=30, ratio=0.6), y) == pytest.approx([0.6 * np.cos(np.pi / 6), 0.3])


def test_a_reflected_plan_lies_over_the_plan_and_shows_the_ceiling() -> None:
    flipped = Drawing(HOUSE, of_kind(START, ReflectedPlan(height=2), EXTENT))
    plain = Drawing(HOUSE, of_kind(START, Plan(height=2), EXTENT))
    corners = np.array([[8, 5, 9], [0, 0, 3], [6, 3, 3]], float)
    assert flipped.scene.projection.project(corners)[:, :2] == pytest.approx(
        plain.scene.projection.project(corners)[:, :2]
    )
    assert flipped.scene.corners[:, :, 2].min() == pytest.approx(2) and plain.scene.corners[
        :, :, 2
    ].max() == pytest.approx(2)
    assert flipped.masses[0].region.area == pytest.approx(plain.masses[0].region.area)
    assert flipped.lines().visible.any()


def test_a_section_perspective_draws_the_cut_at_true_scale_on_any_paper() -> None:
    kind = SectionPerspective(bearing=90, place=3, distance=7, eye_height=1.7)
    for paper in (Frame(scale=50), Frame(width=841, height=594, scale=20)):
        drawing = Drawing(HOUSE, of_kind(START.model_copy(update={"frame": paper}), kind, EXTENT))
        on_cut = np.array([[3, 0, 0], [3, 5, 0], [3, 5, 3], [3, 0, 3]], float)
        flat = drawing.scene.projection.project(on_cut)[:, :2]
        side = np.linalg.norm(np.roll(flat, -1, 0) - flat, axis=1)
        assert side == pytest.approx(np.array([5, 3, 5, 3]) * 1000 / paper.scale)
        assert drawing.masses[0].region.area == pytest.approx(15)


def test_one_two_and_three_point_perspectives_have_so_many_vanishing_points() -> None:
    def converging(kind) -> int:  # type: ignore[no-untyped-def]
        count = 0
        for axis in np.eye(3):
            at = [seen(kind, tuple(p)) for p in (np.array([1, 1, 1.0]), np.array([2, 3, 2.0]))]
            on = [seen(kind, tuple(p + axis)) for p in (np.array([1, 1, 1.0]), np.array([2, 3, 2.0]))]
            a, b = on[0] - at[0], on[1] - at[1]
            count += abs(a[0] * b[1] - a[1] * b[0]) > 1e-6 * np.linalg.norm(a) * np.linalg.norm(b)
        return count

    assert [converging(k) for k in (OnePoint(), TwoPoint(), ThreePoint())] == [1, 2, 3]


@pytest.mark.parametrize(
    "kind", [Isometric(), PlanOblique(), TwoPoint(), SectionPerspective(place=2)], ids=lambda k: k.kind
)
def test_a_side_of_the_paper_is_drawn_out_without_moving_the_drawing(kind) -> None:  # type: ignore[no-untyped-def]
    view = of_kind(START.model_copy(update={"frame": Frame()}), kind, EXTENT)
    points = np.array([[0, 0.5, 0], [8, 5, 3], [6, 3, 9]], float)

    def drawn(view: ViewSpecification) -> tuple[np.ndarray, Projection]:
        projection = Drawing(HOUSE, view).scene.projection
        return projection.project(points)[:, :2], projection

    before, projection = drawn(view)
    for side, move in (("left", (40, 0)), ("right", (0, 0)), ("top", (0, 40)), ("bottom", (0, 0))):
        wider = extended(view, side, 40, projection)  # type: ignore[arg-type]
        assert drawn(wider)[0] == pytest.approx(before + np.array(move), abs=1e-6)
        back = extended(wider, side, -40, drawn(wider)[1])  # type: ignore[arg-type]
        assert drawn(back)[0] == pytest.approx(before, abs=1e-6)
    with pytest.raises(ViewError, match="between 10 and 5000 mm"):
        extended(view, "left", 4990, projection)


def test_fitting_brings_all_that_is_shown_onto_the_paper() -> None:
    for kind in (Isometric(), TwoPoint(angle=9, aside=3), ThreePoint(angle=120)):
        view = of_kind(START.model_copy(update={"frame": Frame(shift=(300, 0))}), kind, EXTENT)
        whole = Drawing(HOUSE, fitted(view, HOUSE.vertices))
        flat = whole.scene.projection.project(HOUSE.vertices)[:, :2]
        assert (flat >= 0).all() and (flat <= [420, 297]).all()
        assert np.ptp(flat, axis=0).max() > 60


def test_scales_are_written_as_the_trade_writes_them() -> None:
    assert [scale_label(s) for s in (50, 48, 96, 120, 33)] == ["1:50", "¼″ = 1′-0″", "⅛″ = 1′-0″", "1″ = 10′", "1:33"]
    metric = [s for s in SCALES if s.system == "metric"]
    assert all(s.label == f"1:{s.n:g}" for s in metric) and set(USUAL) <= {s.n for s in metric}, (
        "what is chosen can be chosen"
    )


def test_saved_views_are_ordered_locked_doubled_grouped_and_pasted() -> None:
    document = fresh_document("House", [of_kind(START, k, EXTENT).model_copy(update={"name": k.kind}) for k in ALL[:3]])
    document = order_view(document, "view-3", 0)
    assert [v.view.name for v in document.views] == ["elevation", "plan", "reflected plan"]
    document = duplicate_view(document, "view-1")
    assert [v.view.name for v in document.views] == ["elevation", "plan", "plan 2", "reflected plan"]
    assert len({v.mark for v in document.views}) == 4 and document.desk.view_id == "view-1"
    document = mark_view(mark_view(document, "view-1", locked=True), "view-1", group="Plans")
    for act in (save_view, lambda d: remove_view(d, "view-1")):
        with pytest.raises(ViewError, match="“plan” is locked; unlock it first"):
            act(document)
    text = document.views[1].view.model_dump_json()
    document = paste_view(document, text)
    assert document.views[-1].view.name == "plan 3" and document.desk.view == document.views[-1].view
    assert document.desk.view.projection == document.views[1].view.projection
    with pytest.raises(ViewError, match="The pasted text is not JSON"):
        paste_view(document, "not a view")


def test_what_differs_between_two_views_is_said_in_words() -> None:
    first = of_kind(START, Section(bearing=0, place=2), EXTENT)
    other = replace_frame(of_kind(START, Section(bearing=0, place=2.5), EXTENT), scale=48)
    assert [tuple(d) for d in differences(first, other, EXTENT)] == [
        ("place", "2 m", "2.5 m"),
        ("scale", "1:100", "¼″ = 1′-0″"),
    ]
    assert differences(first, first.model_copy(update={"name": "Another name"}), EXTENT) == []
    cut = first.model_copy(update={"cuts": (*first.cuts, Cut(point=(3, 0, 0), normal=(1, 0, 0), role="limit"))})
    assert [tuple(d) for d in differences(first, cut, EXTENT)] == [
        ("cuts", "none", "limit at x = 3 m, less what is east")
    ]
    own = first.cuts[0]
    stepped = first.model_copy(update={"cuts": (own.model_copy(update={"jogs": (Jog(at=1, by=2),)}),)})
    found = differences(first, stepped, EXTENT)
    assert [d.what for d in found] == ["cuts"] and found[0].first == "none" and found[0].second.endswith("1 step")
    central = ViewSpecification(projection=Perspective(eye=(0, -20, 3), target=(2, 0, 3)))
    assert ("kind", "section", "two-point perspective") in [tuple(d) for d in differences(first, central, EXTENT)]


def test_the_steps_of_a_section_stay_with_it_when_it_is_moved() -> None:
    cut = Cut(point=(3, 2, 0), normal=(0, -1, 0), jogs=(Jog(at=1, by=-1.5),))
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0)), cuts=(cut,))
    moved = of_kind(view, Section(bearing=0, place=2.5), EXTENT)
    before, after = (surfaces_of(v.cuts[0], 0, np.zeros(3))[0] for v in (view, moved))
    points = np.random.default_rng(3).uniform(-2, 9, (200, 3))
    assert after.side(points) == pytest.approx(before.side(points - [0, 0.5, 0]))
    assert len(moved.cuts) == 1 and len(moved.cuts[0].jogs) == 1
    assert of_kind(moved, Section(bearing=90, place=2.5), EXTENT).cuts[0].jogs == ()  # another way, another section


def replace_frame(view: ViewSpecification, **changes: float) -> ViewSpecification:
    return view.model_copy(update={"frame": view.frame.model_copy(update=changes)})


def test_storeys_are_found_where_there_is_a_floor_to_stand_on() -> None:
    slabs = [(f"Slab {i}", box((0, 0, 3.2 * i - 0.3), (10, 8, 3.2 * i)), 0) for i in range(4)]
    walls = [(f"Wall {i}", box((0, 0, 3.2 * i), (0.3, 8, 3.2 * i + 2.9)), 0) for i in range(3)]
    table = ("Table", box((4, 4, 0.7), (5, 5, 0.75)), 2)
    found = landmarks_of(model_of(*slabs, *walls, table)).levels
    assert [height for _, height in found] == pytest.approx([0, 3.2, 6.4])  # the roof is no storey
    assert landmarks_of(HOUSE.reshaped(triangles=HOUSE.triangles[:0], triangle_part=HOUSE.triangle_part[:0])) == (
        [],
        [],
    )


@given(st.floats(0, 359.9))
@settings(max_examples=examples(20, 7), deadline=None)
def test_fronts_are_the_bearings_that_look_squarely_at_the_walls(turn: float) -> None:
    house = box((0, 0, 0), (12, 7, 5))
    tower = trimesh.creation.cylinder(0.4, 9, sections=64)  # round, and too small for a front
    for body in (house, tower):
        body.apply_transform(trimesh.transformations.rotation_matrix(-np.radians(turn), (0, 0, 1)))
    found = landmarks_of(model_of(("House", house, 0), ("Tower", tower, 0))).fronts
    assert len(found) == 4
    # Long sides first; a turn by so many degrees clockwise is a bearing more.
    off = (np.array(found) - turn - [[0, 180, 90, 270], [180, 0, 270, 90]] + 180) % 360 - 180
    assert (np.abs(off[:, :2]).max(1).min() < 0.06) and (np.abs(off[:, 2:]).max(1).min() < 0.06)


@pytest.mark.parametrize(
    "name", ["one-point perspective", "two-point perspective", "three-point perspective", "section perspective"]
)
def test_a_house_at_its_height_above_the_sea_is_looked_at_from_its_own_ground(name: str) -> None:
    """The same house at zero and at 118 m: the same drawing, for the eye stands as high above the floor."""
    seen = []
    for height in (0.0, 118.0):
        house = model_of(("House", box((0, 0, height), (12, 7, height + 5)), 0))
        document = fresh_document("House")
        bounds = np.array([house.vertices.min(0), house.vertices.max(0)], float)
        view = document.desk.view
        kind = begun(name, view, bounds, [height])
        assert float(kind.eye_height) - height == pytest.approx(float(KINDS[name]().eye_height))  # type: ignore[union-attr]
        assert begun(name, view, bounds).eye_height == pytest.approx(kind.eye_height)  # type: ignore[union-attr]
        drawn = Drawing(house, replace_frame(of_kind(view, kind, bounds, 100), resolution=40))
        seen.append(drawn.surface().part >= 0)
    assert seen[0].mean() > 0.02 and (seen[0] != seen[1]).mean() < 0.002
