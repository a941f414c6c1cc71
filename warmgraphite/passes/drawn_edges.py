"""Which edges may be lines: those of the mesh, of cuts, of crossings and of terrain, each with what lies beside it."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.passes.cut import CutSet, lifted
from warmgraphite.passes.edges import intersections_of, topology_of
from warmgraphite.passes.kernels import edges as edge_loops
from warmgraphite.passes.kernels import grid as grid_loops
from warmgraphite.passes.kernels import strokes
from warmgraphite.passes.line_set import BORDER, CREASE, KINDS, LINE, SILHOUETTE, SMOOTH, TERRAIN
from warmgraphite.passes.terrain import Levels, contours_of
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Lines
from warmgraphite.view.surfaces import Plane

__all__ = [
    "Edges",
    "columns",
    "crossing_edges",
    "cut_by_surfaces",
    "cut_edges",
    "emerging_edges",
    "in_metres",
    "inside_frame",
    "limit_edges",
    "line_elements",
    "mesh_edges",
    "stretches_of",
    "terrain_edges",
]

#: Metres by which a cut's outline may be smoothed: twice the lattice that cuts are merged on.
SMOOTHED = 2e-6


@dataclass
class Edges:
    """Edges (N) on their way through the pass: ``start``, ``end`` (N, 3) metres.
    ``beside`` (N, 2) the model's triangles that they bound, −1 for none.
    """

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    kind: NDArray[np.uint8]
    part: NDArray[np.int32]
    beside: NDArray[np.int32]
    #: Of a curved surface, where the mesh bends less than a crease.
    soft: NDArray[np.bool_]

    @staticmethod
    def joined(rows: list[Edges]) -> Edges:
        return Edges(*(np.concatenate([getattr(r, f.name) for r in rows]) for f in fields(Edges)))

    def only(self, rows: NDArray) -> Edges:
        return Edges(*(getattr(self, f.name)[rows] for f in fields(Edges)))


def mesh_edges(scene: Scene, asked: Lines) -> Edges:
    """Silhouettes, borders and creases of the shown parts, uncut; smooth edges where the view asks for them."""
    topology, bodies, projection = topology_of(scene.bodies), scene.bodies, scene.projection
    eye = projection.sight if projection.eye is None else projection.eye
    own = bodies.crease
    crease = np.where(np.isnan(own), float(asked.crease_angle), own)
    seen = np.empty(len(topology.part), np.uint8)
    looked = edge_loops.Looked(scene.part_shown, crease, eye, projection.sight, projection.is_perspective)
    in_stretches(lambda a, b: edge_loops.seen_edges(topology.columns, looked, a, b, seen), len(seen), 1 << 16)
    if asked.smooth:
        seen[topology.tangent & (seen == 0) & scene.part_shown[topology.part]] = 4
    if asked.facets:
        seen[(seen == 0) & scene.part_shown[topology.part]] = 3
    rows = np.flatnonzero(seen)
    kind = np.array([0, SILHOUETTE, BORDER, CREASE, SMOOTH], np.uint8)[seen[rows]]
    ends, half = topology.ends[rows], topology.half[rows]
    beside = np.where(half < 0, -1, half // 3).astype(np.int32)
    soft = topology.fold[rows] <= crease[topology.part[rows]]
    return Edges(
        bodies.mesh.vertices[ends[:, 0]], bodies.mesh.vertices[ends[:, 1]], kind, topology.part[rows], beside, soft
    )


def crossing_edges(scene: Scene) -> Edges:
    """Where shown faces run through each other."""
    found = intersections_of(scene.bodies)
    parts = scene.bodies.mesh.triangle_part[found.faces]
    rows = scene.part_shown[parts].all(1) if len(parts) else np.zeros(0, bool)
    kind = np.full(int(rows.sum()), KINDS.index("intersection"), np.uint8)
    return Edges(found.start[rows], found.end[rows], kind, parts[rows, 0], found.faces[rows], np.zeros(len(kind), bool))


def terrain_edges(scene: Scene, levels: Levels | None) -> Edges:
    """Contours of the shown ground."""
    found = contours_of(scene.bodies, scene.part_shown, levels)
    kind = np.full(len(found.face), TERRAIN, np.uint8)
    part = scene.bodies.mesh.triangle_part[found.face]
    beside = np.stack([found.face, np.full(len(found.face), -1, np.int32)], 1)
    return Edges(found.start, found.end, kind, part, beside, np.zeros(len(kind), bool))


def line_elements(scene: Scene) -> Edges:
    """Line elements of the shown parts, which bound no face."""
    bodies = scene.bodies
    rows = np.flatnonzero(scene.part_shown[bodies.mesh.line_part])
    kind, beside = np.full(len(rows), LINE, np.uint8), np.full((len(rows), 2), -1, np.int32)
    ends = bodies.mesh.line_ends[rows]
    return Edges(
        ends[:, 0].copy(), ends[:, 1].copy(), kind, bodies.mesh.line_part[rows], beside, np.zeros(len(rows), bool)
    )


def cut_by_surfaces(scene: Scene, edges: Edges) -> Edges:
    """Edges less what the view's planes take away of them."""
    parts = np.column_stack([edges.part, edges.part])
    crossing = edges.kind == KINDS.index("intersection")
    parts[crossing] = scene.bodies.mesh.triangle_part[edges.beside[crossing]]
    for row, surface in enumerate(scene.surfaces):
        if surface.role == "return":
            continue
        held = np.flatnonzero(scene.spared[row][parts].all(1))
        sawn = np.flatnonzero(~scene.spared[row][parts].all(1))
        start, end, left = surface.clip_segments(edges.start[sawn], edges.end[sawn])
        start, end = np.concatenate([edges.start[held], start]), np.concatenate([edges.end[held], end])
        rows = np.concatenate([held, sawn[left]])
        edges, parts = edges.only(rows), parts[rows]
        edges.start, edges.end = start, end
    return edges


