"""Visible and hidden lines with kind and rank.

The frame is divided into cells, each with the triangles that touch it, nearest first. An edge visits the cells it
crosses; every triangle it finds there removes the stretch of the edge that it covers and lies in front of. What is
left is visible. All of it is exact in the frame's coordinates, in which edges are straight and faces flat in
perspective too (after Galimberti and Montanari, "An algorithm for hidden line elimination", 1969, with a grid).

A visible piece is then asked what lies close by on either side: far behind or nothing makes it an outline; the same
flat surface on both sides makes it a joint, or no line at all where the material is the same.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.passes import _kernels
from warmgraphite.passes.cut import CutRegion, Mass, plane_frame, triangulate
from warmgraphite.passes.edges import Topology, intersections_of, topology_of
from warmgraphite.passes.terrain import contours_of, is_index
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.view.scene import Plane, Scene, clip_segments, clip_triangles

__all__ = ["KINDS", "RANKS", "LineSet", "Occluders", "lines", "occluders"]

KINDS = ("cut", "silhouette", "border", "crease", "intersection", "material", "smooth", "terrain")
RANKS = ("cut", "outline", "edge", "surface")
_TERRAIN = KINDS.index("terrain")

#: Degrees of bend from which a mesh edge is drawn; finer facets are taken for a curve.
CREASE_ANGLE = 24.0
#: Metres that must lie behind a line for it to be an outline.
OUTLINE_DEPTH = 0.30
#: Millimetres of paper within which an edge and the border of a face count as touching.
TOUCH = 2e-4
#: Millimetres of paper beside a line at which its neighbours are asked for.
ASIDE = 0.06
#: Millimetres of paper within which two lines are one.
SAME = 0.02

_CHUNK = 1500


@dataclass(frozen=True)
class LineSet:
    """Pieces (N) of lines, each of one kind, rank and visibility.

    ``start``, ``end`` (N, 3) metres; ``from_mm``, ``to_mm`` (N, 2) frame millimetres; ``kind``, ``rank`` indices into
    :data:`KINDS` and :data:`RANKS`; ``through`` panes of glass in front; ``part``; ``distance`` metres from the viewer.
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

    def __len__(self) -> int:
        return len(self.kind)

    def only(self, rows: NDArray) -> LineSet:
        """The chosen rows."""
        return LineSet(**{f.name: getattr(self, f.name)[rows] for f in fields(self)})


@dataclass(frozen=True)
class Occluders:
    """All that can hide: the scene's triangles and the caps of its cuts, with a grid over the frame.

    ``frame`` (T, 3, 3) frame coordinates; ``source`` (T,) model triangle, −1 for caps; ``part`` (T,); ``pane`` (T,).
    """

    corners: NDArray[np.float64]
    frame: NDArray[np.float64]
    source: NDArray[np.int32]
    part: NDArray[np.int32]
    pane: NDArray[np.bool_]
    near: NDArray[np.float64]
    normal: NDArray[np.float64]
    grid: tuple[NDArray[np.int64], NDArray[np.int32], float, float, float, int, int]


@dataclass
class _Edges:
    start: NDArray[np.float64]
    end: NDArray[np.float64]
    kind: NDArray[np.uint8]
    part: NDArray[np.int32]
    beside: NDArray[np.int32]

    @staticmethod
    def joined(rows: list[_Edges]) -> _Edges:
        return _Edges(*(np.concatenate([getattr(r, f.name) for r in rows]) for f in fields(_Edges)))

    def only(self, rows: NDArray) -> _Edges:
        return _Edges(*(getattr(self, f.name)[rows] for f in fields(_Edges)))


def _cap_triangles(scene: Scene, regions: list[CutRegion]) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
    corners, parts = [np.empty((0, 3, 3))], [np.empty(0, np.int32)]
    frames = {n: plane_frame(scene.planes[n], scene.model) for n in {r.plane for r in regions}}
    for row in regions:
        flat = triangulate(row.region)
        corners.append(frames[row.plane].lifted(flat))
        parts.append(np.full(len(flat), row.part, np.int32))
    found, owner = np.concatenate(corners), np.concatenate(parts)
    if scene.near is not None:
        found, owner = clip_triangles(found, owner, scene.near)
    return found, owner


