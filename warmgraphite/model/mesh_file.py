"""STL, PLY and OFF, read by a general mesh library: solids, colours or connected bodies become parts."""

from __future__ import annotations

import logging
import re
import struct
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import of_shares
from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.geometry.ragged import firsts, split_rows
from warmgraphite.model.gathering import Gathering
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.model.welding import connected, grouped, mixed
from warmgraphite.progress import Stages, unwatched

__all__ = ["read_mesh"]

#: A file of one nameless mesh is taken apart into its connected bodies when they are no more than these.
MOST_BODIES = 3000
#: Colours of faces that are told apart as materials.
MOST_COLOURS = 48


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
        raise ModelFileError(
            f"{path.name} says {little:,} triangles, but its length does not fit; bring the whole file."
        )


def read_mesh(path: Path, kind: str, watch: Stages = unwatched) -> Model:
    """The model of an STL, PLY or OFF file.
    Solids and colours are told apart; else its connected bodies are its parts.
    """
    import trimesh  # takes half a second, which only these formats should

    watch("Reading the file", 0.1)
    # It writes what it makes of a slip of the pen to the terminal, and reads on: what matters of it is said below.
    logging.getLogger("trimesh").addHandler(logging.NullHandler())
    logging.getLogger("trimesh").propagate = False
    if kind == "stl":
        _check_stl(path)
    try:
        with path.open("rb") as file:
            scene = trimesh.load_scene(file, file_type=kind, process=False)
        gathering = Gathering(path.name)
        meshes = [(str(n), g) for n, g in scene.geometry.items() if isinstance(g, trimesh.Trimesh) and len(g.faces)]
        for at, (name, mesh) in enumerate(meshes):
            watch("Gathering the parts", 0.5 + 0.4 * at / len(meshes))
            named = len(meshes) > 1 or (kind == "stl" and not re.fullmatch(r"geometry_\d+", name) and name != path.name)
            _bodies(gathering, name if named else path.stem, mesh, split=not named)
        return gathering.model(path.stem)
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:  # the library raises whatever its parts raise
        raise ModelFileError(
            f"{path.name} is a damaged {kind.upper()} file and cannot be read to its end; export it again and bring "
            f"the new file."
        ) from error


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
                tone = of_shares(rgba[:3] / 255)
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
        for i, piece in enumerate(split_rows(faces[rows][order], firsts(np.bincount(label, minlength=count)))):
            used, local = np.unique(piece, return_inverse=True)
            gathering.add(
                title if count == 1 else f"{title} {i + 1}", "", material, vertices[used], local.reshape(-1, 3)
            )


def _bodies_of(vertices: NDArray[np.float64], faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """(T,) the number of the connected body of each face; corners at the same place are one."""
    bits = np.ascontiguousarray(vertices + 0.0).view(np.int64)  # adding nothing makes minus zero zero
    return connected(grouped(mixed(bits[:, 0], bits[:, 1], bits[:, 2]))[faces])
