"""Marks of one's own and the line of the ground.
Read back from the SVG, judged by rays and by a camera of the judge's own.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh

from tests.conftest import box, deeper, model_of
from tests.core.judge import Camera
from tests.core.test_poche_on_paper import SVG, filled
from warmgraphite.collage.kinds.cut_shadow import CutShadow
from warmgraphite.collage.kinds.marks import MarksTrace
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.figures.choosing import Marked
from warmgraphite.ink.marks.following import moved_marks
from warmgraphite.ink.marks.snapping import Sheet as Laid
from warmgraphite.ink.marks.snapping import caught, under
from warmgraphite.ink.marks.specification import Ground, Mark, OnCut, OnFace, OnLevel, OnPaper
from warmgraphite.model import Model
from warmgraphite.model.edits.parts import SetRole
from warmgraphite.regions.query import Match
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study import Change, apply_commands, follow_names, fresh_document, write_drawing_file
from warmgraphite.study.commands.look import ChangeMarks, PasteDrawing
from warmgraphite.study.commands.regions import KeepRegion, RemoveRegion, RenameRegion
from warmgraphite.study.commands.views import DuplicateView, RemoveView
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, ViewSpecification

RED = {"kind": "flat", "colour": "#aa2200"}
SLOPE = np.array([0, -0.5, 1.0]) / np.hypot(0.5, 1)
FRAME = Frame(width=300, height=210, scale=50)


def house(raised: float = 0.0) -> Model:
    """A house with one sloping roof, a chimney that stands before it, and a cellar."""
    roof = trimesh.convex.convex_hull(
        [(x, y, 3 + raised + 0.5 * y + t) for x in (-0.4, 8.4) for y in (-0.4, 6.4) for t in (0, 0.25)]
    )
    hollow = box((0, 0, 0), (8, 6, 3)).difference(box((0.3, 0.3, -1), (7.7, 5.7, 4)))
    cellar = box((0, 0, -2.6), (8, 6, 0)).difference(box((0.3, 0.3, -2.3), (7.7, 5.7, -0.25)))
    return model_of(
        ("Roof", roof, 2), ("Walls", hollow, 0), ("Cellar", cellar, 0),
        ("Chimney", box((3, -0.2, 0), (3.8, 0.6, 6.4)), 0),
        ("Pane", box((-2, -3, 0), (10, -2.98, 9)), 1),
    )  # fmt: skip


def on_roof(x: float, y: float, raised: float = 0.0) -> tuple[float, float, float]:
    return x, y, 3.25 + raised + 0.5 * y


PANEL = Mark(
    kind="rectangle", name="panel", points=(on_roof(2, 1.2), on_roof(5, 4.0)),
    plane=OnFace(part="Roof", normal=tuple(SLOPE)),
    fills=(RED,), lift=0.05,
)  # fmt: skip
VIEWS = {
    "perspective": Perspective(eye=(2.2, -9, 5.2), target=(3.6, 3, 4.2), field_of_view=55),
    "elevation": Parallel(direction=(0, 1, 0), centre=(4, 0, 4)),
    "plan": Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(4, 3, 4)),
    "axonometric": Parallel(direction=(0.3, 1, -0.55), centre=(4, 3, 3.5)),
}


def drawn(
    model: Model, view: ViewSpecification, *marks: Mark | Ground, poche: bool = False
) -> tuple[dict[str, shapely.Geometry], dict[str, list[np.ndarray]]]:
    """The filled shapes and the lines of a drawing's groups on the paper, by name."""
    traces = (PocheTrace(id="poche", name="Poche"),) if poche else (MarksTrace(id="marks", name="Marks"),)
    sheet = Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False)
    drawing = Drawing(model, view, (60, 42), ink=Marked(marks=marks))
    with TemporaryDirectory() as folder:
        path = Path(folder) / "a.svg"
        write_drawing(drawing.plate(), traces, sheet, path)
        text = path.read_text().replace('data-name="mark ', 'data-name="poche mark ')
        tree = ET.fromstring(text)
        for group in list(tree.iter(f"{SVG}g")):  # what is laid thinner lies in a group of its own
            for inner in group.findall(f"{SVG}g"):
                group.extend(inner.findall(f"{SVG}path") if inner.get("data-name") == "fill" else ())
        path.write_bytes(ET.tostring(tree))
        shapes = filled(path)
        lines: dict[str, list[np.ndarray]] = {}
        for group in ET.fromstring(text).iter(f"{SVG}g"):
            for inner in group.findall(f"{SVG}g"):
                for element in inner.findall(f"{SVG}path"):
                    if element.get("fill") == "none":
                        rows = [
                            np.array(re.findall(r"-?[\d.]+", row), float).reshape(-1, 2)
                            for row in (element.get("d") or "").split("M")[1:]
                        ]
                        lines.setdefault(inner.get("data-name") or "", []).extend(rows)
    return {n.removeprefix("poche "): s for n, s in shapes.items()}, lines


