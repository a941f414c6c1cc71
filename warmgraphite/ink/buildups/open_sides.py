"""Which places of a drawing see the sky, told by rays from points about them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.model.bodies import Bodies
from warmgraphite.passes.casters import Rays
from warmgraphite.progress import Progress, silent
from warmgraphite.view.surfaces import CutSurface, Slab

__all__ = [
    "AT_ONCE",
    "BEFORE",
    "BEHIND",
    "BEHIND_INSIDE",
    "COARSE",
    "FINE",
    "INNER",
    "NEITHER",
    "NOISE",
    "OPEN",
    "OUTER",
    "PLAIN",
    "ROOM",
    "SHUT",
    "SKY",
    "SLANT",
    "TOUCH",
    "TURN",
    "WAYS",
    "Open",
    "Points",
    "SidePieces",
    "asked_sides",
    "lies_within",
    "lifted",
    "turned_about",
]

Points = NDArray[np.float64]
OUTER, INNER, NEITHER = 1, -1, 0
#: Metres between parts of an envelope that are one all the same, and within which bodies touch.
SHUT, TOUCH = 0.006, 0.001
#: Metres of the pieces that are asked, on sides shorter than a metre, and on others.
FINE, COARSE = 0.025, 0.25
#: Metres before a face from which one looks, and the share of the sky from which a place is in the open, or stands
#: there plainly.
BEFORE, OPEN, PLAIN = 0.004, 0.22, 0.6
#: Directions that are asked, and of the sky at one remove.
WAYS, SKY = 28, 5
#: Places that are asked at once: each is asked for all directions, which takes room.
AT_ONCE = 20_000
#: Metres: shorter stretches are what they lie between; what touches goes on behind a thing so long, outside and inside.
NOISE, BEHIND, BEHIND_INSIDE = 0.1, 1.5, 0.12
#: Metres within which the middle of a room is seen.
ROOM = 25.0
#: How many times as thick as it is a layer may look where a cut goes aslant; where it only grazes a face, nothing looks
#: right.
SLANT = 4.0
#: How far a side may turn from what was said by hand.
TURN = 0.35


@dataclass
class SidePieces:
    """Pieces of outlines, in order round each: ``ring`` (M,) numbers the outline, ``a``, ``b`` (M, 2) are the ends."""

    ring: NDArray[np.int64]
    a: Points
    b: Points

    @property
    def middle(self) -> Points:
        return (self.a + self.b) / 2

    @property
    def length(self) -> Points:
        return np.linalg.norm(self.b - self.a, axis=1)

    @property
    def normal(self) -> Points:
        """(M, 2) outward: the body lies at the left."""
        way = (self.b - self.a) / np.maximum(self.length, NO_LENGTH)[:, None]
        return np.stack([way[:, 1], -way[:, 0]], 1)


def lifted(surface: CutSurface, at: Points) -> Points:
    """(N, 3) metres of places in a surface's axes, each on the step that it lies on."""
    out = surface.slabs[0].frame.lifted(at)
    for slab in surface.slabs[1:]:
        there = slab.frame.lifted(at)
        rows = np.all([w.side(there) <= ROUNDING for w in slab.walls], axis=0) if slab.walls else np.ones(len(at), bool)
        out[rows] = there[rows]
    return out


def turned_about(slab: Slab, flat: Points) -> Points:
    """(N, 3) directions of a plane's directions."""
    return flat[:, :1] * slab.frame.u + flat[:, 1:] * slab.frame.v


def lies_within(shape: shapely.Geometry, at: Points) -> NDArray[np.bool_]:
    if shape.is_empty:
        return np.zeros(len(at), bool)
    near = shapely.buffer(shape, TOUCH, join_style="mitre")
    shapely.prepare(near)
    return np.asarray(shapely.contains_xy(near, at))


