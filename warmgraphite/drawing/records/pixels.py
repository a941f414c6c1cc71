"""The passes of pixels: what each sees, its colour, its light, and how dark the corners are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Corners, Lit, Looks, Nothing, Raster
from warmgraphite.passes.colour import colour
from warmgraphite.passes.light import Light, light
from warmgraphite.passes.occlusion import occlusion
from warmgraphite.passes.pictures import normals
from warmgraphite.passes.store import Arrays
from warmgraphite.passes.surface import Surface, surface
from warmgraphite.progress import Progress

__all__ = ["COLOUR", "CORNERS", "LIGHT", "LOOKS", "NORMALS", "OCCLUSION", "SURFACE"]

Pixels = NDArray[np.uint8]
_SEEN = ("surface", "scene", "hiders")


def _one(found: Pixels) -> Arrays:
    return {"pixels": found}


def _surface(read: Raster, given: Given, progress: Progress) -> Surface:
    return surface(given["scene"], given["hiders"], read.size, progress, read.window)


SURFACE = Pass(
    name="surface",
    stage="Looking at every surface",
    weight=0.3,
    reads=lambda s, _: s.raster,
    compute=_surface,
    unpack=lambda a: Surface(**a),
    needs=lambda _s, _: ("scene", "hiders"),
    pixels=True,
)


def _colour(read: Looks, given: Given, progress: Progress) -> Pixels:
    return colour(given["scene"], given["hiders"], given["surface"], read.painted, progress)


COLOUR = Pass(
    name="colour",
    stage="Laying on colours",
    weight=0.1,
    reads=lambda s, _: s.sight.looks,
    compute=_colour,
    pack=_one,
    unpack=lambda a: a["pixels"],
    needs=lambda _s, _: _SEEN,
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


def _normals(_read: Nothing, given: Given, _progress: Progress) -> Pixels:
    return normals(given["scene"], given["hiders"], given["surface"])


NORMALS = Pass(
    name="normals",
    stage="Asking which way all faces",
    weight=0.1,
    reads=lambda _s, _: Nothing(),
    compute=_normals,
    pack=_one,
    unpack=lambda a: a["pixels"],
    needs=lambda _s, _: _SEEN,
    pixels=True,
)


def _light(read: Lit, given: Given, progress: Progress) -> Light:
    return light(given["scene"], given["hiders"], given["surface"], given["casters"], read.day, progress)


LIGHT = Pass(
    name="light",
    stage="Casting shadows",
    weight=0.3,
    reads=lambda s, _: s.sight.lit,
    compute=_light,
    unpack=lambda a: Light(**a),
    needs=lambda s, _: (*_SEEN, *s.of_whole("casters")),
    pixels=True,
)


def _corners(read: Corners, given: Given, progress: Progress) -> Pixels:
    return occlusion(given["scene"], given["hiders"], given["surface"], given["solid"], read.occlusion, progress)


CORNERS = Pass(
    name="corners",
    stage="Darkening corners",
    weight=0.8,
    slow=True,
    reads=lambda s, _: s.sight.corners,
    compute=_corners,
    pack=_one,
    unpack=lambda a: a["pixels"],
    needs=lambda s, _: (*_SEEN, *s.of_whole("solid")),
    pixels=True,
)


@dataclass(frozen=True)
class _Strong:
    strength: float


def _at_strength(read: _Strong, given: Given, _progress: Progress) -> Pixels:
    found: Pixels = given["corners"]
    return found if read.strength == 1.0 else np.round(found * np.float32(read.strength)).astype(np.uint8)


OCCLUSION: Pass[Any, Any] = Pass(
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
