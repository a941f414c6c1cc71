"""Notes that come from the model: each is held against the model itself, on the drawing that leaves the house."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from pydantic import TypeAdapter

from demo.ifc import Ifc
from tests.conftest import DEEP, box, deeper, model_of
from tests.core.models import FAR
from warmgraphite.canvas.lettering import missing_in
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.drawing import Bench, Drawing, needs_of
from warmgraphite.model import Model
from warmgraphite.model.axes import Axis, Door, wall_axes
from warmgraphite.model.edits.file import Remeasure
from warmgraphite.model.model import Room, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.model.read import read_model
from warmgraphite.model.store import load_model, save_model
from warmgraphite.notes.kinds import KINDS, AnyNote
from warmgraphite.notes.laid import LaidNotes
from warmgraphite.notes.lettering import measure
from warmgraphite.notes.note import Companion, Note, OfPoints, Spot
from warmgraphite.notes.pointing import pointed_at
from warmgraphite.notes.written import Area, Line, line_width, plain
from warmgraphite.sheet.notes import laid_notes
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study import DrawnLook, Look, fresh_document, read_drawing, write_drawing_file
from warmgraphite.study.changes import Change
from warmgraphite.study.following import follow_edit, follow_names
from warmgraphite.study.notes import change_notes
from warmgraphite.view.specification import Cut, Frame, Oblique, Parallel, Perspective, Sun, ViewSpecification

NOTES: TypeAdapter[Any] = TypeAdapter(tuple[AnyNote, ...])
BARE = Sheet(margin=10, title_on=False, scale_bar_on=False, north_on=False)
PLAN = Parallel(direction=(0, 0, -1), up=(0, 1, 0))


def notes(*rows: dict[str, Any]) -> tuple[Note, ...]:
    return tuple(n.model_copy(update={"id": f"n-{k}"}) for k, n in enumerate(NOTES.validate_python(rows)))


#: The same few scenes are written on again and again.
BENCH = Bench("scenes of notes")


def drawing_of(
    model: Model, view: ViewSpecification, *rows: dict[str, Any], look: Look | None = None
) -> tuple[Drawing, DrawnLook]:
    worn = (look or Look(traces=(PocheTrace(id="poche", name="Poche"),))).marked((), (), notes(*rows))
    drawing = Drawing(model, view, (200, 140), ink=worn, bench=BENCH)
    drawing.compute(needs_of(worn.traces, worn, worn.notes))
    return drawing, worn


def laid(model: Model, view: ViewSpecification, *rows: dict[str, Any]) -> tuple[LaidNotes, Drawing]:
    drawing, worn = drawing_of(model, view, *rows)
    return laid_notes(drawing.plate("Test", worn), BARE), drawing


def svg_of(model: Model, view: ViewSpecification, path: Path, *rows: dict[str, Any]) -> ET.Element:
    drawing, worn = drawing_of(model, view, *rows)
    write_drawing(drawing.plate("Test", worn), worn.traces, BARE, path)
    return ET.parse(path).getroot()


def group(svg: ET.Element, begins: str) -> list[ET.Element]:
    return [g for g in svg.iter("{http://www.w3.org/2000/svg}g") if g.get("data-name", "").startswith(begins)]


def words(element: ET.Element) -> list[str]:
    return ["".join(t.itertext()) for t in element.iter("{http://www.w3.org/2000/svg}text")]


def paths(element: ET.Element) -> list[np.ndarray]:
    rows = [p.get("d", "") for p in element.iter("{http://www.w3.org/2000/svg}path")]
    return [np.array([float(v) for v in re.findall(r"-?\d+\.?\d*(?:e-?\d+)?", d)]).reshape(-1, 2) for d in rows]


def house(storey: float = 3.0, at: tuple[float, float, float] = (0, 0, 0)) -> Model:
    """Two rooms side by side with a doorway between them, 4 × 5 and 3 × 5 metres inside, walls 0.3 thick, on a slab.
    An upper slab; a window.
    """

    def body(low: tuple[float, float, float], high: tuple[float, float, float]) -> trimesh.Trimesh:
        return box(tuple(np.add(low, at)), tuple(np.add(high, at)))

    wall = [
        ("West", (0, 0, 0), (0.3, 5.6, storey)), ("East", (7.6, 0, 0), (7.9, 5.6, storey)),
        ("South", (0.3, 0, 0), (7.6, 0.3, storey)),
        ("North", (0.3, 5.3, 0), (7.6, 5.6, storey)), ("Middle low", (4.3, 0.3, 0), (4.6, 2.0, storey)),
        ("Middle high", (4.3, 3.0, 0), (4.6, 5.3, storey)),
    ]  # fmt: skip
    rows = [
        ("Slab", body((0, 0, -0.3), (7.9, 5.6, 0)), 0),
        ("Upper slab", body((0, 0, storey), (7.9, 5.6, storey + 0.3)), 0),
    ]
    return model_of(*rows, *((n, body(a, b), 0) for n, a, b in wall), name="House")


def level_cut(z: float = 1.2) -> Cut:
    return Cut(point=(0, 0, z), normal=(0, 0, 1))


@pytest.mark.parametrize(
    "projection, cut",
    [
        (Parallel(direction=(0, 1, 0)), Cut(point=(0, 2.5, 0), normal=(0, -1, 0))),
        (Parallel(direction=(0.4, 1, 0)), None),
        (Parallel(direction=(0.5, 1, -0.6)), None),
        (Oblique(direction=(0, 1, 0)), None),
        (Perspective(eye=(4, -12, 1.6), target=(4, 3, 1.6), upright=True), Cut(point=(0, 1.0, 0), normal=(0, -1, 0))),
    ],
)  # fmt: skip
def test_levels_stand_at_their_projected_heights_and_follow_a_storey(
    projection: Any, cut: Cut | None, tmp_path: Path
) -> None:
    """Judged by the SVG: the tip of each mark, which is a point of the level's own line."""
    view = ViewSpecification(
        projection=projection,
        cuts=(cut,) if cut else (),
        frame=Frame(width=420, height=297, scale=None if projection.kind == "perspective" else 100),
    )
    own = {"name": "Sill", "at": (1, 1, 0.85)}
    found: dict[float, list[str]] = {}
    for storey in (3.0, 3.47):
        model = house(storey)
        svg = svg_of(
            model, view, tmp_path / "a.svg", {"kind": "levels", "ground": False, "heights": [own], "zero": 0.5}
        )
        (one,) = group(svg, "note Levels")
        found[storey] = words(one)
        drawing = Drawing(model, view)
        told = dict(re.findall(r"^([+−±][\d.]+)(?:\s+(\S+))?", line)[0] for line in words(one))
        assert "+0.35" in told and "±0.00" not in told
        # Where a level's line ends at its mark, and what it is called there.
        tips = [float(p[:, 1].max()) for p in paths(one) if len(p) == 3]
        assert len(tips) == len(words(one)) >= 3
        for line, y in zip(words(one), tips, strict=True):
            number = line.split()[0]
            z = float(number.replace("−", "-").replace("±", "").replace("+", "")) + 0.5
            corners = np.array(
                [
                    (a, 1.0 if cut and projection.kind == "perspective" else b, z)
                    for a in (0, 7.9)
                    for b in (0, 2.5, 5.6)
                ]
            )
            heights = drawing.paper.project(corners)[:, 1]
            assert np.abs(heights - y).min() < 0.01, (number, y, heights)
    assert any(line.startswith("+2.80") for line in found[3.0]) and any(
        line.startswith("+3.27") for line in found[3.47]
    )


