"""How the map of a view is made: cells are mended, traced, and asked what they see."""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import HAIR, NEAR, NO_LENGTH, ROUNDING
from warmgraphite.geometry.triangles import unit_rows
from warmgraphite.passes.cut import CutSet, lifted
from warmgraphite.passes.drawn_edges import Edges, emerging_edges, inside_frame, limit_edges, stretches_of
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.footing import corner_normals
from warmgraphite.passes.kernels.grid import look_at, panes_at
from warmgraphite.passes.light import FACES, Daylight, shade_of
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.lines import split
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.shadow import LightEdges, SunFrame
from warmgraphite.passes.surface import Raster, pixel_points
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.regions.map import (
    BUILDING,
    CHECK,
    LEVEL,
    LIT,
    NONE,
    OUTSIDE,
    SHADE,
    SHADOW,
    SKY,
    STRAYS,
    TURNS,
    UPRIGHT,
    RegionMap,
)
from warmgraphite.regions.masks import cover_of
from warmgraphite.regions.pixels import contours
from warmgraphite.regions.planar import cells_of, closed, met
from warmgraphite.regions.words.facing import FACINGS
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import LEVEL_SIGHT
from warmgraphite.view.scene import Scene

__all__ = ["region_map"]

#: Millimetres of paper beside an edge at which one asks what is there.
BESIDE = 2e-3


@dataclass(frozen=True)
class _Answers:
    """What is seen at points (N,) of the frame, and how the sun stands to it."""

    triangle: NDArray[np.int32]
    depth: NDArray[np.float64]
    panes: NDArray[np.uint8]
    light: NDArray[np.uint8]
    normal: NDArray[np.float32]
    points: NDArray[np.float64]

    def code(self, hiders: Occluders, face: NDArray[np.int32]) -> NDArray[np.int64]:
        """(N,) one number for all that a cell is named by."""
        hit = self.triangle >= 0
        cap = hit & (hiders.source[self.triangle] < 0)
        patch = np.where(hit & ~cap, face[hiders.source[self.triangle]].astype(np.int64) + 1, 0)
        part = np.where(hit, hiders.part[self.triangle].astype(np.int64) + 1, 0)
        light, panes = self.light.astype(np.int64), np.minimum(self.panes, 3).astype(np.int64)
        return (((part * (int(face.max(initial=0)) + 2) + patch) * 2 + cap) * 4 + light) * 4 + panes


class _Asking:
    """What can be asked of any point of the frame."""

    def __init__(self, scene: Scene, hiders: Occluders, sunlight: SunFrame, day: Daylight) -> None:
        self.scene, self.hiders, self.sunlight, self.day = scene, hiders, sunlight, day
        self.face = topology_of(scene.bodies).face
        self.glazed = hiders.pane & scene.bodies.is_glazing[hiders.part]
        self.receives = day.under.receive[hiders.part]
        self.lift = scene.tolerances.near(2)

    def about(self, xy: NDArray[np.float64]) -> _Answers:
        """What is at frame points (N, 2)."""
        rows = in_stretches(lambda a, b: self._stretch(np.ascontiguousarray(xy[a:b])), len(xy), 1 << 16)
        return _Answers(*(np.concatenate([getattr(r, f.name) for r in rows]) for f in fields(_Answers)))

    def _stretch(self, xy: NDArray[np.float64]) -> _Answers:
        hiders, projection = self.hiders, self.scene.projection
        hit, depth, glass = look_at(xy, hiders.forms, hiders.pane, self.glazed, hiders.near, hiders.grid)
        panes = np.zeros(len(xy), np.uint8)
        behind = np.flatnonzero(glass)
        panes[behind] = panes_at(xy[behind], depth[behind], hiders.forms, self.glazed, hiders.near, hiders.grid)
        light = np.full(len(xy), NONE, np.uint8)
        normal, points = np.zeros((len(xy), 3), np.float32), np.zeros((len(xy), 3))
        seen = np.flatnonzero(hit >= 0)
        points[seen] = projection.unproject(np.column_stack([xy[seen], depth[seen]]))
        away = points[seen] - projection.eye if projection.eye is not None else projection.sight
        flat = hiders.normal[hit[seen]]
        normal[seen] = flat * np.where((flat * away).sum(1) > 0, -1.0, 1.0)[:, None]
        faces = seen[hiders.source[hit[seen]] >= 0]
        turned = normal[faces] @ self.sunlight.ray > FACES
        up = self.day.under.sun.altitude > 0
        light[faces] = np.where(turned & up, LIT, SHADE)
        asked = faces[turned & up & self.receives[hit[faces]]]
        dark = self.sunlight.blocked(points[asked] + self.lift * normal[asked].astype(np.float64), 0.0)
        light[asked[dark]] = SHADOW
        return _Answers(hit, depth, panes, light, normal, points)


