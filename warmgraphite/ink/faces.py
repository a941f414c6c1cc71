"""Faces as patterns lie on them: planes with a level line, and round bodies laid flat.

A face is a patch of triangles that no edge divides. Its plane's level line runs to the viewer's right; heights count
from the model's own zero, so that courses go round corners, and lengths from the face's end.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.frames import about
from warmgraphite.geometry.tolerances import HAIR, ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.memory import remembered
from warmgraphite.model.bodies import Bodies
from warmgraphite.passes.edges import GeometryKey, topology_of
from warmgraphite.view.projection import Projection

__all__ = ["Face", "Faces", "PlaneFace", "RoundFace", "faces_of", "to_the_right"]

Points = NDArray[np.float64]

#: Metres, and share of its size, that a face may bulge and still be a plane.
FLAT, FLAT_SHARE = 0.002, 1e-4
#: Share of the radius by which a face may leave a cylinder or a cone, and sine by which its normals may.
ROUND, EVEN = 0.03, 0.05
#: Sine of the slope from which heights count from the model's zero, and below which a face is level.
STEEP, LEVEL = 0.2, 0.02


@dataclass(frozen=True)
class PlaneFace:
    """A plane: ``right``, ``up`` and ``normal`` (3,) are at right angles.
    ``origin`` is where lengths and heights are zero.
    """

    right: Points
    up: Points
    normal: Points
    origin: Points

    def matrix(self, projection: Projection) -> Points:
        """(3, 3) from (metres to the right, metres up, 1) to homogeneous frame millimetres."""
        m = projection.matrix[[0, 1, 3]]
        lies = np.column_stack([self.right, self.up, self.origin])
        found = m[:, :3] @ lies
        found[:, 2] += m[:, 3]
        return np.asarray(found)


@dataclass(frozen=True)
class RoundFace:
    """A cylinder or a cone; ``axis`` (3,) points up, ``foot`` lies on it, ``out`` and ``side`` across it.
    At v metres along the axis the radius is ``radius`` + ``slope`` · v. Laid flat, its level runs round, told at the
    ``usual`` radius, or along the axis where it is ``lying``, as a vault does; it reaches from ``low`` to ``high``
    metres (2,).
    """

    axis: Points
    foot: Points
    out: Points
    side: Points
    radius: float
    slope: float
    usual: float
    low: Points
    high: Points
    lying: bool

    def points(self, flat: Points) -> tuple[Points, Points]:
        """Places (N, 2) of the surface laid flat: in space (N, 3), and which way it faces there (N, 3)."""
        round_, rise = flat[:, ::-1].T if self.lying else flat.T
        turn = round_ / self.usual
        way = np.cos(turn)[:, None] * self.out + np.sin(turn)[:, None] * self.side
        at = self.foot + rise[:, None] * self.axis + (self.radius + self.slope * rise)[:, None] * way
        return at, way - self.slope * self.axis

    def begun(self, behind: Points) -> RoundFace:
        """The surface, which goes all round, begun on the side that a direction (3,) points to."""
        turn = np.arctan2(behind @ self.side, behind @ self.out)
        out, side = (
            np.cos(turn) * self.out + np.sin(turn) * self.side,
            np.cos(turn) * self.side - np.sin(turn) * self.out,
        )
        return replace(self, out=out, side=side)

    @property
    def is_whole(self) -> bool:
        """Whether it goes all round."""
        return float(self.high[1 if self.lying else 0]) > 6.28 * self.usual

    def nearest(self, point: Points) -> Points:
        """(1, 2) the place of the surface laid flat that is nearest to a point (3,)."""
        away = point - self.foot
        turn = np.arctan2(away @ self.side, away @ self.out) % (2 * np.pi)
        found = np.array([[turn * self.usual, away @ self.axis]])
        return found[:, ::-1] if self.lying else found


Face = PlaneFace | RoundFace | None


class Faces:
    """The faces of bodies, each found when it is asked for, and kept for as long as they are."""

    def __init__(self, bodies: Bodies) -> None:
        self.bodies = bodies
        self._kept: dict[tuple[int, str, bool], Face] = {}

    @cached_property
    def area(self) -> Points:
        """Square metres of each face."""
        face = topology_of(self.bodies).face
        corners = self.bodies.mesh.vertices[self.bodies.mesh.triangles]
        one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
        return np.asarray(np.bincount(face, np.linalg.norm(np.cross(one, two), axis=1) / 2), float)

    @cached_property
    def _rows(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The triangles by face, and where each face begins among them."""
        face = topology_of(self.bodies).face
        order = np.argsort(face, kind="stable")
        return order, np.searchsorted(face[order], np.arange(int(face.max(initial=-1)) + 2))

    def triangles(self, face: int) -> Points:
        """(T, 3, 3) the triangles of a face in metres."""
        order, first = self._rows
        return self.bodies.mesh.vertices[self.bodies.mesh.triangles[order[first[face] : first[face + 1]]]]

    def seen(self, face: int, point: Points, projection: Projection, turned: str = "") -> Face:
        """A face that is seen at a ``point`` (3,) as what patterns lie on, ``turned`` as they say.
        ``None`` for one that is neither flat nor round.
        """
        if (face, turned, False) not in self._kept:
            self._kept[face, turned, False] = self._found(self.triangles(face), turned, False)
        kept = self._kept[face, turned, False]
        if not isinstance(kept, PlaneFace):
            return kept
        away = point - projection.eye if projection.eye is not None else projection.sight
        behind = bool(kept.normal @ away > 0)
        if turned == "viewer" and abs(kept.normal[2]) > 1 - LEVEL:
            return _plane(-kept.normal if behind else kept.normal, self.triangles(face), to_the_right(projection))
        if behind and (face, turned, True) not in self._kept:
            self._kept[face, turned, True] = self._found(self.triangles(face), turned, True)
        return self._kept[face, turned, behind]

    def _found(self, corners: Points, turned: str, behind: bool) -> Face:
        across = normals(corners)
        area = np.linalg.norm(across, axis=1)
        if not area.any():
            return None
        unit = across[area > 0] / area[area > 0, None]
        normal = across[np.argmax(area)] / area.max()
        size = float(np.ptp(corners.reshape(-1, 3), axis=0).max())
        bulge = np.abs((corners.reshape(-1, 3) - corners[np.argmax(area), 0]) @ normal).max()
        if bulge < FLAT + FLAT_SHARE * size:
            normal = -normal if behind else normal
            return _plane(normal, corners, _longest_way(corners, normal) if turned == "along" else None)
        found = _round(corners, unit, area[area > 0])
        if turned == "along" and found is not None and not found.lying and found.high[1] - found.low[1] > found.high[0]:
            return replace(found, low=found.low[::-1], high=found.high[::-1], lying=True)
        return found


