"""The edges of light as exact lines: of cast shadows, of the turn from light to shade, and between steps of shade.

The sun is a viewer in parallel projection. The outlines that it sees are what casts: each is followed to the first
surface beyond it, stretch by stretch, exactly in the sun's frame. What has fallen there is a segment on a known
triangle of the model, and is then looked at from the view like any other edge (the idea is W. Atherton's, "Polygon
shadow generation", 1978, with edges in place of polygons).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.triangles import normals
from warmgraphite.model.bodies import Bodies
from warmgraphite.passes.casters import Casters, Sunlit
from warmgraphite.passes.cut import CutSet
from warmgraphite.passes.drawn_edges import Edges, cut_by_surfaces, cut_edges, inside_frame, limit_edges, stretches_of
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.footing import corner_normals
from warmgraphite.passes.kernels import casting
from warmgraphite.passes.kernels import edges as edge_loops
from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.lines import split
from warmgraphite.passes.occluders import Occluders, laid_out
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene
from warmgraphite.view.sun import Sun, to_sun

__all__ = ["CAST", "STEP", "TURN", "LightEdges", "LightSaid", "SunFrame", "light_edges", "sun_frame"]

CAST, TURN, STEP = 0, 1, 2

#: Millimetres of the model beside an edge at which the surface beyond it is looked for.
ASIDE = 0.01
_CHUNK = 2048


@dataclass(frozen=True)
class LightEdges:
    """Visible segments (N).
    ``start``, ``end`` (N, 3) metres, ``from_mm``, ``to_mm`` (N, 2) frame millimetres, ``kind`` (cast, turn or step),
    and the ``part`` on which they lie.
    """

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    from_mm: NDArray[np.float64]
    to_mm: NDArray[np.float64]
    kind: NDArray[np.uint8]
    part: NDArray[np.int32]


@dataclass(frozen=True)
class SunFrame:
    """What the sun sees: its projection, in millimetres of the model.
    What casts, in its grid, and whether panes are left out.
    """

    projection: Projection
    casting: Occluders
    ray: NDArray[np.float64]

    def first(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(N,) depth of the first triangle that casts, along the sun's rays through points (N, 3) in metres."""
        o = self.casting
        at = np.ascontiguousarray(self.projection.project(points)[:, :2])
        return np.concatenate(
            in_stretches(lambda a, b: look_at(at[a:b], o.forms, o.pane, o.pane, o.near, o.grid)[1], len(at), 1 << 16)
        )

    def blocked(self, points: NDArray[np.float64], slack: float) -> NDArray[np.bool_]:
        """(N,) whether something casts on points (N, 3) in metres, from more than ``slack`` metres before them."""
        depth = self.projection.project(points)[:, 2]
        return self.first(points) < depth - slack


