"""Every format comes in with its names, tree, materials and measures; every fault is one sentence."""

from __future__ import annotations

import json
import multiprocessing
import signal
import struct
import subprocess
import sys
import textwrap
import time
import warnings
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh

from bench.models import write_ifc_house
from tests.conftest import box, model_of
from tests.core.formats import BODIES, COLOURS, WRITERS
from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.model import Model
from warmgraphite.model.glb import write_glb
from warmgraphite.model.model import localised
from warmgraphite.model.obj import write_obj
from warmgraphite.model.read import FileModel, read_model, read_model_file
from warmgraphite.model.sandboxed import read_sandboxed


def part_mesh(model: Model, number: int) -> trimesh.Trimesh:
    mesh = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == number], process=False)
    mesh.merge_vertices(digits_vertex=6)
    return mesh


def read(scratch: Path, kind: str) -> FileModel:
    path = scratch / f"pavilion.{kind}"
    WRITERS[kind](path)
    # The ending says nothing: what the file holds does.
    return read_model_file(path.rename(scratch / "pavilion.model"))


@pytest.mark.parametrize(
    ("kind", "named", "layered", "painted", "units"),
    [
        ("glb", True, True, True, "m"), ("dae", True, True, True, "cm"), ("3mf", True, False, True, "mm"),
        ("ply", False, False, True, "m"),
        ("stl", False, False, False, "m"), ("off", False, False, False, "m"), ("obj", False, False, False, "m"),
    ],
)  # fmt: skip
def test_a_pavilion_in_each_format(
    scratch: Path, kind: str, named: bool, layered: bool, painted: bool, units: str
) -> None:
    found = read(scratch, kind)
    assert (found.format, found.units) == (kind, units)
    model = found.in_metres(up="z")  # the library writes glTF as it stands, Z up
    assert np.allclose(model.bounds, _bounds(), atol=1e-4)
    assert part_mesh(model, 0).area > 0 and len(model.triangles) == sum(len(m.faces) for _, m, _ in BODIES.values())
    total = sum(m.volume for _, m, _ in BODIES.values())
    assert sum(part_mesh(model, i).volume for i in range(len(model.parts))) == pytest.approx(total, rel=1e-5)
    if kind != "obj":
        assert len(model.parts) >= (3 if kind == "ply" else len(BODIES))
    if named:
        for name, (layer, mesh, material) in BODIES.items():
            number = [p.name for p in model.parts].index(name)
            own = part_mesh(model, number)
            assert own.volume == pytest.approx(mesh.volume, rel=1e-4) and own.area == pytest.approx(mesh.area, rel=1e-4)
            assert np.allclose(own.bounds, mesh.bounds, atol=1e-4)
            assert model.materials[model.parts[number].material].name == material
            if layered:
                assert model.parts[number].layer == layer
        assert model.parts[[p.name for p in model.parts].index("Pane")].role == "glass"
    if painted:
        wanted = {"#{:02x}{:02x}{:02x}".format(*rgba[:3]): rgba[3] / 255 for rgba in COLOURS.values()}
        opacity = {m.colour: m.opacity for m in model.materials}
        assert opacity == pytest.approx(wanted, abs=0.01)


def _bounds() -> np.ndarray:
    boxes = np.array([m.bounds for _, m, _ in BODIES.values()])
    return np.stack([boxes[:, 0].min(0), boxes[:, 1].max(0)])


def test_an_archive_brings_its_pictures_and_their_real_size(scratch: Path) -> None:
    found = read(scratch, "zip").in_metres(up="z")
    brick = found.materials[0]
    assert brick.name == "Brick" and brick.texture in found.textures and found.mesh.uv is not None
    assert brick.size == pytest.approx((1.5, 0.75), rel=0.01)
    # Written and read again, picture, size and place of it are the same.
    for ending, write, up in (("glb", write_glb, "y"), ("obj", write_obj, "z")):
        write(found, scratch / f"again.{ending}")
        again = read_model(scratch / f"again.{ending}", "m", up)  # type: ignore[arg-type]
        assert again.materials[0].colour == brick.colour == "#b25a46"
        assert again.materials[0].size == pytest.approx((1.5, 0.75), rel=0.01) and again.mesh.uv is not None
        assert np.allclose(np.ptp(again.mesh.uv.reshape(-1, 2), 0), np.ptp(found.mesh.uv.reshape(-1, 2), 0), atol=1e-4)


