"""Feature edges of bodies: their welded topology, and where their faces run through each other.

Both depend on the bodies alone, not on any view, and are remembered for each state of them.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.components import components
from warmgraphite.geometry.triangles import areas
from warmgraphite.memory import remembered
from warmgraphite.model.bodies import Bodies
from warmgraphite.model.welding import weld
from warmgraphite.passes.kernels import crossings as crossing_loops
from warmgraphite.passes.kernels import edges as edge_loops
from warmgraphite.progress import Progress, silent
from warmgraphite.threads import in_stretches

__all__ = [
    "CREASE_ANGLE",
    "WHOLE",
    "GeometryKey",
    "Intersections",
    "Topology",
    "creases",
    "forget",
    "intersections_of",
    "topology_of",
]

#: Degrees of bend from which a mesh edge is drawn; finer facets are taken for a curve.
CREASE_ANGLE = 24.0
#: How many times as wide a flat face must be as the facet beside it for the edge between them to end a curved surface.
TANGENT_WIDTH = 3.0
#: Degrees of bend from which a part that says so has no edges at all.
WHOLE = 180.0


@dataclass(frozen=True)
class Topology:
    """Edges (E) of the welded parts.

    ``ends`` (E, 2) the vertices that it joins; ``part`` (E,); ``half`` (E, 2) the half-edges, 3 · triangle + side, of
    the faces beside it (−1: none); ``fold`` (E,) degrees by which the surface bends there; ``count`` (E,) how many
    faces meet; ``open_parts`` (P,) which parts have an edge that only one face has.
    """

    bodies: Bodies
    ends: NDArray[np.int32]
    part: NDArray[np.int32]
    half: NDArray[np.int32]
    fold: NDArray[np.float32]
    count: NDArray[np.int32]
    open_parts: NDArray[np.bool_]

    @cached_property
    def columns(self) -> edge_loops.Edges:
        """What loops read of it."""
        mesh = self.bodies.mesh
        return edge_loops.Edges(mesh.vertices, mesh.triangles, self.ends, self.half, self.count, self.fold, self.part)

    @cached_property
    def tangent(self) -> NDArray[np.bool_]:
        """(E,) where a curved surface runs out smoothly into a flat or a differently curved one.

        There the surface bends less than a crease, and the flat patches on the two sides are of very different width: a
        facet of the curve, and the face that it ends in.
        """
        triangles, points = self.bodies.mesh.triangles, self.bodies.mesh.vertices
        pair = self.count == 2
        flat = pair & (self.fold <= self.bodies.tolerances.angle)
        face = self.half // 3
        n = len(triangles)
        patch = components(n, face[flat, 0], face[flat, 1])
        whole = np.bincount(patch, areas(points[triangles]))
        bends = pair & (self.fold > self.bodies.tolerances.angle)
        first, second = whole[patch[face[bends, 0]]], whole[patch[face[bends, 1]]]
        found = np.zeros(len(self.part), bool)
        found[bends] = np.maximum(first, second) > TANGENT_WIDTH * np.minimum(first, second)
        return found

    @cached_property
    def face(self) -> NDArray[np.int32]:
        """(T,) a number for each face of a body, flat or curved.
        Triangles joined where the surface bends less than a crease.
        """
        smooth = (self.count == 2) & (self.fold <= creases(self.bodies)[self.part])
        pair = self.half[smooth] // 3
        n = len(self.bodies.mesh.triangles)
        found = components(n, pair[:, 0], pair[:, 1])
        # What is one mass however it bends, as foliage is, has one face.
        mass = np.flatnonzero((creases(self.bodies) >= WHOLE)[self.bodies.mesh.triangle_part])
        if len(mass):
            part = self.bodies.mesh.triangle_part[mass]
            first = np.full(self.bodies.count, -1, np.int64)
            first[part[::-1]] = mass[::-1]
            found[mass] = found[first[part]]
        return found


@dataclass(frozen=True)
class Intersections:
    """Segments (N) where two faces run through each other: ends in metres, and the model triangle of either face.

    ``touched`` (T,) says which triangles of the model another part may touch.
    """

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    faces: NDArray[np.int32]
    touched: NDArray[np.bool_]


def creases(bodies: Bodies) -> NDArray[np.float64]:
    """(P,) degrees of bend from which an edge of each part is one, and no facet of a curve."""
    own = bodies.crease
    return np.where(np.isnan(own), CREASE_ANGLE, own)


class GeometryKey:
    """Bodies that are equal to others when their triangles are and bend alike, whatever else is said of them."""

    def __init__(self, bodies: Bodies) -> None:
        self.bodies = bodies

    def __hash__(self) -> int:
        return hash(self.bodies.mesh.geometry)  # what bends otherwise meets it rarely

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, GeometryKey)
            and self.bodies.mesh.geometry == other.bodies.mesh.geometry
            and np.array_equal(self.bodies.crease, other.bodies.crease, equal_nan=True)
        )


def find_topology(bodies: Bodies) -> Topology:
    """The welded edges of bodies, computed anew."""
    points, triangles = bodies.mesh.vertices, bodies.mesh.triangles
    welded = weld(bodies.mesh, bodies.anchor).astype(np.int32)
    welded[edge_loops.doubled_faces(welded)] = -1
    low = np.minimum(welded, np.roll(welded, -1, 1)).ravel()
    corners = int(welded.max(initial=-1)) + 1
    start, rows = edge_loops.by_corner(low, corners)

    found = in_stretches(
        lambda first, last: edge_loops.matched_edges(welded, start, rows, first, last),
        corners,
        max(corners // 8, 1 << 14),
    )
    begin = np.concatenate([f[3] + start[k * max(corners // 8, 1 << 14)] for k, f in enumerate(found)])
    lower, higher, count = (np.concatenate([f[k] for f in found]) for k in (0, 1, 2))
    halves = np.concatenate([f[4] for f in found])
    edge_of = np.empty(3 * len(triangles), np.int32)
    edge_of[halves] = np.repeat(np.arange(len(lower), dtype=np.int32), count)
    sliver = edge_loops.sliver_sides(points, triangles, bodies.tolerances.weld)
    edges = edge_loops.Matched(lower, higher, count, begin, halves, edge_of)
    half = np.empty((len(lower), 2), np.int32)
    fold = np.empty(len(lower), np.float32)
    in_stretches(
        lambda first, last: edge_loops.edge_folds(points, triangles, edges, sliver, first, last, half, fold),
        len(lower),
        1 << 17,
    )
    part = bodies.mesh.triangle_part[halves[begin] // 3]
    open_parts = np.zeros(bodies.count, bool)
    open_parts[part[count == 1]] = True
    return Topology(bodies, np.column_stack([lower, higher]), part, half, fold, count, open_parts)


def find_intersections(bodies: Bodies, topology: Topology, progress: Progress = silent) -> Intersections:
    """Where faces of bodies run through each other, computed anew."""
    mass = (creases(bodies) >= WHOLE)[bodies.mesh.triangle_part]
    if mass.any() and not mass.all():
        # Leaves run through one another everywhere, and nobody draws where.
        return _but_for(bodies, topology, mass, progress)
    points, triangles = bodies.mesh.vertices, bodies.mesh.triangles
    if not len(triangles) or mass.all():
        return Intersections(
            np.empty((0, 3)), np.empty((0, 3)), np.empty((0, 2), np.int32), np.zeros(len(triangles), bool)
        )
    low, high = np.empty((len(triangles), 3)), np.empty((len(triangles), 3))
    in_stretches(
        lambda a, b: crossing_loops.triangle_boxes(points, triangles, low, high, a, b), len(triangles), 1 << 17
    )
    low_corner, high_corner = bodies.mesh.bounds
    code = crossing_loops.morton_codes(low, high, low_corner, float((high_corner - low_corner).max()))
    order = np.argsort(code, kind="stable").astype(np.int32)
    boxes, levels = crossing_loops.box_tree(low, high, order)
    # Sides of triangles where no edge is drawn: there a surface may be run through unseen.
    flat_side = np.zeros(3 * len(triangles), bool)
    flat = topology.fold <= creases(bodies)[topology.part]
    flat_side[topology.half[flat & (topology.half[:, 0] >= 0), 0]] = True
    flat_side[topology.half[flat & (topology.half[:, 1] >= 0), 1]] = True
    slack = bodies.tolerances.contact
    touched = np.zeros(len(triangles), bool)
    faces = crossing_loops.Faces(points, triangles, bodies.mesh.triangle_part, flat_side.reshape(-1, 3))
    tree = crossing_loops.Boxes(low, high, order, boxes, levels)
    found = in_stretches(
        lambda first, last: crossing_loops.crossings(faces, tree, slack, touched, first, last),
        int(levels[1]),
        4096,
        progress,
    )
    pairs, ends = np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found])
    return Intersections(ends[:, :3].copy(), ends[:, 3:].copy(), pairs, touched)


def _but_for(bodies: Bodies, topology: Topology, mass: NDArray[np.bool_], progress: Progress) -> Intersections:
    """Where faces run through each other, but for those of a mass (T,)."""
    rows = np.flatnonzero(~mass)
    number = np.full(len(mass), -1, np.int64)
    number[rows] = np.arange(len(rows))
    mesh = bodies.mesh
    few = replace(mesh, triangles=mesh.triangles[rows], triangle_part=mesh.triangle_part[rows], uv=None)
    rest = replace(bodies, mesh=few, base=None, put=())
    half = topology.half
    there = (half >= 0) & ~mass[np.maximum(half, 0) // 3]
    moved = np.where(there, 3 * number[np.maximum(half, 0) // 3] + half % 3, -1).astype(np.int32)
    found = find_intersections(rest, replace(topology, bodies=rest, half=moved), progress)
    touched = np.zeros(len(mass), bool)
    touched[rows] = found.touched
    return Intersections(
        found.start, found.end, rows[found.faces].astype(np.int32) if len(found.faces) else found.faces, touched
    )


@remembered("edges")
def _topology(key: GeometryKey) -> Topology:
    whole, base = key.bodies, key.bodies.base
    if base is None:
        return find_topology(whole)
    # Nothing is welded across parts: what is put in joins nothing of what was there.
    found = [topology_of(base), *(_put_topology(GeometryKey(p.bodies)) for p in whole.put)]
    points, faces, parts = _offsets(found)
    return Topology(
        whole,
        np.concatenate([f.ends + n for f, n in zip(found, points, strict=True)]).astype(np.int32),
        np.concatenate([f.part + n for f, n in zip(found, parts, strict=True)]).astype(np.int32),
        np.concatenate([np.where(f.half < 0, -1, f.half + 3 * n) for f, n in zip(found, faces, strict=True)]).astype(
            np.int32
        ),
        np.concatenate([f.fold for f in found]),
        np.concatenate([f.count for f in found]),
        np.concatenate([f.open_parts for f in found]),
    )


def _offsets(found: list[Topology]) -> tuple[NDArray[np.int64], ...]:
    """The number of the first point, triangle and part of each in all of them."""
    sizes = np.array([(len(f.bodies.mesh.vertices), len(f.bodies.mesh.triangles), f.bodies.count) for f in found])
    return tuple((np.cumsum(sizes, axis=0) - sizes).T)


@remembered("intersections")
def _intersections(key: GeometryKey) -> Intersections:
    whole, base = key.bodies, key.bodies.base
    if base is None:
        return find_intersections(whole, _topology(key))
    # Figures stand on the model and do not run into it, nor into each other: where they meet it there is their outline.
    own = [_put_topology(GeometryKey(p.bodies)) for p in whole.put]
    found = [intersections_of(base), *(_put_intersections(GeometryKey(p.bodies)) for p in whole.put)]
    faces = _offsets([topology_of(base), *own])[1]
    moved = lambda ends: [
        ends(found[0]),
        *(ends(f) @ p.turn.T + p.by for f, p in zip(found[1:], whole.put, strict=True)),
    ]
    return Intersections(
        np.concatenate(moved(lambda f: f.start)),
        np.concatenate(moved(lambda f: f.end)),
        np.concatenate([f.faces.reshape(-1, 2) + n for f, n in zip(found, faces, strict=True)]).astype(np.int32),
        np.concatenate([f.touched for f in found]),
    )


@remembered("edges of figures")
def _put_topology(body: GeometryKey) -> Topology:
    """The edges of a body that stands in models, wherever it does."""
    return find_topology(body.bodies)


@remembered("edges of figures")
def _put_intersections(body: GeometryKey) -> Intersections:
    return find_intersections(body.bodies, _put_topology(body))


def topology_of(bodies: Bodies) -> Topology:
    """The welded edges of bodies, computed once for each state of its triangles."""
    return _topology(GeometryKey(bodies))


def intersections_of(bodies: Bodies) -> Intersections:
    """Where faces of bodies run through each other, computed once for each state of its triangles."""
    return _intersections(GeometryKey(bodies))


def forget() -> None:
    """Let go of all that was found of any model; not of what is put into models, and stays as it is."""
    _topology.clear()
    _intersections.clear()
