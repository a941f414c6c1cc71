"""Which way each surface faces, as colour."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Nothing
from warmgraphite.passes.pictures import normals
from warmgraphite.progress import Progress

__all__ = ["NORMALS"]


def _normals(_read: Nothing, given: Given, _progress: Progress) -> NDArray[np.uint8]:
    return normals(given["scene"], given["hiders"], given["surface"])


NORMALS = Pass(
    name="normals",
    stage="Asking which way all faces",
    weight=0.1,
    reads=lambda _s, _: Nothing(),
    compute=_normals,
    pack=lambda found: {"pixels": found},
    unpack=lambda a: a["pixels"],
    needs=lambda _s, _: ("surface", "scene", "hiders"),
    pixels=True,
)