def test_levels_in_a_plan_are_said_to_have_no_place() -> None:
    found, _ = laid(house(), ViewSpecification(projection=PLAN, frame=Frame(scale=100)), {"kind": "levels"})
    assert not found.notes[0].groups and "shows no heights" in found.notes[0].told


@pytest.mark.parametrize("seed", deeper(range(3), range(3, 12)))
def test_dimensions_are_the_distances_of_the_model_between_computed_corners(seed: int, tmp_path: Path) -> None:
    rng = np.random.default_rng(seed)
    low = rng.uniform(-3, 0, 3)
    high = low + rng.uniform(1.5, 6, 3)
    model = model_of(("Block", box(tuple(low), tuple(high)), 0))
    view = ViewSpecification(
        projection=Parallel(direction=(0.5, 1, -0.4)), frame=Frame(width=420, height=297, scale=50)
    )
    drawing = Drawing(model, view, (300, 212))
    drawing.compute(["lines", "strokes", "surface"])
    corners = np.array([(low[0], low[1], high[2]), (high[0], low[1], high[2]), (high[0], high[1], high[2])])
    places = drawing.paper.project(corners)[:, :2]
    # Pointed at a millimetre beside them, they are caught, and exactly.
    caught = [pointed_at(drawing, p + rng.uniform(-0.6, 0.6, 2), 2.0) for p in places]
    assert all(c.sign == "corner" and c.part == "Block" for c in caught)
    assert np.abs(np.array([c.point for c in caught]) - corners).max() < 1e-9
    points = [tuple(c.point.tolist()) for c in caught]
    svg = svg_of(
        model, view, tmp_path / "a.svg", {"kind": "dimension", "points": points, "total": True},
        {"kind": "dimension", "points": [points[0], (low[0], low[1], low[2])], "measures": "height"},
        {"kind": "dimension", "points": [points[0], points[2]], "measures": "level"},
    )  # fmt: skip
    chain, height, level = group(svg, "note Dimensions")
    size = high - low
    assert words(chain) == [f"{v:.2f}" for v in (size[0], size[1], np.hypot(size[0], size[1]))]
    assert words(height) == [f"{size[2]:.2f}"] and words(level) == [f"{np.hypot(size[0], size[1]):.2f}"]
    # In metres, in centimetres with millimetres raised, in millimetres.
    assert [measure(2.365, u, 2) for u in ("m", "cm", "mm")] == ["2.37", "236^5", "2365"]  # type: ignore[arg-type]


