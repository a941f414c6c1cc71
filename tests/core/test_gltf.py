"""glTF as the standard has it, compared with a general library that reads it another way."""

from __future__ import annotations

import base64
import io
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from tests.conftest import box, examples
from warmgraphite.errors import ModelFileError
from warmgraphite.model import Model
from warmgraphite.model.read import read_model

BOX = box((0, 0, 0), (2, 1, 3))


class Maker:
    """A glTF file by hand: accessors of any kind into one buffer, packed as text or as GLB."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.head: dict[str, Any] = {
            "asset": {"version": "2.0"},
            "accessors": [],
            "bufferViews": [],
            "meshes": [],
            "nodes": [],
            "scenes": [{"nodes": []}],
        }

    def view(self, data: bytes, stride: int = 0) -> int:
        self.data += bytes(-len(self.data) % 4)
        row: dict[str, Any] = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(data)}
        if stride:
            row["byteStride"] = stride
        self.data += data
        self.head["bufferViews"].append(row)
        return len(self.head["bufferViews"]) - 1

    def accessor(self, array: np.ndarray, **more: Any) -> int:
        kinds = {"i1": 5120, "u1": 5121, "i2": 5122, "u2": 5123, "u4": 5125, "f4": 5126}
        array = np.atleast_2d(array.T).T
        row = {"bufferView": self.view(array.tobytes()), "componentType": kinds[array.dtype.str[1:]],
            "count": len(array), "type": {1: "SCALAR", 2: "VEC2", 3: "VEC3"}[array.shape[1]], **more}  # fmt: skip
        self.head["accessors"].append(row)
        return len(self.head["accessors"]) - 1

    def mesh(self, *primitives: dict[str, Any], **more: Any) -> int:
        self.head["meshes"].append({"primitives": list(primitives), **more})
        return len(self.head["meshes"]) - 1

    def body(self, mesh: trimesh.Trimesh = BOX, kind: str = "<u2", **more: Any) -> dict[str, Any]:
        """A primitive with the triangles of a mesh."""
        points = self.accessor(np.asarray(mesh.vertices, "<f4"))
        return {
            "attributes": {"POSITION": points},
            "indices": self.accessor(np.asarray(mesh.faces, kind).ravel()),
            **more,
        }

    def node(self, root: bool = True, **more: Any) -> int:
        self.head["nodes"].append(more)
        if root:
            self.head["scenes"][0]["nodes"].append(len(self.head["nodes"]) - 1)
        return len(self.head["nodes"]) - 1

    def write(self, path: Path) -> Path:
        if path.suffix == ".glb":
            self.head["buffers"] = [{"byteLength": len(self.data)}]
            text = json.dumps(self.head).encode()
            text += b" " * (-len(text) % 4)
            body = bytes(self.data) + bytes(-len(self.data) % 4)
            chunks = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(body), 0x004E4942) + body
            path.write_bytes(struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks)
        else:
            uri = "data:application/octet-stream;base64," + base64.b64encode(bytes(self.data)).decode()
            self.head["buffers"] = [{"byteLength": len(self.data), "uri": uri}]
            path.write_text(json.dumps(self.head))
        return path


def own(path: Path) -> Model:
    return read_model(path, "m", "z")


def volumes(model: Model) -> dict[str, float]:
    return {
        p.name: float(trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == i]).volume)
        for i, p in enumerate(model.parts)
    }


turns = st.tuples(*[st.floats(-1, 1)] * 4).filter(lambda q: sum(c * c for c in q) > 0.1)
moves = st.tuples(*[st.floats(-50, 50)] * 3)
sizes = st.tuples(*[st.sampled_from([-2.0, -1.0, 0.5, 1.0, 3.0])] * 3)


@settings(max_examples=examples(40, 14), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(tree=st.lists(st.tuples(st.integers(0, 5), moves, turns, sizes, st.booleans()), min_size=1, max_size=7))
def test_any_tree_of_nodes_stands_where_another_reader_puts_it(scratch: Path, tree: list) -> None:
    made = Maker()
    shape = made.mesh(made.body())
    for i, (above, move, turn, size, as_matrix) in enumerate(tree):
        w = np.array(turn) / np.linalg.norm(turn)
        spec: dict[str, Any] = {"translation": list(move), "rotation": w.tolist(), "scale": list(size)}
        if as_matrix:
            matrix = trimesh.transformations.quaternion_matrix([w[3], *w[:3]])
            matrix[:3, :3] *= np.array(size)
            matrix[:3, 3] = move
            spec = {"matrix": matrix.T.ravel().tolist()}
        below = i > 0 and above < i
        number = made.node(root=not below, name=f"Body {i}", mesh=shape, **spec)
        if below:
            made.head["nodes"][above].setdefault("children", []).append(number)
    path = made.write(scratch / "tree.glb")
    scene = trimesh.load_scene(path, process=False)
    model = own(path)
    assert len(model.parts) == len(tree)
    home = np.array(model.origin)
    for i, part in enumerate(model.parts):
        matrix, name = scene.graph[part.name]
        points = trimesh.transform_points(scene.geometry[name].vertices, matrix)
        found = model.vertices[np.unique(model.triangles[model.triangle_part == i])] + home
        scale = np.abs(points).max() + 1
        assert np.allclose(np.sort(found, 0), np.sort(points, 0), atol=1e-5 * scale), part.name
    # A mirrored body is still right side out.
    assert all(v > 0 for v in volumes(model).values())


def test_strips_fans_strides_and_short_numbers(scratch: Path) -> None:
    made = Maker()
    square = np.array([[0, 0, 0], [2, 0, 0], [0, 2, 0], [2, 2, 0], [0, 4, 0], [2, 4, 0]], "<f4")
    strip = {"attributes": {"POSITION": made.accessor(square)}, "mode": 5}
    ring = np.array([[0, 0, 0], *[(np.cos(a), np.sin(a), 0) for a in np.linspace(0, 2 * np.pi, 13)]], "<f4")
    fan = {
        "attributes": {"POSITION": made.accessor(ring)},
        "indices": made.accessor(np.arange(14, dtype="<u1")),
        "mode": 6,
    }
    lines = {"attributes": {"POSITION": made.accessor(square)}, "mode": 1}
    # Points between other numbers, sixteen bytes apart.
    rows = np.zeros(8, np.dtype([("point", "<f4", 3), ("other", "<u4")]))
    rows["point"] = BOX.vertices
    made.head["accessors"].append(
        {"bufferView": made.view(rows.tobytes(), 16), "componentType": 5126, "count": 8, "type": "VEC3"}
    )
    spaced = {
        "attributes": {"POSITION": len(made.head["accessors"]) - 1},
        "indices": made.accessor(np.asarray(BOX.faces, "<u4").ravel()),
    }
    # A few points of many are given, the rest are where they were.
    moved = made.accessor(np.asarray(BOX.vertices, "<f4"), sparse={
        "count": 1, "indices": {"bufferView": made.view(struct.pack("<H", 7)), "componentType": 5123},
        "values": {"bufferView": made.view(struct.pack("<fff", 2, 1, 9))},
    })  # fmt: skip
    sparse = {"attributes": {"POSITION": moved}, "indices": spaced["indices"]}
    for name, primitive in (("Strip", strip), ("Fan", fan), ("Lines", lines), ("Spaced", spaced), ("Sparse", sparse)):
        made.node(name=name, mesh=made.mesh(primitive))
    for ending in ("glb", "gltf"):
        model = own(made.write(scratch / f"odd.{ending}"))
        assert [p.name for p in model.parts] == ["Strip", "Fan", "Lines", "Spaced", "Sparse"]
        bodies = [
            trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == i], process=False)
            for i in (0, 1, 3, 4)
        ]
        assert bodies[0].area == pytest.approx(8) and np.allclose(bodies[0].face_normals, [0, 0, 1])
        assert bodies[1].area == pytest.approx(6 * np.sin(np.pi / 6)) and np.allclose(bodies[1].face_normals, [0, 0, 1])
        assert bodies[2].volume == pytest.approx(6) and bodies[3].bounds[1][2] == 9


def test_a_mesh_of_several_materials_is_a_part_for_each(scratch: Path) -> None:
    made = Maker()
    made.head["materials"] = [
        {"name": "Frame", "pbrMetallicRoughness": {"baseColorFactor": [0.5, 0.25, 0, 1]}},
        {"name": "Pane", "alphaMode": "BLEND", "pbrMetallicRoughness": {"baseColorFactor": [1, 1, 1, 0.3]}},
        {"extensions": {"KHR_materials_transmission": {"transmissionFactor": 0.75}}},
        {"name": "Not blended", "pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 0.1]}},
    ]
    rows = [made.body(material=m) for m in (0, 1, 2, 3)] + [made.body()]
    above = made.node(name="Front/Left", children=[1])
    made.node(root=False, name="Window", mesh=made.mesh(*rows))
    model = own(made.write(scratch / "window.glb"))
    assert above == 0 and [p.path for p in model.parts] == [
        f"Front Left/Window · {m}" for m in ("Frame", "Pane", "Material 3", "Not blended", "Plain")
    ]
    assert [(m.colour, m.opacity) for m in model.materials] == [
        ("#804000", 1.0), ("#ffffff", 0.3), ("#ffffff", 0.25), ("#ff0000", 1.0), ("#cfc8bc", 1.0),
    ]  # fmt: skip
    assert [p.role for p in model.parts][1:3] == ["glass", "glass"]


def test_pictures_in_the_buffer_lie_as_the_standard_lays_them(scratch: Path) -> None:
    out = io.BytesIO()
    Image.new("RGB", (4, 4), (200, 100, 50)).save(out, "PNG")
    made = Maker()
    made.head["images"] = [{"bufferView": made.view(out.getvalue()), "mimeType": "image/png"}, {"uri": "missing.png"}]
    made.head["textures"] = [{"source": 0}, {"source": 1}, {}]
    made.head["materials"] = [
        {"name": f"M{i}", "pbrMetallicRoughness": {"baseColorTexture": {"index": i}}} for i in range(3)
    ]
    flat = np.array([[0, 0, 0], [4, 0, 0], [4, 0, 2], [0, 0, 2]], "<f4")
    # Shares of one, as bytes; the picture's top row is 0.
    uv = made.accessor(np.array([[0, 255], [255, 255], [255, 0], [0, 0]], "<u1"), normalized=True)
    faces = made.accessor(np.array([0, 1, 2, 0, 2, 3], "<u2"))
    points = made.accessor(flat)
    for i in range(3):
        body = {"attributes": {"POSITION": points, "TEXCOORD_0": uv}, "indices": faces, "material": i}
        made.node(name=f"Wall {i}", mesh=made.mesh(body), translation=[0, i, 0])
    model = own(made.write(scratch / "wall.glb"))
    assert [bool(m.texture) for m in model.materials] == [True, False, False]  # a missing picture takes no wall away
    assert model.materials[0].colour == "#c86432" and model.materials[0].size == pytest.approx((4, 2))
    assert model.mesh.uv is not None
    own_uv, own_points = (
        model.mesh.uv[model.triangle_part == 0].reshape(-1, 2),
        model.vertices[model.triangles[model.triangle_part == 0]].reshape(-1, 3),
    )
    assert np.allclose(own_uv, own_points[:, [0, 2]] / [4, 2], atol=1e-6)  # from the lower left, right and up


@pytest.mark.parametrize(
    "spoil",
    [
        lambda h: h["nodes"][0].update(mesh=7),
        lambda h: h["nodes"][0].update(children=[0]),
        lambda h: h["nodes"][0].update(scale=["wide", 1, 1]),
        lambda h: h["accessors"][0].update(count=10**12),
        lambda h: h["accessors"][0].update(count=-3),
        lambda h: h["accessors"][0].update(componentType=1234),
        lambda h: h["accessors"][0].pop("bufferView"),
        lambda h: h["accessors"][0].update(byteOffset=-40),
        lambda h: h["bufferViews"][0].update(byteLength=10**9),
        lambda h: h["bufferViews"][0].update(byteStride=2),
        lambda h: h["bufferViews"][0].update(buffer=3),
        lambda h: h["meshes"][0]["primitives"][0].pop("attributes"),
        lambda h: h["meshes"][0]["primitives"][0].update(material=2),
        lambda h: h.update(scenes=[], nodes=[]),
        lambda h: h.update(nodes="none"),
        lambda h: h["accessors"][1].update(type="VEC9"),
    ],
)
def test_what_does_not_hang_together_is_one_sentence(scratch: Path, spoil: Any) -> None:
    made = Maker()
    made.node(name="Body", mesh=made.mesh(made.body()))
    spoil(made.head)
    with pytest.raises(ModelFileError, match=r"^odd\.glb .*\.$"):
        own(made.write(scratch / "odd.glb"))
