"""Pictures followed by lines, and by areas of a few colours; photographed sheets made clean."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from warmgraphite.collage.pictures.following import Followed, contours_of, traced_of
from warmgraphite.collage.pictures.sheet import CleanSheet, cleaned
from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.records.examples import Stocked, stocked
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress

__all__ = ["CLEAN", "CONTOURS", "TRACED"]


def _pack(found: Followed | CleanSheet | None) -> Arrays:
    return {"none": np.ones(1)} if found is None else as_arrays(found)


def _of_picture(
    name: str, stage: str, follow: Callable[[Any, Any], Any], kind: type[Any] = Followed
) -> Pass[Stocked, Any]:
    def compute(read: Stocked, _given: Given, _progress: Progress) -> Any:
        pixels = read.pixels
        return None if pixels is None else follow(pixels, read.spec)

    return Pass(
        name=name,
        of_where=True,
        stage=stage,
        weight=0.3,
        reads=stocked,
        compute=compute,
        pack=_pack,
        unpack=lambda a: None if "none" in a else kind(**a),
    )


CONTOURS = _of_picture("contours of a picture", "Following a picture's tones", contours_of)
TRACED = _of_picture("traced picture", "Tracing a picture", traced_of)
CLEAN = _of_picture("clean sheet", "Cleaning a sheet", cleaned, CleanSheet)
