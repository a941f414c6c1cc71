"""How dark the corners are, at full strength and as strong as the view has them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Corners
from warmgraphite.passes.occlusion import occlusion
from warmgraphite.progress import Progress

__all__ = ["CORNERS", "OCCLUSION"]


def _corners(read: Corners, given: Given, progress: Progress) -> NDArray[np.uint8]:
    return occlusion(given["scene"], given["hiders"], given["surface"], given["solid"], read.occlusion, progress)


CORNERS = Pass(
    name="corners",
    stage="Darkening corners",
    weight=0.8,
    slow=True,
    reads=lambda s, _: s.sight.corners,
    compute=_corners,
    pack=lambda found: {"pixels": found},
    unpack=lambda a: a["pixels"],
    needs=lambda s, _: ("surface", "scene", "hiders", *s.of_whole("solid")),
    pixels=True,
)


@dataclass(frozen=True)
class _Strong:
    strength: float


def _at_strength(read: _Strong, given: Given, _progress: Progress) -> NDArray[np.uint8]:
    found: NDArray[np.uint8] = given["corners"]
    return found if read.strength == 1.0 else np.round(found * np.float32(read.strength)).astype(np.uint8)


OCCLUSION = Pass(
    name="occlusion",
    stage="Darkening corners",
    weight=0.01,
    reads=lambda s, _: _Strong(s.view.occlusion.strength),
    compute=_at_strength,
    unpack=lambda a: a["pixels"],
    needs=lambda _s, _: ("corners",),
    light=True,
    pixels=True,
)
