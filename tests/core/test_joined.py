"""Line elements of files by general libraries, drawn and hidden like edges.
And a second file in shared coordinates, to a hair.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import ifcopenshell
import ifcopenshell.api
import ifcopenshell.api.owner.settings as owner
import numpy as np
import pytest
import trimesh
from trimesh.path.entities import Line

from tests.conftest import box, model_of
from warmgraphite.drawing import Drawing
from warmgraphite.errors import EditError, ModelFileError
from warmgraphite.model.edits.file import Remeasure, in_step
from warmgraphite.model.edits.joined import PlaceJoined, TakeOutJoined
from warmgraphite.model.edits.parts import SetRole
from warmgraphite.model.glb import write_glb
from warmgraphite.model.joining import Joined, free_id, join, joined_points, place_joined, renewed
from warmgraphite.model.model import Model, localised
from warmgraphite.model.obj import write_obj
from warmgraphite.model.read import read_model
from warmgraphite.model.store import load_model, save_model
from warmgraphite.model.succession import succeed
from warmgraphite.passes.line_set import KINDS
from warmgraphite.view.specification import Frame, Parallel, ViewSpecification

FRONT = ViewSpecification(
    name="Front",
    projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1)),
    frame=Frame(width=200, height=150, scale=100),
)
#: A mast before the box, one behind it, and a wire that runs from beside it to behind it.
WIRES = np.array([[[1, -1, 0], [1, -1, 5]], [[2, 6, 0], [2, 6, 2]], [[-3, 2, 1], [2, 6, 1]]], float)


def wires_glb(path: Path) -> None:
    """A box and wires, written by a general library: Y up."""
    scene = trimesh.Scene()
    turn = trimesh.transformations.rotation_matrix(-np.pi / 2, [1, 0, 0])
    solid = box((0, 0, 0), (4, 4, 3))
    solid.apply_transform(turn)
    scene.add_geometry(solid, node_name="Box")
    ends = trimesh.transform_points(WIRES.reshape(-1, 3), turn)
    path3 = trimesh.path.Path3D([Line([2 * k, 2 * k + 1]) for k in range(3)], ends, process=False)
    scene.add_geometry(path3, node_name="Wires")
    scene.export(path)


def shown(model: Model) -> list[tuple[np.ndarray, bool]]:
    found = Drawing(model, FRONT).lines()
    rows = np.flatnonzero(found.kind == KINDS.index("line"))
    return [(np.stack([found.start[r], found.end[r]]), bool(found.visible[r])) for r in rows]


def test_lines_without_faces_are_read_drawn_hidden_like_edges_and_written_again(tmp_path: Path) -> None:
    wires_glb(tmp_path / "a.glb")
    model = read_model(tmp_path / "a.glb")
    assert [p.name for p in model.parts] == ["Box", "Wires"] and np.allclose(
        sorted(map(np.ravel, model.mesh.line_ends), key=tuple), sorted(map(np.ravel, WIRES), key=tuple), atol=1e-6
    )
    for again, kind in ((tmp_path / "b.glb", write_glb), (tmp_path / "c.obj", write_obj)):
        kind(model, again)
        back = read_model(again)
        assert [p.name for p in back.parts] == ["Box", "Wires"] and (np.bincount(back.mesh.line_part) == [0, 3]).all()
        assert np.allclose(np.sort(back.mesh.line_ends, 0), np.sort(model.mesh.line_ends, 0), atol=1e-5)
    # The mast before is seen whole, the one behind up to the box's top not at all, the wire up to where it goes behind.
    pieces = shown(model)
    seen, hidden = ([p for p, v in pieces if v is want] for want in (True, False))
    long = lambda rows: sum(float(np.linalg.norm(b - a)) for a, b in rows)
    wire = float(np.linalg.norm(WIRES[2, 1] - WIRES[2, 0]))
    assert long(seen) == pytest.approx(5 + 0.6 * wire, abs=1e-3)  # at x = 0 the wire has gone three fifths of its way
    assert long(hidden) == pytest.approx(2 + 0.4 * wire, abs=1e-3)
    # A pen draws them, and a rule may take hold of just these.
    from warmgraphite.ink.rules import Ink, Pen, PenRule, default_pens
    from warmgraphite.regions.query import Match

    own = PenRule(id="wires", where=Match(kinds=("line",)), pen=Pen(weight=0.33, colour="#b2472a"))
    drawn = Drawing(model, FRONT, ink=Ink(pens=(*default_pens(), own))).plate().strokes()
    assert (
        sum(len(s.lines) for s in drawn if s.style.colour == "#b2472a" and s.style.weight == pytest.approx(0.33)) >= 2
    )


def test_loops_strips_and_runs_of_lines_and_what_is_wrong_with_them(tmp_path: Path) -> None:
    (tmp_path / "a.obj").write_text(
        "o fence\nv 0 0 0\nv 10 0 0\nv 10 8 0\nv 0 0 3\nv 10 0 3\nv 10 8 3\nl 1 2 3\nl -1 1\no wall\nf 1 2 5 4\nl 4/1 "
        "5/1\n"
    )
    model = read_model(tmp_path / "a.obj")
    assert dict(zip([p.name for p in model.parts], np.bincount(model.mesh.line_part).tolist(), strict=True)) == {
        "wall": 1,
        "fence": 3,
    }
    (tmp_path / "b.obj").write_text("v 0 0 0\nv 1 0 0\nl 1 3\n")
    with pytest.raises(ModelFileError, match=r"b\.obj, line 3: a line asks for point 3, but there are only 2"):
        read_model(tmp_path / "b.obj")
    # A file of lines alone is a file that can be joined.
    (tmp_path / "c.obj").write_text("o axis\nv 0 0 0\nv 10 0 0\nl 1 2\nl 2 2\n")
    alone = read_model(tmp_path / "c.obj")
    assert len(alone.triangles) == 0 and len(alone.mesh.line_ends) == 1
    both = join(model_of(("Wall", box((0, 0, 0), (4, 1, 3)), 0)), alone, Joined("file-2", "axes"))
    assert [p.path for p in both.parts] == ["Wall", "axes/axis"] and len(shown(both)) >= 1


def ifc_file(
    path: Path,
    boxes: dict[str, tuple[float, ...]],
    *,
    map_at: tuple[float, ...] | None = None,
    milli: bool = False,
    grid: bool = False,
    schema: str = "IFC4",
) -> Path:
    """Walls as boxes (x, y, z, long, wide, high) in metres, by a general library.
    With a map conversion (east, north, height, degrees, scale).
    """
    run = ifcopenshell.api.run
    file = run("project.create_file", version=schema)
    if schema == "IFC2X3":  # whose entities all have somebody whose they are
        who = {"person": run("owner.add_person", file), "organisation": run("owner.add_organisation", file)}
        somebody, program = run("owner.add_person_and_organisation", file, **who), run("owner.add_application", file)
        owner.get_user, owner.get_application = lambda _: somebody, lambda _: program
    project = run("root.create_entity", file, ifc_class="IfcProject", name="P")
    unit = run("unit.add_si_unit", file, unit_type="LENGTHUNIT", prefix="MILLI" if milli else None)
    run("unit.assign_unit", file, units=[unit])
    context = run("context.add_context", file, context_type="Model")
    body = run(
        "context.add_context",
        file,
        context_type="Model",
        context_identifier="Body",
        target_view="MODEL_VIEW",
        parent=context,
    )
    if map_at is not None:
        east, north, height, angle, scale = map_at
        run("georeference.add_georeferencing", file)
        said = {"Eastings": east, "Northings": north, "OrthogonalHeight": height, "Scale": scale}
        said |= {"XAxisAbscissa": float(np.cos(np.radians(angle))), "XAxisOrdinate": float(np.sin(np.radians(angle)))}
        run("georeference.edit_georeferencing", file, projected_crs={"Name": "EPSG:0"}, coordinate_operation=said)
    site = run("root.create_entity", file, ifc_class="IfcSite", name="Yard")
    run("aggregate.assign_object", file, products=[site], relating_object=project)
    k = 1000.0 if milli else 1.0
    point = lambda *xyz: file.createIfcCartesianPoint(tuple(float(v) for v in xyz))
    for name, (x, y, z, long, wide, high) in boxes.items():
        wall = run("root.create_entity", file, ifc_class="IfcWall", name=name)
        corners = [(x, y), (x + long, y), (x + long, y + wide), (x, y + wide), (x, y)]
        outline = file.createIfcPolyline([point(a * k, b * k) for a, b in corners])
        profile = file.createIfcArbitraryClosedProfileDef("AREA", None, outline)
        at = file.createIfcAxis2Placement3D(point(0, 0, z * k), None, None)
        solid = file.createIfcExtrudedAreaSolid(profile, at, file.createIfcDirection((0.0, 0.0, 1.0)), high * k)
        shape = file.createIfcShapeRepresentation(body, "Body", "SweptSolid", [solid])
        run("geometry.assign_representation", file, product=wall, representation=shape)
        run("spatial.assign_container", file, products=[wall], relating_structure=site)
        run("geometry.edit_object_placement", file, product=wall)
    if grid:
        made = run("root.create_entity", file, ifc_class="IfcGrid", name="Axes")
        line = lambda a, b: file.createIfcPolyline([point(*a), point(*b)])
        made.UAxes = [
            file.createIfcGridAxis(str(n), line((n * 4 * k, -2 * k), (n * 4 * k, 9 * k)), True) for n in range(3)
        ]
        made.VAxes = [file.createIfcGridAxis("A", line((-2 * k, 0), (10 * k, 0)), True)]
        run("spatial.assign_container", file, products=[made], relating_structure=site)
        run("geometry.edit_object_placement", file, product=made)
        note = run("root.create_entity", file, ifc_class="IfcAnnotation", name="Boundary")
        curves = file.createIfcGeometricCurveSet(
            [file.createIfcPolyline([point(-3 * k, -3 * k, 0), point(12 * k, -3 * k, 0), point(12 * k, 11 * k, 0)])]
        )
        shape = file.createIfcShapeRepresentation(body, "Annotation", "GeometricCurveSet", [curves])
        run("geometry.assign_representation", file, product=note, representation=shape)
        run("spatial.assign_container", file, products=[note], relating_structure=site)
        run("geometry.edit_object_placement", file, product=note)
    file.write(str(path))
    return path


def test_grids_and_annotations_of_ifc_are_lines(tmp_path: Path) -> None:
    model = read_model(ifc_file(tmp_path / "a.ifc", {"Wall": (0, 0, 0, 8, 0.3, 3)}, milli=True, grid=True))
    of = {p.name: model.mesh.line_ends[model.mesh.line_part == n] for n, p in enumerate(model.parts)}
    assert {n: len(ends) for n, ends in of.items() if len(ends)} == {"Axes": 4, "Boundary": 2}
    assert np.allclose(np.sort(of["Axes"][:, :, 0].ravel()), [-2, 0, 0, 4, 4, 8, 8, 10])
    assert np.allclose(of["Boundary"].reshape(-1, 3).max(0), [12, 11, 0]) and [a.name for a in model.axes] == [
        "0",
        "1",
        "2",
        "A",
    ]
    assert {p.role for p in model.parts if p.name in of and len(of[p.name])} == {"context"}
    kinds = Drawing(model, FRONT).lines().kind
    assert (kinds == KINDS.index("line")).any()


EAST, NORTH, HEIGHT = 432_100.25, 5_401_234.5, 212.25


def on_map(model: Model, where: np.ndarray) -> np.ndarray:
    """(N, 3) points of a model on the map."""
    assert model.onto_map is not None
    found = np.c_[where + np.array(model.origin), np.ones(len(where))] @ np.array(model.onto_map).T
    return np.asarray(found[:, :3])


@pytest.mark.parametrize(("milli", "schema"), [(False, "IFC4"), (True, "IFC4"), (True, "IFC2X3")])
def test_a_second_file_lies_in_shared_coordinates_to_a_millimetre_and_keeps_its_place(
    tmp_path: Path, milli: bool, schema: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("get_user", "get_application"):
        monkeypatch.setattr(owner, name, getattr(owner, name))  # put back afterwards
    said = {"map_at": (EAST, NORTH, HEIGHT, 30, 0.001 if milli else 1.0), "milli": milli, "schema": schema}
    house = localised(read_model(ifc_file(tmp_path / "h.ifc", {"Wall": (0, 0, 0, 5, 0.3, 3)}, **said)))
    yard = read_model(
        ifc_file(tmp_path / "y.ifc", {"Shed": (2, 1, 0, 4, 4, 2)}, map_at=(EAST + 50, NORTH - 20, 200, 0, 1.0))
    )
    both = join(house, yard, Joined(free_id(house), "yard"))
    assert both.joined[0].shared and [(p.path, p.role) for p in both.parts][1:] == [("yard/Yard/Wall/Shed", "context")]
    points, _ = joined_points(both)
    corner = np.array([EAST + 52, NORTH - 19, 200.0])
    assert (
        np.abs(
            np.stack([f(on_map(both, both.vertices[points]), 0) for f in (np.min, np.max)])
            - np.stack([corner, np.add(corner, [4, 4, 2])])
        ).max()
        < 1e-3
    )
    # Moved and turned by hand, about its own middle; the same once more is the same.
    placed = PlaceJoined(source="file-2", by=(10, 0, 1), turn=90).apply(both)
    middle = lambda m: m.part_bounds[1].mean(0)
    assert np.allclose(middle(placed) - middle(both), [10, 0, 1], atol=0.06)
    assert np.abs(place_joined(placed, "file-2", (10, 0, 1), 90).vertices - placed.vertices).max() < 1e-9
    assert (placed.vertices[~points] == both.vertices[~points]).all()
    role = SetRole(parts=(1,), role="ground").apply(placed)

    # The house comes anew, with another part: the yard stays as it lies, with what was said of it.
    boxes = {"Wall": (0, 0, 0, 5, 0.3, 3.5), "Gable": (0, 5, 0, 5, 0.3, 4)}
    newer = read_model(ifc_file(tmp_path / "h2.ifc", boxes, **said))
    newer = replace(newer.transformed(np.eye(4)), origin=house.origin) if any(house.origin) else newer
    base, state, report = succeed(both, role, renewed(in_step(both, role), newer, ""))
    assert report.counts["new"] == 1 and report.counts["gone"] == 0 and state.parts[1].role == "ground"
    assert np.abs(state.part_bounds[1] - role.part_bounds[1]).max() < 1e-6 and state.joined == role.joined
    # The yard comes anew, reckoned from another point of the map: what stayed lies where it did.
    there = {"Shed": (-8, 1, 0, 4, 4, 2), "Barn": (20, 0, 0, 4, 4, 2)}
    late = read_model(ifc_file(tmp_path / "y2.ifc", there, map_at=(EAST + 60, NORTH - 20, 200, 0, 1.0)))
    _, after, report = succeed(base, state, renewed(in_step(base, state), late, "file-2"), (), "file-2")
    assert report.counts["same"] == 3 and report.counts["new"] == 1 and report.counts["moved"] == 0
    assert np.abs(after.part_bounds[1] - state.part_bounds[1]).max() < 1e-6
    assert [p.path for p in after.parts if p.source] == ["yard/Yard/Wall/Shed", "yard/Yard/Wall/Barn"]
    # Kept, and read again.
    save_model(after, tmp_path / "m.npz")
    again = load_model(tmp_path / "m.npz")
    assert again.version == after.version and again.joined == after.joined and again.onto_map == after.onto_map
    gone = TakeOutJoined(source="file-2").apply(after)
    assert gone.joined == () and [p.absent for p in gone.parts] == [bool(p.source) for p in after.parts]
    with pytest.raises(EditError):
        TakeOutJoined(source="file-2").apply(gone)
    assert free_id(gone) == "file-3"  # its name is not given again: what was said of its parts is of them


def test_without_a_map_a_file_lies_by_its_numbers_far_from_zero_too() -> None:
    far = np.array([2_000_000.0, 3_000_000.0, 100.0])
    away = np.eye(4)
    away[:3, 3] = far
    house = localised(model_of(("Wall", box((0, 0, 0), (4, 1, 3)), 0)).transformed(away))
    site = model_of(("Wall", box((10, 0, 0), (14, 1, 3)), 0), ("Lawn", box((-9, -9, -1), (30, 9, 0)), 2)).transformed(
        away
    )
    both = join(house, site, Joined("file-2", "site"))
    assert (
        np.abs(both.part_bounds[1] + both.origin - far - [[10, 0, 0], [14, 1, 3]]).max() < 1e-6
        and not both.joined[0].shared
    )
    # Parts of two files with one name, shape and material never stand for each other.
    assert succeed(both, both, renewed(both, replace(house, origin=both.origin), ""))[2].counts["same"] == 3
    # What was mended of the site stays so when the house comes anew, and goes when the site does.
    points, _ = joined_points(both)
    vertices = both.vertices.copy()
    vertices[points] += [0, 0, 0.004]
    mended = both.reshaped(vertices=vertices)
    after = succeed(both, mended, renewed(both, replace(house, origin=both.origin), ""))[1]
    assert np.allclose(after.part_bounds, mended.part_bounds, atol=1e-9)
    fresh = succeed(both, mended, renewed(both, site, "file-2"), (), "file-2")
    assert np.allclose(fresh[1].part_bounds, both.part_bounds, atol=1e-6)
    # Other units of the house's file leave the site where it is.
    measured = Remeasure(units="ft", up="z").apply(both)
    place = lambda m: m.part_bounds[1:] + m.origin
    assert np.abs(place(measured) - place(both)).max() < 1e-6
    assert np.ptp(measured.part_bounds[0], axis=0) == pytest.approx(
        0.3048 * np.ptp(both.part_bounds[0], axis=0), rel=1e-6
    )
    with pytest.raises(EditError, match="does not belong to this study"):
        PlaceJoined(source="file-9", by=(0, 0, 0)).apply(both)
