"""Visible and hidden lines with kind and rank, chained.

An edge visits the cells of the grid that it crosses; every triangle it finds there removes the stretch of the edge that
it covers and lies in front of. What is left is visible. All of it is exact in the frame's coordinates, in which edges
are straight and faces flat in perspective too (after Galimberti and Montanari, "An algorithm for hidden line
elimination", 1969, with a grid).

A piece is then followed on either side, and the nearest surface found there, stretch by stretch: far behind or nothing
makes it an outline; the same flat surface on both sides makes it a joint, or a seam where the material is the same.
What is drawn twice is drawn once, and pieces that meet are put one after another as the pen would go.
"""

from __future__ import annotations

import threading
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.model.bodies import Bodies
from warmgraphite.model.kernels import weld_points
from warmgraphite.passes.cut import CutSet, lifted
from warmgraphite.passes.edges import WHOLE, intersections_of, topology_of
from warmgraphite.passes.kernels import edges as edge_loops
from warmgraphite.passes.kernels import grid as grid_loops
from warmgraphite.passes.kernels import hiding, sides, strokes
from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.kernels.records import Pieces
from warmgraphite.passes.occluders import TOUCH, Occluders
from warmgraphite.passes.terrain import Levels, contours_of, is_index
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches, in_threads
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Lines
from warmgraphite.view.surfaces import Plane

__all__ = [
    "JOIN",
    "KINDS",
    "NO_RIM",
    "RANKS",
    "SAME",
    "SEAM_RANK",
    "Edges",
    "LineSet",
    "chained",
    "cut_by_surfaces",
    "cut_edges",
    "emerging_edges",
    "inside_frame",
    "limit_edges",
    "lines",
    "split",
    "stretches_of",
]

KINDS = ("cut", "silhouette", "border", "crease", "intersection", "material", "smooth", "terrain", "line")
#: What is drawn of figures has ranks of its own: their outline, and what lies within it.
RANKS = ("cut", "outline", "edge", "surface", "figure", "detail")
#: Rank of seams, which are kept because they bound parts, but are no lines of the drawing.
SEAM_RANK = len(RANKS)

#: Millimetres of paper beside a line at which its neighbours are asked for.
ASIDE = 0.02
#: Millimetres of paper within which two lines are one, and below which a gap or a piece is none.
SAME = 0.02
#: Millimetres of paper within which two ends of line meet.
JOIN = 0.01
#: Millimetres of paper up to which facets may leave a stub of a silhouette over.
STUB = 0.6
#: Stands for the angle of what is no rim of a leaf.
NO_RIM = 9.0

_CHUNK = 2048
_SILHOUETTE, _BORDER, _CREASE = (KINDS.index(k) for k in ("silhouette", "border", "crease"))
_MATERIAL, _SMOOTH, _TERRAIN, _LINE = (KINDS.index(k) for k in ("material", "smooth", "terrain", "line"))


@dataclass(frozen=True)
class LineSet:
    """Pieces (N) of lines, each of one kind, rank and visibility, chain after chain.

    ``start``, ``end`` (N, 3) metres; ``from_mm``, ``to_mm`` (N, 2) frame millimetres; ``kind``, ``rank`` indices into
    :data:`KINDS` and :data:`RANKS`; ``through`` panes of glass in front; ``part``; ``distance`` metres from the viewer,
    along the direction of sight, and ``behind`` metres to what lies behind it (infinite: nothing); ``left``, ``right``
    the parts seen on either side of the way from start to end, −1 for none (both of visible pieces only); ``chain``
    numbers the strokes: within one, each piece starts where the one before it ends; ``rim`` is, of lines within
    foliage, the angle on the paper in which the rim of the leaf looks that it is, in radians, :data:`NO_RIM` of all
    others. ``span`` (2,) is from how near to how far what is seen of the model itself lies, in metres.
    """

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    from_mm: NDArray[np.float64]
    to_mm: NDArray[np.float64]
    kind: NDArray[np.uint8]
    rank: NDArray[np.uint8]
    visible: NDArray[np.bool_]
    through: NDArray[np.uint8]
    part: NDArray[np.int32]
    distance: NDArray[np.float64]
    behind: NDArray[np.float64]
    left: NDArray[np.int32]
    right: NDArray[np.int32]
    chain: NDArray[np.int32]
    rim: NDArray[np.float32]
    span: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.kind)

    def only(self, rows: NDArray) -> LineSet:
        """The chosen rows."""
        return LineSet(
            **{f.name: getattr(self, f.name)[rows] for f in fields(self) if f.name != "span"}, span=self.span
        )

    @cached_property
    def drawn(self) -> LineSet:
        """The lines of the drawing: all but the seams."""
        return self.only(self.rank < SEAM_RANK)


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


