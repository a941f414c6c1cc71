"""Cutting surfaces: a plane, or several side by side where the section steps.
And what they leave of triangles and edges.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.view.specification import Cut, trace_of

__all__ = ["CutSurface", "Plane", "PlaneFrame", "Slab", "axes_in", "clip_segments", "clip_triangles", "surfaces_of"]

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Plane:
    """A half-space to remove: points p with ``normal · p > offset``."""

    normal: FloatArray
    offset: float

    def side(self, points: FloatArray) -> FloatArray:
        """Signed metres beyond the plane, positive where removed."""
        return points @ self.normal - self.offset

    @property
    def turned(self) -> Plane:
        """The other half-space."""
        return Plane(-self.normal, -self.offset)


@dataclass(frozen=True)
class PlaneFrame:
    """Coordinates in a plane: ``origin`` and two unit axes in metres; u × v is its normal."""

    origin: FloatArray
    u: FloatArray
    v: FloatArray

    def flat(self, points: FloatArray) -> FloatArray:
        """(..., 3) metres to (..., 2) metres in the plane."""
        moved = points - self.origin
        return np.stack([moved @ self.u, moved @ self.v], -1)

    def lifted(self, points: FloatArray) -> FloatArray:
        """(..., 2) in the plane to (..., 3) metres."""
        return self.origin + points[..., :1] * self.u + points[..., 1:2] * self.v


def clip_triangles(
    corners: FloatArray, source: NDArray[np.int32], plane: Plane
) -> tuple[FloatArray, NDArray[np.int32]]:
    """Triangles (T, 3, 3) less what lies beyond the plane.
    Neighbours stay joined: shared edges are cut at one point.
    """
    if not len(corners):
        return corners, source
    side = plane.side(corners)
    beyond = side > 0
    count = beyond.sum(1)
    whole = count == 0
    out_corners, out_source = [corners[whole]], [source[whole]]
    for removed in (1, 2):
        rows = np.flatnonzero(count == removed)
        if not len(rows):
            continue
        # Turn each triangle so that its odd corner comes first.
        odd = np.argmax(beyond[rows] if removed == 1 else ~beyond[rows], axis=1)
        turn = (odd[:, None] + np.arange(3)) % 3
        tri = np.take_along_axis(corners[rows], turn[:, :, None], 1)
        dist = np.take_along_axis(side[rows], turn, 1)
        crossing = []
        for i in (1, 2):
            # Always from the kept end to the removed end, so that both neighbours compute the same point.
            kept, gone = (i, 0) if removed == 1 else (0, i)
            t = dist[:, kept] / (dist[:, kept] - dist[:, gone])
            crossing.append(tri[:, kept] + t[:, None] * (tri[:, gone] - tri[:, kept]))
        if removed == 2:
            out_corners.append(np.stack([tri[:, 0], crossing[0], crossing[1]], 1))
            out_source.append(source[rows])
        else:
            out_corners.append(np.stack([crossing[0], tri[:, 1], tri[:, 2]], 1))
            out_corners.append(np.stack([crossing[0], tri[:, 2], crossing[1]], 1))
            out_source += [source[rows], source[rows]]
    return np.concatenate(out_corners), np.concatenate(out_source)


def clip_segments(start: FloatArray, end: FloatArray, plane: Plane) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """Segments (N, 3) shortened to what lies on the kept side, and (N,) whether anything is left."""
    a, b = plane.side(start), plane.side(end)
    left = ~((a > 0) & (b > 0))
    start, end = start.copy(), end.copy()
    cross = (a > 0) != (b > 0)
    t = np.where(cross, a / np.where(cross, a - b, 1.0), 0.0)[:, None]
    point = start + t * (end - start)
    start[cross & (a > 0)] = point[cross & (a > 0)]
    end[cross & (b > 0)] = point[cross & (b > 0)]
    return start, end, left


@dataclass(frozen=True)
class Slab:
    """One step of a cutting surface.
    Its plane, the plane's frame, and the planes that keep it to its stretch of the trace.
    """

    plane: Plane
    frame: PlaneFrame
    walls: tuple[Plane, ...] = ()


@dataclass(frozen=True)
class CutSurface:
    """What a cut of a view takes away: ``slabs`` side by side, each with the part of space beyond it.

    ``role`` is cut or limit, or return for the short plane between two steps, which takes nothing more away. All slabs
    have one pair of axes: a point of any is drawn at the same u and v, so that a stepped section is one drawing.
    ``cut`` is the number of the view's cut that it belongs to.
    """

    cut: int
    role: str
    slabs: tuple[Slab, ...]

    @property
    def cuts(self) -> bool:
        """Whether it gives poche and cut lines."""
        return self.role != "limit"

    @cached_property
    def normal(self) -> FloatArray:
        return self.slabs[0].plane.normal

    def side(self, points: FloatArray) -> FloatArray:
        """Signed metres beyond the surface, positive where removed."""
        if len(self.slabs) == 1:
            return self.slabs[0].plane.side(points)
        found = np.full(points.shape[:-1], -np.inf)
        for slab in self.slabs:
            inside = np.all([wall.side(points) <= 0 for wall in slab.walls], axis=0)
            found = np.where(inside, slab.plane.side(points), found)
        return found

    def clip(
        self, corners: FloatArray, source: NDArray[np.int32], beyond: bool = False, reach: float = 0.0
    ) -> tuple[FloatArray, NDArray[np.int32]]:
        """Triangles (T, 3, 3) less what it takes away, or, with ``beyond``, just that and ``reach`` metres more."""
        found = []
        for slab in self.slabs:
            part, rows = corners, source
            for wall in slab.walls:
                part, rows = clip_triangles(part, rows, wall)
            plane = slab.plane
            found.append(clip_triangles(part, rows, Plane(-plane.normal, reach - plane.offset) if beyond else plane))
        if len(found) == 1:
            return found[0]
        return np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found])

    def clip_segments(self, start: FloatArray, end: FloatArray) -> tuple[FloatArray, FloatArray, NDArray[np.int64]]:
        """Segments (N, 3) less what it takes away: ends of what is left, and the segment that each is of."""
        found = []
        for slab in self.slabs:
            a, b, row = start, end, np.arange(len(start))
            for plane in (*slab.walls, slab.plane):
                a, b, left = clip_segments(a, b, plane)
                a, b, row = a[left], b[left], row[left]
            # At a step a segment is cut in two; what is left of it may be a point.
            some = (a != b).any(1) if slab.walls else np.ones(len(a), bool)
            found.append((a[some], b[some], row[some]))
        if len(found) == 1:
            return found[0]
        a, b, row = (np.concatenate(column) for column in zip(*found, strict=True))
        return a, b, row


def axes_in(normal: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Two unit axes in the plane of a unit normal, the first one level where the plane is not level itself."""
    u = trace_of(normal)
    return u, np.cross(normal, u)