def to_the_right(projection: Projection) -> Points:
    """(3,) the level direction that runs to the right on the paper."""
    ends = projection.unproject(np.array([[0.0, 0.0, 0.5], [1.0, 0.0, 0.5]]))
    run = (ends[1] - ends[0]) * [1, 1, 0]
    size = np.linalg.norm(run)
    return run / size if size > 0 else np.array([1.0, 0.0, 0.0])


@remembered("faces")
def _faces(key: GeometryKey) -> Faces:
    return Faces(key.bodies)


def faces_of(bodies: Bodies) -> Faces:
    """The faces of bodies, found once for each state of their triangles."""
    return _faces(GeometryKey(bodies))


def _plane(normal: Points, corners: Points, right: Points | None) -> PlaneFace:
    if right is None:
        level = float(np.hypot(normal[0], normal[1])) < LEVEL
        right = _longest_way(corners, normal) if level else np.array([-normal[1], normal[0], 0.0])
    right = right - (right @ normal) * normal
    right = right / np.linalg.norm(right)
    up = np.cross(normal, right)
    points = corners.reshape(-1, 3)
    first = points[0]
    along, over = (points - first) @ right, (points - first) @ up
    # Heights count from the model's zero where the face is steep, else from the face's edge; lengths always from its
    # end.
    start = -first[2] / up[2] if up[2] > STEEP else float(over.min())
    return PlaneFace(right, up, normal, first + float(along.min()) * right + start * up)