class Open:
    """How open places of bodies are: rays against all but planting and people.
    ``rooms`` are places within, in metres.
    """

    def __init__(self, bodies: Bodies, rooms: Sequence[tuple[float, float, float]]) -> None:
        rows = ~np.isin(bodies.role, ["planting", "people"])[bodies.mesh.triangle_part]
        self.corners = bodies.mesh.vertices[bodies.mesh.triangles[rows]]
        self.rays = Rays(self.corners)
        self.rooms = np.array(rooms).reshape(-1, 3) + np.array([0.0, 0.0, 1.2])

    @cached_property
    def _ways(self) -> Points:
        return _even(WAYS)

    def faces_out(self, at: Points, normal: Points, progress: Progress = silent) -> NDArray[np.int8]:
        """(N,) OUTER or INNER for places (N, 3) before faces of these ``normal`` (N, 3)."""
        out = np.full(len(at), OUTER, np.int8)
        for first in range(0, len(at), AT_ONCE) if self.rays.scene is not None else ():
            progress(first / len(at))
            rows = slice(first, first + AT_ONCE)
            out[rows] = self._faces_out(at[rows], normal[rows])
        return out

    def _faces_out(self, at: Points, normal: Points) -> NDArray[np.int8]:
        rays = self.rays
        assert rays.scene is not None
        start = (at - rays.middle).astype(np.float32)
        u, v = _across(normal)
        ways = self._ways
        way = (ways[:, 0, None, None] * u + ways[:, 1, None, None] * v + ways[:, 2, None, None] * normal).astype(
            np.float32
        )
        origin = np.tile(start, (len(ways), 1))
        way = np.ascontiguousarray(way.reshape(-1, 3))
        far = rays.scene.run(origin, way, query="DISTANCE")
        sky = (far > 1e6).astype(np.float64)
        hit = np.flatnonzero(sky == 0)
        # At one remove: what is seen there, a little before the face that the ray met.
        there = origin[hit] + way[hit] * np.maximum(far[hit] - 0.01, 0.0)[:, None]
        high = _even(SKY + 1)[:SKY].astype(np.float32)
        seen = np.zeros(len(hit))
        for one in high:
            seen += ~rays.blocked(there, np.tile(one / np.linalg.norm(one), (len(hit), 1)))
        sky[hit] = seen / SKY
        share = sky.reshape(len(ways), -1).mean(0)
        out = np.where(share > OPEN, OUTER, INNER).astype(np.int8)
        doubtful = np.flatnonzero((share > OPEN) & (share < PLAIN))
        if len(self.rooms) and len(doubtful):
            out[doubtful[self._sees_room(at[doubtful])]] = INNER
        return out

    def slants(self, at: Points, inward: Points, cut: Points) -> Points:
        """(N,) how many times as thick as it is a face looks in a plane.
        The plane has the normals ``cut`` (N, 3); what lies behind the face counts. Looked for from places (N, 3) before
        the face, ``inward`` (N, 3).
        """
        out = np.ones(len(at))
        if self.rays.scene is None or not len(at):
            return out
        start = (at - self.rays.middle).astype(np.float32)
        near = np.full(len(at), 3 * BEFORE, np.float32)
        hit = self.rays.scene.run(start, inward.astype(np.float32), near, query="INTERSECT")
        rows = np.flatnonzero(hit >= 0)
        corners = self.corners[hit[rows]]
        face = normals(corners)
        face /= np.maximum(np.linalg.norm(face, axis=1, keepdims=True), NO_LENGTH)
        lean = np.einsum("ij,ij->i", face, cut[rows])
        out[rows] = np.minimum(1 / np.sqrt(np.maximum(1 - lean**2, ROUNDING)), SLANT)
        return out

    def _sees_room(self, at: Points) -> NDArray[np.bool_]:
        found = np.zeros(len(at), bool)
        for room in self.rooms:
            way = room - at
            far = np.linalg.norm(way, axis=1)
            rows = np.flatnonzero((far < ROOM) & (far > 0) & ~found)
            start = (at[rows] - self.rays.middle).astype(np.float32)
            unit = (way[rows] / far[rows, None]).astype(np.float32)
            found[rows] = ~self.rays.blocked(start, unit, far[rows].astype(np.float32))
        return found


def _even(count: int) -> Points:
    """(count, 3) directions spread evenly over the upper half of a sphere (Fibonacci lattice), from the zenith down."""
    k = np.arange(count) + 0.5
    z, turn = 1 - k / count, k * np.pi * (3 - np.sqrt(5))
    level = np.sqrt(1 - z * z)
    return np.stack([level * np.cos(turn), level * np.sin(turn), z], 1)


def _across(normal: Points) -> tuple[Points, Points]:
    """Two axes (N, 3) at right angles to normals and to each other."""
    aside = np.where(np.abs(normal[:, 2:]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]])
    u = np.cross(aside, normal)
    u /= np.maximum(np.linalg.norm(u, axis=1, keepdims=True), NO_LENGTH)
    return u, np.cross(normal, u)


def asked_sides(
    pieces: SidePieces,
    rows: NDArray[np.int64],
    surface: CutSurface,
    earth: shapely.Geometry,
    solid: shapely.Geometry,
    open_air: Open,
    progress: Progress = silent,
) -> NDArray[np.int8]:
    """The sides of the pieces in ``rows``."""
    middle, normal = pieces.middle[rows], pieces.normal[rows]
    beside = middle + TOUCH / 2 * normal
    out = np.full(len(rows), NEITHER, np.int8)
    in_earth, in_solid = lies_within(earth, beside), lies_within(solid, beside)
    out[in_earth & ~in_solid] = OUTER
    free = np.flatnonzero(~in_earth & ~in_solid)
    at = lifted(surface, middle[free] + BEFORE * normal[free])
    out[free] = open_air.faces_out(at, turned_about(surface.slabs[0], normal[free]), progress)
    return out
