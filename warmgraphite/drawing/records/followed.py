"""Pictures followed by lines, and by areas of a few colours; photographed sheets made clean."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import numpy as np

from warmgraphite.collage.pictures.following import Followed, contours_of, traced_of
from warmgraphite.collage.pictures.sheet import CleanSheet, cleaned
from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["CLEAN", "CONTOURS", "TRACED"]


def _pack(found: Followed | CleanSheet | None) -> Arrays:
    return {"none": np.ones(1)} if found is None else as_arrays(found)


def _of_picture(name: str, stage: str, follow: Callable[[Any, Any], Any], kind: type[Any] = Followed) -> Pass:
    def compute(drawing: Drawing, spec: Any, _progress: Progress) -> Any:
        pixels = drawing.pictures.pixels(spec.digest) if drawing.pictures else None
        return None if pixels is None else follow(pixels, spec)

    return Pass(
        name=name,
        of_where=True,
        stage=stage,
        weight=0.3,
        reads=lambda d, spec: (spec, d.pictures is not None and d.pictures.has(spec.digest)),
        compute=compute,
        pack=_pack,
        unpack=lambda a: None if "none" in a else kind(**a),
    )


CONTOURS = _of_picture("contours of a picture", "Following a picture's tones", contours_of)
TRACED = _of_picture("traced picture", "Tracing a picture", traced_of)
CLEAN = _of_picture("clean sheet", "Cleaning a sheet", cleaned, CleanSheet)
