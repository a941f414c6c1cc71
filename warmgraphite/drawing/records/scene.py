"""What passes are computed with: the bodies as planes leave them, and in their frame; what hides, what casts, and what the sun sees."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Casting, Direction, Framed, Nothing, Shown, held
from warmgraphite.drawing.specification import PINNED, WHOLE, DrawingSpec
from warmgraphite.errors import ViewError
from warmgraphite.needs import Need
from warmgraphite.passes.casters import Casters, Rays, casters_of
from warmgraphite.passes.occluders import Occluders, occluders
from warmgraphite.passes.packing import digest
from warmgraphite.passes.shadow import SunFrame, sun_frame
from warmgraphite.progress import Progress
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Remainder, Scene, remainder_of, scene_of

__all__ = ["CASTERS", "HIDERS", "REMAINDER", "SCENE", "SOLID", "SUNLIGHT"]

_THERE, _LOOKED_AT = Need("remainder", None, WHOLE), Need("scene", None, WHOLE)
_FRAME = Need("paper", None, PINNED)


@dataclass(frozen=True)
class _Chosen:
    """The parts (P,) of a drawing that are seen alone."""

    shown: Shown
    parts: NDArray[np.bool_] = held()


def _remainder(read: Shown | _Chosen, given: Given, _progress: Progress) -> Remainder:
    if isinstance(read, _Chosen):
        found: Remainder = given[_THERE]
        return found.only(read.parts)
    if read.problem:
        raise ViewError(read.problem)
    return remainder_of(read.bodies, read.cuts, read.shown, read.uncut)


REMAINDER = Pass(
    name="remainder",
    stage="Taking away what planes cut off",
    weight=0.02,
    reads=lambda s, _: _Chosen(s.sight.shown, s.chosen) if s.whole else s.sight.shown,
    compute=_remainder,
    needs=lambda s, _: (_THERE,) if s.whole else (),
    tool=True,
)


@dataclass(frozen=True)
class _Framed:
    framed: Framed
    #: The frame of something else that it has.
    pinned: str
    projection: Projection | None = held()


def _framed(spec: DrawingSpec, _where: Any) -> _Framed | _Chosen:
    if spec.whole:
        return _Chosen(spec.sight.shown, spec.chosen)
    pinned = spec.pinned
    if isinstance(pinned, Projection):
        return _Framed(spec.sight.framed, digest(pinned.matrix, np.array([pinned.width, pinned.height])), pinned)
    return _Framed(spec.sight.framed, "a drawing's" if pinned else "", None)


def _scene_needs(spec: DrawingSpec, _where: Any) -> Iterable[str | Need]:
    if spec.whole:
        return (_LOOKED_AT,)
    return ("remainder", _FRAME) if isinstance(spec.pinned, DrawingSpec) else ("remainder",)


def _scene(read: _Framed | _Chosen, given: Given, _progress: Progress) -> Scene:
    if isinstance(read, _Chosen):
        found: Scene = given[_LOOKED_AT]
        return found.only(read.parts)
    projection = given[_FRAME].projection if read.pinned == "a drawing's" else read.projection
    return scene_of(given["remainder"], read.framed.projection, read.framed.frame, projection)


SCENE = Pass(
    name="scene",
    stage="Setting up the view",
    weight=0.02,
    reads=_framed,
    compute=_scene,
    needs=_scene_needs,
    tool=True,
)


def _hiders(_read: Nothing, given: Given, _progress: Progress) -> Occluders:
    return occluders(given["scene"], given["settled"])


HIDERS = Pass(
    name="hiders",
    stage="Laying out what hides",
    weight=0.03,
    reads=lambda _s, _: Nothing(),
    compute=_hiders,
    needs=lambda _s, _: ("scene", "settled"),
    tool=True,
)


def _casters(read: Casting, given: Given, _progress: Progress) -> Casters:
    caps = given["caps"]
    # All that is opaque is what one cannot see through, too.
    rays = given["solid"] if read.plain else None
    return casters_of(given["remainder"], (caps.corners, caps.part), read.under, read.there, rays)


CASTERS = Pass(
    name="casters",
    stage="Laying out what casts",
    weight=0.02,
    reads=lambda s, _: s.sight.casting,
    compute=_casters,
    needs=lambda s, _: ("remainder", "caps", *(("solid",) if s.sight.casting.plain else ())),
    tool=True,
)


def _solid(_read: Nothing, given: Given, _progress: Progress) -> Rays:
    remainder, caps = given["remainder"], given["caps"]
    bodies = remainder.bodies
    opaque = ~bodies.is_glass[bodies.mesh.triangle_part[remainder.source]]
    return Rays(np.concatenate([remainder.corners[opaque], caps.corners]))


SOLID = Pass(
    name="solid",
    stage="Laying out what one cannot see through",
    weight=0.02,
    reads=lambda _s, _: Nothing(),
    compute=_solid,
    needs=lambda _s, _: ("remainder", "caps"),
    tool=True,
)


def _sunlight(read: Direction, given: Given, _progress: Progress) -> SunFrame:
    return sun_frame(given["casters"], read.sun)


SUNLIGHT = Pass(
    name="sunlight",
    stage="Looking from the sun",
    weight=0.03,
    reads=lambda s, _: s.sight.direction,
    compute=_sunlight,
    needs=lambda _s, _: ("casters",),
    tool=True,
)