def test_measures_that_have_no_room_are_raised_and_cover_no_other() -> None:
    model = model_of(("Block", box((0, 0, 0), (6, 1, 3)), 0))
    points = [(x, 0, 0) for x in (0, 0.1, 0.2, 0.32, 2, 2.1, 6)]
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0)), frame=Frame(width=300, height=200, scale=50))
    found, _ = laid(model, view, {"kind": "dimension", "points": points, "away": -12})
    boxes = [shapely.box(*b) for b in found.notes[0].boxes]
    assert len(boxes) == 6 and not any(a.intersects(b) for k, a in enumerate(boxes) for b in boxes[:k])


def test_rooms_are_named_measured_and_told_apart_where_doors_stand_open(tmp_path: Path) -> None:
    """Areas that a level cut encloses, against the model's own measures; far from the origin, too."""
    for at in ((0, 0, 0), (FAR[0] / 1000, FAR[1] / 1000, 4.0)):
        model, x, y, z = house(at=at), *at
        view = ViewSpecification(
            projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)),
            cuts=(level_cut(z + 1.2),),
            frame=Frame(width=420, height=297, scale=50),
        )
        named = [
            {"at": (x + 1, y + 1, z), "name": "Glazing", "number": "1"},
            {"at": (x + 7, y + 5, z), "name": "Drying"},
        ]
        svg = svg_of(model, view, tmp_path / "a.svg", {"kind": "rooms", "named": named})
        (one,) = group(svg, "note Rooms")
        said = words(one)
        assert "Glazing" in said and "Drying" in said and "20.0 m" in "".join(said) and "15.0 m" in "".join(said), said
        drawing, worn = drawing_of(model, view, {"kind": "rooms"})
        areas = [e.area for e in drawing.result(worn.notes[0].needs()[0])]
        assert areas == pytest.approx([20.0, 15.0], abs=1e-3)
        assert [e.height for e in drawing.result(worn.notes[0].needs()[0])] == pytest.approx([z, z], abs=1e-3)
    # At a scale where names do not fit, numbers stand in the rooms, and their names in the key.
    small = view.model_copy(update={"frame": Frame(width=420, height=297, scale=1000)})
    svg = svg_of(model, small, tmp_path / "b.svg", {"kind": "rooms", "named": named})
    assert any("Glazing" in w for g in group(svg, "note Key") for w in words(g))
    assert "Glazing" not in "".join(w for g in group(svg, "note Rooms") for w in words(g))


def ifc_with_all(path: Path) -> Path:
    ifc = Ifc("IFC4", "MILLI")
    storey, make = ifc.storey("Ground", 0.0), ifc.make
    ifc.product("IfcWall", "Wall", storey, [ifc.block((0, 0, 0), (6, 0.3, 3))])
    ifc.product("IfcSpace", "101", storey, [ifc.block((0.3, 0.3, 0), (5.3, 4.3, 2.7))], LongName="Kiln room")
    ifc.product(
        "IfcDoor",
        "Door",
        storey,
        [],
        at=(2, 0, 0),
        OverallHeight=2100.0,
        OverallWidth=900.0,
        OperationType="SINGLE_SWING_RIGHT",
    )

    def axis(tag: str, a: tuple[float, float], b: tuple[float, float]) -> Any:
        return make("IfcGridAxis", tag, make("IfcPolyline", [ifc.point(*a), ifc.point(*b)]), True)

    ifc.product(
        "IfcGrid",
        "Grid",
        storey,
        [],
        at=(0.5, 0, 0),
        UAxes=[axis("A", (0, 0), (0, 8)), axis("B", (4, 0), (4, 8))],
        VAxes=[axis("1", (0, 0), (8, 0))],
    )
    ifc.write(path)
    return path


