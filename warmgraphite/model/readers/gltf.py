"""glTF 2.0 (ISO/IEC 12113): in one binary file, or as JSON with others beside it. Metres, +Y up (3.4)."""

from __future__ import annotations

import json
from pathlib import Path

from warmgraphite.model.gltf import read_gltf
from warmgraphite.model.reader import Head, Reader, Told
from warmgraphite.progress import Stages


def _read(path: Path, watch: Stages) -> Told:
    return Told(read_gltf(path, watch), 1.0, "y")


def _is_json(head: Head) -> bool:
    if head.text[:1] != b"{":
        return False
    try:
        return "asset" in json.loads(head.path.read_bytes())
    except (ValueError, RecursionError):
        return False


READER = (
    Reader("glb", "GLB", 1, lambda head: head.bytes[:4] in (b"glTF", b"FTlg"), _read, metres=True, endings=(".glb",)),
    Reader("gltf", "glTF", 2, _is_json, _read, metres=True, endings=(".gltf",)),
)