def _longest_way(corners: Points, normal: Points) -> Points:
    """(3,) the direction in which the edges of a flat face run for the longest, told by the face and not by north."""
    sides = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [2, 0]]])
    key = np.round(np.sort(sides.reshape(-1, 2, 3) @ np.array([1.0, 1.37, 1.93]), axis=1), 6)
    _, first, count = np.unique(key, axis=0, return_index=True, return_counts=True)
    step = sides[first[count == 1], 1] - sides[first[count == 1], 0]
    across, over = about(normal)
    if not len(step):
        return np.asarray(across)
    x, y = step @ across, step @ over
    length, turn = np.hypot(x, y), np.arctan2(y, x)
    # Directions, and those at right angles to them, are one: four times the angle.
    four = np.angle((length * np.exp(4j * turn)).sum()) / 4
    ways = four + np.arange(2) * np.pi / 2
    share = [(length * np.abs(np.cos(turn - w))).sum() for w in ways]
    way = ways[int(np.argmax(share))]
    found = np.cos(way) * across + np.sin(way) * over
    # To the right, or up, whichever way the face was made.
    return found if found @ np.array([1.0, 0.618, 0.382]) > 0 else -found


def _round(corners: Points, normals: Points, area: Points) -> RoundFace | None:
    """The cylinder or cone that a face lies on."""
    weights = area / area.sum()
    middle = weights @ normals
    for centre in (np.zeros(3), middle):
        values, ways = np.linalg.eigh((normals - centre).T @ ((normals - centre) * weights[:, None]))
        axis = ways[:, 0]
        lean = normals @ axis
        if values[1] < HAIR or values[0] > EVEN**2:
            continue
        found = _about(corners, axis * (1.0 if axis[2] >= 0 else -1.0), cone=float(np.abs(lean).mean()) > EVEN)
        if found is not None:
            return found
    return None


def _about(corners: Points, axis: Points, cone: bool) -> RoundFace | None:
    points = np.unique(corners.reshape(-1, 3), axis=0)
    out, side = about(axis)
    x, y, v = points @ out, points @ side, points @ axis
    if len(points) < 5:
        return None
    # The circle by linear least squares (Kåsa 1976); of a cone also how the radius changes along the axis.
    columns = [x, y, np.ones(len(x))] + ([v, v * v] if cone else [])
    answer = np.linalg.lstsq(np.column_stack(columns), x * x + y * y, rcond=None)[0]
    cx, cy = answer[0] / 2, answer[1] / 2
    reach = np.hypot(x - cx, y - cy)
    slope, radius = np.polyfit(v, reach, 1) if cone and np.ptp(v) > ROUNDING else (0.0, float(reach.mean()))
    if np.abs(reach - radius - slope * v).max() > ROUND * max(float(reach.max()), ROUNDING):
        return None
    turn = np.arctan2(y - cy, x - cx)
    # Round from where the face has its widest gap; a body that goes all round from the back, where no seam is seen.
    ordered = np.sort(turn)
    gaps = np.diff(np.append(ordered, ordered[0] + 2 * np.pi))
    widest = int(np.argmax(gaps))
    start = ordered[(widest + 1) % len(ordered)]
    span = 2 * np.pi - gaps[widest] if gaps[widest] > 0.6 else 2 * np.pi
    out, side = np.cos(start) * out + np.sin(start) * side, -np.sin(start) * out + np.cos(start) * side
    first, second = about(axis)
    foot = cx * first + cy * second
    usual, lying = float(reach.mean()), bool(abs(axis[2]) < 0.5)
    low, high = np.array([0.0, v.min()]), np.array([span * usual, v.max()])
    low, high = (low[::-1], high[::-1]) if lying else (low, high)
    return RoundFace(axis, foot, out, side, float(radius), float(slope), usual, low, high, lying)