def sun_frame(casters: Casters, sun: Sun) -> SunFrame:
    """The sun's frame over all that it may fall on."""
    ray = to_sun(sun)
    forward = -ray
    right = np.cross(forward, [0.0, 0.0, 1.0] if abs(ray[2]) < 0.9 else [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    axes = np.stack([right, np.cross(forward, right), forward])  # x right, y down, z away
    flat = casters.corners.reshape(-1, 3) @ axes.T
    low, high = (flat.min(0), flat.max(0)) if len(flat) else (np.zeros(3), np.ones(3))
    matrix = np.eye(4)
    matrix[:3, :3] = axes * np.array([[1000.0], [1000.0], [1.0]])
    matrix[:2, 3] = 1.0 - 1000.0 * low[:2]
    width, height = (1000.0 * (high - low)[:2] + 2.0).tolist()
    projection = Projection(matrix, width, height, None, forward, 1.0)
    return SunFrame(projection, _laid(casters, casters.casts, projection), ray)


def _laid(casters: Casters, rows: NDArray[np.bool_], projection: Projection) -> Occluders:
    corners = np.ascontiguousarray(casters.corners[rows])
    return laid_out(
        corners, casters.source[rows], casters.part[rows], np.zeros(len(corners), bool), projection, len(corners)
    )


def _outlines(bodies: Bodies, ray: NDArray, parts: NDArray[np.bool_], crease: float) -> Edges:
    """Silhouettes and borders of parts (P,) as the sun sees them, uncut; those within curved surfaces are soft."""
    mesh, topology = bodies.mesh, topology_of(bodies)
    seen = np.empty(len(topology.part), np.uint8)
    looked = edge_loops.Looked(parts, np.full(bodies.count, 180.0), -ray, -ray, False)
    in_stretches(lambda a, b: edge_loops.seen_edges(topology.columns, looked, a, b, seen), len(seen), 1 << 16)
    rows = np.flatnonzero(seen)
    ends, half = topology.ends[rows], topology.half[rows]
    beside = np.where(half < 0, -1, half // 3).astype(np.int32)
    soft = (topology.fold[rows] <= crease) & (seen[rows] == 1)
    return Edges(mesh.vertices[ends[:, 0]], mesh.vertices[ends[:, 1]], seen[rows], topology.part[rows], beside, soft)


def _fallen(frame: SunFrame, receiving: Occluders, a: NDArray, b: NDArray, slack: float) -> tuple[NDArray, ...]:
    o = receiving
    rows = in_stretches(
        lambda first, last: casting.fallen(
            first, last, a, b, slack, o.columns, o.grid, ASIDE
        ),
        len(a),
        _CHUNK,
    )  # fmt: skip
    piece, low, high, triangle = (np.concatenate(c) for c in zip(*rows, strict=True))
    inverse = np.linalg.inv(frame.projection.matrix)

    def at(t: NDArray) -> NDArray:
        flat = a[piece] + t[:, None] * (b[piece] - a[piece])
        forms = o.forms[triangle]
        flat[:, 2] = forms[:, 9] * flat[:, 0] + forms[:, 10] * flat[:, 1] + forms[:, 11]
        return flat @ inverse[:3, :3].T + inverse[:3, 3]

    return at(low), at(high), triangle


def _cast(
    scene: Scene, frame: SunFrame, casters: Casters, edges: Edges, progress: Progress
) -> tuple[NDArray, NDArray, NDArray[np.int32]]:
    """Segments of cast shadow in metres, and the model triangle each lies on, whoever sees them."""
    start, end = frame.projection.project(edges.start), frame.projection.project(edges.end)
    edge, low, high, hidden, _ = split(
        frame.projection,
        scene.tolerances,
        start,
        end,
        edges.beside,
        frame.casting,
        part_of(progress, 0.0, 0.6),
        5 * ASIDE,
    )
    rows = np.flatnonzero(~hidden)
    a, b = stretches_of(start, end, edge[rows], low[rows], high[rows])
    found = [(frame.casting, _fallen(frame, frame.casting, a, b, scene.tolerances.contact))]
    idle = ~casters.casts & ~casters.pane & ~scene.bodies.is_glass[casters.part]
    if idle.any():
        # What does not cast is fallen on all the same, and lets the light through to what lies behind it.
        both = _laid(casters, casters.casts | idle, frame.projection)
        from_, to, triangle = _fallen(frame, both, a, b, scene.tolerances.contact)
        own = idle[np.flatnonzero(casters.casts | idle)][triangle]
        found.append((both, (from_[own], to[own], triangle[own])))
    starts, ends, sources = [], [], []
    for on, (from_, to, triangle) in found:
        source = on.source[triangle]
        # A cut face is no surface that the sun falls on.
        kept = source >= 0
        starts.append(from_[kept])
        ends.append(to[kept])
        sources.append(source[kept])
    return np.concatenate(starts), np.concatenate(ends), np.concatenate(sources)


def _steps(scene: Scene, ray: NDArray, steps: int) -> tuple[NDArray, NDArray, NDArray[np.int32]]:
    """Lines between steps of shade on the shown triangles: ends in metres, and the model triangle."""
    bodies = scene.bodies
    source = np.unique(scene.source)
    corners = np.ascontiguousarray(bodies.mesh.vertices[bodies.mesh.triangles[source]])
    tone = np.ascontiguousarray(corner_normals(bodies)[source] @ ray)
    levels = np.concatenate([np.arange(steps) / steps, -np.arange(1, steps) / steps])
    rows = in_stretches(lambda a, b: casting.tone_lines(corners, tone, levels, a, b), len(source), 1 << 15)
    start, end, row = (np.concatenate(c) for c in zip(*rows, strict=True))
    return start, end, source[row]


@dataclass(frozen=True)
class LightSaid:
    """What is said of edges of light.
    What they are ``under``, in how many ``steps`` shade turns, and from how many degrees of bend on an edge is no facet
    of a curve.
    """

    under: Sunlit
    steps: int
    crease: float


def light_edges(
    scene: Scene,
    hiders: Occluders,
    frame: SunFrame,
    casters: Casters,
    whole: Scene,
    cut: CutSet,
    said: LightSaid,
    progress: Progress = silent,
) -> LightEdges:
    """The visible edges of light.
    ``whole`` is the scene that casts, of which ``scene`` may be a part, and ``cut`` what is cut of it.
    """
    bodies, under = scene.bodies, said.under
    sun = under.sun
    starts, ends, kinds, sources = (
        [np.empty((0, 3))],
        [np.empty((0, 3))],
        [np.empty(0, np.uint8)],
        [np.empty(0, np.int32)],
    )

    def add(kind: int, start: NDArray, end: NDArray, source: NDArray) -> None:
        starts.append(start)
        ends.append(end)
        kinds.append(np.full(len(start), kind, np.uint8))
        sources.append(source)

    if sun.altitude > 0:
        opaque = casters.there & ~bodies.is_glass
        casts = opaque & under.cast
        outlines = _outlines(whole.bodies, frame.ray, opaque, said.crease)
        cut_outlines = cut_by_surfaces(whole, outlines) if scene.surfaces else outlines
        throwing = outlines if sun.cast_off else cut_outlines
        throwing = throwing.only(np.flatnonzero(casts[throwing.part]))
        if scene.surfaces and not sun.cast_off:
            ended = limit_edges(whole)
            ended = ended.only(np.flatnonzero(casts[ended.part]))
            throwing = Edges.joined([throwing, cut_edges(whole, cut), ended])
        fallen = _cast(whole, frame, casters, throwing, part_of(progress, 0.0, 0.6))
        part = bodies.mesh.triangle_part[fallen[2]]
        receives = scene.part_shown[part] & under.receive[part]
        add(CAST, *_kept_by_cuts(scene, *(f[receives] for f in fallen)))
        turn = cut_outlines.only(np.flatnonzero(cut_outlines.soft & scene.part_shown[cut_outlines.part]))
        add(TURN, turn.start, turn.end, np.maximum(turn.beside[:, 0], turn.beside[:, 1]))
        if said.steps:
            add(STEP, *_kept_by_cuts(scene, *_steps(scene, frame.ray, said.steps)))
    start, end = np.concatenate(starts), np.concatenate(ends)
    kind, source = np.concatenate(kinds), np.concatenate(sources)

    # Of a sheet that is lit from behind one sees the side in shade.
    corners = bodies.mesh.vertices[bodies.mesh.triangles[source]]
    normal = normals(corners)
    toward = scene.projection.sight if scene.projection.eye is None else corners.mean(1) - scene.projection.eye
    lit_side = (normal * -toward).sum(1) * (normal @ frame.ray) > 0
    kept = np.flatnonzero(lit_side | (kind != CAST))
    beside = np.stack([source[kept], np.full(len(kept), -1, np.int32)], 1).astype(np.int32)
    edges = Edges(
        start[kept], end[kept], kind[kept], bodies.mesh.triangle_part[source[kept]], beside, np.zeros(len(kept), bool)
    )
    edges = inside_frame(scene, edges)
    a, b = scene.projection.project(edges.start), scene.projection.project(edges.end)
    edge, low, high, hidden, _ = split(
        scene.projection, scene.tolerances, a, b, edges.beside, hiders, part_of(progress, 0.6, 1.0)
    )
    rows = np.flatnonzero(~hidden)
    edge, low, high = edge[rows], low[rows], high[rows]
    a, b = stretches_of(a, b, edge, low, high)
    return LightEdges(
        start=scene.projection.unproject(a),
        end=scene.projection.unproject(b),
        from_mm=np.ascontiguousarray(a[:, :2]),
        to_mm=np.ascontiguousarray(b[:, :2]),
        kind=edges.kind[edge],
        part=edges.part[edge],
    )


def _kept_by_cuts(scene: Scene, start: NDArray, end: NDArray, source: NDArray) -> tuple[NDArray, NDArray, NDArray]:
    """Segments on model triangles less what the view's planes take away."""
    if not scene.surfaces or not len(start):
        return start, end, source
    beside = np.stack([source, source], 1).astype(np.int32)
    count = len(source)
    edges = Edges(
        start, end, np.zeros(count, np.uint8), scene.bodies.mesh.triangle_part[source], beside, np.zeros(count, bool)
    )
    edges = cut_by_surfaces(scene, edges)
    return edges.start, edges.end, edges.beside[:, 0]