def _undrawn(scene: Scene, hiders: Occluders, cut: CutSet) -> NDArray[np.float64]:
    """What bounds cells without being a line.
    Borders of parts within one cut mass, where planes that only remove end a body, and where a part that is left whole
    comes out of a cut. Visible stretches (N, 2, 2) in frame millimetres.
    """
    starts, ends = [np.empty((0, 3))], [np.empty((0, 3))]
    for mass in cut.masses:
        rows = [
            r for r in cut.settled
            if r.plane == mass.plane and scene.bodies.cut_as[r.part] == mass.material
            and bool(scene.bodies.earth[r.part]) == mass.earth
        ]  # fmt: skip
        if len(rows) < 2:
            continue
        inner = shapely.difference(
            shapely.union_all([shapely.boundary(r.region) for r in rows]), shapely.boundary(mass.region).buffer(HAIR)
        )
        for shape, frame in lifted(scene.surfaces[mass.plane], inner):
            points, line = shapely.get_coordinates(shapely.get_parts(shape), return_index=True)
            joined = np.flatnonzero(line[1:] == line[:-1])
            starts.append(frame.lifted(points[joined]))
            ends.append(frame.lifted(points[joined + 1]))
    start, end = np.concatenate(starts), np.concatenate(ends)
    count = len(start)
    beside = np.full((count, 2), -2, np.int32)
    none = np.zeros(count, bool)
    within = Edges(start, end, none.astype(np.uint8), none.astype(np.int32), beside, none)
    edges = inside_frame(scene, Edges.joined([within, limit_edges(scene), emerging_edges(scene)]))
    a, b = scene.projection.project(edges.start), scene.projection.project(edges.end)
    edge, low, high, hidden, _ = split(scene.projection, scene.tolerances, a, b, edges.beside, hiders, silent)
    shown = np.flatnonzero(~hidden)
    a, b = stretches_of(a, b, edge[shown], low[shown], high[shown])
    return np.stack([a[:, :2], b[:, :2]], 1)


def _horizon(scene: Scene) -> NDArray[np.float64]:
    """(1, 2, 2) the line of the horizon in a perspective that sees it, in frame millimetres; else (0, 2, 2)."""
    projection = scene.projection
    width, height = projection.width, projection.height
    if projection.eye is None or np.hypot(*projection.sight[:2]) < NEAR:
        return np.empty((0, 2, 2))
    level = projection.sight * [1, 1, 0]
    level /= np.linalg.norm(level)
    across = np.array([-level[1], level[0], 0.0])
    # Two level directions before the eye, and the line through where they vanish.
    ways = np.stack([level + 0.05 * across, level - 0.05 * across])
    flat = projection.project(projection.eye + ways * 1e7)[:, :2]
    run = flat[1] - flat[0]
    if abs(run[0]) < ROUNDING:
        return np.empty((0, 2, 2))
    far = flat[0] + ((np.array([-1.0, width + 1.0]) - flat[0, 0]) / run[0])[:, None] * run
    line = shapely.intersection(shapely.LineString(far), shapely.box(0, 0, width, height))
    return np.asarray(line.coords)[None, [0, -1]] if not line.is_empty else np.empty((0, 2, 2))


def _with_horizon(asking: _Asking, shapes: NDArray[np.object_]) -> NDArray[np.object_]:
    """Cells, those in which nothing is seen divided where the sky ends."""
    line = _horizon(asking.scene)
    if not len(line):
        return shapes
    crossed = np.flatnonzero(shapely.intersects(shapes, shapely.LineString(line[0])))
    bare = crossed[asking.about(_inner_points(shapes[crossed])).triangle < 0]
    pieces: list[shapely.Geometry] = [
        p for k in bare for p in cells_of(line, shapes[k]) if shapes[k].contains(shapely.point_on_surface(p))
    ]
    return np.concatenate([np.delete(shapes, bare), np.array(pieces, dtype=object)]) if pieces else shapes