def seen_by_rays(model: Model, view: ViewSpecification, points: np.ndarray) -> np.ndarray:
    """(N,) whether nothing solid stands between a point and the viewer."""
    solid = ~model.parts.is_glass[model.triangle_part]
    mesh = trimesh.Trimesh(model.vertices, model.triangles[solid], process=False)
    spec = view.projection
    way = (
        np.array(spec.eye) - points
        if isinstance(spec, Perspective)
        else np.broadcast_to(-np.array(spec.direction, float), points.shape)
    )
    way = way / np.linalg.norm(way, axis=1, keepdims=True)
    return ~mesh.ray.intersects_any(points + 0.006 * way, way)


@pytest.mark.parametrize("kind", VIEWS)
def test_a_panel_on_a_roof_is_in_its_place_and_hidden_by_what_stands_before_it(kind: str) -> None:
    model, view = house(), ViewSpecification(projection=VIEWS[kind], frame=FRAME)
    shapes, _ = drawn(model, view, PANEL)
    camera = Camera(view)
    rng = np.random.default_rng(3)
    x, y = rng.uniform([1.4, 0.6], [5.6, 4.6], (3000, 2)).T
    points = np.stack([x, y, 3.25 + 0.5 * y], 1) + 0.05 * SLOPE
    inside = (x > 2) & (x < 5) & (y > 1.2) & (y < 4.0)
    wanted = inside & seen_by_rays(model, view, points)
    flat = camera.flat(points)
    edges = shapely.boundary(shapes["mark panel"])
    corners = camera.flat(np.array([on_roof(a, b) for a, b in ((2, 1.2), (5, 1.2), (5, 4), (2, 4))]) + 0.05 * SLOPE)
    outline = shapely.Polygon(corners).exterior
    sure = (shapely.distance(shapely.points(flat), edges) > 0.2) & (
        shapely.distance(shapely.points(flat), outline) > 0.2
    )
    found = shapely.contains_xy(shapes["mark panel"], *flat.T)
    assert sure.mean() > 0.8 and 0.1 < wanted.mean() < 0.6
    assert (found[sure] != wanted[sure]).mean() < 0.002
    # Its corners are where those places of the model are: the same in every view.
    there = [c for c, p in zip(corners, np.array([on_roof(a, b) for a, b in ((2, 1.2), (5, 1.2), (5, 4), (2, 4))]),
        strict=True)
             if seen_by_rays(model, view, p[None] + 0.05 * SLOPE)[0]]  # fmt: skip
    assert len(there) >= 3
    assert all(edges.distance(shapely.Point(c)) < 0.02 for c in there)
    if kind != "plan":  # the chimney hides some of it
        assert shapes["mark panel"].area < 0.97 * shapely.Polygon(corners).area


def test_a_mark_goes_along_with_a_face_that_a_new_version_moved_and_is_gone_with_its_part() -> None:
    view = ViewSpecification(projection=VIEWS["elevation"], frame=FRAME)
    before, _ = drawn(house(), view, PANEL)
    after, _ = drawn(house(raised=0.8), view, PANEL)
    down = np.array(before["mark panel"].bounds) - np.array(after["mark panel"].bounds)
    assert down == pytest.approx([0, 16, 0, 16], abs=0.02)
    model = house()
    without = replace(model, parts=tuple(replace(p, name="Other roof") if p.name == "Roof" else p for p in model.parts))
    assert drawn(without, view, PANEL)[0] == {}
    # Where the model was in feet it is as large as the model, and in the same place of it.
    (feet,) = moved_marks((PANEL,), np.diag([0.3048, 0.3048, 0.3048, 1.0]))
    assert np.allclose(np.array(feet.points), np.array(PANEL.points) * 0.3048) and feet.lift == pytest.approx(
        0.05 * 0.3048
    )  # type: ignore[union-attr]