def test_rooms_grids_and_doors_of_a_file_are_read_drawn_kept_and_turned(tmp_path: Path) -> None:
    model = read_model(ifc_with_all(tmp_path / "a.ifc"))
    assert [(r.name, r.number, r.area) for r in model.rooms] == [("Kiln room", "101", pytest.approx(20.0))]
    assert [(a.name, a.start[0], a.end[1]) for a in model.axes] == [("A", 0.5, 8.0), ("B", 4.5, 8.0), ("1", 0.5, 0.0)]
    (door,) = model.doors
    assert (
        door.hinge == pytest.approx((2.9, 0, 0))
        and door.shut == pytest.approx((-1, 0))
        and door.open == pytest.approx((0, 1))
    )
    save_model(model, tmp_path / "m.npz")
    kept = load_model(tmp_path / "m.npz")
    assert (kept.axes, kept.doors, kept.rooms) == (model.axes, model.doors, model.rooms)
    turn = np.eye(4)
    turn[:3, :3] = 2 * np.array([[0, -1, 0], [1, 0, 0], [0, 0, 1]])
    turned = model.transformed(turn)
    assert (
        turned.axes[1].start == pytest.approx((0, 9, 0))
        and turned.doors[0].width == pytest.approx(1.8)
        and turned.doors[0].open == pytest.approx((-1, 0))
    )
    view = ViewSpecification(
        projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(3, 2, 0)),
        cuts=(level_cut(),),
        frame=Frame(width=420, height=297, scale=50),
    )
    svg = svg_of(
        model, view, tmp_path / "a.svg", {"kind": "rooms", "numbers": True}, {"kind": "grid"}, {"kind": "door-swings"}
    )
    assert "101  Kiln room" in words(group(svg, "note Rooms")[0]) and {"A", "B", "1"} <= set(
        words(group(svg, "note Grid")[0])
    )
    arc, leaf = paths(group(svg, "note Door swings")[0])
    place = lambda *p: Drawing(model, view).paper.project(np.array([p], float))[0, :2]
    assert np.allclose(arc[0], place(2.0, 0, 0), atol=0.01) and np.allclose(arc[-1], place(2.9, 0.9, 0), atol=0.01)
    assert np.allclose(np.linalg.norm(arc - place(2.9, 0, 0), axis=1), 0.9 * 20, atol=0.02) and np.allclose(
        leaf[0], place(2.9, 0, 0), atol=0.01
    )
    # In an elevation that looks along an axis that is an upright line at its place.
    front = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(3, 0, 1.5)), frame=Frame(width=420, height=297, scale=50)
    )
    (upright, *_), other = (
        paths(group(svg_of(model, front, tmp_path / "b.svg", {"kind": "grid"}), "note Grid")[0]),
        Drawing(model, front),
    )
    assert np.allclose(upright[:, 0], other.paper.project(np.array([[0.5, 0, 1]]))[0, 0], atol=0.01)


def test_axes_are_found_in_the_middle_of_walls() -> None:
    found = wall_axes(house())
    by_way = {way: [a.name for a in found if abs(a.start[way] - a.end[way]) < 1e-6] for way in (0, 1)}
    assert sorted(map(tuple, by_way.values())) in ([("1", "2"), ("A", "B", "C")], [("1", "2", "3"), ("A", "B")])
    along_x = sorted(a.start[0] for a in found if abs(a.start[0] - a.end[0]) < 1e-6)
    along_y = sorted(a.start[1] for a in found if abs(a.start[1] - a.end[1]) < 1e-6)
    assert along_x == pytest.approx([0.15, 4.45, 7.75], abs=0.01) and along_y == pytest.approx([0.15, 5.45], abs=0.01)
    assert wall_axes(model_of(("Ball", trimesh.creation.icosphere(subdivisions=3), 0))) == []