def _open_parts(topology: Topology, parts: int) -> NDArray[np.bool_]:
    found = np.zeros(parts, bool)
    found[topology.part[topology.count == 1]] = True
    return found


def occluders(scene: Scene, regions: list[CutRegion]) -> Occluders:
    """The triangles that hide lines and catch sight rays, binned over the frame."""
    cap, cap_part = _cap_triangles(scene, regions)
    corners = np.concatenate([scene.corners, cap])
    source = np.concatenate([scene.source, np.full(len(cap), -1, np.int32)])
    part = np.concatenate([scene.part, cap_part])
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    toward = scene.projection.sight if scene.projection.eye is None else corners.mean(1) - scene.projection.eye
    facing = (normal * toward).sum(1) < 0

    pane = scene.model.part_is_glass[part] & (source >= 0)
    # A solid pane has two faces but is one pane: only its front counts.
    shut = ~_open_parts(topology_of(scene.model), len(scene.model.parts))
    keep = ~(pane & shut[part] & ~facing)
    corners, source, part, normal, pane = corners[keep], source[keep], part[keep], normal[keep], pane[keep]

    frame = scene.projection.project(corners)
    near = frame[:, :, 2].min(1)
    cells = int(np.clip(np.sqrt(len(frame)) * 0.7, 16, 600))
    size = max(scene.projection.width, scene.projection.height) / cells
    nx = int(np.ceil(scene.projection.width / size)) + 2
    ny = int(np.ceil(scene.projection.height / size)) + 2
    order = np.argsort(near, kind="stable").astype(np.int32)
    start, items = _kernels.bin_triangles(frame, order, -size, -size, size, nx, ny, 2 * TOUCH)
    return Occluders(corners, frame, source, part, pane, near, normal, (start, items, -size, -size, size, nx, ny))


def _mesh_edges(scene: Scene, crease_angle: float) -> _Edges:
    """Silhouettes, borders and creases of the shown parts, uncut."""
    topology = topology_of(scene.model)
    rows = np.flatnonzero(scene.part_shown[topology.part])
    start, end, wings = topology.start[rows], topology.end[rows], topology.wings[rows]
    along = end - start
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-30)
    sight = scene.projection.sight if scene.projection.eye is None else start - scene.projection.eye
    across = np.cross(along, sight)
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-30)
    arms = wings - start[:, None]
    lean = (arms * across[:, None]).sum(-1) / np.maximum(np.linalg.norm(arms, axis=-1), 1e-30)
    # Both faces on one side of the edge, as seen: the surface turns away there. Edge-on faces go with either side.
    flat = np.abs(lean) < 1e-7
    contour = (topology.count[rows] >= 2) & ((lean[:, 0] * lean[:, 1] > 0) | (flat.any(1) & ~flat.all(1)))
    contour &= topology.fold[rows] > 0.05
    kind = np.full(len(rows), 255, np.uint8)
    kind[topology.fold[rows] > crease_angle] = KINDS.index("crease")
    kind[contour] = KINDS.index("silhouette")
    kind[topology.count[rows] == 1] = KINDS.index("border")
    drawn = kind != 255
    return _Edges(start[drawn], end[drawn], kind[drawn], topology.part[rows][drawn], topology.faces[rows][drawn])


def _crossing_edges(scene: Scene) -> _Edges:
    """Where shown parts run through each other."""
    found = intersections_of(scene.model)
    parts = scene.model.triangle_part[found.faces]
    rows = scene.part_shown[parts].all(1) if len(parts) else np.zeros(0, bool)
    kind = np.full(int(rows.sum()), KINDS.index("intersection"), np.uint8)
    return _Edges(found.start[rows], found.end[rows], kind, parts[rows, 0], found.faces[rows])


def _terrain_edges(scene: Scene) -> _Edges:
    """Contours of the shown ground."""
    found = contours_of(scene.model, scene.part_shown)
    kind = np.full(len(found.face), _TERRAIN, np.uint8)
    part = scene.model.triangle_part[found.face]
    return _Edges(found.start, found.end, kind, part, np.stack([found.face, np.full(len(found.face), -1, np.int32)], 1))


