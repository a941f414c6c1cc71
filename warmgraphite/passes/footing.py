"""Where rays set out from what is seen, and how the surface is turned there.
What light, occlusion and tone stand on.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts
from warmgraphite.geometry.tolerances import NO_AREA
from warmgraphite.geometry.triangles import normals, unit_rows
from warmgraphite.memory import remembered
from warmgraphite.model.bodies import Bodies
from warmgraphite.model.welding import weld
from warmgraphite.passes.edges import GeometryKey, creases
from warmgraphite.passes.kernels import pixels
from warmgraphite.passes.kernels.bending import Fans, bent_rows
from warmgraphite.passes.kernels.pixels import fan
from warmgraphite.passes.occluders import Occluders
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene

__all__ = ["Footing", "corner_normals", "disc", "fanned", "turns"]

#: Faces about one vertex of which its normal is made at most.
MOST = 32
#: Metres by which rays set out above a surface, at the least.
LIFT = 2e-4


@remembered("normals at corners")
def _corner_normals(key: GeometryKey) -> NDArray[np.float32]:
    bodies: Bodies = key.bodies
    corners = bodies.mesh.vertices[bodies.mesh.triangles]
    area = normals(corners)
    unit = unit_rows(area, NO_AREA)
    welded = weld(bodies.mesh, bodies.anchor).ravel()
    order = np.argsort(welded, kind="stable")
    sizes = np.bincount(welded)
    starts = firsts(sizes)[:-1]
    limit = np.cos(np.radians(np.minimum(creases(bodies) * 1.5, 80.0)))[bodies.mesh.triangle_part].repeat(3)
    out = np.empty((len(welded), 3), np.float32)
    fans = Fans(welded, order, starts, sizes, MOST)
    in_stretches(lambda a, b: bent_rows(a, b, fans, area, unit, limit, out), len(welded), 1 << 16)
    return out.reshape(-1, 3, 3)


def corner_normals(bodies: Bodies) -> NDArray[np.float32]:
    """(T, 3, 3) normals at corners, averaged over neighbours that bend less than a crease: curves shade smoothly."""
    return _corner_normals(GeometryKey(bodies))


class Footing:
    """Where rays set out from the points of a drawing. Coordinates count from ``middle`` (3,), metres."""

    def __init__(self, scene: Scene, hiders: Occluders, middle: NDArray[np.float64]) -> None:
        self.scene, self.hiders, self.middle = scene, hiders, middle
        projection = scene.projection
        self._inverse = np.asarray(np.linalg.inv(projection.matrix), np.float64)
        self._eye = projection.eye if projection.eye is not None else np.zeros(3)
        self._corner = scene.bodies.mesh.vertices[scene.bodies.mesh.triangles]
        self._smooth = corner_normals(scene.bodies)
        #: Metres by which rays set out above the surface, so that it does not stop them itself.
        self.lift = scene.tolerances.near(3, LIFT)

    def at(
        self, points: NDArray[np.float64], triangle: NDArray[np.int32]
    ) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32], NDArray[np.bool_]]:
        """For frame points (N, 2) on triangles (N,).
        Start of rays, flat and curved normal (N, 3), and (N,) where there is one.

        The curved normal is not of length one: as it is, it runs evenly across a triangle.
        """
        start, flat, bent = (np.empty((len(points), 3), np.float32) for _ in range(3))
        hiders, projection = self.hiders, self.scene.projection
        seen = pixels.Sighted(
            hiders.frame,
            hiders.normal,
            hiders.source,
            self._inverse,
            self._eye,
            projection.sight,
            projection.is_perspective,
        )
        floor = pixels.Floor(self._corner, self._smooth, float(self.lift), self.middle)
        good = pixels.stand_on(points, triangle, seen, floor, pixels.Standing(start, flat, bent))
        return start, flat, bent, good


def disc(count: int) -> NDArray[np.float32]:
    """(N, 2) points spread evenly over the unit disc, on a sunflower's spiral."""
    k = np.arange(count) + 0.5
    radius, angle = np.sqrt(k / count), k * np.pi * (3 - np.sqrt(5))
    return np.column_stack([radius * np.cos(angle), radius * np.sin(angle)]).astype(np.float32)


#: Sixteenths of a turn for each pixel of a square of four by four: neighbours ask in ways far apart.
_TURNS = np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]], np.float32)


def turns(pixels: NDArray[np.int64], width: int) -> NDArray[np.float32]:
    """(N,) radians by which each pixel's rays are turned, in a pattern that repeats every four pixels."""
    return _TURNS[(pixels // width) % 4, (pixels % width) % 4] * np.float32(2 * np.pi / 16)


def fanned(
    start: NDArray[np.float32],
    axis: NDArray[np.float32],
    spread: NDArray[np.float32],
    turn: NDArray[np.float32],
    wide: float,
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Rays (N · S, 3), starts and unit ways, about axes (N, 3).
    Over the hemisphere, or with ``wide`` through a disc so wide.
    """
    count = len(start) * len(spread)
    rays_start, rays_way = np.empty((count, 3), np.float32), np.empty((count, 3), np.float32)
    # A disc that is kept for all may only be read, and a part of one does not lie in one piece.
    fan(
        start, np.require(axis, requirements=["C", "W"]), np.ascontiguousarray(spread), turn, wide, rays_start, rays_way
    )
    return rays_start, rays_way