@pytest.mark.parametrize(("schema", "prefix"), [("IFC4", None), ("IFC2X3", "MILLI")])
def test_an_ifc_house_by_storey_class_and_role(scratch: Path, schema: str, prefix: str | None) -> None:
    origin = (431_250.0, 5_812_400.0, 40.0)
    write_ifc_house(scratch / "house.ifc", storeys=2, bays=2, sides=8, schema=schema, prefix=prefix, origin=origin)
    whole = read_model(scratch / "house.ifc")
    assert np.allclose(whole.bounds.mean(0)[:2], np.add(origin[:2], (3, 3.5)), atol=20) and whole.origin == (0, 0, 0)
    model = localised(whole)
    layers = {p.layer for p in model.parts}
    assert {"Ground floor/Wall", "Floor 1/Wall", "Ground floor/Window", "Ground floor/Slab"} <= layers
    roles = {p.layer.split("/")[1]: p.role for p in model.parts if "·" not in p.name}
    assert (roles["Wall"], roles["Slab"], roles["Covering"], roles["Furnishing element"]) == (
        "structure", "structure", "envelope", "furniture",
    )  # fmt: skip
    window = {p.name.split(" · ")[1]: p for p in model.parts if p.name.startswith("Window south 0.0")}
    assert (
        window["Glass"].role == "glass"
        and window["Oak"].role == "envelope"
        and model.materials[window["Glass"].material].opacity == 0.25
    )
    by_name = {p.name: p.role for p in model.parts}
    assert (by_name["Terrain"], by_name["Neighbour's barn"]) == (
        "ground",
        "context",
    )  # though both stand at the ground floor
    assert all(p.id for p in model.parts) and len({p.id for p in model.parts}) == len(model.parts)
    # Windows are cut out of the wall that they stand in.
    wall = next(i for i, p in enumerate(model.parts) if p.name == "Wall south 0")
    assert part_mesh(model, wall).volume == pytest.approx(6 * 0.36 * 2.65 - 2 * 1.4 * 1.3 * 0.36, rel=1e-6)
    # Spaces are no bodies but rooms, with their names and floors.
    rooms = {r.number: r for r in model.rooms}
    assert (
        len(rooms) == 4
        and rooms["001"].name == "Throwing room"
        and rooms["001"].area == pytest.approx(2.6 * 6.6, abs=0.01)
    )
    assert rooms["101"].place[2] == pytest.approx(2.9 + origin[2] - model.origin[2])
    # Far from zero nothing is lost: the model lies near an origin of its own, which is kept.
    assert np.abs(model.bounds).max() < 1000 and model.origin[:2] == (431_300.0, 5_812_400.0)
    stool = next(i for i, p in enumerate(model.parts) if p.name == "Stool 0.0.0")
    home = model.part_bounds[stool].mean(0) + model.origin
    assert np.allclose(home, np.add(origin, (0.8, 1.6, 0.23)), atol=1e-6)
    write_glb(model, scratch / "house.glb")
    again = localised(read_model(scratch / "house.glb"))
    same = next(i for i, p in enumerate(again.parts) if p.name == "Stool 0.0.0")
    assert (
        np.allclose(again.part_bounds[same].mean(0) + again.origin, home, atol=1e-4)
        and again.parts[same].id == model.parts[stool].id
    )


def test_instances_are_parts_of_their_own(scratch: Path) -> None:
    made = trimesh.Scene()
    for i in range(3):
        turn = trimesh.transformations.rotation_matrix(i, [0, 0, 1], [0, 0, 0])
        turn[:3, 3] = [4 * i, 0, 0]
        made.add_geometry(
            trimesh.creation.box((2, 1, 1)), node_name=f"Chair {i}", geom_name="chair", transform=turn
        ) if i == 0 else (
            made.graph.update(frame_to=f"Chair {i}", frame_from=made.graph.base_frame, matrix=turn, geometry="chair")
        )
    (scratch / "chairs.glb").write_bytes(made.export(file_type="glb"))
    model = read_model(scratch / "chairs.glb", "m", "z")
    assert sorted(p.name for p in model.parts) == ["Chair 0", "Chair 1", "Chair 2"] and {
        p.role for p in model.parts
    } == {"furniture"}
    middles = sorted(model.part_bounds.mean(1)[:, 0].tolist())
    assert middles == pytest.approx([0, 4, 8], abs=1e-5)


