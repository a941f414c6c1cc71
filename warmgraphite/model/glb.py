"""GLB (glTF 2.0, ISO/IEC 12113): the scene tree becomes layers and parts, and back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray
from trimesh.visual.material import PBRMaterial

from warmgraphite.errors import ModelFileError
from warmgraphite.model.behaviour import ROLES
from warmgraphite.model.model import Material, Model, Part, build_model
from warmgraphite.model.roles import guess_role
from warmgraphite.model.units import to_metres

__all__ = ["read_glb", "write_glb"]


def _material(visual: Any) -> Material:
    source = getattr(visual, "material", None)
    colour = getattr(source, "baseColorFactor", None)
    if colour is None:
        colour = getattr(source, "diffuse", None)
    rgba = np.asarray(colour if colour is not None else [207, 200, 188, 255], dtype=float).ravel()
    if rgba.max() <= 1.0 and rgba.dtype.kind == "f" and np.asarray(colour).dtype.kind == "f":
        rgba = rgba * 255
    red, green, blue = (round(c) for c in rgba[:3])
    blends = str(getattr(source, "alphaMode", None) or "").upper() != "OPAQUE"
    opacity = round(float(rgba[3]) / 255, 2) if len(rgba) > 3 and blends else 1.0
    return Material(getattr(source, "name", None) or "Plain", f"#{red:02x}{green:02x}{blue:02x}", opacity)


def read_glb(path: Path) -> Model:
    """The model of a GLB file, in file coordinates (Y up by the standard). Nodes above a mesh are its layers."""
    try:
        scene = trimesh.load_scene(path, file_type="glb", process=False)
    except Exception as error:  # the reader raises whatever its parts raise: struct, json, index, value errors
        raise ModelFileError(
            f"{path.name} is a damaged GLB file and cannot be read to its end; export it again and bring the new file."
        ) from error
    parents = scene.graph.transforms.parents
    root = scene.graph.base_frame
    materials: list[Material] = []
    meshes = []
    # The reader lists nodes in an order of its own; geometries stand in the file's.
    order = {name: i for i, name in enumerate(scene.geometry)}
    for node in sorted(scene.graph.nodes_geometry, key=lambda n: order.get(scene.graph[n][1], 0)):
        matrix, geometry_name = scene.graph[node]
        mesh = scene.geometry[geometry_name]
        if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
            continue
        chain: list[str] = []
        above = parents.get(node)
        while above is not None and above != root and above in parents:
            chain.insert(0, str(above))
            above = parents.get(above)
        about = mesh.metadata or {}
        # What our own writer noted beside the mesh is exact; node names must be unique in a file and may carry a number.
        name = str(about.get("name") or node)
        layer = str(about.get("layer") if isinstance(about.get("layer"), str) else "/".join(chain))
        material = _material(mesh.visual)
        if material not in materials:
            materials.append(material)
        role = about.get("role")
        if role not in ROLES:
            role = guess_role(layer, name, material)
        vertices = np.asarray(mesh.vertices, float) @ matrix[:3, :3].T + matrix[:3, 3]
        faces = np.asarray(mesh.faces, np.int32)
        if np.linalg.det(matrix[:3, :3]) < 0:
            faces = faces[:, ::-1]
        if faces.max() >= len(vertices):
            raise ModelFileError(f"{path.name}: part “{name}” has faces that ask for missing points; export the model again.")
        meshes.append((Part(name, layer, materials.index(material), role), vertices, faces))
    if not meshes:
        raise ModelFileError(f"{path.name} holds no faces, so there is nothing to draw; export it again with its surfaces.")
    return build_model(path.stem, meshes, materials)


def write_glb(model: Model, path: Path) -> None:
    """Write the model as one GLB file: metres, Y up, one node per part below nodes for its layers."""
    scene = trimesh.Scene()
    upright: NDArray[np.float64] = np.asarray(np.linalg.inv(to_metres("m", "y")), np.float64)
    turned = model.transformed(upright)
    materials = []
    for material in model.materials:
        rgba = [int(material.colour[i : i + 2], 16) for i in (1, 3, 5)] + [round(material.opacity * 255)]
        clear = material.opacity < 1
        materials.append(
            PBRMaterial(
                name=material.name,
                baseColorFactor=rgba,
                alphaMode="BLEND" if clear else "OPAQUE",
                metallicFactor=0.0,
                roughnessFactor=0.9,
                doubleSided=True,
            )
        )
    layers: set[str] = set()
    for index, part in enumerate(model.parts):
        above = scene.graph.base_frame
        path_so_far = ""
        for step in part.layer.split("/") if part.layer else []:
            path_so_far = f"{path_so_far}/{step}" if path_so_far else step
            if path_so_far not in layers:
                layers.add(path_so_far)
                scene.graph.update(frame_to=path_so_far, frame_from=above)
            above = path_so_far
        triangles = turned.triangles[model.triangle_part == index]
        used, local = np.unique(triangles, return_inverse=True)
        mesh = trimesh.Trimesh(turned.vertices[used], local.reshape(-1, 3), process=False)
        mesh.visual = trimesh.visual.TextureVisuals(material=materials[part.material])
        mesh.metadata = {"role": part.role, "layer": part.layer, "name": part.name}
        scene.add_geometry(mesh, node_name=part.path, geom_name=f"{index:05d}", parent_node_name=above)
    path.write_bytes(scene.export(file_type="glb"))