def cut_edges(scene: Scene, cut: CutSet) -> Edges:
    """Outlines of the cut masses, and strokes of cut single faces; each knows the part it comes from."""
    starts, ends, parts = [np.empty((0, 3))], [np.empty((0, 3))], [np.empty(0, np.int32)]
    bodies = scene.bodies

    def add(number: int, geometry: shapely.Geometry, owners: list[tuple[shapely.Geometry, int]]) -> None:
        for shape, frame in lifted(scene.surfaces[number], geometry):
            lines = shapely.get_parts(shapely.line_merge(shape) if shapely.get_type_id(shape) == 5 else shape)
            points, line = shapely.get_coordinates(lines, return_index=True)
            joined = line[1:] == line[:-1]
            a, b = points[:-1][joined], points[1:][joined]
            if not len(a):
                continue
            nearest = shapely.STRtree([g for g, _ in owners]).nearest(shapely.points((a + b) / 2))
            starts.append(frame.lifted(a))
            ends.append(frame.lifted(b))
            parts.append(np.array([part for _, part in owners], np.int32)[nearest])

    outlines: dict[tuple[int, int], list[tuple[shapely.Geometry, int]]] = {}
    for row in cut.settled:
        outlines.setdefault((row.plane, int(bodies.cut_as[row.part])), []).append(
            (shapely.boundary(row.region), row.part)
        )
    for mass in cut.masses:
        if scene.surfaces[mass.plane].role == "return" and _edge_on(scene, scene.surfaces[mass.plane].slabs[0].plane):
            continue  # looked at straight, the steps of a section do not show
        # Straight runs come out as one edge each.
        add(mass.plane, shapely.boundary(shapely.simplify(mass.region, SMOOTHED)), outlines[mass.plane, mass.material])
    for row in cut.regions:
        if not row.strokes.is_empty:
            add(row.plane, row.strokes, [(row.strokes, row.part)])
    start, end, part = np.concatenate(starts), np.concatenate(ends), np.concatenate(parts)
    beside = np.full((len(start), 2), -2, np.int32)
    return Edges(start, end, np.zeros(len(start), np.uint8), part, beside, np.zeros(len(start), bool))


def _on_triangles(scene: Scene, rows: list[tuple[NDArray, NDArray, NDArray]]) -> Edges:
    """Edges of nothing but bounds: rows of starts, ends (N, 3) and the model's triangle that each lies on."""
    start, end = (np.concatenate([np.empty((0, 3)), *(r[k] for r in rows)]) for k in (0, 1))
    source = np.concatenate([np.empty(0, np.int32), *(r[2] for r in rows)]).astype(np.int32)
    none = np.zeros(len(source), bool)
    beside = np.stack([source, np.full(len(source), -1, np.int32)], 1)
    return Edges(start, end, none.astype(np.uint8), scene.bodies.mesh.triangle_part[source], beside, none)


