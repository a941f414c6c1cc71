"""Pictures of the stock: as they are, and as examples made ready to be painted endlessly."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from warmgraphite.collage.pictures.example import Example, made_of, rebuilt
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

PICTURE = Pass(
    name="whole picture",
    of_where=True,
    stage="Opening a picture",
    weight=0.02,
    reads=lambda d, spec: (spec, _kept(d, spec)),  # type: ignore[arg-type]
    compute=lambda d, spec, _progress: d.pictures.pixels(spec.digest) if d.pictures else None,  # type: ignore[union-attr]
    unpack=lambda a: a,  # it lies in the stock
    light=True,
)

LINES = Pass(
    name="lines of a picture",
    of_where=True,
    stage="Opening a drawing",
    weight=0.02,
    reads=lambda d, spec: (spec, _kept(d, spec)),  # type: ignore[arg-type]
    compute=lambda d, spec, _progress: d.pictures.lines(spec.digest) if d.pictures else None,  # type: ignore[union-attr]
    unpack=lambda a: a,  # they lie in the stock
    light=True,
)