def test_every_kind_of_mark_is_drawn_on_its_plane() -> None:
    view = ViewSpecification(projection=VIEWS["plan"], frame=FRAME)
    camera = Camera(view)

    def line(kind: str, *points: tuple[float, float], **more: Any) -> list[np.ndarray]:
        mark = Mark(kind=kind, name="it", points=tuple((x, y, 9.0) for x, y in points), plane=OnLevel(), **more)  # type: ignore[arg-type]
        return drawn(house(), view, mark)[1]["mark"]

    def flat(*points: tuple[float, float]) -> np.ndarray:
        return camera.flat(np.array([(x, y, 9.0) for x, y in points]))

    assert np.allclose(line("line", (1, 1), (3, 2))[0], flat((1, 1), (3, 2)), atol=0.02)
    assert shapely.LinearRing(line("rectangle", (1, 1), (3, 2))[0]).equals_exact(
        shapely.LinearRing(flat((1, 1), (3, 1), (3, 2), (1, 2))), 0.02, normalize=True
    )
    (circle,) = line("circle", (2, 2), (3, 2))
    assert np.linalg.norm(circle - flat((2, 2)), axis=1) == pytest.approx(np.full(len(circle), 20.0), abs=0.02)
    (arc,) = line("arc", (1, 2), (2, 3), (3, 2))
    assert np.linalg.norm(arc - flat((2, 2)), axis=1) == pytest.approx(np.full(len(arc), 20.0), abs=0.02)
    assert (
        arc[:, 1].min() == pytest.approx(flat((2, 3))[0, 1], abs=0.03) and arc[:, 1].max() <= flat((2, 2))[0, 1] + 0.02
    )
    shaft, *head = sorted(line("arrow", (1, 1), (5, 1)), key=lambda n: -np.ptp(n[:, 0]))
    assert (
        len(head) == 2
        and all(np.linalg.norm(h - flat((5, 1)), axis=1).min() < 0.02 for h in head)
        and np.ptp(shaft[:, 0]) == pytest.approx(80, abs=0.05)
    )
    assert len(line("polyline", (1, 1), (2, 2), (3, 1))[0]) == len(line("polygon", (1, 1), (2, 2), (3, 1))[0]) == 3
    brush = Mark(
        kind="brush", name="it", points=((1, 1, 9), (5, 1, 9)), plane=OnLevel(), width=1.0, pen={"opacity": 0.5}
    )  # type: ignore[arg-type]
    wide = drawn(house(), view, brush)[0]["mark it"]
    assert wide.bounds[3] - wide.bounds[1] == pytest.approx(20, abs=0.05)
    # On the paper of a view it lies where it was drawn, in millimetres from the middle.
    on_paper = drawn(house(), view, Mark(kind="line", name="it", points=((-30, 5, 0), (30, 5, 0)), plane=OnPaper()))[1][
        "mark"
    ]
    assert np.allclose(on_paper[0], [(120, 110), (180, 110)], atol=0.02)
    # In a cut it is there in every view that is cut there, and in no other.
    section = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(4, 0, 2)),
        cuts=(Cut(point=(0, 2, 0), normal=(0, -1, 0)),),
        frame=FRAME,
    )
    missing = Mark(kind="line", name="it", points=((1, 2, 1), (5, 2, 1)), plane=OnCut(normal=(0, -1, 0)))
    assert drawn(house(), section, missing)[1]["mark"]
    assert not drawn(house(), section.model_copy(update={"cuts": (Cut(point=(0, 3, 0), normal=(0, -1, 0)),)}), missing)[
        1
    ]


SECTION = Parallel(direction=(0, 1, 0), centre=(4, 0, 0))
LONG = ViewSpecification(projection=SECTION, cuts=(Cut(point=(0, 3, 0), normal=(0, -1, 0)),), frame=FRAME)
CROSS = ViewSpecification(
    projection=Parallel(direction=(1, 0, 0), centre=(0, 3, 0)),
    cuts=(Cut(point=(4, 0, 0), normal=(-1, 0, 0)),),
    frame=FRAME,
)


