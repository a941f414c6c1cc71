"""STL, PLY and OFF: bare triangles. They say neither their unit nor which way is up."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from warmgraphite.model.mesh_file import read_mesh
from warmgraphite.model.reader import Head, Reader, Told
from warmgraphite.progress import Stages


def _reads(name: str) -> Callable[[Path, Stages], Told]:
    return lambda path, watch: Told(read_mesh(path, name, watch))


def _is_stl(head: Head) -> bool:
    return (head.text[:5].lower() == b"solid" and b"facet" in head.bytes.lower()) or _is_binary_stl(head)


def _is_binary_stl(head: Head) -> bool:
    if len(head.bytes) < 84:
        return False
    size = head.path.stat().st_size
    counts = [int.from_bytes(head.bytes[80:84], order) for order in ("little", "big")]
    # A file that breaks off still has the ending by which its sender knew it.
    return any(84 + 50 * n == size for n in counts) or (head.path.suffix.lower() == ".stl" and b"\x00" in head.bytes)


READER = (
    Reader("stl", "STL", 80, _is_stl, _reads("stl"), endings=(".stl",)),
    Reader("ply", "PLY", 10, lambda head: head.word == b"ply", _reads("ply"), endings=(".ply",)),
    Reader(
        "off",
        "OFF",
        11,
        lambda head: head.word in (b"OFF", b"COFF", b"NOFF", b"CNOFF"),
        _reads("off"),
        endings=(".off",),
    ),
)
