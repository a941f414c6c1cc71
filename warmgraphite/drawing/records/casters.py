"""What stands in the sun, and rays against all that one cannot see through."""

from __future__ import annotations

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Casting, Nothing
from warmgraphite.passes.casters import Casters, Rays, casters_of
from warmgraphite.progress import Progress

__all__ = ["CASTERS", "SOLID"]


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
