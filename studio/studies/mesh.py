"""The model as the browser's 3D view takes it: one binary block of triangles, one of feature edges.

Layout, little-endian: uint32 length of the JSON head; the head; then, each where the head says (bytes from the end of
the head, which is padded to 4): positions float32 (V × 3) about ``origin``, the part of each uint32 (V), triangles
uint32 (T × 3), edges float32 (E × 6), edge parts uint32 (E). No point serves two parts, and the largest triangles come
first: where a machine cannot draw all of them while the view is moved, it draws as many as it can. How parts look is
not in it: it stays the same while roles, colours and names change.
"""

from __future__ import annotations

import gzip
import hashlib
import json
import struct
import zlib
from pathlib import Path

import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from warmgraphite.atomic import atomic_write
from warmgraphite.model.model import Model
from warmgraphite.model.welding import edges_of, weld
from warmgraphite.passes.edges import CREASE_ANGLE

__all__ = ["mesh_bytes", "mesh_file", "mesh_name"]


def _sharp_edges(model: Model) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    """(E, 2, 3) edges that are borders or bend, and their parts."""
    welded = weld(model.mesh, model.anchor)
    edges = edges_of(welded)
    corners = model.vertices[model.triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    order = np.argsort(edges.of, kind="stable")
    first = np.cumsum(edges.count) - edges.count
    pair = np.minimum(first + 1, len(order) - 1)
    bend = (normal[order[first] // 3] * normal[order[pair] // 3]).sum(1) * np.where(edges.turn == 0, 1, -1)
    sharp = (edges.count != 2) | (bend < np.cos(np.radians(CREASE_ANGLE)))
    sharp &= edges.low != edges.high
    face, side = np.divmod(edges.half[sharp], 3)
    ends = np.stack([corners[face, side], corners[face, (side + 1) % 3]], 1)
    return ends, model.triangle_part[face]


def _points(model: Model) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """(V,) the model's vertex of each point, (V,) its part, and (T, 3) the points of each triangle."""
    owner = np.full(len(model.vertices), -1, np.int64)
    owner[model.triangles] = model.triangle_part[:, None]
    if (owner[model.triangles] == model.triangle_part[:, None]).all():
        used = np.flatnonzero(owner >= 0)
        place = np.zeros(len(owner), np.int64)
        place[used] = np.arange(len(used))
        return used, owner[used], place[model.triangles]
    key = model.triangle_part[:, None].astype(np.int64) * len(owner) + model.triangles
    found, place = np.unique(key, return_inverse=True)
    part, vertex = np.divmod(found, len(owner))
    return vertex, part, place.reshape(-1, 3)


def mesh_bytes(model: Model) -> bytes:
    """The block for a model; positions are relative to its heart, so that single precision is enough."""
    origin = model.median_centre
    ends, owner = _sharp_edges(model)
    # Line elements are drawn as edges are.
    present = model.parts.present[model.mesh.line_part]
    ends = np.concatenate([ends, model.mesh.line_ends[present]])
    owner = np.concatenate([owner, model.mesh.line_part[present]])
    vertex, part, triangles = _points(model)
    corners = model.vertices[model.triangles]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    triangles = triangles[np.argsort(-area, kind="stable")]
    blocks = {
        "positions": (model.vertices[vertex] - origin).astype("<f4").tobytes(),
        "parts": part.astype("<u4").tobytes(),
        "triangles": triangles.astype("<u4").tobytes(),
        "edges": (ends - origin).astype("<f4").tobytes(),
        "edge_parts": owner.astype("<u4").tobytes(),
    }
    head: dict = {
        "origin": origin.tolist(),
        "low": model.bounds[0].tolist(),
        "high": model.bounds[1].tolist(),
        "blocks": {},
    }
    at = 0
    for name, data in blocks.items():
        head["blocks"][name] = [at, len(data)]
        at += len(data)  # every block is made of words of four bytes
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return b"".join([struct.pack("<I", len(text)), text, *blocks.values()])


def mesh_name(model: Model) -> str:
    """What the block for a model is called: other models with the same name have the same one."""
    gone = np.unique(
        model.mesh.line_part[~model.parts.present[model.mesh.line_part]]
    )  # their lines are not in it, and are in the geometry
    return model.mesh.geometry + (f"-{hashlib.sha256(gone.tobytes()).hexdigest()[:8]}" if len(gone) else "")


#: Blocks that were found to be whole, as they were then.
_sound: dict[Path, tuple[int, int]] = {}


def _is_whole(path: Path) -> bool:
    """Whether a packed block is there, and can be unpacked as it was packed; looked through once."""
    try:
        state = path.stat()
        if _sound.get(path) != (state.st_ino, state.st_size):
            if not state.st_size:
                return False
            with gzip.open(path) as packed:
                while packed.read(1 << 22):
                    pass
            _sound[path] = (state.st_ino, state.st_size)
    except (OSError, EOFError, zlib.error):
        return False
    return True


def mesh_file(model: Model) -> Path:
    """The packed block of a model's triangles and lines, made once."""
    path = settings.DATA / "models" / f"{mesh_name(model)}.mesh.gz"
    if not _is_whole(path):
        with atomic_write(path, lasting=False) as draft:
            draft.write_bytes(gzip.compress(mesh_bytes(model), 1))
    return path
