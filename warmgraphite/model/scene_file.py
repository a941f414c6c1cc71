"""glTF and GLB (ISO/IEC 12113), STL, PLY and OFF, read by a general mesh library: its scene becomes layers and parts."""

from __future__ import annotations

import io
import json
import re
import struct
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray

from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.model.behaviour import ROLES
from warmgraphite.model.gathering import Gathering, Stages, hex_colour, unwatched
from warmgraphite.model.model import Material, Model
from warmgraphite.model.welding import connected, grouped, mixed

__all__ = ["read_gltf", "read_mesh"]

#: A file of one nameless mesh is taken apart into its connected bodies when they are no more than these.
MOST_BODIES = 3000
#: Colours of faces that are told apart as materials.
MOST_COLOURS = 48


def _damaged(path: Path, what: str) -> ModelFileError:
    return ModelFileError(
        f"{path.name} is a damaged {what} file and cannot be read to its end; export it again and bring the new file."
    )


def _glb_head(path: Path) -> dict[str, Any]:
    """The JSON head of a GLB or glTF file, its lengths checked before anything else is believed."""
    data = path.read_bytes()
    try:
        if data[:4] != b"glTF":
            return json.loads(data)
        version, total, first, kind = struct.unpack_from("<IIII", data, 4)
        if version > 2**24:
            raise ModelFileError(
                f"{path.name} has its numbers the wrong way round (big-endian); export it again as standard GLB."
            )
        if version != 2:
            raise ModelFileError(f"{path.name} is GLB version {version}; export it as glTF 2.0.")
        if total > len(data) or 20 + first > len(data):
            raise ModelFileError(f"{path.name} breaks off: it says {total:,} bytes and has {len(data):,}; bring the whole file.")
        if kind != 0x4E4F534A:
            raise _damaged(path, "GLB")
        return json.loads(data[20 : 20 + first])
    except (ValueError, struct.error, RecursionError) as error:
        raise _damaged(path, "GLB") from error


def _checked_head(path: Path) -> dict[str, Any]:
    head = _glb_head(path)
    if not isinstance(head, dict):
        raise _damaged(path, "glTF")
    needed = head.get("extensionsRequired") or []
    packed = [e for e in needed if "draco" in str(e).lower() or "meshopt" in str(e).lower()]
    if packed:
        raise ModelFileError(f"{path.name} is packed with {packed[0]}; export it without compression.")
    for buffer in head.get("buffers") or []:
        uri = buffer.get("uri") if isinstance(buffer, dict) else None
        if isinstance(uri, str) and not uri.startswith("data:") and not (path.parent / Path(uri).name).is_file():
            raise ModelFileError(
                f"{path.name} keeps its geometry in “{uri[:80]}”, which is not beside it; bring both, or export one .glb file."
            )
    for accessor in head.get("accessors") or []:
        if (
            isinstance(accessor, dict)
            and "bufferView" not in accessor
            and isinstance(accessor.get("count"), int)
            and accessor["count"] > 50_000_000
        ):
            raise ModelFileError(f"{path.name} asks for {accessor['count']:,} numbers that it does not hold; export it again.")
    return head