def test_section_marks_lie_in_the_planes_of_the_other_views_and_look_their_way(tmp_path: Path) -> None:
    model = house()
    view = ViewSpecification(
        name="Plan", projection=PLAN, cuts=(level_cut(),), frame=Frame(width=420, height=297, scale=50)
    )
    section = view.model_copy(
        update={
            "name": "Across",
            "projection": Parallel(direction=(0, 1, 0)),
            "cuts": (Cut(point=(0, 2.2, 0), normal=(0, -1, 0)),),
        }
    )
    twin = section.model_copy(update={"name": "Along the same"})
    rows = KINDS["section-marks"]().settled([Companion("B", section), Companion("E", twin), Companion("P", view)])
    svg = svg_of(model, view, tmp_path / "a.svg", rows.model_dump(mode="json"))
    (one,) = group(svg, "note Section marks")
    assert words(one) == ["B, E", "B, E"]  # one line for both, and none for the plan itself
    paper = Drawing(model, view).paper
    y = paper.project(np.array([[0, 2.2, 0]]))[0, 1]
    ends = [p for p in paths(one) if len(p) == 2 and abs(p[0, 1] - p[1, 1]) < 1e-6]
    assert len(ends) == 2 and all(np.allclose(p[:, 1], y, atol=0.01) for p in ends)
    heads = [p for p in paths(one) if len(p) >= 3]
    assert all(p[:, 1].min() < y - 2 for p in heads)  # the arrow looks north, which is up on the paper


@pytest.mark.parametrize("azimuth, altitude", deeper([(225.0, 20.0)], [(135.0, 40.0), (300.0, 65.0)]))
def test_the_sun_sign_stands_where_the_view_s_sun_does(azimuth: float, altitude: float) -> None:
    """In plan, section, axonometric and perspective: its direction on the paper is that of a point towards the sun."""
    sun = Sun(azimuth=azimuth, altitude=altitude)
    a, h = np.radians([azimuth, altitude])
    towards = np.array([np.sin(a) * np.cos(h), np.cos(a) * np.cos(h), np.sin(h)])
    model, base = house(), {"sun": sun, "frame": Frame(width=420, height=297, scale=100)}
    for direction, up in (
        ((0, 0, -1), (0, 1, 0)),
        ((0, 1, 0), (0, 0, 1)),
        ((-1, 0, 0), (0, 0, 1)),
        ((0.5, 1, -0.6), (0, 0, 1)),
    ):
        view = ViewSpecification(projection=Parallel(direction=direction, up=up), **base)
        found, drawing = laid(model, view, {"kind": "sun", "put": (0, 0)})
        marks = [m for _, marks in found.notes[0].groups for m in marks]
        disc = [m for m in marks if isinstance(m, Area) and len(m.rings[0]) == 65][-1].rings[0][:-1].mean(0)
        at = np.array(drawing.middle)
        ends = drawing.paper.project(np.stack([np.zeros(3), towards]))[:, :2]
        wanted = ends[1] - ends[0]
        way = disc - at
        if np.linalg.norm(wanted) > 1e-6:
            assert abs(np.cross(way / np.linalg.norm(way), wanted / np.linalg.norm(wanted))) < 1e-6 and way @ wanted > 0
    # Where one looks at the sun itself, its disc is at the vanishing point of its rays.
    view = ViewSpecification(
        projection=Perspective(eye=(0, 0, 1.6), target=tuple((towards * 10 + [0, 0, 1.6]).tolist()), field_of_view=60),
        sun=sun,
        frame=Frame(width=420, height=297),
    )
    inside = model_of(("Sky", box((-90, -90, -90), (90, 90, 90)), 0))
    found, drawing = laid(inside, view, {"kind": "sun"})
    disc = found.notes[0].groups[0][1][0].rings[0][:-1].mean(0)
    far = drawing.paper.project((towards * 1e6)[None])[0, :2]
    assert np.allclose(disc, far, atol=0.05)


def glazed_room() -> Model:
    """A room open to the viewer with a pane in its south wall, and a table inside."""
    rows = [
        ("Floor", box((0, 0, -0.2), (8, 6, 0)), 0), ("Back", box((0, 6, 0), (8, 6.2, 4)), 0),
        ("West", box((-0.2, 0, 0), (0, 6, 4)), 0),
        ("Sill", box((0, -0.2, 0), (8, 0, 1)), 0), ("Lintel", box((0, -0.2, 2.6), (8, 0, 4)), 0),
        ("Pier a", box((0, -0.2, 1), (3, 0, 2.6)), 0),
        ("Pier b", box((5, -0.2, 1), (8, 0, 2.6)), 0), ("Pane", box((3, -0.12, 1), (5, -0.1, 2.6)), 1),
        ("Table", box((2, 1.2, 0.7), (6, 2.2, 0.8)), 2),
    ]  # fmt: skip
    return model_of(*rows, name="Room")


