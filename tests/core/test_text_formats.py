"""OBJ, COLLADA and 3MF in the ways that programs really write them."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image

from warmgraphite.errors import ModelFileError
from warmgraphite.model import Model
from warmgraphite.model.read import read_model, read_model_file

CUBE = "".join(f"v {x} {y} {z}\n" for z in (0, 3) for y in (0, 5) for x in (0, 4))
QUADS = [(1, 3, 4, 2), (5, 6, 8, 7), (1, 2, 6, 5), (2, 4, 8, 6), (4, 3, 7, 8), (3, 1, 5, 7)]


def volume(model: Model, number: int = 0) -> float:
    mesh = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == number])
    return float(mesh.volume) if mesh.is_watertight else 0.0


def picture(path: Path, colour: tuple[int, int, int] = (180, 90, 60)) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGB", (6, 6), colour).save(path)


def test_obj_as_programs_write_it(scratch: Path) -> None:
    picture(scratch / "brick wall.png")
    (scratch / "house.mtl").write_text(
        "# made up\nnewmtl Brick\nKd 1 1 1\nmap_Kd -s 2 2 1 -clamp off C:\\textures\\brick wall.png\nnewmtl Glass\nKd "
        "0.7 0.8 0.8\nTr 0.75\n"
        "newmtl Odd\nKd spectral file.rfl\n"
    )
    faces = "".join(f"f {' '.join(f'{a}/{i % 4 + 1}/1' for i, a in enumerate(q))}\n" for q in QUADS)
    text = (
        f"# Units: metres\r\nmtllib house.mtl\ng default\n{CUBE}vn 0 0 1\nvt 0 0\nvt 1 0 0\nvt 1 1\nvt 0 1\ns off\no "
        f"Walls\nusemtl Brick\n{faces}"
        "o Panes\nusemtl Glass\nv 0 0 9\nv 4 0 9\nv 4 4 9 1.0\nf -3 -2 \\\n-1\nusemtl Odd\nf -1 -2 -3\nl 1 2\np 1\n"
    )
    (scratch / "house.obj").write_text(text)
    model = read_model(scratch / "house.obj", "m", "z")
    assert [p.path for p in model.parts] == ["Walls", "Panes · Glass", "Panes · Odd"]
    assert volume(model) == pytest.approx(60) and model.materials[0].texture and model.mesh.uv is not None
    assert model.materials[0].colour == "#b45a3c"  # that of its picture
    assert (model.materials[1].opacity, model.parts[1].role) == (0.25, "glass")
    assert model.materials[2].colour == "#cfc8bc"


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("f 1 2 nine", "is not a corner"), ("f 1 2", "fewer than three"), ("f 1 2 99", "asks for point 99"),
        ("v 1 2", "fewer than three"),
        ("v 1 2 z", "not a number"), ("vt a b", "texture coordinate"), ("f 0 1 2", "asks for point 0"),
        ("f 1 2 -99", "asks for point -99"),
    ],
)  # fmt: skip
def test_an_obj_line_that_is_wrong_is_named_by_its_number(scratch: Path, line: str, said: str) -> None:
    (scratch / "bad.obj").write_text(f"{CUBE}f 1 2 3\n{line}\n")
    with pytest.raises(ModelFileError, match=f"bad.obj, line 10: .*{said}"):
        read_model(scratch / "bad.obj")


def collada(body: str, unit: str = '<unit name="inch" meter="0.0254"/>', up: str = "Z_UP") -> str:
    return (
        '<?xml version="1.0" encoding="utf-8"?>\n<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" '
        'version="1.4.1">'
        f"<asset>{unit}<up_axis>{up}</up_axis></asset>{body}</COLLADA>"
    )


def _geometry() -> str:
    points = " ".join(f"{x * 100} {y * 100} {z * 100}" for z in (0, 3) for y in (0, 5) for x in (0, 4))
    polygons = " ".join(str(i - 1) for q in QUADS for i in q)
    return (
        '<library_images><image id="pic"><init_from>textures/tile.png</init_from></image></library_images>'
        "<library_effects>"
        '<effect id="clear-fx"><profile_COMMON><technique sid="t"><lambert><diffuse><color>0.2 0.4 0.6 1</color></'
        "diffuse>"
        '<transparent opaque="A_ONE"><color>1 1 1 1</color></transparent><transparency><float>0.3</float></'
        "transparency></lambert></technique></profile_COMMON></effect>"
        '</library_effects><library_materials><material id="clear" name="Clear pane"><instance_effect url="#clear-fx"/>'
        "</material></library_materials>"
        '<library_geometries><geometry id="g" name="cube"><mesh><source id="p"><float_array id="pa" count="24">'
        f'{points}</float_array><technique_common><accessor source="#pa" count="8" stride="3"><param name="X" '
        f'type="float"/><param name="Y" type="float"/>'
        '<param name="Z" type="float"/></accessor></technique_common></source><vertices id="v"><input '
        'semantic="POSITION" source="#p"/></vertices>'
        f'<polylist count="6" material="skin"><input semantic="VERTEX" source="#v" offset="0"/><vcount>4 4 4 4 4 4</'
        f"vcount><p>{polygons}</p></polylist></mesh></geometry></library_geometries>"
    )


_BOUND = '<bind_material><technique_common><instance_material symbol="skin" target="#clear"/></technique_common></bind_material>'


def test_collada_in_inches_with_instances_and_mirrors(scratch: Path) -> None:
    body = (
        f"{_geometry()}"
        f'<library_nodes><node id="unit" name="Bay"><instance_geometry url="#g">{_BOUND}</instance_geometry></node></'
        f"library_nodes>"
        '<library_visual_scenes><visual_scene id="s"><node id="wing" name="North wing"><node id="a" name="Bay 1">'
        "<translate>1000 0 0</translate>"
        f'<instance_geometry url="#g">{_BOUND}</instance_geometry></node><node id="b" name="Bay 2"><translate>-1000 0 '
        f"0</translate><rotate>0 0 1 90</rotate>"
        '<scale>-1 1 2</scale><instance_node url="#unit"/></node></node></visual_scene></library_visual_scenes>'
        '<scene><instance_visual_scene url="#s"/></scene>'
    )
    (scratch / "wing.dae").write_text(collada(body))
    found = read_model_file(scratch / "wing.dae")
    assert (found.units, found.up) == ("in", "z")
    model = found.in_metres()
    assert [p.path for p in model.parts] == ["North wing/Bay 1", "North wing/Bay 2/Bay"]
    assert (
        model.materials[0].name == "Clear pane"
        and model.materials[0].colour == "#336699"
        and model.materials[0].opacity == pytest.approx(0.3)
    )
    inch = 2.54
    assert [volume(model, i) for i in range(2)] == pytest.approx(
        [60 * inch**3, 120 * inch**3]
    )  # the mirrored one is right side out
    assert model.part_bounds[1][0] == pytest.approx(np.array([-15, -4, 0]) * inch) and model.part_bounds[0][
        0
    ] == pytest.approx(np.array([10, 0, 0]) * inch)
    (scratch / "tall.dae").write_text(collada(body, '<unit meter="0.001"/>', "Y_UP"))
    tall = read_model_file(scratch / "tall.dae")
    assert (tall.units, tall.up) == ("mm", "y")


def test_collada_polygons_keep_their_holes_and_their_bays(scratch: Path) -> None:
    """A wall of one face with a window in it, and an L beside it, as modellers write them."""
    wall = "0 0 0 10 0 0 10 0 6 0 0 6  2 0 2 4 0 2 4 0 4 2 0 4  20 0 0 24 0 0 24 0 1 21 0 1 21 0 4 20 0 4"
    body = (
        f'<library_geometries><geometry id="g"><mesh><source id="p"><float_array id="pa" count="42">{wall}</'
        f"float_array><technique_common>"
        '<accessor source="#pa" count="14" stride="3"><param name="X" type="float"/><param name="Y" type="float"/>'
        '<param name="Z" type="float"/></accessor>'
        '</technique_common></source><vertices id="v"><input semantic="POSITION" source="#p"/></vertices>'
        '<polygons count="3"><input semantic="VERTEX" source="#v" offset="0"/><p></p><p/><ph><p>0 1 2 3</p><h/><h>4 5 '
        "6 7</h></ph><ph><p>8 9 10 11 12 13</p></ph></polygons>"
        "</mesh></geometry></library_geometries>"
        '<library_visual_scenes><visual_scene id="s"><node id="a" name="Wall"><instance_geometry url="#g"/></node></'
        "visual_scene></library_visual_scenes>"
        '<scene><instance_visual_scene url="#s"/></scene>'
    )
    (scratch / "wall.dae").write_text(collada(body))
    model = read_model_file(scratch / "wall.dae").model
    corners = model.vertices[model.triangles]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    right = corners[:, :, 0].min(1) >= 20
    assert areas[~right].sum() == pytest.approx(60 - 4) and areas[right].sum() == pytest.approx(4 + 3)
    middle = corners.mean(1)
    assert not ((np.abs(middle[:, 0] - 3) < 0.6) & (np.abs(middle[:, 2] - 3) < 0.6)).any()  # nothing lies in the window


def test_collada_says_what_is_missing(scratch: Path) -> None:
    (scratch / "none.dae").write_text(collada(_geometry()))
    with pytest.raises(ModelFileError, match="no scene"):
        read_model(scratch / "none.dae")
    deep = "".join(f'<node id="n{i}">' for i in range(90))
    body = f'{_geometry()}<library_visual_scenes><visual_scene id="s">{deep}<instance_geometry url="#g"/>{"</node>" * 90}</visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene>'
    (scratch / "deep.dae").write_text(collada(body))
    with pytest.raises(ModelFileError, match=r"deep\.dae nests"):
        read_model(scratch / "deep.dae")


ASTRAY = '<triangle v1="0" v2="1" v3="99"/>'
CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"


def package(path: Path, model: str) -> Path:
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("[Content_Types].xml", "<Types/>")
        archive.writestr("3D/3dmodel.model", f'<?xml version="1.0"?><model unit="foot" xmlns="{CORE}">{model}</model>')
    return path


def _mesh(faces: str = "") -> str:
    points = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for z in (0, 3) for y in (0, 5) for x in (0, 4))
    rows = faces or "".join(
        f'<triangle v1="{a - 1}" v2="{b - 1}" v3="{c - 1}"/><triangle v1="{a - 1}" v2="{c - 1}" v3="{d - 1}"/>'
        for a, b, c, d in QUADS
    )
    return f"<mesh><vertices>{points}</vertices><triangles>{rows}</triangles></mesh>"


def test_3mf_components_and_materials_of_single_faces(scratch: Path) -> None:
    bases = '<basematerials id="9"><base name="Clay" displaycolor="#B07050"/><base name="Pane" displaycolor="#C0D0D040"/></basematerials>'
    faces = "".join(
        f'<triangle v1="{a - 1}" v2="{b - 1}" v3="{c - 1}"{p}/><triangle v1="{a - 1}" v2="{c - 1}" v3="{d - 1}"{p}/>'
        for (a, b, c, d), p in zip(QUADS, ["", ' pid="9" p1="1"', "", "", "", ""])
    )
    text = (
        f'<resources>{bases}<object id="1" name="Hut" pid="9" pindex="0">{_mesh(faces)}</object><object id="2" '
        f'name="Row"><components>'
        '<component objectid="1"/><component objectid="1" transform="1 0 0 0 1 0 0 0 -1 10 0 3"/></components></object>'
        "</resources>"
        '<build><item objectid="2" transform="2 0 0 0 2 0 0 0 2 0 0 0"/></build>'
    )
    found = read_model_file(package(scratch / "row.3mf", text))
    assert (found.format, found.units) == ("3mf", "ft")
    model = found.in_metres()
    assert [p.path for p in model.parts] == ["Row/Hut · Clay", "Row/Hut · Pane"] * 2
    assert [(m.name, m.opacity) for m in model.materials] == [("Clay", 1.0), ("Pane", 0.25)]
    foot = 0.3048
    assert model.bounds[1] == pytest.approx(np.array([28, 10, 6]) * foot)
    first = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part < 2])
    second = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part >= 2])
    assert first.volume == pytest.approx(60 * 8 * foot**3) == second.volume


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (f'<resources><object id="1">{_mesh()}</object></resources><build><item objectid="7"/></build>',
            "does not hold"),
        ('<resources><object id="1"><components><component objectid="1"/></components></object></resources><build>'
         '<item objectid="1"/></build>', "without end"),
        (f'<resources><object id="1">{_mesh(ASTRAY)}</object></resources><build><item objectid="1"/></build>',
            "missing points"),
        ("<resources/><build/>", "no faces"),
    ],
)  # fmt: skip
def test_3mf_that_does_not_hang_together(scratch: Path, text: str, said: str) -> None:
    with pytest.raises(ModelFileError, match=said):
        read_model(package(scratch / "odd.3mf", text))


def test_solids_of_an_stl_and_polygons_of_an_off_are_kept_apart(scratch: Path) -> None:
    body = trimesh.creation.box((4, 5, 3))
    other = trimesh.creation.cylinder(1, 4)
    rows = io.StringIO()
    for name, mesh in (("Main house", body), ("Silo", other)):
        rows.write(f"solid {name}\n")
        for t in mesh.triangles.tolist():
            rows.write(
                "facet normal 0 0 0\nouter loop\n"
                + "".join(f"vertex {x} {y} {z}\n" for x, y, z in t)
                + "endloop\nendfacet\n"
            )
        rows.write(f"endsolid {name}\n")
    (scratch / "farm.stl").write_text(rows.getvalue())
    model = read_model(scratch / "farm.stl", "m", "z")
    assert {p.name: round(volume(model, i), 3) for i, p in enumerate(model.parts)} == {
        "Main house": 60.0,
        "Silo": round(float(other.volume), 3),
    }
    quads = "\n".join("4 " + " ".join(str(i - 1) for i in q) for q in QUADS)
    (scratch / "hut.off").write_text(f"OFF\n# a comment\n8 6 0\n{CUBE.replace('v ', '')}{quads}\n")
    assert volume(read_model(scratch / "hut.off", "m", "z")) == pytest.approx(60)