def test_units_are_told_by_the_house_and_not_by_a_bolt_lying_far_away(scratch: Path) -> None:
    house = [(f"Wall {i}", box((i * 4, 0, 0), (i * 4 + 4, 0.3, 3)), 0) for i in range(6)]
    write_glb(model_of(*house, ("Bolt", box((90_000, 0, 0), (90_000.1, 0.1, 0.1)), 2)), scratch / "lost.glb")
    found = read_model_file(scratch / "lost.glb")
    assert found.units == "m" and localised(found.in_metres()).origin == (0, 0, 0)


def _archive(path: Path, files: dict[str, bytes]) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)


def _ply(points: str, faces: str) -> bytes:
    head = f"ply\nformat ascii 1.0\nelement vertex {len(points.splitlines())}\nproperty float x\nproperty float y\nproperty float z\n"
    rows = f"element face {len(faces.splitlines())}\nproperty list uchar int vertex_indices\n" if faces else ""
    return f"{head}{rows}end_header\n{points}\n{faces}\n".encode()


def test_what_would_do_harm_is_refused_with_its_reason(scratch: Path) -> None:
    write_glb(model_of(("Box", box((0, 0, 0), (3, 3, 3)), 0)), scratch / "good.glb")
    good = (scratch / "good.glb").read_bytes()
    bomb = (
        b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><COLLADA>&b;</COLLADA>'
    )
    stl = bytearray(84 + 50)
    stl[80:84] = struct.pack(">I", 1)
    cases: dict[str, tuple[str, object]] = {
        "away.zip": ("leads out", {"../../away.glb": good}),
        "absolute.zip": ("leads out", {"/etc/away.glb": good}),
        "bomb.zip": ("unpacks to", {"house.obj": b"v 0 0 0\n" * 40_000_000}),
        "two.zip": ("one at a time", {"a.glb": good, "b.glb": good}),
        "none.zip": ("no model", {"letter.txt": b"Dear illustrator"}),
        "nested.zip": ("no model", {"inner.zip": good}),
        "entities.dae": ("entities", bomb),
        "cut.ifc": ("breaks off", b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n#1=IFCWALL("),
        "newer.ifc": (
            "IFC 2x3 or IFC 4",
            b"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AP214'));\nENDSEC;\nEND-ISO-10303-21;\n",
        ),
        "turned.stl": ("wrong way round", bytes(stl)),
        "short.stl": ("length does not fit", b"\0" * 80 + struct.pack("<I", 900) + bytes(500)),
        "turned.glb": ("wrong way round", b"glTF" + struct.pack(">IIII", 2, 60, 40, 0x4E4F534A) + bytes(40)),
        "packed.gltf": ("packed", b'{"asset":{"version":"2.0"},"extensionsRequired":["KHR_draco_mesh_compression"]}'),
        "alone.gltf": ("not beside", b'{"asset":{"version":"2.0"},"buffers":[{"uri":"house.bin","byteLength":9}]}'),
        "plain.xml": ("not COLLADA", b"<?xml version='1.0'?><house/>"),
        "late.dae": ("entities", b"<?xml version='1.0'?><COLLADA><!--" + b" " * 300_000 + b"--><x/>" + bomb[21:]),
        "wide.dae": ("no model that can be read", bomb.decode().encode("utf-16")),
        "late.3mf": ("entities", {"3D/3dmodel.model": b"<!--" + b" " * 1_500_000 + b"-->" + bomb[21:]}),
        "wide.3mf": (
            "entities",
            {
                "3D/3dmodel.model": bomb.decode()
                .replace('version="1.0"', 'version="1.0" encoding="utf-16"')
                .encode("utf-16")
            },
        ),
        "many.3mf": (
            "more than 4,000,000 triangles",
            {"3D/3dmodel.model": b"<model>" + b'<triangle v1="0" v2="1" v3="2"/>' * 4_000_001},
        ),
        "points.ply": ("holds no faces", _ply("0 0 0\n1 0 0\n0 1 0", "")),
        "nan.ply": ("missing points", _ply("0 0 0\n1 0 0\n0 1 0", "3 nan 1 2")),
        "infinite.obj": ("not a number", b"v 0 0 inf\nv 1 0 0\nv 0 1 0\nv 0 1 1\nf 1 2 3 4\nf 2 3 4\n"),
    }
    for name, (reason, data) in cases.items():
        if isinstance(data, dict):
            _archive(scratch / name, data)
        else:
            (scratch / name).write_bytes(data)  # type: ignore[arg-type]
        with pytest.raises(ModelFileError) as caught, warnings.catch_warnings():
            warnings.simplefilter("error", RuntimeWarning)
            read_model(scratch / name)
        said = str(caught.value)
        assert reason in said and name in said and said.endswith(".") and "\n" not in said, (name, said)
    assert not (scratch.parent / "away.glb").exists()


def test_names_that_no_file_can_have_cost_a_picture_and_no_model(scratch: Path) -> None:
    long = "x" * 300
    corners = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 1 1\nf 1 2 3\nf 2 3 4\n"
    (scratch / "a.obj").write_text(f"mtllib {long}.mtl\n{corners}")
    (scratch / "b.mtl").write_text(f"newmtl oak\nmap_Kd {long}.png\n")
    (scratch / "b.obj").write_text(f"mtllib b.mtl\nusemtl oak\n{corners}")
    files = BODIES["Plinth"][1].export(file_type="gltf")
    for name, data in files.items():
        (scratch / name).write_bytes(data)
    head = json.loads(files["model.gltf"])
    head |= {"images": [{"uri": f"{long}.png"}], "textures": [{"source": 0}]}
    head["materials"] = [{"name": "Oak", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]
    for mesh in head["meshes"]:
        mesh["primitives"][0]["material"] = 0
    (scratch / "c.gltf").write_text(json.dumps(head))
    _archive(scratch / "d.zip", {".": b"x", "./.": b"x", "house/a.obj": corners.encode()})
    for name, count in (("a.obj", 2), ("b.obj", 2), ("c.gltf", 12), ("d.zip", 2)):
        assert len(read_model(scratch / name).triangles) == count, name
    head["buffers"][0]["uri"] = f"{long}.bin"
    (scratch / "e.gltf").write_text(json.dumps(head))
    with pytest.raises(ModelFileError, match="not beside it"):
        read_model(scratch / "e.gltf")


def test_an_stl_with_a_word_where_a_number_belongs_says_so_or_is_read_without_a_word(
    scratch: Path, capfd: pytest.CaptureFixture
) -> None:
    text = trimesh.exchange.stl.export_stl_ascii(box((0, 0, 0), (3, 3, 3)))
    (scratch / "a.stl").write_text(
        text.replace("facet normal -1", "facet normal west", 1) + "\n"
    )  # normals are found anew
    assert len(read_model(scratch / "a.stl").triangles) == 12
    (scratch / "b.stl").write_text(text.replace("vertex 3", "vertex three", 1) + "\n")
    with pytest.raises(ModelFileError, match="damaged STL"):
        read_model(scratch / "b.stl")
    assert capfd.readouterr().err == ""


def test_faces_without_area_are_left_out_and_told(scratch: Path) -> None:
    (scratch / "flat.obj").write_text("v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 0 0\no A\nf 1 2 3\nf 1 4 2\nf 1 1 2\n")
    found = read_model_file(scratch / "flat.obj")
    assert len(found.model.triangles) == 1 and "2 faces without area" in found.notes[0]


def mutations(data: bytes, count: int, seed: int) -> list[bytes]:
    """The bytes flipped, cut, doubled and overwritten."""
    rng = np.random.default_rng(seed)
    out = []
    for i in range(count):
        bad = bytearray(data)
        if i % 3 == 0:
            bad = bad[: int(rng.integers(1, len(bad)))]
        for at in rng.integers(0, len(bad), int(rng.integers(1, 8))):
            bad[at] = int(rng.integers(0, 256)) if i % 2 else b"0123456789-#(),;.eE\"'<>/ "[int(rng.integers(0, 25))]
        if i % 5 == 4:
            at, size = int(rng.integers(0, len(bad))), int(rng.integers(1, 60))
            bad[at:at] = bad[at : at + size]
        out.append(bytes(bad))
    return out


def _try(path: str, answers) -> None:  # type: ignore[no-untyped-def]
    try:
        model = read_model(Path(path))
        answers.put("model" if np.isfinite(model.vertices).all() and len(model.triangles) else "nothing")
    except GraphiteError as error:
        answers.put(f"sentence {error}")
    except BaseException as error:
        answers.put(f"leaked {type(error).__name__}: {error}")


@pytest.mark.parametrize("kind", list(WRITERS))
def test_damaged_files_give_a_sentence_or_a_model_and_never_hang(scratch: Path, kind: str) -> None:
    WRITERS[kind](scratch / f"good.{kind}")
    good = (scratch / f"good.{kind}").read_bytes()
    rows = mutations(good, 16 if kind == "ifc" else 90, seed=len(good) % 1000)
    apart = multiprocessing.get_context("fork")
    models = 0
    if kind == "3mf":  # a package guards itself by sums, so what is inside is damaged as well
        inside = zipfile.ZipFile(scratch / f"good.{kind}").read("3D/3dmodel.model")
        for data in mutations(inside, 60, seed=3):
            _archive(scratch / "inside.zip", {"3D/3dmodel.model": data})
            rows.append((scratch / "inside.zip").read_bytes())
    for number, data in enumerate(rows):
        path = scratch / f"bad-{number}.{kind}"
        path.write_bytes(data)
        answers = apart.SimpleQueue()
        if kind == "ifc":
            # The library for IFC may crash; then its process ends, and nothing else. See `read_sandboxed`.
            process = apart.Process(target=_try, args=(str(path), answers))
            process.start()
            process.join(60)
            assert process.exitcode is not None, f"mutation {number} hangs"
            if process.exitcode:
                continue
        else:
            _try(str(path), answers)
        said = answers.get()
        models += said == "model"
        assert said == "model" or (said.startswith("sentence") and said.endswith(".") and path.name in said), (
            number,
            said,
        )
    assert models > 0  # a flipped byte in a coordinate is still a model


def test_reading_apart_survives_what_the_library_does_not(scratch: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    WRITERS["ifc"](scratch / "house.ifc")
    stages: list[str] = []
    found = read_sandboxed(scratch / "house.ifc", scratch / "out.npz", lambda stage, _f: stages.append(stage))
    assert (
        found["format"] == "IFC"
        and found["rooms"] == 1
        and "Making the bodies" in stages
        and (scratch / "out.npz").exists()
    )
    # What is not understood is told; the rest comes in.
    (scratch / "odd.ifc").write_bytes((scratch / "house.ifc").read_bytes().replace(b"IFCWALL(", b"IFCWALK("))
    odd = read_sandboxed(scratch / "odd.ifc", scratch / "odd.npz")
    assert odd["parts"] == found["parts"] - 4 and "4 lines" in odd["notes"][0]
    (scratch / "bad.ifc").write_bytes(
        (scratch / "house.ifc").read_bytes().replace(b"IFCPROJECT(", b"IFCPROJEKT(").replace(b"IFC4", b"IFC9")
    )
    with pytest.raises(ModelFileError, match=r"bad\.ifc"):
        read_sandboxed(scratch / "bad.ifc", scratch / "none.npz")
    with pytest.raises(ModelFileError, match="more than"):
        read_sandboxed(scratch / "house.ifc", scratch / "none.npz", seconds=0)
    assert not (scratch / "none.npz").exists()


def test_the_process_that_is_forked_ends_with_who_began_it_and_is_begun_again_when_it_was_ended(tmp_path: Path) -> None:
    write_glb(model_of(("Box", box((0, 0, 0), (1, 1, 1)), 0)), tmp_path / "box.glb")
    code = f"""
        import os, signal
        from pathlib import Path
        from warmgraphite import sandbox as apart
        from warmgraphite.model.sandboxed import read_sandboxed
        read = lambda: read_sandboxed(Path({str(tmp_path / "box.glb")!r}), Path({str(tmp_path / "out.npz")!r}))["parts"]
        said = [read(), apart._forks._process.pid]
        os.kill(said[1], signal.SIGKILL)
        apart._forks._process.wait()
        print(*said, read(), apart._forks._process.pid, flush=True)
        os.kill(os.getpid(), signal.SIGKILL)
        """
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(code)], capture_output=True, text=True, cwd=Path(__file__).parents[2]
    )
    first, before, again, after = map(int, done.stdout.split())
    assert (first, again) == (1, 1) and before != after and done.returncode == -signal.SIGKILL, done.stderr
    for _ in range(600):
        if not Path(f"/proc/{after}").exists() or " Z " in Path(f"/proc/{after}/stat").read_text():
            return
        time.sleep(0.05)
    raise AssertionError("it is there still, and nobody who could wish anything of it")


def test_an_ifc_file_that_is_read_again_is_the_same_model(tmp_path: Path) -> None:
    """However many products its kernels have at work at once.
    What was lost of a model is put back by reading its file again.
    """
    write_ifc_house(tmp_path / "house.ifc", storeys=3, bays=3, sides=8)
    first, second = (read_model(tmp_path / "house.ifc") for _ in range(2))
    assert first.body == second.body and first.version == second.version and len(first.parts) > 30
