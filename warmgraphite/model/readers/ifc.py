"""IFC: the open format of building models (ISO 16739)."""

from __future__ import annotations

from pathlib import Path

from warmgraphite.model.ifc import read_ifc
from warmgraphite.model.reader import Reader, Told
from warmgraphite.progress import Stages


def _read(path: Path, watch: Stages) -> Told:
    model, left_out = read_ifc(path, watch)
    return Told(model, 1.0, "z", left_out)


READER = Reader(
    "ifc",
    "IFC",
    0,
    lambda head: head.text.startswith(b"ISO-10303-21"),
    _read,
    metres=True,
    certain=True,
    endings=(".ifc",),
)