def test_light_cones_end_where_rays_end_and_begin_at_the_pane() -> None:
    model, sun = glazed_room(), Sun(azimuth=180, altitude=42)
    view = ViewSpecification(
        projection=Parallel(direction=(-1, 0, 0), centre=(4, 3, 2)),
        cuts=(Cut(point=(6.5, 0, 0), normal=(1, 0, 0)),),
        sun=sun,
        frame=Frame(width=420, height=297, scale=50),
    )
    drawing, worn = drawing_of(model, view, {"kind": "light", "parts": ["Pane"], "points": [(4, -0.1, 2)]})
    (beam,) = drawing.result(worn.notes[0].needs()[0])
    h = np.radians(42)
    way = np.array([0, np.cos(h), -np.sin(h)])
    # The reveal shades the upper edge of the pane, and nothing else.
    assert beam.lit.sum() > 0.6 * len(beam.lit) and (beam.start[~beam.lit, 2] > 2.45).all()
    assert np.allclose(beam.end - beam.start, np.linalg.norm(beam.end - beam.start, axis=1)[:, None] * way, atol=1e-6)
    # Rays of another library through the same bodies, the pane left out.
    solid = trimesh.util.concatenate(
        [
            trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == k], process=False)
            for k, p in enumerate(model.parts)
            if p.name != "Pane"
        ]
    )
    for start, end in zip(beam.start, beam.end, strict=True):
        hits, _, _ = solid.ray.intersects_location(start[None] + way * 1e-4, way[None])
        nearest = hits[np.argmin(np.linalg.norm(hits - start, axis=1))]
        assert np.linalg.norm(nearest - end) < 2e-3
    heights = set(np.round(beam.end[:, 2], 2).tolist())
    assert 0.8 in heights and 0.0 in heights  # some light falls on the table, some on the floor
    found = laid_notes(drawing.plate("Test", worn), BARE)
    tone = next(m for _, marks in found.notes[0].groups for m in marks if isinstance(m, Area))
    cone = shapely.union_all([shapely.make_valid(shapely.Polygon(r)) for r in tone.rings])
    on_paper = drawing.paper.project(np.concatenate([beam.start[beam.lit], beam.end[beam.lit]]))[:, :2]
    assert (
        cone.buffer(0.02).contains(shapely.MultiPoint(on_paper))
        and cone.difference(shapely.MultiPoint(on_paper).convex_hull.buffer(0.02)).area < 1e-6
    )
    # In shade, or at night, there is none, and that is said.
    north = view.model_copy(update={"sun": Sun(azimuth=0, altitude=10)})
    dark, _ = laid(model, north, {"kind": "light", "parts": ["Pane"], "points": [(4, -0.1, 2)]})
    assert "No sun falls" in dark.notes[0].told


def test_notes_go_along_with_their_parts_names_and_measures() -> None:
    before = model_of(("Wall", box((0, 0, 0), (4, 0.3, 3)), 0), ("Post", box((6, 0, 0), (6.2, 0.2, 3)), 2))
    after = model_of(("Wall", box((0, 1, 0), (4, 1.3, 4)), 0), ("Post", box((6, 0, 0), (6.2, 0.2, 3)), 2))
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0)), frame=Frame(scale=50))
    document = fresh_document("S", [view], notes={view.name: notes(
        {"kind": "label", "at": (2, 0, 1.5), "part": "Wall", "text": "wall"},
        {"kind": "label", "at": (6, 0, 2), "part": "Post", "text": "post"},
        {"kind": "dimension", "points": [(0, 0, 0), (0, 0, 3)], "parts": ["Wall", "Wall"], "measures": "height"},
        {"kind": "label", "at": (1, 1, 1), "text": "free"},
    )})  # fmt: skip
    followed = follow_names(document, before, after).on_desk.notes
    assert followed[0].at == (2, 1, 2.0) and followed[1].at == (6, 0, 2) and followed[3].at == (1, 1, 1)
    assert followed[2].points == ((0, 1, 0), (0, 1, 4)) and followed[2].lengths() == [4.0]
    renamed = after.said(parts=(Part("Garden wall", "Site", 0), after.parts[1]))
    assert follow_names(document, before, renamed).on_desk.notes[0].part == "Site/Garden wall"
    edit = Remeasure(units="cm", up="z")
    measured = edit.apply(before)
    there = follow_edit(document, edit, before, measured).on_desk.notes
    assert there[3].at == pytest.approx((0.01, 0.01, 0.01), abs=1e-9) and there[2].lengths()[0] == pytest.approx(0.03)


