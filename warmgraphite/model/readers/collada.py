"""COLLADA (ISO/PAS 17506). Each file says its unit and which way is up."""

from __future__ import annotations

from pathlib import Path

from warmgraphite.model.reader import Reader, Told
from warmgraphite.model.xml_files import metres_per_unit, read_collada, up_axis
from warmgraphite.progress import Stages


def _read(path: Path, watch: Stages) -> Told:
    return Told(read_collada(path, watch), metres_per_unit(path), "z" if up_axis(path) == "z" else "y")


READER = Reader(
    "dae", "COLLADA", 20, lambda head: head.text[:1] == b"<" and b"<COLLADA" in head.bytes, _read, endings=(".dae",)
)
