"""The colour of materials as each pixel sees it, and by its number."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Looks
from warmgraphite.passes.colour import colour
from warmgraphite.progress import Progress

__all__ = ["COLOUR", "LOOKS"]


def _colour(read: Looks, given: Given, progress: Progress) -> NDArray[np.uint8]:
    return colour(given["scene"], given["hiders"], given["surface"], read.painted, progress)


COLOUR = Pass(
    name="colour",
    stage="Laying on colours",
    weight=0.1,
    reads=lambda s, _: s.sight.looks,
    compute=_colour,
    pack=lambda found: {"pixels": found},
    unpack=lambda a: a["pixels"],
    needs=lambda _s, _: ("surface", "scene", "hiders"),
    pixels=True,
)


@dataclass(frozen=True)
class _Colours:
    of: tuple[str, ...]


LOOKS = Pass(
    name="looks",
    stage="Looking up materials",
    weight=0.01,
    reads=lambda s, _: _Colours(tuple(m.colour for m in s.model.looks)),
    compute=lambda read, _given, _progress: read.of,
    unpack=lambda _: (),
    light=True,
)