@pytest.mark.parametrize(
    ("view", "edge"),
    deeper(
        [(LONG, "straight"), (CROSS, "rough"), (LONG, "fading")],
        [(CROSS, "straight"), (LONG, "rough"), (CROSS, "fading")],
    ),
)
def test_earth_lies_below_its_level_to_the_frame_and_rooms_below_stay_void(edge: str, view: ViewSpecification) -> None:
    ground = Ground(points=((2, 1, -0.4),), depth=1.5, edge=edge, fills=(RED,))  # type: ignore[arg-type]
    shapes, lines = drawn(house(), view, ground, poche=True)
    camera, earth = Camera(view), shapes["Ground"]
    top = camera.flat(np.array([(4, 3, -0.4)]))[0, 1]
    assert earth.bounds[1] == pytest.approx(top, abs=0.02)
    assert earth.bounds[0] <= 0 and earth.bounds[2] >= 300
    low = earth.bounds[3] - top
    assert low == pytest.approx(30, abs=0.03) if edge != "rough" else 30 < low < 36
    way = np.array([1.0, 0, 0]) if view is LONG else np.array([0, 1.0, 0])
    middle = np.array([4.0, 3, 0])
    inside = camera.flat(np.array([middle + s * way + [0, 0, z] for s in (-2.2, 1.9) for z in (-0.6, -1.2, -1.7)]))
    assert not shapely.contains_xy(earth, *inside.T).any(), "the cellar is no earth"
    outside = camera.flat(np.array([middle + s * way + [0, 0, -0.9] for s in (-6, -4.6, 4.6, 6)]))
    outside = outside[(outside[:, 0] > 0) & (outside[:, 0] < 300)]
    assert len(outside) >= 2 and shapely.contains_xy(earth, *outside.T).all()
    assert all(np.allclose(row[:, 1], top, atol=0.02) for row in lines["ground"])


def test_a_ground_follows_its_points_and_is_the_same_in_a_second_view() -> None:
    points = ((-3.0, 3.0, 0.2), (1.0, 3.0, -0.3), (6.0, 3.0, -0.8), (12.0, 3.0, -1.0))
    ground = Ground(points=points, depth=1.0, edge="straight", fills=(RED,))
    _, lines = drawn(house(), LONG, ground, poche=True)
    camera, path = Camera(LONG), shapely.MultiLineString([shapely.LineString(row) for row in lines["ground"]])
    for place in (points[0], (10, 3, -0.8 - 0.2 * 4 / 6)):
        assert path.distance(shapely.Point(camera.flat(np.array([place]))[0])) < 0.02
    # Across it: a level at the height that the profile has there.
    _, lines = drawn(house(), CROSS, ground, poche=True)
    height = np.interp(4.0, [p[0] for p in points], [p[2] for p in points])
    top = Camera(CROSS).flat(np.array([(4, 0, height)]))[0, 1]
    assert all(np.allclose(row[:, 1], top, atol=0.02) for row in lines["ground"])


def test_points_catch_on_corners_middles_edges_and_directions() -> None:
    model = model_of(("Block", box((0, 0, 0), (4, 2, 3)), 0))
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1.5)), frame=FRAME)
    drawing = Drawing(model, view, (300, 210))
    lines, index, paper, camera = drawing.lines(), drawing.result("strokes").index, drawing.paper, Camera(view)
    face = Laid(np.array([2.0, 0, 1]), np.array([0.0, -1, 0]))

    def at(x: float, z: float) -> np.ndarray:
        return camera.flat(np.array([(x, 0, z)]))[0]

    for place, sign, there in (
        ((0.03, 0.02), "corner", (0, 0)), ((2.02, 0.03), "middle", (2, 0)), ((1.1, 0.02), "edge", (1.1, 0)),
        ((1.2, 1.4), "free", (1.2, 1.4)),
    ):  # fmt: skip
        found = caught(lines, index, paper, at(*place), 2.0)
        assert found.sign == sign and np.allclose(found.xy, at(*there), atol=0.01), (place, found)
    # From a corner of its own a line falls into the direction of an edge, or across it.
    before = at(1, 1)
    level = caught(lines, index, paper, at(2.4, 1.05), 2.0, before, face)
    assert level.sign in ("parallel", "perpendicular") and np.allclose(level.xy[1], before[1], atol=0.01)
    upright = caught(lines, index, paper, at(1.04, 2.2), 2.0, before, face)
    assert np.allclose(upright.xy[0], before[0], atol=0.01)
    assert caught(lines, index, paper, at(2.2, 2.0), 2.0, before, face).sign == "free"
    sheet, part, is_cut = under(paper, model, drawing.surface(), (), at(1.3, 1.7))  # type: ignore[misc]
    assert (
        part == 0
        and not is_cut
        and np.allclose(sheet.normal, (0, -1, 0))
        and np.allclose(sheet.point, (1.3, 0, 1.7), atol=1e-6)
    )
    assert under(paper, model, drawing.surface(), (), np.array([2.0, 2.0])) is None