def _where(
    scene: Scene, shapes: NDArray[np.object_], inner: NDArray[np.float64], hit: NDArray[np.bool_]
) -> NDArray[np.uint8]:
    """Whether cells show the building, the sky, or the ground outside of the model."""
    projection = scene.projection
    found = np.full(len(shapes), BUILDING, np.uint8)
    bare = np.flatnonzero(~hit)
    if not len(bare):
        return found
    found[bare] = np.where(projection.over_horizon(inner[bare, 0], inner[bare, 1]) < 0, OUTSIDE, SKY)
    if projection.eye is None and abs(projection.sight[2]) < LEVEL_SIGHT:
        # Level: what comes in at the foot of the sheet, and not from its head, lies below the ground.
        bounds = shapely.bounds(shapes[bare])
        found[bare] = np.where((bounds[:, 3] > projection.height - 0.01) & (bounds[:, 1] > 0.01), OUTSIDE, SKY)
    return found


def _facing(normal: NDArray[np.float32], solid: NDArray[np.bool_]) -> NDArray[np.uint8]:
    up, down, north, east, south, west, sloping = range(7)
    x, y, z = normal.astype(float).T
    around = np.array([north, east, south, west], np.uint8)[np.round(np.degrees(np.arctan2(x, y)) / 90).astype(int) % 4]
    found = np.where(z > LEVEL, up, np.where(z < -LEVEL, down, np.where(np.abs(z) < UPRIGHT, around, sloping)))
    return np.where(solid, found, len(FACINGS)).astype(np.uint8)


def _inner_points(shapes: NDArray[np.object_]) -> NDArray[np.float64]:
    """(N, 2) a point well within each cell: on the middle of its widest chord."""
    return shapely.get_coordinates(shapely.point_on_surface(shapes)).reshape(-1, 2)


def region_map(
    scene: Scene,
    hiders: Occluders,
    bounds: LineSet,
    edges: LightEdges,
    sunlight: SunFrame,
    cut: CutSet,
    day: Daylight,
    progress: Progress = silent,
) -> RegionMap:
    """The map of a view.
    ``bounds`` are its lines and seams, ``edges`` those of light, ``sunlight`` what the sun sees on that ``day``.
    """
    projection = scene.projection
    frame = shapely.box(0, 0, projection.width, projection.height)
    rows = np.flatnonzero(bounds.visible)
    segments = np.concatenate(
        [
            np.stack([bounds.from_mm[rows], bounds.to_mm[rows]], 1),
            np.stack([edges.from_mm, edges.to_mm], 1),
            _undrawn(scene, hiders, cut),
        ]
    )
    shapes = cells_of(closed(met(segments)), frame)
    progress(0.5)
    asking = _Asking(scene, hiders, sunlight, day)
    shapes = _with_horizon(asking, shapes)
    shapes, traced = _mended(asking, shapes, part_of(progress, 0.5, 0.9))
    return _named(asking, shapes, traced)


def _mended(
    asking: _Asking, shapes: NDArray[np.object_], progress: Progress
) -> tuple[NDArray[np.object_], NDArray[np.bool_]]:
    """Cells of which a raster says that each holds one answer, and which of them pixels had to divide."""
    projection = asking.scene.projection
    frame = (projection.width, projection.height)
    longer = max(frame)
    size = (max(1, round(frame[0] / longer * CHECK)), max(1, round(frame[1] / longer * CHECK)))
    answers = asking.about(pixel_points(asking.scene, Raster.of(size), np.arange(size[0] * size[1])))
    _, code = np.unique(answers.code(asking.hiders, asking.face), return_inverse=True)
    traced = np.zeros(len(shapes), bool)
    whole = cover_of(shapes, size, frame).whole.ravel()
    wanted = np.arange(len(shapes))
    progress(0.6)
    for _ in range(TURNS):
        mixed = _mixed(whole, code, len(shapes))
        mixed = mixed[np.isin(mixed, wanted)]
        fresh, kept = [], np.ones(len(shapes), bool)
        for number in mixed:
            lines = _traced(whole, code, int(number), size) * np.array([frame[0] / size[0], frame[1] / size[1]])
            if not len(lines):
                continue
            inner = [p for p in cells_of(lines, shapes[number]) if shapes[number].contains(shapely.point_on_surface(p))]
            if len(inner) > 1:
                kept[number] = False
                fresh += inner
        if not fresh:
            break
        # What was divided is asked once more: a thin piece may have kept its contour from closing.
        wanted = np.arange(kept.sum(), kept.sum() + len(fresh))
        shapes = np.concatenate([shapes[kept], np.array(fresh, dtype=object)])
        traced = np.concatenate([traced[kept], np.ones(len(fresh), bool)])
        whole = cover_of(shapes, size, frame).whole.ravel()
    progress(1.0)
    return shapes, traced


