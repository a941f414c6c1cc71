"""What stands in the sun's way, and rays through it.

The half of the model that a plane has taken away does not cast, unless the sun is told that it does. What lies behind
the viewer does: nobody sees it, but its shadow.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from warmgraphite.model.parts import Parts
from warmgraphite.view.scene import Remainder
from warmgraphite.view.sun import Exempt, Sun

__all__ = ["Casters", "Rays", "Sunlit", "casters_of", "exempt_parts", "sunlit"]


@dataclass(frozen=True)
class Casters:
    """Triangles (T) that the sun may fall on.

    ``corners`` (T, 3, 3) metres; ``source`` (T,) model triangle, −1 for caps; ``part`` (T,); ``casts`` (T,) which keep
    the light off all that is behind them, and ``pane`` (T,) which keep off a share of it, as glass does. ``there`` (P,)
    are the parts of which there is anything to cast.
    """

    corners: NDArray[np.float64]
    source: NDArray[np.int32]
    part: NDArray[np.int32]
    casts: NDArray[np.bool_]
    pane: NDArray[np.bool_]
    there: NDArray[np.bool_]
    known: Rays | None = None

    @cached_property
    def rays(self) -> Rays:
        """Rays against what casts."""
        return self.known or Rays(self.corners[self.casts])

    @cached_property
    def pane_rays(self) -> Rays:
        """Rays against panes, about the same middle."""
        return Rays(self.corners[self.pane], self.rays.middle)


@dataclass(frozen=True)
class Sunlit:
    """The ``sun``, and which parts (P,) ``cast`` a shadow under it and ``receive`` one.
    As far as they are there at all.
    """

    sun: Sun
    cast: NDArray[np.bool_]
    receive: NDArray[np.bool_]


def exempt_parts(parts: Parts, exempt: Exempt) -> NDArray[np.bool_]:
    """(P,) the parts that an exemption means."""
    return parts.selected(exempt.parts) | np.isin(parts.role, np.array(exempt.roles, dtype=np.str_))


def sunlit(parts: Parts, sun: Sun) -> Sunlit:
    """What a sun is told of parts."""
    return Sunlit(
        sun,
        ~exempt_parts(parts, sun.not_casting) & parts.casts,
        ~exempt_parts(parts, sun.not_receiving) & parts.receives,
    )


def casters_of(
    remainder: Remainder,
    caps: tuple[NDArray[np.float64], NDArray[np.int32]],
    under: Sunlit,
    there: NDArray[np.bool_],
    rays: Rays | None = None,
) -> Casters:
    """What the sun meets.
    That is, of what cuts leave, or of all that is ``there`` (P,) where the sun is told that what they take away casts,
    too. ``caps`` are the triangles (C, 3, 3) that close the bodies that are cut, and the part of each; ``rays`` run
    against what casts, where that is there already.
    """
    bodies, mesh = remainder.bodies, remainder.bodies.mesh
    if under.sun.cast_off:
        source = np.flatnonzero(there[mesh.triangle_part]).astype(np.int32)
        corners, part = mesh.vertices[mesh.triangles[source]], mesh.triangle_part[source]
    else:
        corners, source = remainder.corners, remainder.source
        cap, owner = caps
        corners = np.concatenate([corners, cap]) if len(cap) else corners
        part = np.concatenate([mesh.triangle_part[source], owner])
        source = np.concatenate([source, np.full(len(cap), -1, np.int32)])
    casting = under.cast[part]
    clear = bodies.is_glass[part] & (source >= 0)
    glass = clear & bodies.is_glazing[part]
    return Casters(corners, source, part, casting & ~clear, casting & glass, there, rays)


#: Bytes that the library of rays holds for a triangle: measured with 400,000.
BYTES_OF_TRIANGLE = 130


class Rays:
    """Triangles made ready for rays, in large batches.
    Rays are in single precision, hence coordinates about ``middle``.
    """

    def __init__(self, corners: NDArray[np.float64], middle: NDArray[np.float64] | None = None) -> None:
        given = corners.reshape(-1, 3).mean(0) if len(corners) else np.zeros(3)
        self.middle = given if middle is None else middle
        self.scene = EmbreeScene() if len(corners) else None
        self.triangles = len(corners)
        if self.scene is not None:
            TriangleMesh(self.scene, np.ascontiguousarray(corners - self.middle, dtype=np.float32))

    def weighed(self) -> tuple[int, list[Any]]:
        """What it weighs in memory, which the library holds."""
        return self.triangles * BYTES_OF_TRIANGLE, []

    def blocked(
        self, start: NDArray[np.float32], way: NDArray[np.float32], reach: NDArray[np.float32] | None = None
    ) -> NDArray[np.bool_]:
        """(N,) whether anything lies along unit ways (N, 3) from points (N, 3).
        These are about the middle, within ``reach`` (N,) metres.
        """
        if self.scene is None or not len(start):
            return np.zeros(len(start), bool)
        if reach is None:
            return self.scene.run(start, way, query="OCCLUDED") >= 0
        return self.scene.run(start, way, reach, query="OCCLUDED") >= 0

    def first(
        self, start: NDArray[np.float32], way: NDArray[np.float32]
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """The triangle (N,) that rays meet first, −1 for none, and how far (N,) away."""
        if self.scene is None or not len(start):
            return np.full(len(start), -1, np.int32), np.full(len(start), np.inf, np.float32)
        found = self.scene.run(np.ascontiguousarray(start), np.ascontiguousarray(way), output=1)
        return found["primID"].astype(np.int32), found["tfar"]
