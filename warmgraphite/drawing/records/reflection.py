"""What water and panes mirror."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Lit, Looks, held
from warmgraphite.drawing.specification import WHOLE
from warmgraphite.needs import Need
from warmgraphite.passes.colour import palette_of
from warmgraphite.passes.reflection import Reflection, Solid, reflection
from warmgraphite.progress import Progress
from warmgraphite.view.sun import to_sun

__all__ = ["MIRRORS"]


@dataclass(frozen=True)
class _Read:
    spec: Any
    lit: Lit
    colours: tuple[str, ...]
    looks: Looks = held()


_OF_WHOLE = tuple(Need(name, None, WHOLE) for name in ("remainder", "caps", "casters", "solid"))


def _compute(read: _Read, given: Given, progress: Progress) -> Reflection:
    remainder, caps, casters, rays = (given[n] for n in _OF_WHOLE)
    bodies, scene = remainder.bodies, given["scene"]
    part = bodies.mesh.triangle_part[remainder.source]
    kept = ~bodies.is_glass[part]
    colour = palette_of(read.looks.painted.looks)[:, :3][bodies.material]
    # The rays run against the same triangles in the same order.
    solid = Solid(
        np.concatenate([remainder.corners[kept], caps.corners]), colour[np.concatenate([part[kept], caps.part])], rays
    )
    sun, casting = read.lit.day.under.sun, casters.rays
    ray = to_sun(sun)
    moved = np.asarray(rays.middle - casting.middle, np.float32)
    toward = np.asarray(ray, np.float32)
    dark = lambda at: casting.blocked(at + moved, np.ascontiguousarray(np.broadcast_to(toward, at.shape)))
    own = scene.bodies
    chosen = np.isin(own.role, ["water"]) if read.spec.sort == "water" else own.is_glazing
    return reflection(
        scene.projection, given["hiders"], given["surface"], read.spec.sort, chosen, solid, ray,
        dark if sun.altitude > 0 else None, progress
    )  # fmt: skip


MIRRORS = Pass(
    name="mirrors",
    of_where=True,
    stage="Mirroring",
    weight=0.3,
    slow=True,
    reads=lambda s, spec: _Read(spec, s.sight.lit, tuple(m.colour for m in s.model.looks), s.sight.looks),
    compute=_compute,
    unpack=lambda a: Reflection(**a),
    needs=lambda _s, _: ("surface", "scene", "hiders", *_OF_WHOLE),
    pixels=True,
)
