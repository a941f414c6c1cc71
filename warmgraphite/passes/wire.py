"""Every edge of the mesh that bends at all, as wire: what is before and what shines through."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.passes.drawn_edges import Edges, cut_by_surfaces, inside_frame, stretches_of
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.lines import split
from warmgraphite.passes.occluders import Occluders
from warmgraphite.progress import Progress, silent
from warmgraphite.view.scene import Scene

__all__ = ["Wire", "wire"]

#: Degrees of bend below which an edge only divides a flat face.
FLAT = 0.5


@dataclass(frozen=True)
class Wire:
    """Segments (N): ``from_mm``, ``to_mm`` (N, 2) frame millimetres, ``visible`` (N,), and the ``part`` of each."""

    from_mm: NDArray[np.float64]
    to_mm: NDArray[np.float64]
    visible: NDArray[np.bool_]
    part: NDArray[np.int32]


def wire(scene: Scene, hiders: Occluders, progress: Progress = silent) -> Wire:
    """The wire of a scene, within its frame."""
    bodies, topology = scene.bodies, topology_of(scene.bodies)
    rows = np.flatnonzero(scene.part_shown[topology.part] & ((topology.fold > FLAT) | (topology.count != 2)))
    ends, half = topology.ends[rows], topology.half[rows]
    beside = np.where(half < 0, -1, half // 3).astype(np.int32)
    none = np.zeros(len(rows), bool)
    edges = Edges(
        bodies.mesh.vertices[ends[:, 0]],
        bodies.mesh.vertices[ends[:, 1]],
        none.astype(np.uint8),
        topology.part[rows],
        beside,
        none,
    )
    if scene.surfaces:
        edges = cut_by_surfaces(scene, edges)
    edges = inside_frame(scene, edges)
    a, b = scene.projection.project(edges.start), scene.projection.project(edges.end)
    edge, low, high, hidden, _ = split(scene.projection, scene.tolerances, a, b, edges.beside, hiders, progress)
    a, b = stretches_of(a, b, edge, low, high)
    return Wire(np.ascontiguousarray(a[:, :2]), np.ascontiguousarray(b[:, :2]), ~hidden, edges.part[edge])
