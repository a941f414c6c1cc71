"""Writing a model as GLB (glTF 2.0, ISO/IEC 12113): layers become nodes, parts the meshes below them."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from warmgraphite import MADE_BY
from warmgraphite.colour import channels
from warmgraphite.model.model import Model
from warmgraphite.model.units import to_metres

__all__ = ["write_glb"]


def write_glb(model: Model, path: Path) -> None:
    """Write the model as one GLB file: metres, Y up, one node per part below nodes for its layers."""
    import trimesh  # it takes a second, which only who writes such a file should
    from trimesh.path.entities import Line
    from trimesh.visual.material import PBRMaterial

    scene = trimesh.Scene()
    upright: NDArray[np.float64] = np.asarray(np.linalg.inv(to_metres("m", "y")), np.float64)
    turned = model.transformed(upright)
    root = scene.graph.base_frame
    if any(model.origin):
        # It lies again where it came from. A node keeps that in double precision, which vertices of this format cannot.
        home = np.eye(4)
        home[:3, 3] = upright[:3, :3] @ np.array(model.origin)
        root = "Origin"
        scene.graph.update(frame_to=root, frame_from=scene.graph.base_frame, matrix=home)
    materials = []
    for material in model.materials:
        # A picture says its colour itself; a factor would be laid over it.
        colour = "#ffffff" if material.texture else material.colour
        rgba = [*channels(colour), round(material.opacity * 255)]
        clear = material.opacity < 1
        materials.append(
            PBRMaterial(
                name=material.name,
                baseColorFactor=rgba,
                alphaMode="BLEND" if clear else "OPAQUE",
                metallicFactor=0.0,
                roughnessFactor=0.9,
                doubleSided=True,
                baseColorTexture=Image.open(io.BytesIO(model.textures[material.texture])) if material.texture else None,
            )
        )
    layers: set[str] = set()
    order = np.argsort(turned.triangle_part, kind="stable")
    limits = np.searchsorted(turned.triangle_part[order], np.arange(len(model.parts) + 1))
    for index, part in enumerate(model.parts):
        rows = order[limits[index] : limits[index + 1]]
        ends = turned.mesh.line_ends[turned.mesh.line_part == index] if not part.absent else turned.mesh.line_ends[:0]
        if not len(rows) and not len(ends):
            continue
        above = root
        path_so_far = ""
        for step in part.layer.split("/") if part.layer else []:
            path_so_far = f"{path_so_far}/{step}" if path_so_far else step
            if path_so_far not in layers:
                layers.add(path_so_far)
                scene.graph.update(frame_to=path_so_far, frame_from=above)
            above = path_so_far
        said = {"role": part.role, "layer": part.layer, "name": part.name, "id": part.id}
        if len(ends):
            drawn = trimesh.path.Path3D([Line([2 * k, 2 * k + 1]) for k in range(len(ends))], ends.reshape(-1, 3),
                metadata=said, process=False)  # fmt: skip
            scene.add_geometry(drawn, node_name=f"{part.path} lines" if len(rows) else part.path,
                geom_name=f"{index:05d} lines", parent_node_name=above)  # fmt: skip
        if not len(rows):
            continue
        if turned.mesh.uv is not None and model.materials[part.material].texture:
            # Corners of one point may have several texture coordinates, so each has a point of its own.
            corners, uv = turned.vertices[turned.triangles[rows]].reshape(-1, 3), turned.mesh.uv[rows].reshape(-1, 2)
            mesh = trimesh.Trimesh(corners, np.arange(len(corners)).reshape(-1, 3), process=False)
            mesh.visual = trimesh.visual.TextureVisuals(uv=uv, material=materials[part.material])
        else:
            used, local = np.unique(turned.triangles[rows], return_inverse=True)
            mesh = trimesh.Trimesh(turned.vertices[used], local.reshape(-1, 3), process=False)
            mesh.visual = trimesh.visual.TextureVisuals(material=materials[part.material])
        mesh.metadata = said
        scene.add_geometry(mesh, node_name=part.path, geom_name=f"{index:05d}", parent_node_name=above)
    path.write_bytes(
        scene.export(file_type="glb", tree_postprocessor=lambda tree: tree["asset"].update(generator=MADE_BY))
    )
