"""The passes of pixels: what each sees, its colour, its light, and how dark the corners are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Pass
from warmgraphite.drawing.inputs import Nothing
from warmgraphite.passes.colour import colour
from warmgraphite.passes.light import Light, light
from warmgraphite.passes.occlusion import occlusion
from warmgraphite.passes.pictures import normals
from warmgraphite.passes.store import Arrays
from warmgraphite.passes.surface import Surface, surface
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["COLOUR", "LIGHT", "LOOKS", "NORMALS", "OCCLUSION", "SURFACE"]


@dataclass(frozen=True)
class _Lit:
    lit: Any
    raster: Any


def _one(found: NDArray[np.uint8]) -> Arrays:
    return {"pixels": found}


SURFACE = Pass(
    name="surface",
    stage="Looking at every surface",
    weight=0.3,
    reads=lambda d, _: d.seen,
    compute=lambda d, _, progress: surface(d.scene, d.hiders, d.size, progress, d.window),
    unpack=lambda a: Surface(**a),
    needs=lambda _d, _: ("cut",),
    pixels=True,
)

COLOUR = Pass(
    name="colour",
    stage="Laying on colours",
    weight=0.1,
    reads=lambda d, _: d.sight.painted,
    compute=lambda d, _, progress: colour(d.scene, d.hiders, d.surface(), progress),
    pack=_one,
    unpack=lambda a: a["pixels"],
    needs=lambda _d, _: ("surface",),
    pixels=True,
)

LOOKS = Pass(
    name="looks",
    stage="Looking up materials",
    weight=0.01,
    reads=lambda d, _: tuple(m.colour for m in d.model.looks),
    compute=lambda d, _, _progress: tuple(m.colour for m in d.model.looks),
    unpack=lambda _: (),
    light=True,
)

NORMALS = Pass(
    name="normals",
    stage="Asking which way all faces",
    weight=0.1,
    reads=lambda _d, _: Nothing(),
    compute=lambda d, _, _progress: normals(d.scene, d.hiders, d.surface()),
    pack=_one,
    unpack=lambda a: a["pixels"],
    needs=lambda _d, _: ("surface",),
    pixels=True,
)

LIGHT = Pass(
    name="light",
    stage="Casting shadows",
    weight=0.3,
    reads=lambda d, _: _Lit(d.sight.lit, d.seen.raster),
    compute=lambda d, _, progress: light(d.scene, d.hiders, d.surface(), d.casters, d.view.sun, d.view.shade, progress),
    unpack=lambda a: Light(**a),
    needs=lambda _d, _: ("surface",),
    pixels=True,
)

CORNERS = Pass(
    name="corners",
    stage="Darkening corners",
    weight=0.8,
    slow=True,
    reads=lambda d, _: d.sight.corners,
    compute=lambda d, _, progress: occlusion(d.scene, d.hiders, d.surface(), d.solid, d.sight.corners.occlusion, progress),
    pack=_one,
    unpack=lambda a: a["pixels"],
    needs=lambda _d, _: ("surface",),
    pixels=True,
)


def _at_strength(drawing: Drawing, _where: Query | None, _progress: Progress) -> NDArray[np.uint8]:
    found, strength = drawing.result("corners"), drawing.view.occlusion.strength
    return found if strength == 1.0 else np.round(found * np.float32(strength)).astype(np.uint8)


OCCLUSION = Pass(
    name="occlusion",
    stage="Darkening corners",
    weight=0.01,
    reads=lambda d, _: d.view.occlusion.strength,
    compute=_at_strength,
    unpack=lambda a: a["pixels"],
    needs=lambda _d, _: ("corners",),
    light=True,
    pixels=True,
)