def _cut_by_planes(scene: Scene, edges: _Edges) -> _Edges:
    parts = np.column_stack([edges.part, edges.part])
    crossing = edges.kind == KINDS.index("intersection")
    parts[crossing] = scene.model.triangle_part[edges.beside[crossing]]
    for row, plane in enumerate(scene.planes):
        held = scene.spared[row][parts].all(1)
        start, end, left = clip_segments(edges.start, edges.end, plane)
        edges.start = np.where(held[:, None], edges.start, start)
        edges.end = np.where(held[:, None], edges.end, end)
        keep = left | held
        edges, parts = edges.only(keep), parts[keep]
    return edges


def _cut_edges(scene: Scene, regions: list[CutRegion], found: list[Mass]) -> _Edges:
    """Outlines of the cut masses, and strokes of cut single faces; each knows the part it comes from."""
    starts, ends, parts = [np.empty((0, 3))], [np.empty((0, 3))], [np.empty(0, np.int32)]

    def add(plane: int, geometry: shapely.Geometry, owners: list[CutRegion]) -> None:
        frame = plane_frame(scene.planes[plane], scene.model)
        lines = shapely.get_parts(shapely.line_merge(geometry) if shapely.get_type_id(geometry) == 5 else geometry)
        if not len(lines) or not owners:
            return
        points, line = shapely.get_coordinates(lines, return_index=True)
        joined = line[1:] == line[:-1]
        a, b = points[:-1][joined], points[1:][joined]
        boundaries = shapely.boundary([o.region for o in owners])
        tree = shapely.STRtree([o.strokes if b_.is_empty else b_ for o, b_ in zip(owners, boundaries, strict=True)])
        nearest = tree.nearest(shapely.points((a + b) / 2))
        starts.append(frame.lifted(a))
        ends.append(frame.lifted(b))
        parts.append(np.array([o.part for o in owners], np.int32)[nearest])

    for mass in found:
        owners = [
            r
            for r in regions
            if r.plane == mass.plane and not r.region.is_empty and scene.model.parts[r.part].material == mass.material
        ]
        # Straight runs come out as one edge each.
        add(mass.plane, shapely.boundary(shapely.simplify(mass.region, 2e-6)), owners)
    for row in regions:
        if not row.strokes.is_empty:
            add(row.plane, row.strokes, [row])
    start, end, part = np.concatenate(starts), np.concatenate(ends), np.concatenate(parts)
    return _Edges(start, end, np.zeros(len(start), np.uint8), part, np.full((len(start), 2), -2, np.int32))


def _inside_frame(scene: Scene, edges: _Edges) -> _Edges:
    m, width, height = scene.projection.matrix, scene.projection.width, scene.projection.height
    sides = [-m[0], m[0] - width * m[3], -m[1], m[1] - height * m[3]]
    planes = [Plane(s[:3], -float(s[3]), "frame") for s in sides]
    if scene.near is not None:
        planes.insert(0, scene.near)
    for plane in planes:
        start, end, left = clip_segments(edges.start, edges.end, plane)
        edges.start, edges.end = start, end
        edges = edges.only(left)
    return edges


def _split(scene: Scene, edges: _Edges, hiders: Occluders, progress: Progress) -> tuple[NDArray, ...]:
    """Pieces of the edges by visibility: rows (edge, from, to, hidden, panes)."""
    start, end = scene.projection.project(edges.start), scene.projection.project(edges.end)
    slack = scene.slack
    slack_start = scene.projection.depth_slack(start[:, 2], slack)
    slack_end = scene.projection.depth_slack(end[:, 2], slack)

    def chunk(first: int) -> tuple[NDArray, ...]:
        return _kernels.split_edges(
            first, min(first + _CHUNK, len(start)), start, end, slack_start, slack_end, edges.beside,
            hiders.frame, hiders.source, hiders.pane, hiders.near, *hiders.grid, TOUCH,
        )  # fmt: skip

    firsts = range(0, len(start), _CHUNK)
    rows = []
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        try:
            for done, row in enumerate(pool.map(chunk, firsts), 1):
                rows.append(row)
                progress(done / len(firsts))
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
    if not rows:
        return tuple(np.empty(0, t) for t in (np.int32, float, float, bool, np.int32))
    return tuple(np.concatenate(column) for column in zip(*rows, strict=True))