class _Beside(trimesh.resolvers.Resolver):
    """Files beside the model and nowhere else: a path that leads away finds nothing."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def get(self, name: str) -> bytes:
        beside = self.folder / Path(name.replace("\\", "/")).name
        if not beside.is_file():
            raise FileNotFoundError(name)
        return beside.read_bytes()

    def keys(self) -> list[str]:
        return [p.name for p in self.folder.iterdir()]

    def namespaced(self, _namespace: str) -> _Beside:
        return self

    def write(self, _name: str, _data: Any) -> None:
        raise OSError("nothing is written while a model is read")


def _encoded(picture: Any) -> bytes:
    out = io.BytesIO()
    if picture.mode in ("RGB", "L") and getattr(picture, "format", "") == "JPEG":
        picture.save(out, "JPEG", quality=95)
    else:
        picture.convert("RGBA" if "A" in picture.getbands() else "RGB").save(out, "PNG")
    return out.getvalue()


class _Looks:
    """Materials of a scene, each understood once."""

    def __init__(self, gathering: Gathering) -> None:
        self.gathering = gathering
        self.known: dict[int, Material] = {}
        self.held: list[Any] = []  # keeps the numbers above from being used again

    def of(self, source: Any) -> Material:
        if source is None:
            return Material("Plain")
        if id(source) not in self.known:
            self.held.append(source)
            self.known[id(source)] = self._read(source)
        return self.known[id(source)]

    def _read(self, source: Any) -> Material:
        colour = getattr(source, "baseColorFactor", None)
        if colour is None:
            colour = getattr(source, "diffuse", None)
        rgba = np.asarray([207, 200, 188, 255] if colour is None else colour, dtype=float).ravel()
        if colour is not None and np.asarray(colour).dtype.kind == "f" and rgba.max(initial=0) <= 1.0:
            rgba = rgba * 255
        if len(rgba) < 3:
            rgba = np.array([207.0, 200, 188, 255])
        blends = str(getattr(source, "alphaMode", None) or "").upper() != "OPAQUE"
        opacity = round(float(rgba[3]) / 255, 2) if len(rgba) > 3 and blends else 1.0
        picture = getattr(source, "baseColorTexture", None)
        texture = ""
        if picture is not None:
            try:
                texture = self.gathering.picture(_encoded(picture))
                if colour is None:
                    rgba[:3] = np.asarray(picture.convert("RGB").resize((1, 1)), float).ravel()
            except (OSError, ValueError):
                texture = ""
        return Material(str(getattr(source, "name", None) or "Plain"), hex_colour(rgba[:3] / 255), opacity, texture)


def read_gltf(path: Path, watch: Stages = unwatched) -> Model:
    """The model of a GLB or glTF file, in file coordinates (Y up by the standard). Nodes above a mesh are its layers."""
    watch("Reading the file", 0.05)
    _checked_head(path)
    kind = "glb" if path.open("rb").read(4) == b"glTF" else "gltf"
    try:
        with path.open("rb") as file:
            scene = trimesh.load_scene(file, file_type=kind, process=False, resolver=_Beside(path.parent))
        return _parts_of(scene, path, watch)
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:  # the library raises whatever its parts raise: struct, json, index, value errors
        raise _damaged(path, kind.upper() if kind == "glb" else "glTF") from error


def _parts_of(scene: trimesh.Scene, path: Path, watch: Stages) -> Model:
    gathering = Gathering(path.name)
    looks = _Looks(gathering)
    graph = scene.graph
    parents, root = graph.transforms.parents, graph.base_frame
    # The library lists nodes in an order of its own; geometries stand in the file's.
    order = {name: i for i, name in enumerate(scene.geometry)}
    placed = [(n, *graph[n]) for n in graph.nodes_geometry]
    bodied = {n for n, _, _ in placed}
    chains: dict[Any, list[str]] = {}

    def chain(node: Any) -> list[str]:
        found: list[str] = []
        while node is not None and node != root and node in parents and len(found) < 60:
            found.append(str(node))
            node = parents.get(node)
        return found[::-1]

    for at, (node, matrix, geometry) in enumerate(sorted(placed, key=lambda row: order.get(row[2], 0))):
        if at % 500 == 0:
            watch("Gathering the parts", 0.5 + 0.45 * at / max(len(placed), 1))
        mesh: Any = scene.geometry[geometry]
        if not isinstance(mesh, trimesh.Trimesh) or not len(mesh.faces):
            continue
        above = parents.get(node)
        if above not in chains:
            chains[above] = chain(above)
        steps = chains[above]
        about = mesh.metadata or {}
        visual: Any = mesh.visual
        material = looks.of(getattr(visual, "material", None)) if visual.kind in ("texture", None) else _mean_colour(mesh)
        title = str(node)
        if above in bodied and steps:
            # One mesh of several materials comes as a node below its first one.
            title, steps = f"{steps[-1]} · {material.name}", steps[:-1]
        # What our own writer noted beside the mesh is exact; node names must be unique in a file and may carry a number.
        name = str(about.get("name") or title)
        layer = about["layer"] if isinstance(about.get("layer"), str) else "/".join(steps)
        faces = np.asarray(mesh.faces, np.int64)
        uv = getattr(mesh.visual, "uv", None)
        corners = None
        if material.texture and uv is not None and len(uv) == len(mesh.vertices) and faces.max() < len(uv):
            corners = np.asarray(uv, np.float32)[faces]
        if np.linalg.det(matrix[:3, :3]) < 0:
            faces = faces[:, ::-1]
            corners = corners[:, ::-1] if corners is not None else None
        vertices = np.asarray(mesh.vertices, float) @ matrix[:3, :3].T + matrix[:3, 3]
        role = about.get("role")
        lasting = about.get("id")
        gathering.add(
            name, str(layer), material, vertices, faces, uv=corners, role=role if role in ROLES else None,
            id=lasting if isinstance(lasting, str) else "",
        )  # fmt: skip
    return gathering.model(path.stem)


def _mean_colour(mesh: Any) -> Material:
    rgba = np.asarray(mesh.visual.main_color, float) / 255
    return Material("Plain" if mesh.visual.kind is None else hex_colour(rgba), hex_colour(rgba), round(float(rgba[3]), 2))


def _check_stl(path: Path) -> None:
    """A binary STL says how many triangles follow; what does not agree with its length is cut off or turned round."""
    data = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(84)
    if head[:5].lower() == b"solid" and b"\0" not in head[:80]:
        text = path.read_bytes()
        if b"endsolid" not in text[-400:].lower():
            raise ModelFileError(f"{path.name} breaks off before its end; export it again and bring the whole file.")
        return
    little, big = struct.unpack("<I", head[80:84])[0], struct.unpack(">I", head[80:84])[0]
    if 84 + 50 * little != data:
        if 84 + 50 * big == data:
            raise ModelFileError(
                f"{path.name} has its numbers the wrong way round (big-endian); export it again as standard STL."
            )
        raise ModelFileError(f"{path.name} says {little:,} triangles, but its length does not fit; bring the whole file.")


def read_mesh(path: Path, kind: str, watch: Stages = unwatched) -> Model:
    """The model of an STL, PLY or OFF file. Solids and colours are told apart; else its connected bodies are its parts."""
    watch("Reading the file", 0.1)
    if kind == "stl":
        _check_stl(path)
    try:
        with path.open("rb") as file:
            scene = trimesh.load_scene(file, file_type=kind, process=False, resolver=_Beside(path.parent))
        gathering = Gathering(path.name)
        meshes = [(str(n), g) for n, g in scene.geometry.items() if isinstance(g, trimesh.Trimesh) and len(g.faces)]
        for at, (name, mesh) in enumerate(meshes):
            watch("Gathering the parts", 0.5 + 0.4 * at / len(meshes))
            named = len(meshes) > 1 or (kind == "stl" and not re.fullmatch(r"geometry_\d+", name) and name != path.name)
            _bodies(gathering, name if named else path.stem, mesh, split=not named)
        return gathering.model(path.stem)
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:  # as above
        raise _damaged(path, kind.upper()) from error


def _bodies(gathering: Gathering, name: str, mesh: Any, split: bool) -> None:
    """Add a mesh: by the colours of its faces where it has some, else by its connected bodies."""
    vertices, faces = np.asarray(mesh.vertices, float), np.asarray(mesh.faces, np.int64)
    if faces.min() < 0 or faces.max() >= len(vertices):
        raise ModelFileError(f"{gathering.file} has faces that ask for missing points; export the model again.")
    groups: list[tuple[str, Material, NDArray[np.bool_]]] = []
    if mesh.visual.kind in ("face", "vertex"):
        colours = np.asarray(mesh.visual.face_colors, np.uint8).reshape(-1, 4)
        found, which = np.unique(colours, axis=0, return_inverse=True)
        which = which.ravel()
        if len(found) <= MOST_COLOURS:
            for i, rgba in enumerate(found):
                tone = hex_colour(rgba[:3] / 255)
                title = name if len(found) == 1 else f"{name} · {tone}"
                groups.append((title, Material(tone, tone, round(float(rgba[3]) / 255, 2)), which == i))
    if not groups:
        groups = [(name, Material("Plain"), np.ones(len(faces), bool))]
    for title, material, rows in groups:
        label = _bodies_of(vertices, faces[rows]) if split else np.zeros(int(rows.sum()), int)
        count = int(label.max(initial=0)) + 1
        if count > MOST_BODIES:
            label, count = np.zeros_like(label), 1
        order = np.argsort(label, kind="stable")
        for i, piece in enumerate(np.split(faces[rows][order], np.cumsum(np.bincount(label, minlength=count))[:-1])):
            used, local = np.unique(piece, return_inverse=True)
            gathering.add(title if count == 1 else f"{title} {i + 1}", "", material, vertices[used], local.reshape(-1, 3))


def _bodies_of(vertices: NDArray[np.float64], faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """(T,) the number of the connected body of each face; corners at the same place are one."""
    bits = np.ascontiguousarray(vertices + 0.0).view(np.int64)  # adding nothing makes minus zero zero
    return connected(grouped(mixed(bits[:, 0], bits[:, 1], bits[:, 2]))[faces])
