"""Where marks lie: planes of the model, and how a mark goes along with its face when a new version has moved it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.frames import level_axes
from warmgraphite.geometry.tolerances import FINEST, NO_LENGTH
from warmgraphite.geometry.triangles import holds, normals
from warmgraphite.ink.faces import PlaneFace
from warmgraphite.ink.marks.specification import Mark, OnCut, OnFace, OnLevel
from warmgraphite.model.bodies import Bodies
from warmgraphite.model.mesh import Mesh
from warmgraphite.view.surfaces import Plane, PlaneFrame

__all__ = ["Lain", "lain", "plane_axes"]

#: Square metres by which a place may lie beside a triangle and still be on it: a place is found by division.
BESIDE = 1e-6

#: Sine of the slope up to which a plane is level, and has no level axis of its own.
LEVEL = 1e-6

Points = NDArray[np.float64]

#: Cosine of how far a face may have turned and still be the one that a mark lay on, and how steep a face is a wall.
TURNED, WALL = 0.94, 0.3


@dataclass(frozen=True)
class Lain:
    """A mark on its plane: ``frame`` are the plane's axes in metres, the first one level.
    ``flat`` (N, 2) its points there; ``part`` the part whose face it is, −1 of none.
    """

    frame: PlaneFrame
    normal: Points
    flat: Points
    part: int = -1

    @property
    def plane(self) -> Plane:
        return Plane(self.normal, float(self.normal @ self.frame.origin))

    @property
    def face(self) -> PlaneFace:
        """As patterns lie on it."""
        return PlaneFace(self.frame.u, self.frame.v, self.normal, self.frame.origin)


def plane_axes(normal: Points) -> tuple[Points, Points]:
    """A level axis and one across it, in the plane of a unit normal; of a level plane east and north."""
    return level_axes(normal, LEVEL)


def lain(mark: Mark, bodies: Bodies, part_of: Callable[[str], int | None]) -> Lain | None:
    """A mark on its plane.
    ``None`` where the part that it lies on is not there, of which ``part_of`` tells the number by its path. Not for
    marks on the paper.
    """
    points = np.array(mark.points, float)
    part = -1
    if isinstance(mark.plane, OnFace):
        number = part_of(mark.plane.part)
        if number is None:
            return None
        part = number
        found = _on_face(bodies.mesh, part, points, np.array(mark.plane.normal, float))
        if found is None:
            return None
        points, normal = found
    elif isinstance(mark.plane, OnCut):
        normal = np.array(mark.plane.normal, float)
    else:
        assert isinstance(mark.plane, OnLevel)
        normal = np.array([0.0, 0.0, 1.0])
    normal = normal / np.linalg.norm(normal)
    u, v = plane_axes(normal)
    frame = PlaneFrame(points[0] + mark.lift * normal, u, v)
    return Lain(frame, normal, frame.flat(points + mark.lift * normal), part)


def _on_face(mesh: Mesh, part: int, points: Points, normal: Points) -> tuple[Points, Points] | None:
    """Points (N, 3) on the face of a part that they lay on, and its normal.
    Where it was moved or turned they are moved along, up and down on roofs and floors, straight out of walls, so that
    they stay in their place in plan or along the wall.
    """
    normal = normal / np.linalg.norm(normal)
    corners = mesh.vertices[mesh.triangles[mesh.triangle_part == part]]
    faces = normals(corners)
    size = np.linalg.norm(faces, axis=1)
    rows = size > NO_LENGTH
    corners, faces = corners[rows], faces[rows] / size[rows, None]
    lean = faces @ normal
    # Inside-out and single faces: what lies on one side of them lies on the other, too.
    if not (lean > TURNED).any():
        faces, lean = -faces, -lean
    rows = lean > TURNED
    if not rows.any():
        return None
    corners, faces, lean = corners[rows], faces[rows], lean[rows]
    axis = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) > WALL else normal
    middle = points.mean(0)
    away = ((corners[:, 0] - middle) * faces).sum(1) / (faces @ axis)
    at = middle + away[:, None] * axis
    inside = holds(corners, at, faces, BESIDE)
    near = np.abs(away) + np.where(inside, 0.0, 1e6) + np.where(lean > 0.9999, 0.0, FINEST)
    best = int(np.argmin(near))
    face = faces[best]
    move = ((corners[best, 0] - points) @ face) / (face @ axis)
    return points + move[:, None] * axis, face
