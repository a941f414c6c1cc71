"""Pictures of the stock: as they are, and as examples made ready to be painted endlessly."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import numpy as np

from warmgraphite.collage.pictures.example import Example, made_of, rebuilt
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.pictures.specification import ExampleSpec, PictureSpec
from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["EXAMPLE", "LINES", "PICTURE"]


def _kept(drawing: Drawing, spec: ExampleSpec | PictureSpec) -> bool:
    return drawing.pictures is not None and drawing.pictures.has(spec.digest)


def _compute(drawing: Drawing, spec: Any, _progress: Progress) -> Example | None:
    pixels = drawing.pictures.pixels(spec.digest) if drawing.pictures else None
    return None if pixels is None else made_of(pixels, spec)


def _pack(found: Example | None) -> Arrays:
    if found is None:
        return {"none": np.ones(1)}
    return {n: np.asarray(v) for n, v in as_arrays(found).items()}


EXAMPLE = Pass(
    name="example",
    of_where=True,
    stage="Making a picture endless",
    weight=0.3,
    # A picture that is not in the stock leaves the place empty, until it is.
    reads=lambda d, spec: (spec, _kept(d, spec)),  # type: ignore[arg-type]
    compute=_compute,
    pack=_pack,
    unpack=lambda a: None if "none" in a else rebuilt(a),
)


def _of_stock(name: str, stage: str, get: Callable[[KeptPictures, str], Any]) -> Pass:
    """What lies in the stock as it is asked for: it is kept there, and nowhere else."""
    return Pass(
        name=name,
        of_where=True,
        stage=stage,
        weight=0.02,
        reads=lambda d, spec: (spec, _kept(d, spec)),  # type: ignore[arg-type]
        compute=lambda d, spec, _progress: get(d.pictures, spec.digest) if d.pictures else None,  # type: ignore[union-attr]
        unpack=lambda a: a,
        light=True,
    )


PICTURE = _of_stock("whole picture", "Opening a picture", lambda kept, digest: kept.pixels(digest))
LINES = _of_stock("lines of a picture", "Opening a drawing", lambda kept, digest: kept.lines(digest))