def test_text_is_set_with_fractions_and_raised_figures_and_what_a_face_lacks_is_said(tmp_path: Path) -> None:
    model = model_of(("Block", box((0, 0, 0), (4, 1, 3)), 0))
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0)), frame=Frame(width=200, height=140, scale=50))
    text = {"kind": "text", "lies": "paper", "points": [(-60, -50, 0)], "text": "24 m^2, CO_{2}, {3/4}, 45°"}
    svg = svg_of(model, view, tmp_path / "a.svg", text)
    rows = [t for g in group(svg, "note ") for t in g.iter("{http://www.w3.org/2000/svg}text")]
    said = [("".join(t.itertext()), float(t.get("y", 0)), float(t.get("font-size", 0))) for t in rows]
    _, base, size = next(row for row in said if row[0] == "24 m")
    raised = [w for w, y, s in said if y < base - 0.3 and s < size]
    lowered = [w for w, y, s in said if y > base + 0.2 and s < size]
    assert raised == ["2", "3"] and lowered == ["2", "4"]
    assert plain("24 m^2, CO_{2}, {3/4}") == "24 m2, CO2, 3⁄4"
    assert line_width("m^2", "sans", 2) < line_width("m2", "sans", 2)
    # Every shipped face has what Europe writes in Latin letters; what it lacks is told, letter by letter.
    for face in ("sans", "serif", "hand", "italic"):
        assert missing_in("Łódź, Čapek, Þór, Ø 28 mm², ½ × 45° – “ff”", face) == "", face
    found, _ = laid(model, view, {**text, "text": "窯 and Печь"}, {**text, "points": [(-60, 20, 0)], "size": 1.2})
    assert "“窯П" in found.notes[0].told and "not in this face" in found.notes[0].told
    assert "below 1.8 mm" in found.notes[1].told and "1.2 mm" in found.notes[1].told


def test_labels_hang_on_layers_of_what_is_cut_whatever_their_thickness() -> None:
    from warmgraphite.study.kit import construction

    model = house()
    look = construction({"boarded-wall": ["South", "North"]})
    view = ViewSpecification(
        projection=Parallel(direction=(1, 0, 0), centre=(0, 2.8, 1.5)),
        cuts=(Cut(point=(2, 0, 0), normal=(-1, 0, 0)),),
        frame=Frame(width=420, height=297, scale=20),
    )
    drawing, worn = drawing_of(
        model, view, {"kind": "label", "text": "wool", "layer": "Insulation", "at": (2, 0.1, 1.5)}, look=look
    )
    plate = drawing.plate("Test", worn)
    found = laid_notes(plate, BARE)
    line = next(
        m for name, marks in found.notes[0].groups if name.startswith("leader") for m in marks if isinstance(m, Line)
    )
    rows = [r for r in drawing.result("built") if r.group == "poche Insulation"]
    layer = shapely.build_area(
        shapely.GeometryCollection([shapely.LineString(np.vstack([r, r[:1]])) for row in rows for r in row.shape.rings])
    )
    assert layer.contains(shapely.Point(line.points[-1]))
    # Pointed at, a layer says what it is, and how thick.
    pointed = pointed_at(drawing, line.points[-1], 0.1)
    assert pointed.layer == "Insulation" and pointed.thickness > 0.05