def limit_edges(scene: Scene) -> Edges:
    """Where planes that only remove end the bodies they go through.
    No lines of the drawing, but bounds of what is seen.
    """
    corners, source = scene.remainder.corners, scene.remainder.source
    found = []
    for surface in scene.surfaces:
        for slab in surface.slabs if surface.role == "limit" else ():
            on = np.abs(slab.plane.side(corners)) < ROUNDING * max(1.0, abs(slab.plane.offset))
            for i in range(3):
                rows = np.flatnonzero(on[:, i] & on[:, (i + 1) % 3])
                found.append((corners[rows, i], corners[rows, (i + 1) % 3], source[rows]))
    return _on_triangles(scene, found)


def emerging_edges(scene: Scene) -> Edges:
    """Where parts that are left whole come out of a cutting surface: bounds of what is seen, too."""
    corners, source = scene.remainder.corners, scene.remainder.source
    found = []
    for row, surface in enumerate(scene.surfaces):
        if surface.role != "cut":
            continue
        held = np.flatnonzero(scene.spared[row][scene.bodies.mesh.triangle_part[source]])
        for slab in surface.slabs:
            side = slab.plane.side(corners[held])
            for i in range(3):
                # The corner that lies alone on its side: both of its edges cross.
                a, b, c = (np.take(side, (i + k) % 3, 1) for k in range(3))
                rows = np.flatnonzero(((a > 0) != (b > 0)) & ((a > 0) != (c > 0)))
                p, q, r = (corners[held[rows], (i + k) % 3] for k in range(3))
                a, b, c = a[rows, None], b[rows, None], c[rows, None]
                found.append((p + a / (a - b) * (q - p), p + a / (a - c) * (r - p), source[held[rows]]))
    return _on_triangles(scene, found)


def _edge_on(scene: Scene, plane: Plane) -> bool:
    eye = scene.projection.eye
    return bool(abs(plane.normal @ scene.projection.sight if eye is None else plane.side(eye)) < ROUNDING)


def inside_frame(scene: Scene, edges: Edges) -> Edges:
    """What of the edges lies within the frame and before the viewer."""
    m, width, height = scene.projection.matrix, scene.projection.width, scene.projection.height
    sides = [-m[0], m[0] - width * m[3], -m[1], m[1] - height * m[3]]
    planes = [Plane(s[:3], -float(s[3])) for s in sides]
    if scene.near is not None:
        planes.insert(0, scene.near)
    start, end = np.ascontiguousarray(edges.start), np.ascontiguousarray(edges.end)
    normal, offset = np.array([p.normal for p in planes]), np.array([p.offset for p in planes])
    kept = np.empty(len(start), bool)
    in_stretches(lambda a, b: grid_loops.clip_segments(start, end, normal, offset, a, b, kept), len(start), 1 << 15)
    edges.start, edges.end = start, end
    return edges if kept.all() else edges.only(kept)


def stretches_of(start: NDArray, end: NDArray, row: NDArray, low: NDArray, high: NDArray) -> tuple[NDArray, NDArray]:
    """The ends (N, 3) of stretches ``low`` to ``high`` of the segments that ``row`` names."""
    a, b, asked = (
        np.empty((len(row), 3)),
        np.empty((len(row), 3)),
        strokes.Stretched(row.astype(np.int32, copy=False), low, high),
    )
    in_stretches(lambda i, j: strokes.stretches(start, end, asked, i, j, a, b), len(row), 1 << 16)
    return a, b


def in_metres(scene: Scene, points: NDArray) -> NDArray[np.float64]:
    """Frame points (N, 3) in the model."""
    inverse, out = np.linalg.inv(scene.projection.matrix), np.empty_like(points)
    in_stretches(lambda i, j: strokes.back_to_metres(points, inverse, i, j, out), len(points), 1 << 16)
    return out


def columns(rows: list[tuple[NDArray, ...]]) -> tuple[NDArray, ...]:
    return tuple(np.concatenate(column) for column in zip(*rows, strict=True))