_OUTLINE, _EDGE, _JOINT, _SEAM = 0, 1, 2, 3


def _neighbourhood(scene: Scene, hiders: Occluders, a: NDArray, b: NDArray, t: NDArray, outline_depth: float) -> NDArray[np.int8]:
    """What each piece from a to b (N, 3, frame) is at its parameter t: outline, edge, joint or seam."""
    point = a + t[:, None] * (b - a)
    direction = b[:, :2] - a[:, :2]
    direction /= np.maximum(np.linalg.norm(direction, axis=1, keepdims=True), 1e-30)
    aside = np.column_stack([-direction[:, 1], direction[:, 0]]) * ASIDE
    own = scene.projection.distance(point[:, 2])
    at = scene.projection.unproject(point)
    far = np.zeros(len(t), bool)
    flush = np.ones(len(t), bool)
    hits = []
    for sign in (1, -1):
        xy = point[:, :2] + sign * aside
        hit, z, _ = _kernels.look_at(xy, hiders.frame, hiders.pane, hiders.pane, hiders.near, *hiders.grid)
        off = (xy < 0).any(1) | (xy[:, 0] > scene.projection.width) | (xy[:, 1] > scene.projection.height)
        nothing = hit < 0
        depth = scene.projection.distance(np.where(nothing, 0.0, z))
        far |= (nothing | (depth > own + outline_depth)) & ~off
        normal = hiders.normal[hit]
        flush &= ~nothing & (np.abs((normal * (at - hiders.corners[hit, 0])).sum(1)) < 5 * scene.slack)
        hits.append(hit)
    first, second = hits
    flush &= np.abs((hiders.normal[first] * hiders.normal[second]).sum(1)) > 0.99995
    part_1, part_2 = hiders.part[first], hiders.part[second]
    material, role = scene.model.part_material, scene.model.part_role
    alike = (material[part_1] == material[part_2]) & (role[part_1] == role[part_2])
    return np.where(far, _OUTLINE, np.where(flush, np.where(alike, _SEAM, _JOINT), _EDGE)).astype(np.int8)


def _ranked(
    scene: Scene, hiders: Occluders, a: NDArray, b: NDArray, outline_depth: float, progress: Progress
) -> tuple[NDArray[np.int64], NDArray, NDArray, NDArray[np.int8]]:
    """Pieces a to b (N, 3, frame) split where their neighbourhood changes: (piece, from, to, what)."""
    length = np.linalg.norm(b[:, :2] - a[:, :2], axis=1)
    samples = np.clip(np.ceil(length / 1.5), 1, 40).astype(np.int64)
    piece = np.repeat(np.arange(len(a)), samples)
    within = np.arange(len(piece)) - np.repeat(np.cumsum(samples) - samples, samples)
    t = (within + 0.5) / samples[piece]
    what = _neighbourhood(scene, hiders, a[piece], b[piece], t, outline_depth)
    progress(0.5)
    turns = np.flatnonzero((piece[1:] == piece[:-1]) & (what[1:] != what[:-1]))
    low, high, before = t[turns], t[turns + 1], what[turns]
    for _ in range(9):  # halving a step of 1.5 mm nine times leaves 0.003 mm
        middle = (low + high) / 2
        same = _neighbourhood(scene, hiders, a[piece[turns]], b[piece[turns]], middle, outline_depth) == before
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    starts = (
        np.flatnonzero(np.append(True, (piece[1:] != piece[:-1]) | (what[1:] != what[:-1]))) if len(piece) else np.empty(0, int)
    )
    begin = np.zeros(len(starts))
    finish = np.ones(len(starts))
    where = np.searchsorted(starts, turns + 1)
    begin[where] = low
    finish[where - 1] = low
    progress(1.0)
    return piece[starts], begin, finish, what[starts]


