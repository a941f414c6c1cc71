"""Pictures of the stock: as they are, and as examples made ready to be painted endlessly."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from warmgraphite.collage.pictures.example import Example, made_of, rebuilt
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress

__all__ = ["EXAMPLE", "LINES", "PICTURE"]


@dataclass(frozen=True)
class Stocked:
    """A picture of the stock, and whether it is there: one that is not leaves the place empty, until it is."""

    spec: Any
    there: bool
    pictures: KeptPictures | None = held()

    @property
    def pixels(self) -> Any:
        """The picture; ``None`` where it is not there."""
        return self.pictures.pixels(self.spec.digest) if self.pictures else None


def stocked(drawn: DrawingSpec, spec: Any) -> Stocked:
    """A picture of the stock of what is drawn."""
    kept = drawn.pictures
    return Stocked(spec, kept is not None and kept.has(spec.digest), kept)


def _compute(read: Stocked, _given: Given, _progress: Progress) -> Example | None:
    pixels = read.pixels
    return None if pixels is None else made_of(pixels, read.spec)


def _pack(found: Example | None) -> Arrays:
    if found is None:
        return {"none": np.ones(1)}
    return {n: np.asarray(v) for n, v in as_arrays(found).items()}


EXAMPLE = Pass(
    name="example",
    of_where=True,
    stage="Making a picture endless",
    weight=0.3,
    reads=stocked,
    compute=_compute,
    pack=_pack,
    unpack=lambda a: None if "none" in a else rebuilt(a),
)


def _of_stock(name: str, stage: str, get: Callable[[KeptPictures, str], Any]) -> Pass[Stocked, Any]:
    """What lies in the stock as it is asked for: it is kept there, and nowhere else."""
    return Pass(
        name=name,
        of_where=True,
        stage=stage,
        weight=0.02,
        reads=stocked,
        compute=lambda read, _given, _progress: get(read.pictures, read.spec.digest) if read.pictures else None,
        unpack=lambda a: a,
        light=True,
    )


PICTURE = _of_stock("whole picture", "Opening a picture", lambda kept, digest: kept.pixels(digest))
LINES = _of_stock("lines of a picture", "Opening a drawing", lambda kept, digest: kept.lines(digest))