POINTS = [(1.0, 0.2, 0.5), (3.0, 2.0, 1.0), (5.0, 1.0, 2.0), (6.0, 4.0, 0.5)]


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_kind_of_note_is_drawn_in_every_view_and_format_and_comes_back_from_its_file(
    kind: str, tmp_path: Path
) -> None:
    """In a plan, a section, an axonometric and a perspective, on the paper and in the model, with a dark paper, too.
    Something is drawn, or it is said why not.
    """
    model = house().said(
        rooms=(Room("Hall", "1", "", (2.0, 2.0, 0.0), 20.0),),
        axes=(Axis("A", (0, 0, 0), (0, 5, 0)),),
        doors=(Door((4.3, 2.0, 0), (0, 1), (-1, 0), 1.0),),
    )
    made = KINDS[kind]
    data: dict[str, Any] = {"kind": kind}
    least, most = made.takes
    if issubclass(made, OfPoints):
        data |= {"points": POINTS[: max(least, min(most, 3))]}
    if "parts" in made.model_fields and kind == "light":
        data |= {"parts": ["West"]}
    if "text" in made.model_fields:
        data |= {"text": "Zwei Wörter,\nzwei Zeilen"}
    views = {
        "plan": ViewSpecification(projection=PLAN, cuts=(level_cut(),), frame=Frame(width=210, height=148, scale=100)),
        "section": ViewSpecification(
            projection=Parallel(direction=(0, 1, 0)),
            cuts=(Cut(point=(0, 2.5, 0), normal=(0, -1, 0)),),
            frame=Frame(width=210, height=148, scale=100),
        ),
        "slanting": ViewSpecification(
            projection=Parallel(direction=(0.5, 1, -0.6)), frame=Frame(width=210, height=148, scale=100)
        ),
        "perspective": ViewSpecification(
            projection=Perspective(eye=(-6, -9, 4), target=(4, 3, 1)), frame=Frame(width=210, height=148)
        ),
    }
    drawn = 0
    for name, view in views.items():
        for lies in ("model", "paper") if "lies" in made.model_fields else ("model",):
            row = data | ({"lies": lies} if "lies" in made.model_fields else {})
            if lies == "paper":
                row |= (
                    {"points": [(x * 5 - 40, y * 5, 0) for x, y, _ in data.get("points", [])]}
                    if "points" in data
                    else {"at": (5, 5, 0)}
                )
            drawing, worn = drawing_of(model, view, row)
            found = laid_notes(drawing.plate("Test", worn), BARE)
            if found.notes[0].groups:
                drawn += 1
                write_drawing(drawing.plate("Test", worn), worn.traces, BARE, tmp_path / f"{name}.svg")
                assert group(ET.parse(tmp_path / f"{name}.svg").getroot(), "note ")
                # SVG of each, and of each either what is printed or what is shown.
                if DEEP or name in ("plan", "perspective"):
                    write_drawing(drawing.plate("Test", worn), worn.traces, BARE, tmp_path / f"{name}.pdf")
                if DEEP or name in ("section", "slanting"):
                    write_drawing(
                        drawing.plate("Test", worn), worn.traces, BARE, tmp_path / f"{name}.png", resolution=40
                    )
                assert all(np.isfinite(h.at).all() for h in found.notes[0].handles)
            else:
                assert found.notes[0].told or kind == "schedule", (kind, name)
            text = write_drawing_file(view, worn, BARE)
            assert read_drawing(text).notes == worn.notes
    assert drawn or kind in ("schedule", "section-marks", "light", "stair-arrows"), kind
    # Taken hold of and moved it is another; out in the study it is one entry, and gone again.
    document = fresh_document("S", [views["plan"]])
    there = change_notes(document, [Change(path=("notes", "a"), value={**data, "id": "a"})])
    assert [n.id for n in there.on_desk.notes] == ["a"] and not change_notes(
        there, [Change(path=("notes", "a"), do="drop")]
    ).on_desk.notes
    placed = made.placed([Spot((1.0, 2.0, float(k)), (k, k), "West") for k in range(max(1, least))])
    assert placed.kind == kind and NOTES.validate_python([placed.model_dump(mode="json")])  # type: ignore[attr-defined]


def test_stairs_point_up_and_count_their_risers(tmp_path: Path) -> None:
    treads = [
        (
            Part(f"Tread {k}", "Stair", 0),
            *(lambda b: (np.array(b.vertices), np.array(b.faces)))(
                box((1 + 0.27 * k, 0, 0.17 * k), (1.3 + 0.27 * k, 1, 0.17 * (k + 1)))
            ),
        )
        for k in range(9)
    ]
    model = build_model("Stair", treads, [Material("Oak")])
    view = ViewSpecification(projection=PLAN, frame=Frame(width=200, height=140, scale=50))
    svg = svg_of(model, view, tmp_path / "a.svg", {"kind": "stair-arrows"})
    (one,) = group(svg, "note Stair")
    line = next(p for p in paths(one) if len(p) == 2)
    assert words(one) == ["9"] and line[1, 0] - line[0, 0] == pytest.approx(8 * 0.27 * 20, abs=0.1)


def test_the_legend_explains_each_fill_once_with_the_drawing_s_own_hatch(tmp_path: Path) -> None:
    from warmgraphite.study.kit import construction

    model = house()
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0)),
        cuts=(Cut(point=(0, 2.5, 0), normal=(0, -1, 0)),),
        frame=Frame(width=420, height=297, scale=50),
    )
    drawing, worn = drawing_of(model, view, {"kind": "legend"}, look=construction({"boarded-wall": ["West", "East"]}))
    write_drawing(drawing.plate("T", worn), worn.traces, BARE, tmp_path / "a.svg")
    (one,) = group(ET.parse(tmp_path / "a.svg").getroot(), "note Legend")
    said = words(one)
    assert (
        any(w.startswith("Stone") for w in said)
        and any("Insulation" in w for w in said)
        and len(said) == len(set(said))
    )
    # In the legend a hatch has the weight that it has in the drawing.
    hatches = {r.style.weight for row in drawing.result("built") for r in row.work if row.group == "poche Insulation"}
    weights = {float(e.get("stroke-width", 0)) for e in one.iter("{http://www.w3.org/2000/svg}path")}
    assert hatches & weights
