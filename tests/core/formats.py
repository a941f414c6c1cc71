"""The same small pavilion in every format, written by general libraries and not by ours."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from pathlib import Path

import collada
import numpy as np
import trimesh
from PIL import Image

from bench.models import write_ifc_house

__all__ = ["BODIES", "COLOURS", "WRITERS", "scene"]

#: Names of the bodies, in layers, with their material.
BODIES: dict[str, tuple[str, trimesh.Trimesh, str]] = {
    "Plinth": ("Pavilion/Base", trimesh.creation.box(bounds=[(0, 0, 0), (8, 5, 0.5)]), "Concrete"),
    "Column": (
        "Pavilion/Frame",
        trimesh.creation.cylinder(radius=0.2, segment=[(1, 1, 0.5), (1, 1, 3)], sections=24),
        "Oak",
    ),
    "Pane": ("Pavilion/Skin", trimesh.creation.box(bounds=[(2, 0, 0.5), (6, 0.02, 3)]), "Glass"),
    "Ball": (
        "Garden",
        trimesh.creation.icosphere(subdivisions=2, radius=0.6).apply_translation([10, 2, 0.6]),
        "Concrete",
    ),
}
COLOURS = {"Concrete": (170, 165, 155, 255), "Oak": (176, 138, 90, 255), "Glass": (180, 210, 215, 64)}


def scene() -> trimesh.Scene:
    """The pavilion, Z up, as a scene with layers for nodes."""
    found = trimesh.Scene()
    materials = {
        name: trimesh.visual.material.PBRMaterial(
            name=name, baseColorFactor=rgba, alphaMode="BLEND" if rgba[3] < 255 else "OPAQUE"
        )
        for name, rgba in COLOURS.items()
    }
    for name, (layer, mesh, material) in BODIES.items():
        above = found.graph.base_frame
        for step in layer.split("/"):
            if step not in found.graph.nodes:
                found.graph.update(frame_to=step, frame_from=above)
            above = step
        body = mesh.copy()
        body.visual = trimesh.visual.TextureVisuals(material=materials[material])
        found.add_geometry(body, node_name=name, geom_name=f"{name} shape", parent_node_name=above)
    return found


def _together() -> trimesh.Trimesh:
    return trimesh.util.concatenate([mesh for _, mesh, _ in BODIES.values()])


def _painted() -> trimesh.Trimesh:
    bodies = []
    for _, mesh, material in BODIES.values():
        body = mesh.copy()
        body.visual = trimesh.visual.ColorVisuals(body, face_colors=np.tile(COLOURS[material], (len(body.faces), 1)))
        bodies.append(body)
    return trimesh.util.concatenate(bodies)


def _collada(path: Path) -> None:
    file = collada.Collada()
    file.assetInfo.unitname, file.assetInfo.unitmeter = "centimeter", 0.01
    file.assetInfo.upaxis = collada.asset.UP_AXIS.Z_UP
    made = {}
    for name, rgba in COLOURS.items():
        r, g, b, a = np.array(rgba) / 255
        effect = collada.material.Effect(f"{name}-fx", [], "lambert", diffuse=(r, g, b, 1.0), transparency=float(a))
        made[name] = collada.material.Material(f"{name}-id", name, effect)
        file.effects.append(effect)
        file.materials.append(made[name])
    layers: dict[str, collada.scene.Node] = {}
    roots = []
    for name, (layer, mesh, material) in BODIES.items():
        points = collada.source.FloatSource(f"{name}-points", (mesh.vertices * 100).ravel(), ("X", "Y", "Z"))
        geometry = collada.geometry.Geometry(file, f"{name}-shape", f"{name}-shape", [points])
        inputs = collada.source.InputList()
        inputs.addInput(0, "VERTEX", f"#{name}-points")
        geometry.primitives.append(geometry.createTriangleSet(mesh.faces.ravel(), inputs, "skin"))
        file.geometries.append(geometry)
        bound = collada.scene.GeometryNode(geometry, [collada.scene.MaterialNode("skin", made[material], inputs=[])])
        node = collada.scene.Node(name, children=[bound])
        above = None
        for i, step in enumerate(layer.split("/")):
            key = "/".join(layer.split("/")[: i + 1])
            if key not in layers:
                layers[key] = collada.scene.Node(step, children=[])
                (above.children if above else roots).append(layers[key])
            above = layers[key]
        above.children.append(node)  # type: ignore[union-attr]
    stage = collada.scene.Scene("stage", roots)
    file.scenes.append(stage)
    file.scene = stage
    file.write(str(path))


def _gltf_archive(path: Path) -> None:
    """glTF with its buffer and a brick picture beside it, in a zip archive, below a folder."""
    wall = trimesh.creation.box(bounds=[(0, 0, 0), (6, 0.3, 3)])
    corners, faces = wall.triangles.reshape(-1, 3), np.arange(len(wall.faces) * 3).reshape(-1, 3)
    picture = Image.new("RGB", (32, 32), (178, 90, 70))
    material = trimesh.visual.material.PBRMaterial(name="Brick", baseColorTexture=picture)
    # One repeat of the picture is 1.5 m wide and 0.75 m high.
    uv = np.column_stack([(corners[:, 0] + corners[:, 1]) / 1.5, corners[:, 2] / 0.75])
    body = trimesh.Trimesh(
        corners, faces, process=False, visual=trimesh.visual.TextureVisuals(uv=uv, material=material)
    )
    made = trimesh.Scene()
    made.add_geometry(body, node_name="Wall")
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in made.export(file_type="gltf").items():
            archive.writestr(f"house/{name}", data)


def _3mf(path: Path) -> None:
    """By hand, as no general library writes materials: millimetres, base materials, a component placed twice."""
    core = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
    objects, items = [], []
    names = list(COLOURS)
    for number, (name, (_, mesh, material)) in enumerate(BODIES.items(), 2):
        points = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in (mesh.vertices * 1000).tolist())
        faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in mesh.faces.tolist())
        objects.append(
            f'<object id="{number}" name="{name}" pid="1" pindex="{names.index(material)}"><mesh><vertices>{points}</'
            f"vertices>"
            f"<triangles>{faces}</triangles></mesh></object>"
        )
        items.append(f'<item objectid="{number}"/>')
    bases = "".join(f'<base name="{n}" displaycolor="#{bytes(rgba).hex()}"/>' for n, rgba in COLOURS.items())
    text = (
        f'<?xml version="1.0"?><model unit="millimeter" xmlns="{core}"><resources><basematerials id="1">{bases}</'
        f"basematerials>"
        f"{''.join(objects)}</resources><build>{''.join(items)}</build></model>"
    )
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("3D/3dmodel.model", text)


def _bytes(data: bytes | str) -> bytes:
    return data if isinstance(data, bytes) else data.encode()


WRITERS: dict[str, Callable[[Path], object]] = {
    "glb": lambda p: p.write_bytes(scene().export(file_type="glb")),
    "obj": lambda p: p.write_bytes(_bytes(_together().export(file_type="obj"))),
    "stl": lambda p: p.write_bytes(_bytes(_together().export(file_type="stl"))),
    "ply": lambda p: p.write_bytes(_bytes(_painted().export(file_type="ply"))),
    "off": lambda p: p.write_bytes(_bytes(_together().export(file_type="off"))),
    "dae": _collada,
    "3mf": _3mf,
    "zip": _gltf_archive,
    "ifc": lambda p: write_ifc_house(p, storeys=1, bays=1, sides=6),
}
