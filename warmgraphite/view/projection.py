"""From model metres to frame millimetres: one 4×4 matrix that every pass of a view shares.

Frame: x to the right and y down from the top left corner of the paper, in millimetres; z grows away from the viewer.
In a parallel frame z is metres along the direction of sight. In a perspective frame it is 1 − 1/d for a point d
metres before the eye, so that straight edges stay straight and flat faces stay flat in all three coordinates
(Foley, van Dam et al., *Computer Graphics*, ch. 6: the perspective map as a collineation).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import NothingShown
from warmgraphite.geometry.frames import looking
from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.view.scales import USUAL
from warmgraphite.view.specification import Frame, Oblique, Perspective, ProjectionSpec

__all__ = ["LEVEL_SIGHT", "Projection", "fit_scale", "projection_of"]

#: Metres before the eye where a perspective begins: nearer than anything an illustrator stands to.
NEAR = 0.02
#: Sine of the fall of a sight line below which it counts as level.
LEVEL_SIGHT = 1e-6


@dataclass(frozen=True)
class Projection:
    """The frame of a view. ``matrix`` takes homogeneous metres to frame millimetres (divide by the fourth)."""

    matrix: NDArray[np.float64]
    width: float
    height: float
    eye: NDArray[np.float64] | None
    sight: NDArray[np.float64]
    scale: float | None

    @property
    def is_perspective(self) -> bool:
        return self.eye is not None

    def project(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(..., 3) metres to (..., 3) frame x, y in mm and z. Points must lie before the eye."""
        rows = self.matrix
        moved = np.stack([_along(points, row) for row in rows[:3]], axis=-1)
        if self.is_perspective:
            moved /= _along(points, rows[3])[..., None]
        return moved

    def distance(self, z: NDArray[np.float64]) -> NDArray[np.float64]:
        """Metres along the direction of sight (from the eye, in perspective) for frame depths ``z``."""
        return 1.0 / np.maximum(1.0 - z, NO_LENGTH) if self.is_perspective else z

    def depth_slack(self, z: NDArray[np.float64], metres: float) -> NDArray[np.float64]:
        """How much frame z changes over ``metres`` of distance at depth ``z``."""
        if not self.is_perspective:
            return np.full_like(z, metres)
        return metres * np.maximum(1.0 - z, NO_LENGTH) ** 2

    def unproject(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(..., 3) frame x, y, z back to model metres."""
        inverse = np.linalg.inv(self.matrix)
        moved = np.stack([_along(points, row) for row in inverse[:3]], axis=-1)
        return moved / _along(points, inverse[3])[..., None]

    def over_horizon(self, x: NDArray[Any], y: NDArray[Any]) -> NDArray[Any]:
        """Millimetres by which frame points lie above the line of the horizon; ``x`` and ``y`` broadcast.

        What one sees beyond all else is sky from zero up. Infinite where there is no such line; minus infinite where
        one looks down everywhere.
        """
        if self.eye is None:
            start, across, down = -np.inf if self.sight[2] < -LEVEL_SIGHT else np.inf, 0.0, 0.0
        else:
            # How steeply a sight line rises is linear on the paper, as the picture of a plane through the eye.
            corners = self.unproject(np.array([[0.0, 0.0, 0.5], [1.0, 0.0, 0.5], [0.0, 1.0, 0.5]]))[:, 2] - self.eye[2]
            slope = corners[1:] - corners[0]
            size = float(np.hypot(*slope))
            if size < NO_LENGTH:
                start, across, down = (np.inf if corners[0] > 0 else -np.inf), 0.0, 0.0
            else:
                start, across, down = float(corners[0]) / size, float(slope[0]) / size, float(slope[1]) / size
        return start + x * x.dtype.type(across) + y * y.dtype.type(down)

    def rays(self, xy: NDArray[np.float64], z_start: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Origins (N, 3) in metres and unit directions (N, 3) of the sight lines through frame points (N, 2) mm.

        Parallel rays start at depth ``z_start``; perspective rays start at the eye.
        """
        if self.eye is not None:
            through = self.unproject(np.column_stack([xy, np.full(len(xy), 0.5)]))
            directions = through - self.eye
            directions /= np.linalg.norm(directions, axis=1, keepdims=True)
            return np.broadcast_to(self.eye, directions.shape), directions
        origins = self.unproject(np.column_stack([xy, np.full(len(xy), z_start)]))
        return origins, np.broadcast_to(self.sight, origins.shape)


def fit_scale(width: float, height: float, frame_width: float, frame_height: float) -> float:
    """The largest trade scale 1:n at which ``width`` × ``height`` metres fit the frame with a twentieth to spare."""
    for n in USUAL:
        if width * 1000 / n <= frame_width * 0.95 and height * 1000 / n <= frame_height * 0.95:
            return float(n)
    return float(USUAL[-1])


def _along(points: NDArray[np.float64], row: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points (..., 3) by a row (4,) of a matrix.
    Each goes by itself: a product of matrices rounds a point differently by how many others there are, and then a
    figure would move the lines of a house.
    """
    return points[..., 0] * row[0] + points[..., 1] * row[1] + points[..., 2] * row[2] + row[3]  # type: ignore[no-any-return]


def projection_of(spec: ProjectionSpec, frame: Frame, shown: NDArray[np.float64]) -> Projection:
    """The frame of a view.
    ``shown`` (N, 3) are the points, in metres, that an absent scale and centre fit to. Raises :class:`NothingShown`
    where there is none.
    """
    mm_w, mm_h = frame.width, frame.height
    mid_x, mid_y = mm_w / 2 + frame.shift[0], mm_h / 2 + frame.shift[1]
    up = np.array(spec.up, float)
    if isinstance(spec, Perspective):
        eye = np.array(spec.eye, float)
        sight = np.array(spec.target, float) - eye
        lift = 0.0
        if spec.upright:
            level = np.array([sight[0], sight[1], 0.0])
            axes = looking(level, np.array([0.0, 0.0, 1.0]))
            lift = sight[2] / np.linalg.norm(level)
        else:
            axes = looking(sight, up)
        scale = frame.scale if spec.scale_distance else None
        if spec.scale_distance and scale:
            focal = 1000.0 / scale * spec.scale_distance
        else:
            focal = mm_w / 2 / np.tan(np.radians(spec.field_of_view) / 2)
        right, above, forward = axes
        rows = np.zeros((4, 4))
        rows[0, :3] = focal * right + mid_x * forward
        rows[1, :3] = -focal * above + (mid_y + focal * lift) * forward
        rows[2, :3] = forward
        rows[3, :3] = forward
        rows[:, 3] = -rows[:, :3] @ eye
        rows[2, 3] -= 1.0
        return Projection(rows, mm_w, mm_h, eye, forward, scale)

    right, above, forward = looking(np.array(spec.direction, float), up)
    if isinstance(spec, Oblique):
        angle = np.radians(spec.receding_angle)
        slide = spec.receding_ratio * np.array([np.cos(angle), np.sin(angle)])
        sight = forward - slide[0] * right - slide[1] * above
        sight /= np.linalg.norm(sight)
        right, above = right + slide[0] * forward, above + slide[1] * forward
    else:
        sight = forward
        if spec.mirrored:
            right = -right
    if not len(shown):
        raise NothingShown
    along, over = shown @ right, shown @ above
    if spec.centre is None:
        middle = np.array([(along.min() + along.max()) / 2, (over.min() + over.max()) / 2])
    else:
        middle = np.array([np.dot(right, spec.centre), np.dot(above, spec.centre)])
    scale = frame.scale or fit_scale(np.ptp(along), np.ptp(over), mm_w, mm_h)
    k = 1000.0 / scale
    rows = np.eye(4)
    rows[0, :3], rows[0, 3] = k * right, mid_x - k * middle[0]
    rows[1, :3], rows[1, 3] = -k * above, mid_y + k * middle[1]
    rows[2, :3] = forward
    return Projection(rows, mm_w, mm_h, None, sight, scale)
