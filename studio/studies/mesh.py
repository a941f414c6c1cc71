"""The model as the browser's 3D view takes it: one binary block of triangles, one of feature edges.

Layout, little-endian: uint32 length of the JSON head; the head; then, each where the head says (bytes from the end of
the head, which is padded to 4): positions float32 (T × 9) about ``origin``, part uint32 (T), edges float32 (E × 6),
edge parts uint32 (E).
"""

from __future__ import annotations

import json
import struct

import numpy as np

from warmgraphite.model.model import Model
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.lines import CREASE_ANGLE

__all__ = ["mesh_bytes"]


def mesh_bytes(model: Model) -> bytes:
    """The block for a model; positions are relative to its middle, so that single precision is enough."""
    origin = model.bounds.mean(0)
    corners = (model.vertices - origin).astype("<f4")[model.triangles]
    topology = topology_of(model)
    sharp = topology.fold > CREASE_ANGLE
    edges = np.stack([topology.start[sharp], topology.end[sharp]], 1) - origin
    blocks = {
        "positions": corners.tobytes(),
        "edges": edges.astype("<f4").tobytes(),
        "parts": model.triangle_part.astype("<u4").tobytes(),
        "edge_parts": topology.part[sharp].astype("<u4").tobytes(),
    }
    head: dict = {
        "origin": origin.tolist(),
        "low": model.bounds[0].tolist(),
        "high": model.bounds[1].tolist(),
        "materials": [{"name": m.name, "colour": m.colour, "opacity": m.opacity} for m in model.materials],
        "part_material": model.part_material.tolist(),
        "blocks": {},
    }
    at = 0
    body = b""
    for name, data in blocks.items():
        data += b"\0" * (-len(data) % 4)
        head["blocks"][name] = [at, len(blocks[name])]
        body += data
        at += len(data)
    text = json.dumps(head).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<I", len(text)) + text + body