def test_the_shadow_behind_a_cut_falls_beside_it_and_its_windows_fit() -> None:
    model = SetRole(parts=(4,), role="glass").apply(house())
    trace = CutShadow(id="s", name="S", distance=4.0, angle=0.0, blur=1.0, strength=0.5, mottle=0.0)
    whole = Drawing(model, LONG, (600, 420))
    share = trace.share(whole.plate())
    cut = shapely.union_all([shapely.Polygon(r.rings[0], r.rings[1:]) for r in whole.result("shapes")])
    y, x = np.indices(share.shape)
    inside = shapely.contains_xy(cut, (x + 0.5) / 2, (y + 0.5) / 2)
    assert share[inside].max() <= 2  # nothing on what is cut but where half a pixel of it is
    fallen = (
        shapely.contains_xy(
            shapely.transform(cut, lambda xy: xy + np.array([4.0, 0.0])).buffer(-2.5), (x + 0.5) / 2, (y + 0.5) / 2
        )
        & ~inside
    )
    assert fallen.any() and share[fallen].min() > 100
    part = trace.share(whole.windowed((150, 120, 200, 160)).plate())
    assert np.abs(part.astype(int) - share[120:280, 150:350]).max() <= 1


def test_marks_go_along_with_what_is_said_of_a_study() -> None:
    """What lies on the paper goes with its view; regions and parts are called as they are called now.
    Other studies take marks in.
    """
    document = fresh_document(
        "Study",
        [ViewSpecification(name="A", projection=VIEWS["plan"]), ViewSpecification(name="B", projection=VIEWS["plan"])],
    )
    kept = {"kind": "kept", "name": "Roofs"}
    rows = [
        {"kind": "line", "id": "flat", "points": [[0, 0, 0], [9, 9, 0]], "plane": {"lies": "paper", "view": "view-1"}},
        {"kind": "line", "id": "on", "points": [[0, 0, 3], [1, 1, 3]],
            "plane": {"lies": "face", "part": "Roof", "normal": [0, 0, 1]}, "where": kept},
    ]  # fmt: skip
    laid = ChangeMarks(changes=tuple(Change(path=("marks", str(r["id"])), value=r) for r in rows))
    document = apply_commands(document, [KeepRegion(name="Roofs", query=Match(materials=("Zinc",))), laid])
    assert all([t.kind for t in f.traces].count("marks") == 1 for f in document.finishes)
    seen = lambda d, view: [m.id for m in d.drawn_look(next(v for v in d.views if v.id == view)).marks]
    assert seen(document, "view-1") == ["flat", "on"] and seen(document, "view-2") == ["on"]
    with pytest.raises(ViewError, match="is confined to region “Roofs”"):
        apply_commands(document, [RemoveRegion(region_id="region-1")])
    renamed = apply_commands(document, [RenameRegion(region_id="region-1", name="Metal")])
    assert renamed.marks[1].where.name == "Metal"  # type: ignore[union-attr]
    model = house()
    other = replace(model, parts=tuple(replace(p, name="Upper [roof]") if p.name == "Roof" else p for p in model.parts))
    assert follow_names(document, model, other).marks[1].plane.part == "Upper [roof]"  # type: ignore[union-attr]
    twice = apply_commands(document, [DuplicateView(view_id="view-1")])
    assert len(seen(twice, "view-3")) == 2 and len(twice.marks) == 3
    assert [m.id for m in apply_commands(document, [RemoveView(view_id="view-1")]).marks] == ["on"]
    saved = document.views[0]
    text = write_drawing_file(saved.view, document.drawn_look(saved), saved.sheet)
    pasted = apply_commands(fresh_document("Other"), [PasteDrawing(text=text)])
    assert [m.plane.lies for m in pasted.marks] == ["paper", "face"] and pasted.marks[
        0
    ].plane.view == pasted.desk.view_id  # type: ignore[union-attr]
    again = apply_commands(pasted, [PasteDrawing(text=text)])
    assert [m.plane.lies for m in again.marks] == ["paper", "face", "paper"]  # what lies on the model is there once
    with pytest.raises(ViewError, match="has 2 points, and this one 1"):
        apply_commands(document, [ChangeMarks(changes=(Change(path=("marks", "on", "points"), value=[[0, 0, 0]]),))])
