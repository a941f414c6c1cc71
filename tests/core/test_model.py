"""Models come in whole, or not at all and with one clear sentence."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
import trimesh

from tests.conftest import box, model_of
from warmgraphite.errors import ModelFileError
from warmgraphite.model import Model
from warmgraphite.model.glb import write_glb
from warmgraphite.model.obj import write_obj
from warmgraphite.model.read import read_model, read_model_file
from warmgraphite.model.store import load_model, save_model


def volumes(model: Model) -> dict[str, float]:
    """By the tetrahedra between each triangle and a corner of its part (Gauss), so that far parts lose no figures."""
    corners = model.vertices[model.triangles] - model.part_bounds[model.triangle_part, 0][:, None]
    six = np.einsum("ni,ni->n", corners[:, 0], np.cross(corners[:, 1], corners[:, 2]))
    found = np.abs(np.bincount(model.triangle_part, six, len(model.parts)) / 6)
    return dict(zip([p.path for p in model.parts], found.tolist()))


@pytest.mark.parametrize("ending", ["glb", "obj", "npz"])
def test_a_model_keeps_names_tree_materials_and_volumes_through_a_file(
    kiln_house: Model, scratch: Path, ending: str
) -> None:
    path = scratch / f"house.{ending}"
    {"glb": write_glb, "obj": write_obj, "npz": save_model}[ending](kiln_house, path)
    back = load_model(path) if ending == "npz" else read_model(path, units="m", up="y" if ending == "glb" else "z")
    spaces = str.maketrans(" ", "_") if ending == "obj" else {}
    wanted = [(p.name, p.layer.translate(spaces), kiln_house.materials[p.material]) for p in kiln_house.parts]
    assert [(p.name, p.layer, back.materials[p.material]) for p in back.parts] == wanted
    assert np.allclose(back.bounds, kiln_house.bounds, atol=1e-5)
    assert np.allclose(list(volumes(back).values()), list(volumes(kiln_house).values()), rtol=1e-4, atol=1e-4)
    if ending != "obj":
        assert [p.role for p in back.parts] == [p.role for p in kiln_house.parts]


def test_the_sample_study_exercises_everything(kiln_house: Model) -> None:
    assert len(kiln_house.parts) >= 200 and len({p.path for p in kiln_house.parts}) == len(kiln_house.parts)
    assert len({p.layer for p in kiln_house.parts}) > 20
    open_parts = solid_panes = 0
    for i, part in enumerate(kiln_house.parts):
        mesh = trimesh.Trimesh(kiln_house.vertices, kiln_house.triangles[kiln_house.triangle_part == i], process=True)
        mesh.merge_vertices(digits_vertex=6)
        open_parts += not mesh.is_watertight
        solid_panes += part.role == "glass" and mesh.is_watertight
    assert open_parts > 20 and solid_panes > 5  # single panes, railings and reeds; double-faced glass
    assert {"structure", "envelope", "glass", "furniture", "ground", "water", "planting"} <= {
        p.role for p in kiln_house.parts
    }


def test_obj_text_with_groups_concave_faces_and_backward_indices(scratch: Path) -> None:
    (scratch / "plain.mtl").write_text("newmtl Red brick\nKd 0.8 0.2 0.1\nnewmtl Clear\nd 0.2\n")
    (scratch / "plain.obj").write_text(
        "mtllib plain.mtl\nv 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\n"
        "g Hall/Floor\no Arrow\nusemtl Red brick\nf 1 2 3 4 5\n"
        "v 0 0 3\nv 1 0 3\nv 1 1 3\nusemtl Clear\nf -3//1 -2//1 -1//1\no Lamp\nf 6 7 8\n"
    )
    model = read_model(scratch / "plain.obj", units="m", up="z")
    arrow = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == 0])
    assert arrow.area == pytest.approx(16 - 6)  # the notch of the arrow is not filled
    assert [p.path for p in model.parts] == [
        "Hall/Floor/Arrow · Red brick",
        "Hall/Floor/Arrow · Clear",
        "Hall/Floor/Lamp",
    ]
    assert model.materials[0].colour == "#cc331a" and model.parts[2].role == "glass"


@pytest.mark.parametrize(("side", "unit", "metres"), [(12.0, "m", 12.0), (12_000.0, "mm", 12.0), (1_450.0, "cm", 14.5)])
def test_units_are_guessed_from_the_size_of_a_house(scratch: Path, side: float, unit: str, metres: float) -> None:
    write_obj(model_of(("House", box((0, 0, 0), (side, side / 2, side / 3)), 0)), scratch / "house.obj")
    found = read_model_file(scratch / "house.obj")
    assert (found.units, found.up) == (unit, "z")
    assert np.ptp(found.in_metres().vertices[:, 0]) == pytest.approx(metres)


def broken_files(folder: Path) -> dict[str, bytes]:
    write_glb(model_of(("Box", box((0, 0, 0), (1, 1, 1)), 0)), folder / "good.glb")
    good = (folder / "good.glb").read_bytes()
    return {
        "empty.glb": b"",
        "picture.glb": b"\x89PNG\r\n\x1a\n" + bytes(50),
        "half.glb": good[: len(good) // 2],
        "lied.glb": good[:8] + struct.pack("<I", 10**9) + good[12:400],
        "points.obj": b"v 0 0 0\nv 1 0 0\n",
        "missing.obj": b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n",
        "words.obj": b"v 0 zero 0\nf 1 1 1\n",
        "nan.obj": b"v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
        "dot.obj": b"v 1 1 1\nv 1 1 1\nv 1 1 1\nf 1 2 3\n",
        "letter.txt": b"Dear illustrator,\n",
    }


def test_a_broken_file_gets_one_sentence_that_names_it(scratch: Path) -> None:
    for name, data in broken_files(scratch).items():
        (scratch / name).write_bytes(data)
        with pytest.raises(ModelFileError) as caught:
            read_model(scratch / name)
        said = str(caught.value)
        assert name in said and said.endswith(".") and "\n" not in said and "Traceback" not in said, name


def test_bytes_flipped_in_a_glb_give_a_model_or_a_sentence(scratch: Path) -> None:
    write_glb(
        model_of(("Box", box((0, 0, 0), (1, 1, 1)), 0), ("Pane", box((2, 0, 0), (3, 0.1, 1)), 1)), scratch / "a.glb"
    )
    good = bytearray((scratch / "a.glb").read_bytes())
    rng = np.random.default_rng(5)
    for _ in range(150):
        bad = bytearray(good)
        for at in rng.integers(0, len(bad), 4):
            bad[at] = int(rng.integers(0, 256))
        (scratch / "b.glb").write_bytes(bad)
        try:
            assert np.isfinite(read_model(scratch / "b.glb").vertices).all()
        except ModelFileError as error:
            assert "b.glb" in str(error)


def test_a_town_of_many_parts_is_read_in_metres_and_each_house_is_a_part(scratch: Path) -> None:
    houses = [
        (f"House {i}", box((i % 60 * 20.0, i // 60 * 20.0, 0), (i % 60 * 20.0 + 9, i // 60 * 20.0 + 9, 8)), 0)
        for i in range(3000)
    ]
    write_obj(model_of(*houses), scratch / "town.obj")
    found = read_model_file(scratch / "town.obj")
    assert found.units == "m" and len(found.model.parts) == 3000 and found.model.parts[2999].name == "House 2999"