def _mesh_edges(scene: Scene, asked: Lines) -> Edges:
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
    kind = np.array([0, _SILHOUETTE, _BORDER, _CREASE, _SMOOTH], np.uint8)[seen[rows]]
    ends, half = topology.ends[rows], topology.half[rows]
    beside = np.where(half < 0, -1, half // 3).astype(np.int32)
    soft = topology.fold[rows] <= crease[topology.part[rows]]
    return Edges(
        bodies.mesh.vertices[ends[:, 0]], bodies.mesh.vertices[ends[:, 1]], kind, topology.part[rows], beside, soft
    )


def _crossing_edges(scene: Scene) -> Edges:
    """Where shown faces run through each other."""
    found = intersections_of(scene.bodies)
    parts = scene.bodies.mesh.triangle_part[found.faces]
    rows = scene.part_shown[parts].all(1) if len(parts) else np.zeros(0, bool)
    kind = np.full(int(rows.sum()), KINDS.index("intersection"), np.uint8)
    return Edges(found.start[rows], found.end[rows], kind, parts[rows, 0], found.faces[rows], np.zeros(len(kind), bool))


def _terrain_edges(scene: Scene, levels: Levels | None) -> Edges:
    """Contours of the shown ground."""
    found = contours_of(scene.bodies, scene.part_shown, levels)
    kind = np.full(len(found.face), _TERRAIN, np.uint8)
    part = scene.bodies.mesh.triangle_part[found.face]
    beside = np.stack([found.face, np.full(len(found.face), -1, np.int32)], 1)
    return Edges(found.start, found.end, kind, part, beside, np.zeros(len(kind), bool))


def _line_elements(scene: Scene) -> Edges:
    """Line elements of the shown parts, which bound no face."""
    bodies = scene.bodies
    rows = np.flatnonzero(scene.part_shown[bodies.mesh.line_part])
    kind, beside = np.full(len(rows), _LINE, np.uint8), np.full((len(rows), 2), -1, np.int32)
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
        add(mass.plane, shapely.boundary(shapely.simplify(mass.region, 2e-6)), outlines[mass.plane, mass.material])
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
            on = np.abs(slab.plane.side(corners)) < 1e-9 * max(1.0, abs(slab.plane.offset))
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
    return bool(abs(plane.normal @ scene.projection.sight if eye is None else plane.side(eye)) < 1e-9)


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


def _metres(scene: Scene, points: NDArray) -> NDArray[np.float64]:
    """Frame points (N, 3) in the model."""
    inverse, out = np.linalg.inv(scene.projection.matrix), np.empty_like(points)
    in_stretches(lambda i, j: strokes.back_to_metres(points, inverse, i, j, out), len(points), 1 << 16)
    return out


def _columns(rows: list[tuple[NDArray, ...]]) -> tuple[NDArray, ...]:
    return tuple(np.concatenate(column) for column in zip(*rows, strict=True))


def split(
    projection: Projection,
    slack: float,
    start: NDArray,
    end: NDArray,
    beside: NDArray[np.int32],
    hiders: Occluders,
    progress: Progress,
    least: float = SAME,
) -> tuple[NDArray, ...]:
    """Pieces of edges, from start to end (N, 3) in the frame, by visibility: rows (edge, from, to, hidden, panes).

    What lies within ``slack`` metres before an edge does not hide it; a stretch shorter than ``least`` millimetres
    between two of the other kind counts as they do.
    """
    pieces = Pieces(
        start, end, projection.depth_slack(start[:, 2], slack), projection.depth_slack(end[:, 2], slack), beside
    )
    memory = threading.local()

    def chunk(first: int, last: int) -> tuple[NDArray, ...]:
        if not hasattr(memory, "seen"):
            memory.seen = np.full(len(hiders.near), -1, np.int32)
        return hiding.split_edges(first, last, pieces, hiders.columns, hiders.grid, TOUCH, least, memory.seen)

    return _columns(in_stretches(chunk, len(start), _CHUNK, progress))


def _ranked(
    scene: Scene, hiders: Occluders, a: NDArray, b: NDArray, beside: NDArray[np.int32], depth: float, progress: Progress
) -> tuple[NDArray, ...]:
    """Pieces a to b (N, 3, frame) split where their sides change: rows (piece, from, to, what, behind, left, right)."""
    bodies, projection = scene.bodies, scene.projection
    alike = (bodies.material.astype(np.int64) << 8) + np.unique(bodies.role, return_inverse=True)[1]
    height = np.einsum("ij,ij->i", hiders.normal, hiders.corners[:, 0])
    surfaces = sides.Surfaces(hiders.part, alike[hiders.part], hiders.normal, height)
    pieces = Pieces(
        a,
        b,
        projection.depth_slack(a[:, 2], scene.tolerances.contact),
        projection.depth_slack(b[:, 2], scene.tolerances.contact),
        beside,
    )
    eye = sides.Eye(
        np.asarray(np.linalg.inv(projection.matrix), np.float64),
        projection.is_perspective,
        ASIDE,
        depth,
        scene.tolerances.near(5),
    )

    def chunk(first: int, last: int) -> tuple[NDArray, ...]:
        return sides.rank_pieces(first, last, pieces, hiders.columns, hiders.grid, surfaces, eye)

    return _columns(in_stretches(chunk, len(a), _CHUNK, progress))


def _drawn_once(
    a: NDArray, b: NDArray, strength: NDArray[np.float64], groups: list[NDArray], width: float, height: float
) -> tuple[NDArray, NDArray, NDArray]:
    """Pieces a to b (N, 2), less what stronger ones (of lower ``strength``) of the same group draw.
    Rows (piece, from, to).
    """

    def listed(k: int) -> tuple[strokes.Drawn, strokes.Cells]:
        start, end = a[groups[k], :2], b[groups[k], :2]
        cell = float(np.clip(2 * np.sqrt(width * height / max(len(start), 1)), 0.5, 8.0))
        nx, ny = int(width / cell) + 3, int(height / cell) + 3
        first, held = strokes.pieces_in_cells(start, end, nx, ny, cell, SAME)
        return strokes.Drawn(start, end, strength[groups[k]]), strokes.Cells(first, held, nx, ny, cell)

    rows: list[tuple[NDArray, ...]] = []
    for group, pieces in zip(groups, in_threads(listed, range(len(groups))), strict=True):
        memory = threading.local()

        def once(first: int, last: int, pieces: Any = pieces, memory: threading.local = memory) -> tuple[NDArray, ...]:
            if not hasattr(memory, "met"):
                memory.met = np.full(len(pieces[0].start), -1, np.int32)
            return strokes.subtract_doubles(*pieces, SAME, SAME, first, last, memory.met)

        row, low, high = _columns(in_stretches(once, len(group), 4 * _CHUNK))
        rows.append((group[row], low, high))
    row, low, high = _columns(rows)
    return row, low, high


def _nodes(a: NDArray, b: NDArray, group: NDArray[np.int64]) -> NDArray[np.int64]:
    """(2 N,) a number for each end of the pieces a to b (N, 2), starts first: the same where ends of one group meet."""
    flat = np.concatenate([a, b])
    points = np.full((len(flat), 3), 2 * JOIN)
    points[:, :2] = flat
    owner = np.concatenate([group, group])
    return np.maximum.reduce(in_threads(lambda share: weld_points(points, owner, JOIN, share, 3), range(3)))


def _trim_contours(a: NDArray, b: NDArray, group: NDArray[np.int64], contour: NDArray[np.bool_]) -> None:
    """Make ends of silhouettes meet, in place, where facets of a saddle make them pass each other by.

    The contour of a faceted saddle changes from one edge to the next where they cross as seen; what then shows of the
    second edge before that point is a stub that its facets leave and the curve has not. ``contour`` (N,) says which
    pieces a to b (N, 3, frame) are such silhouettes.
    """
    if not contour.any():
        return
    node = _nodes(a[:, :2], b[:, :2], group)
    loose = np.flatnonzero((np.bincount(node)[node] == 1) & np.concatenate([contour, contour]))
    if len(loose) < 2:
        return
    n = len(a)
    at = np.where((loose < n)[:, None], a[loose % n], b[loose % n])
    away = np.where((loose < n)[:, None], b[loose % n], a[loose % n])
    tree = cKDTree(at[:, :2])
    pair = tree.query_pairs(STUB, output_type="ndarray")
    pair = np.concatenate([pair, pair[:, ::-1]])
    pair = pair[
        (group[loose[pair[:, 0]] % n] == group[loose[pair[:, 1]] % n])
        & (loose[pair[:, 0]] % n != loose[pair[:, 1]] % n)
    ]
    # Of each pair, the first end stays, and the second is drawn back, or on, to it.
    stays, moves = at[pair[:, 0]], pair[:, 1]
    way = away[moves] - at[moves]
    length = np.maximum(np.linalg.norm(way[:, :2], axis=1), NO_LENGTH)
    t = ((stays - at[moves])[:, :2] * way[:, :2]).sum(1) / length**2
    gap = np.linalg.norm(at[moves, :2] + np.clip(t, 0, 1)[:, None] * way[:, :2] - stays[:, :2], axis=1)
    good = np.flatnonzero((gap <= SAME) & (t < 0.999))
    for row in good[np.argsort(gap[good] + t[good] * length[good], kind="stable")]:
        end, partner = loose[moves[row]], loose[pair[row, 0]]
        side, other = (a if end < n else b), (a if partner < n else b)
        if np.isfinite(at[moves[row], 0]) and np.isfinite(at[pair[row, 0], 0]):
            side[end % n] = other[partner % n]
            at[[moves[row], pair[row, 0]], 0] = np.nan  # both have met someone


def chained(a: NDArray, b: NDArray, group: NDArray[np.int64]) -> tuple[NDArray, NDArray, NDArray]:
    """Pieces a to b (N, 2) of the same group put end to end: (piece, whether it is turned, number of its chain)."""
    if not len(a):
        return np.empty(0, np.int32), np.empty(0, bool), np.empty(0, np.int32)
    partner = strokes.joined_ends(_nodes(a, b, group), np.ascontiguousarray(a), np.ascontiguousarray(b))
    return strokes.walk_chains(partner)


def lines(
    scene: Scene, hiders: Occluders, cut: CutSet, asked: Lines, levels: Levels | None, progress: Progress = silent
) -> LineSet:
    """All lines of a scene within its frame: visible ones drawn once, hidden ones apart, both ranked and chained.
    ``asked`` says which edges are lines, ``levels`` where contours run on the ground.
    """
    progress(0.1)
    bodies = Edges.joined(
        [_mesh_edges(scene, asked), _crossing_edges(scene), _terrain_edges(scene, levels), _line_elements(scene)]
    )
    if scene.surfaces:
        bodies = Edges.joined([cut_by_surfaces(scene, bodies), cut_edges(scene, cut)])
    edges = inside_frame(scene, bodies)
    progress(0.2)
    start, end = scene.projection.project(edges.start), scene.projection.project(edges.end)
    edge, low, high, hidden, panes = split(
        scene.projection, scene.tolerances.contact, start, end, edges.beside, hiders, part_of(progress, 0.2, 0.5)
    )
    a, b = stretches_of(start, end, edge, low, high)

    # A hidden piece is looked at only for seams, and those only lie where something may touch it.
    touched = intersections_of(scene.bodies).touched
    flush = (edges.kind != _CREASE) & (edges.kind != _SILHOUETTE)
    for side in edges.beside.T:
        flush |= touched[side] & (side >= 0)
    looked = ~hidden | flush[edge]
    near = np.flatnonzero(looked)
    piece, low, high, what, behind, left, right = _ranked(
        scene, hiders, a[near], b[near], edges.beside[edge[near]], asked.outline_depth, part_of(progress, 0.5, 0.85)
    )
    rest = np.flatnonzero(~looked)
    piece = np.concatenate([near[piece], rest])
    low, high = np.append(low, np.zeros(len(rest))), np.append(high, np.ones(len(rest)))
    what = np.append(what, np.full(len(rest), sides.EDGE, np.int8))
    unknown = hidden[piece]
    behind = np.where(unknown, np.inf, np.append(behind, np.zeros(len(rest))))
    left, right = (
        np.where(unknown, -1, np.append(side, np.zeros(len(rest), np.int32))).astype(np.int32) for side in (left, right)
    )
    a, b = stretches_of(a, b, piece, low, high)
    visible, through = ~hidden[piece], np.minimum(panes[piece], 255).astype(np.uint8)
    edge = edge[piece]
    kind = edges.kind[edge]
    stronger = is_index(levels, edges.start[edge, 2])
    rank = _ranks(scene.bodies, asked.seams, kind, edges.part[edge], what, visible, stronger, (left, right))
    kind[(rank == RANKS.index("surface")) & (what == sides.JOINT) & (kind < _TERRAIN)] = _MATERIAL
    progress(0.9)

    # The strongest, then the nearest, comes first; what it draws is not drawn again.
    strength = _places(rank, np.minimum(a[:, 2], b[:, 2]))
    groups = [np.flatnonzero(visible), np.flatnonzero(~visible)]
    row, low, high = _drawn_once(a, b, strength, groups, scene.projection.width, scene.projection.height)
    a, b = stretches_of(a, b, row, low, high)
    group = (rank[row].astype(np.int64) * 2 + visible[row]) * 2 + (through[row] > 0)
    contour = (kind[row] == _SILHOUETTE) & visible[row] & edges.soft[edge[row]]
    _trim_contours(a, b, group, contour)
    place, turned, chain = chained(a[:, :2], b[:, :2], group)
    # A piece may be walked from its end to its start.
    a, b = np.where(turned[:, None], b[place], a[place]), np.where(turned[:, None], a[place], b[place])
    row = row[place]
    progress(1.0)
    return LineSet(
        start=_metres(scene, a),
        end=_metres(scene, b),
        from_mm=_settled(a[:, :2]),
        to_mm=_settled(b[:, :2]),
        kind=kind[row],
        rank=rank[row],
        visible=visible[row],
        through=through[row],
        part=edges.part[edge[row]],
        distance=scene.projection.distance((a[:, 2] + b[:, 2]) / 2),
        behind=behind[row],
        left=np.where(turned, right[row], left[row]),
        right=np.where(turned, left[row], right[row]),
        chain=chain,
        rim=_rims(scene, edges.only(edge[row]), rank[row], a, b),
        span=_span(scene, hiders, edges.part, start, end),
    )


def _span(
    scene: Scene, hiders: Occluders, part: NDArray[np.int32], start: NDArray, end: NDArray
) -> NDArray[np.float64]:
    """(2,) metres from how near to how far what is seen of the model itself lies.
    The middle nineteen of twenty edges, so that one far tree does not make all else near. Figures count for nothing,
    and hide nothing: none of them makes a house paler or darker.
    """
    figure = scene.bodies.figure >= 0
    own = np.flatnonzero(~figure[part])
    middle = (start[own] + end[own]) / 2
    passed = hiders.pane | figure[hiders.part]
    depth = np.concatenate(
        in_stretches(
            lambda a, b: look_at(
                np.ascontiguousarray(middle[a:b, :2]), hiders.forms, passed, hiders.pane, hiders.near, hiders.grid
            )[1],
            len(middle),
            _CHUNK,
        )
    )
    seen = middle[:, 2] <= depth + scene.projection.depth_slack(middle[:, 2], scene.tolerances.contact)
    return np.quantile(scene.projection.distance(middle[seen, 2]), [0.02, 0.97]) if seen.any() else np.zeros(2)


def _settled(mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places on paper to a millionth of a thousandth of a millimetre.
    Where what hides a line in its middle has parted it, its ends are the same places as before, reckoned from
    elsewhere, and the last digits would tell.
    """
    return np.round(mm * 2.0**30) / 2.0**30  # type: ignore[no-any-return]


def _places(rank: NDArray[np.uint8], near: NDArray[np.float64]) -> NDArray[np.float64]:
    """(N,) in which place each piece comes by its rank and, within that, by how ``near`` it is; equals share one.
    By nothing else: what is added to a drawing elsewhere must not change which of two lines that lie together is drawn.
    """
    order = np.lexsort((near, rank))
    new = (np.diff(rank[order].astype(np.int64)) != 0) | (np.diff(near[order]) != 0)
    place = np.empty(len(rank))
    place[order] = np.append(0, np.cumsum(new))[: len(rank)]
    return place


def _rims(scene: Scene, edges: Edges, rank: NDArray[np.uint8], a: NDArray, b: NDArray) -> NDArray[np.float32]:
    """(N,) where the rims look that pieces a to b (N, 3, frame) of foliage are.
    Away from the corner of their leaf that is not on them.
    """
    found = np.full(len(rank), NO_RIM, np.float32)
    bodies = scene.bodies
    leafy = np.append(bodies.crease >= WHOLE, False)
    rows = np.flatnonzero(
        leafy[edges.part] & (rank == RANKS.index("detail")) & (edges.beside[:, 0] >= 0) & (edges.kind == _BORDER)
    )
    if len(rows):
        middle = scene.projection.project(bodies.mesh.vertices[bodies.mesh.triangles[edges.beside[rows, 0]]].mean(1))[
            :, :2
        ]
        out = (a[rows, :2] + b[rows, :2]) / 2 - middle
        found[rows] = np.arctan2(out[:, 1], out[:, 0])
    return found


def _ranks(
    bodies: Bodies,
    seams: bool,
    kind: NDArray[np.uint8],
    part: NDArray[np.int32],
    what: NDArray[np.int8],
    visible: NDArray[np.bool_],
    stronger: NDArray[np.bool_],
    beside: tuple[NDArray[np.int32], NDArray[np.int32]],
) -> NDArray[np.uint8]:
    """The rank of each piece by what it is and what lies beside it.
    ``stronger`` (N,) are those contours that are drawn so.
    """
    left, right = beside
    cut, outline, edge, surface, figure, detail = range(6)
    rank = np.full(len(kind), edge, np.uint8)
    # One sees past the rim of a pane into what the pane shows: it is no outline.
    rank[(what == sides.OUTLINE) & visible & ~bodies.is_glass[part]] = outline
    rank[(what == sides.JOINT) | (kind == _SMOOTH)] = surface
    rank[what == sides.SEAM] = surface if seams else SEAM_RANK
    # A contour lies in a surface, whatever is behind it; an index contour is drawn a step stronger.
    contour = np.flatnonzero(kind == _TERRAIN)
    rank[contour] = np.where(stronger[contour], edge, surface)
    # A line element bounds nothing: it is an edge, and never an outline or a seam.
    rank[kind == _LINE] = edge
    of = np.append(bodies.figure, -1)
    mine = np.flatnonzero((of[part] >= 0) & (rank != SEAM_RANK))
    within = visible[mine] & (of[left[mine]] == of[part[mine]]) & (of[right[mine]] == of[part[mine]])
    rank[mine] = np.where(within, detail, figure)
    # Nobody draws what is hidden of a person, whatever else is dashed.
    rank[mine[~visible[mine]]] = SEAM_RANK
    # Of what is plain on either side only the outline is drawn; what bounds parts stays.
    plain = np.append(bodies.plain, False)
    rank[mine[within & plain[left[mine]] & plain[right[mine]]]] = SEAM_RANK
    # What has lines of its own, as a drawn cut-out has, has no others.
    rank[mine[bodies.quiet[part[mine]] & (kind[mine] != _LINE)]] = SEAM_RANK
    rank[mine[visible[mine] & (kind[mine] == _LINE)]] = detail
    rank[kind == KINDS.index("cut")] = cut
    return rank