def _traced(
    whole: NDArray[np.int32], code: NDArray[np.int64], number: int, size: tuple[int, int]
) -> NDArray[np.float64]:
    """Contours (S, 2, 2), in pixels, between the answers that one cell holds."""
    rows, columns = np.divmod(np.flatnonzero(whole == number), size[0])
    low, high = np.maximum([rows.min() - 5, columns.min() - 5], 0), np.array([rows.max() + 6, columns.max() + 6])
    window = np.s_[low[0] : high[0], low[1] : high[1]]
    own = whole.reshape(size[1], size[0])[window] == number
    return contours(np.where(own, code.reshape(size[1], size[0])[window], -1)) + low[::-1]


def _mixed(whole: NDArray[np.int32], code: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """The cells whose pixels have more than one answer; ``whole`` the cell and ``code`` the answer of each pixel."""
    inside = np.flatnonzero(whole >= 0)
    span = int(code.max(initial=0)) + 1
    pair, times = np.unique(whole[inside].astype(np.int64) * span + code[inside], return_counts=True)
    of = pair // span
    total, most = np.bincount(of, times, count), np.zeros(count)
    np.maximum.at(most, of, times)
    strays = total - most
    return np.flatnonzero(strays >= STRAYS)


def _named(asking: _Asking, shapes: NDArray[np.object_], traced: NDArray[np.bool_]) -> RegionMap:
    """Cells with what is seen in each."""
    scene, hiders = asking.scene, asking.hiders
    projection = scene.projection
    inner = _inner_points(shapes)
    found = asking.about(inner)
    hit = found.triangle >= 0
    source = np.where(hit, hiders.source[found.triangle], -1)
    cut = hit & (source < 0)
    solid = hit & ~cut
    part = np.where(hit, hiders.part[found.triangle], -1).astype(np.int32)
    face = np.where(solid, asking.face[source], -1).astype(np.int32)
    depth = np.where(hit, projection.distance(np.where(hit, found.depth, 0.0)), np.inf)
    near, far = _depths(asking, shapes, part, depth)
    start = near[hit].min() if hit.any() else 0.0
    bent = np.zeros((len(shapes), 3), np.float32)
    bent[solid] = corner_normals(scene.bodies)[source[solid]].mean(1)
    bent[(bent * found.normal).sum(1) < 0] *= -1
    tone = shade_of(bent, solid, asking.sunlight.ray, asking.day.under.sun, asking.day.shade)
    return RegionMap(
        shapes=shapes, inner=inner, point=found.points, part=part, face=face, light=found.light,
        facing=_facing(found.normal, solid),
        where=_where(scene, shapes, inner, hit), cut=cut, panes=found.panes, near=near - start, far=far - start,
        depth=depth - start, tone=tone, traced=traced, frame=(projection.width, projection.height),
        start=float(start),
    )  # fmt: skip


def _depths(
    asking: _Asking, shapes: NDArray[np.object_], part: NDArray[np.int32], depth: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(N,) nearest and farthest metres of what is seen in each cell.
    At its corners, a hair inside, and at its inner point.
    """
    hiders, projection = asking.hiders, asking.scene.projection
    points, cell = shapely.get_coordinates(shapes, return_index=True)
    # A hair towards the inside, which lies to one side of the ring: across the corner, on the side where the cell is.
    after = np.roll(points, -1, 0) - points
    last = np.append(cell[1:] != cell[:-1], True)
    after[last] = 0
    across = np.column_stack([-after[:, 1], after[:, 0]])
    middle = points + after / 2
    hair = unit_rows(across, NO_LENGTH) * BESIDE
    near, far = depth.copy(), depth.copy()
    for sign in (-1, 1):
        for at in (points, middle):
            xy = np.ascontiguousarray(at + sign * hair)
            hit, z, _ = look_at(xy, hiders.forms, hiders.pane, hiders.pane, hiders.near, hiders.grid)
            own = (hit >= 0) & (hiders.part[hit] == part[cell])
            own[own] = shapely.contains_xy(shapes[cell[own]], xy[own])
            metres = projection.distance(z[own])
            np.minimum.at(near, cell[own], metres)
            np.maximum.at(far, cell[own], metres)
    return near, far
