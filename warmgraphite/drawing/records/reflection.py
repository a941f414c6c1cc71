"""What water and panes mirror."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.colour import palette_of
from warmgraphite.passes.occluders import cap_triangles
from warmgraphite.passes.reflection import Reflection, Solid, reflection
from warmgraphite.progress import Progress
from warmgraphite.view.sun import to_sun

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["MIRRORS"]


@dataclass(frozen=True)
class _Read:
    spec: Any
    lit: Any
    looks: Any


def _compute(drawing: Drawing, spec: Any, progress: Progress) -> Reflection:
    model, whole = drawing.model, drawing.whole
    corners, source = whole.scene.standing
    part = model.triangle_part[source]
    kept = ~model.parts.is_glass[part]
    cap, owner = cap_triangles(whole.scene, whole.settled)
    colour = palette_of(model.looks)[:, :3][model.parts.material]
    rays = whole.solid  # the same triangles in the same order
    solid = Solid(np.concatenate([corners[kept], cap]), colour[np.concatenate([part[kept], owner])], rays)
    sun, casting = drawing.view.sun, drawing.casters.rays
    ray = to_sun(sun)
    moved = np.asarray(rays.middle - casting.middle, np.float32)
    toward = np.asarray(ray, np.float32)
    dark = lambda at: casting.blocked(at + moved, np.ascontiguousarray(np.broadcast_to(toward, at.shape)))
    chosen = np.isin(model.parts.role, ["water"]) if spec.sort == "water" else model.parts.is_glazing
    return reflection(
        drawing.scene.projection, drawing.hiders, drawing.surface(), spec.sort, chosen, solid, ray, dark if sun.altitude > 0 else None,
        progress,
    )  # fmt: skip


MIRRORS = Pass(
    name="mirrors",
    of_where=True,
    stage="Mirroring",
    weight=0.3,
    slow=True,
    reads=lambda d, spec: _Read(spec, d.sight.lit, tuple(m.colour for m in d.model.looks)),
    compute=_compute,
    unpack=lambda a: Reflection(**a),
    needs=lambda _d, _: ("surface",),
    pixels=True,
)
