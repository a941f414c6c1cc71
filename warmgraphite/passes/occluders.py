"""All that can hide: the scene's triangles and the caps of its cuts, laid into a grid over the frame.

The frame is divided into cells, each with the triangles that touch it, nearest first. Lines, pixels and regions all ask
this one grid what is seen, so that every pass agrees with every other.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.triangles import normals
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.kernels import grid as loops
from warmgraphite.passes.kernels.pixel_records import Planes
from warmgraphite.passes.kernels.records import Grid, Hiders
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene
from warmgraphite.view.surfaces import clip_triangles

__all__ = ["TOUCH", "Occluders", "laid_out", "occluders"]

#: Millimetres of paper within which an edge and the border of a face count as touching.
TOUCH = 1e-6
#: Cells of the grid for each triangle, and the most cells along the longer side of the frame.
CELLS_PER_TRIANGLE = 1.0
MOST_CELLS = 1400
#: Triangles by which the grid goes at least: round a small house there may stand a wood.
LEAST_TRIANGLES = 40_000

_STRETCH = 1 << 15


@dataclass(frozen=True)
class Occluders:
    """Triangles (T) in front of the viewer.

    ``corners`` (T, 3, 3) metres; ``frame`` (T, 3, 3) frame coordinates; ``source`` (T,) model triangle, −1 for caps;
    ``part`` (T,); ``pane`` (T,) whether one sees through it; ``near`` (T,) nearest depth, infinite where it is seen
    edge-on, and ``far`` (T,) the farthest; ``normal`` (T, 3); ``forms`` (T, 13) sides and depth as linear forms;
    ``grid`` the cells over the frame.
    """

    corners: NDArray[np.float64]
    frame: NDArray[np.float64]
    source: NDArray[np.int32]
    part: NDArray[np.int32]
    pane: NDArray[np.bool_]
    near: NDArray[np.float64]
    far: NDArray[np.float64]
    normal: NDArray[np.float64]
    forms: NDArray[np.float64]
    grid: Grid

    @property
    def planes(self) -> Planes:
        """They as planes."""
        return Planes(self.forms, self.normal, self.part)

    @property
    def columns(self) -> Hiders:
        """What loops read of them."""
        return Hiders(self.forms, self.source, self.pane, self.near, self.far)


def _cells(laid: loops.Prepared, width: float, height: float, own: int) -> Grid:
    """The grid over a frame of ``width`` × ``height`` millimetres, with a cell to spare all round.
    It goes by the ``own`` triangles of the model: where lines are split depends on it in the last digits, and a figure
    that comes or goes must not change those of a house.
    """
    cells = int(np.clip(np.sqrt(max(own, LEAST_TRIANGLES) * CELLS_PER_TRIANGLE), 16, MOST_CELLS))
    size = max(width, height) / cells
    nx, ny = int(np.ceil(width / size)) + 2, int(np.ceil(height / size)) + 2
    many = len(laid.near)
    stretch = max(many // 4 + 1, 1 << 14)
    grid = Grid(np.zeros(nx * ny + 1, np.int64), np.empty(0, np.int32), -size, -size, size, nx, ny)

    def lay(places: NDArray[np.int64]) -> None:
        in_stretches(lambda a, b: loops.lay_in_cells(laid, grid, 2 * TOUCH, a, b, places[a // stretch]), many, stretch)

    counts = np.zeros((max(-(-many // stretch), 1), nx * ny), np.int64)
    lay(counts)
    np.cumsum(counts.sum(0), out=grid.start[1:])
    grid = grid._replace(triangle=np.empty(grid.start[-1], np.int32))
    # Each stretch of triangles writes behind the one before it in every cell: the result does not depend on who is
    # first.
    lay(grid.start[:-1] + np.cumsum(counts, axis=0) - counts)
    in_stretches(lambda a, b: loops.sort_cells(grid, laid.near, a, b), nx * ny, max(nx * ny // 16, 1024))
    return grid


def occluders(scene: Scene, cap: NDArray[np.float64], cap_part: NDArray[np.int32]) -> Occluders:
    """The triangles that hide lines and catch sight rays, in their grid.
    ``cap`` (C, 3, 3), in metres, are those that close the scene's cuts, and ``cap_part`` (C,) the part of each.
    """
    if scene.near is not None:
        cap, cap_part = clip_triangles(cap, cap_part, scene.near)
    corners = np.concatenate([scene.corners, cap]) if len(cap) else scene.corners
    source = np.concatenate([scene.source, np.full(len(cap), -1, np.int32)])
    part = np.concatenate([scene.part, cap_part])
    pane = scene.bodies.is_glass[part] & (source >= 0)
    if pane.any():
        # A solid pane has two faces but is one pane: only its front counts.
        rows = np.flatnonzero(pane & ~topology_of(scene.bodies).open_parts[part])
        glass = corners[rows]
        normal = normals(glass)
        toward = scene.projection.sight if scene.projection.eye is None else glass.mean(1) - scene.projection.eye
        keep = np.ones(len(part), bool)
        keep[rows[(normal * toward).sum(1) >= 0]] = False
        corners, source, part, pane = corners[keep], source[keep], part[keep], pane[keep]

    return laid_out(corners, source, part, pane, scene.projection, int((scene.bodies.figure[part] < 0).sum()))


def laid_out(
    corners: NDArray[np.float64],
    source: NDArray[np.int32],
    part: NDArray[np.int32],
    pane: NDArray[np.bool_],
    projection: Projection,
    own: int,
) -> Occluders:
    """Triangles (T, 3, 3) in metres, in their grid.
    They are seen in the frame of any ``projection``, in their grid, of which ``own`` belong to no figure.
    """
    count = len(corners)
    laid = loops.Prepared(
        np.empty((count, 3, 3)), np.empty(count), np.empty(count), np.empty((count, 3)), np.zeros((count, 13))
    )  # fmt: skip
    in_stretches(
        lambda a, b: loops.prepare_triangles(corners, projection.matrix, projection.is_perspective, TOUCH, a, b, laid),
        count,
        _STRETCH,
    )
    grid = _cells(laid, projection.width, projection.height, own)
    return Occluders(corners, laid.frame, source, part, pane, laid.near, laid.far, laid.normal, laid.forms, grid)
