"""Flat drawings as PDF (ISO 32000) and SVG: lines at the scale that is written on them, lying on the ground."""

from __future__ import annotations

from pathlib import Path

from warmgraphite.model.flat import read_flat
from warmgraphite.model.reader import Reader, Told
from warmgraphite.progress import Stages


def _read(path: Path, watch: Stages) -> Told:
    model, left_out, because = read_flat(path, watch)
    return Told(model, 1.0, "z", left_out, because)


READER = (
    Reader("pdf", "PDF drawings", 40, lambda head: head.text[:5] == b"%PDF-", _read),
    Reader("svg", "SVG drawings", 41, lambda head: head.text[:1] == b"<" and b"<svg" in head.bytes.lower(), _read),
)