def surfaces_of(cut: Cut, number: int, anchor: FloatArray) -> list[CutSurface]:
    """The surface of a view's cut and, where it steps, its returns.
    Coordinates in it count from near ``anchor`` (3,), metres.
    """
    normal = np.array(cut.normal, float)
    normal /= np.linalg.norm(normal)
    u, v = axes_in(normal)
    offset = float(normal @ np.array(cut.point, float))
    foot = anchor - (anchor @ normal - offset) * normal
    start = float(np.array(cut.point, float) @ u)

    def plane(depth: float) -> Plane:
        return Plane(normal, offset + depth)

    jogs = sorted(cut.jogs, key=lambda jog: jog.at)
    depths = [0.0, *(jog.by for jog in jogs)]
    places = [start + jog.at for jog in jogs]
    slabs = []
    for k, depth in enumerate(depths):
        walls = []
        if k > 0:
            walls.append(Plane(-u, -places[k - 1]))
        if k < len(places):
            walls.append(Plane(u, places[k]))
        slabs.append(Slab(plane(depth), PlaneFrame(foot + depth * normal, u, v), tuple(walls)))
    found = [CutSurface(number, cut.role, tuple(slabs))]
    if cut.role == "cut":
        for k, place in enumerate(places):
            near, far = sorted((depths[k], depths[k + 1]))
            if far - near < ROUNDING:
                continue
            # On the side where the section stands back, the return looks that way: there everything is gone.
            way = -u if depths[k] < depths[k + 1] else u
            sign = float(way @ u)
            a, b = axes_in(way)
            origin = anchor - (anchor @ u - place) * u
            bounds = (plane(near).turned, plane(far))
            found.append(
                CutSurface(number, "return", (Slab(Plane(way, sign * place), PlaneFrame(origin, a, b), bounds),))
            )
    return found