def lines(
    scene: Scene,
    regions: list[CutRegion],
    found: list[Mass],
    progress: Progress = silent,
    *,
    crease_angle: float = CREASE_ANGLE,
    outline_depth: float = OUTLINE_DEPTH,
) -> LineSet:
    """All lines of a scene within its frame: visible ones ranked and drawn once, hidden ones with their kind.

    ``crease_angle`` in degrees, ``outline_depth`` in metres; ``regions`` and ``found`` are the scene's cut regions and masses.
    """
    hiders = occluders(scene, regions)
    progress(0.1)
    edges = _Edges.joined(
        [
            _cut_by_planes(
                scene, _Edges.joined([_mesh_edges(scene, crease_angle), _crossing_edges(scene), _terrain_edges(scene)])
            ),
            _cut_edges(scene, regions, found),
        ]
    )
    edges = _inside_frame(scene, edges)
    progress(0.2)
    edge, t0, t1, hidden, panes = _split(scene, edges, hiders, part_of(progress, 0.2, 0.6))

    start, end = scene.projection.project(edges.start), scene.projection.project(edges.end)
    step = (end - start)[edge]
    a, b = start[edge] + t0[:, None] * step, start[edge] + t1[:, None] * step

    seen = np.flatnonzero(~hidden)
    piece, begin, finish, what = _ranked(scene, hiders, a[seen], b[seen], outline_depth, part_of(progress, 0.6, 0.9))
    piece = seen[piece]
    unseen = np.flatnonzero(hidden)
    piece = np.concatenate([piece, unseen])
    begin, finish = np.append(begin, np.zeros(len(unseen))), np.append(finish, np.ones(len(unseen)))
    what = np.append(what, np.full(len(unseen), _EDGE, np.int8))
    visible = ~hidden[piece]
    kind, part = edges.kind[edge[piece]].copy(), edges.part[edge[piece]]
    is_cut = kind == KINDS.index("cut")
    glass = scene.model.part_is_glass[part]
    terrain = kind == _TERRAIN
    joint = (what == _JOINT) & ~is_cut & ~terrain
    kind[joint] = KINDS.index("material")
    rank = np.where(is_cut, 0, np.where((what == _OUTLINE) & ~glass, 1, np.where(joint, 3, 2))).astype(np.uint8)

    # A contour lies in a surface, whatever is behind it; an index contour is drawn a step stronger.
    index = terrain & is_index(scene.model, edges.start[edge[piece], 2])
    rank[terrain] = np.where(index[terrain], 2, 3)

    step = (b - a)[piece]
    a, b = a[piece] + begin[:, None] * step, a[piece] + finish[:, None] * step
    keep = is_cut | terrain | (what != _SEAM)
    # The strongest, then the nearest, comes first; what it draws is not drawn again.
    order = np.lexsort((np.minimum(a[:, 2], b[:, 2]), rank, ~visible))
    order = order[keep[order]]
    out = []
    for group in (order[visible[order]], order[~visible[order]]):
        row, low, high = _kernels.subtract_doubles(
            np.ascontiguousarray(a[group, :2]), np.ascontiguousarray(b[group, :2]), 2 * SAME, SAME, SAME
        )
        out.append((group[row], low, high))
    row = np.concatenate([o[0] for o in out])
    low, high = (np.concatenate([o[k] for o in out]) for k in (1, 2))
    step = (b - a)[row]
    a, b = a[row] + low[:, None] * step, a[row] + high[:, None] * step
    progress(1.0)
    return LineSet(
        start=scene.projection.unproject(a),
        end=scene.projection.unproject(b),
        from_mm=np.ascontiguousarray(a[:, :2]),
        to_mm=np.ascontiguousarray(b[:, :2]),
        kind=kind[row],
        rank=rank[row],
        visible=visible[row],
        through=np.minimum(panes[piece[row]], 255).astype(np.uint8),
        part=part[row],
        distance=scene.projection.distance((a[:, 2] + b[:, 2]) / 2),
    )
