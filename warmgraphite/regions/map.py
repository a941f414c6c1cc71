"""The planar map of a drawing: cells between visible lines, cut outlines and edges of light, and what is seen in each.

Every boundary comes from the same exact frame as the lines. A cell is named by asking, at a point well within it, what
the view sees there and whether the sun does. A raster of the same questions then checks every cell; where a cell holds
two answers its boundary is missing, as with faces that run into each other unmarked, and the pixels' own contours,
smoothed, divide it instead.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.model.model import Model
from warmgraphite.passes.cut import CutSet, lifted
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.footing import corner_normals
from warmgraphite.passes.kernels.grid import look_at, panes_at
from warmgraphite.passes.light import FACES, Daylight, shade_of
from warmgraphite.passes.lines import Edges, LineSet, emerging_edges, inside_frame, limit_edges, split, stretches_of
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.shadow import LightEdges, SunFrame
from warmgraphite.passes.surface import Raster, pixel_points
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.regions.masks import Cover, cover_of
from warmgraphite.regions.pixels import contours
from warmgraphite.regions.planar import cells_of, closed, met
from warmgraphite.regions.query import Query, answer, asked_words, depth_bounds
from warmgraphite.regions.words.facing import FACINGS
from warmgraphite.regions.words.light import LIGHTS
from warmgraphite.regions.words.where import PLACES
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import LEVEL_SIGHT
from warmgraphite.view.scene import Scene

__all__ = ["RegionMap", "region_map"]

LIT, SHADOW, SHADE, NONE = (LIGHTS.index(w) for w in ("lit", "shadow", "shade", "none"))
BUILDING, SKY, OUTSIDE = (PLACES.index(w) for w in ("building", "sky", "outside"))

#: Pixels of the longer side of the raster that checks the map.
CHECK = 1100
#: Pixels of another answer from which a cell counts as holding two.
STRAYS = 8
#: How often cells that pixels had to divide are looked at again.
TURNS = 3
#: Cosine from level or upright within which a face is so.
LEVEL, UPRIGHT = 0.966, 0.26


@dataclass(frozen=True)
class Places:
    """Places in cells (N rows), as what a query asks: as their cells are, each at its own ``depth``."""

    part: NDArray[np.int32]
    face: NDArray[np.int32]
    light: NDArray[np.uint8]
    facing: NDArray[np.uint8]
    where: NDArray[np.uint8]
    cut: NDArray[np.bool_]
    panes: NDArray[np.uint8]
    depth: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.part)

    @staticmethod
    def of(cells: RegionMap, rows: NDArray[Any], depth: NDArray[np.float64]) -> Places:
        """Places of the cells in ``rows`` (N,)."""
        columns = ("part", "face", "light", "facing", "where", "cut", "panes")
        return Places(**{c: getattr(cells, c)[rows] for c in columns}, depth=depth)


@dataclass(frozen=True)
class RegionMap:
    """Cells (N) of the frame.

    ``shapes`` polygons in frame millimetres; ``inner`` (N, 2) a point within each, ``point`` (N, 3) what is seen there
    in metres, zero where nothing is; ``part`` and ``face``, −1 for none; ``light``, ``facing`` and ``where`` as the
    query's words are numbered; ``cut``; ``panes`` in front; ``near``, ``far`` and ``depth`` (at the inner point) in
    metres behind the nearest thing seen, infinite where nothing is; ``tone`` of shade 0–1; ``traced`` where pixels had
    to draw the boundary.
    """

    shapes: NDArray[np.object_]
    inner: NDArray[np.float64]
    point: NDArray[np.float64]
    part: NDArray[np.int32]
    face: NDArray[np.int32]
    light: NDArray[np.uint8]
    facing: NDArray[np.uint8]
    where: NDArray[np.uint8]
    cut: NDArray[np.bool_]
    panes: NDArray[np.uint8]
    near: NDArray[np.float64]
    far: NDArray[np.float64]
    depth: NDArray[np.float64]
    tone: NDArray[np.float32]
    traced: NDArray[np.bool_]
    #: Width and height in millimetres.
    frame: tuple[float, float]
    #: Metres from the viewer to the nearest thing seen, from which depth is told.
    start: float = 0.0

    def __len__(self) -> int:
        return len(self.shapes)

    @cached_property
    def tree(self) -> shapely.STRtree:
        """The cells by place."""
        return shapely.STRtree(self.shapes)

    @cached_property
    def covers(self) -> dict[tuple[int, int], Cover]:
        """The rasters that masks are looked up in, by (width, height) pixels; the newest three are kept."""
        return {}

    def at(self, x: float, y: float) -> int | None:
        """The cell at a place in frame millimetres; ``None`` outside of the frame."""
        found = self.tree.query(shapely.Point(x, y), predicate="intersects")
        return int(found[0]) if len(found) else None

    def chosen(self, query: Query, model: Model) -> NDArray[np.bool_]:
        """(N,) the cells that a query means."""
        return answer(query, self, model)

    def parted(self, query: Query) -> NDArray[np.bool_]:
        """(N,) the cells through which a bound of depth goes that a query asks for: of these it may mean a part."""
        bounds = np.array(depth_bounds(query))
        return np.asarray(((self.near[:, None] < bounds) & (bounds < self.far[:, None])).any(axis=1), bool)

    def possible(self, query: Query, model: Model) -> NDArray[np.bool_]:
        """(N,) the cells of which a query means all or, where a bound of depth goes through them, a part."""
        found, parted = self.chosen(query, model), np.flatnonzero(self.parted(query))
        bounds = [-np.inf, *sorted(depth_bounds(query)), np.inf]
        for low, high in pairwise(
            bounds
        ):  # what it means of them between two bounds, wherever they have something there
            near, far = np.maximum(self.near[parted], low), np.minimum(self.far[parted], high)
            at = Places.of(self, parted, (near + far) / 2)
            found[parted] |= (near < far) & answer(query, at, model)
        return found

    def mask_by_depth(
        self, query: Query, model: Model, cover: Cover, distance: NDArray[np.floating]
    ) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of each pixel that a query means.
        Where a bound of depth goes through a cell, pixel by pixel, by the ``distance`` (h, w) in metres that each sees.
        ``cover`` says which cell each pixel belongs to.
        """
        parted = self.parted(query)
        out = cover.mask(self.chosen(query, model) & ~parted)
        if not parted.any():
            return out
        table = np.append(parted, False)
        whole = np.flatnonzero(table[cover.whole.reshape(-1)])
        count = np.diff(np.append(cover.start, len(cover.cell)))
        mixed = np.flatnonzero(table[cover.cell])
        pixel = np.append(whole, np.repeat(cover.pixel, count)[mixed])
        cell = np.append(cover.whole.reshape(-1)[whole], cover.cell[mixed])
        share = np.append(np.full(len(whole), 255), cover.share[mixed])
        # At a cell's edge the middle of a pixel may see what lies beyond it.
        depth = np.clip(distance.reshape(-1)[pixel] - self.start, self.near[cell], self.far[cell])
        meant = answer(query, Places.of(self, cell, depth), model)
        np.add.at(out.reshape(-1), pixel[meant], share[meant].astype(np.uint8))
        return out

    def shape(self, cells: NDArray[np.bool_]) -> shapely.Geometry:
        """Cells (N,) as one shape in frame millimetres."""
        if not cells.any():
            return shapely.MultiPolygon()
        try:
            return shapely.coverage_union_all(self.shapes[cells])
        except shapely.errors.GEOSException:  # neighbours that do not meet point by point: slower, and on a grid
            return shapely.union_all(self.shapes[cells], grid_size=1e-6)

    def areas(self, query: Query | None, model: Model, held: str) -> NDArray[np.int64]:
        """(N,) a number for the area that each cell belongs to, −1 for none.
        All that a query means as one, or as ``held`` together by ``materials`` or ``faces``. What is cut belongs to it
        only where the query asks for it; without a query, all that is seen of parts does, and as one area all of the
        drawing.
        """
        if query is None:
            chosen = np.ones(len(self), bool) if held == "region" else (self.part >= 0) & ~self.cut
        else:
            chosen = self.possible(query, model)
            if "cut" not in asked_words(query):
                chosen = chosen & ~self.cut
        if held == "region":
            return np.where(chosen, 0, -1)
        made_of = np.append(model.parts.material, -1)[self.part].astype(np.int64)
        glazed = np.minimum(self.panes, 1).astype(np.int64)
        if held == "materials":
            return np.where(chosen, (made_of + 1) * 2 + glazed, -1)
        _, number = np.unique(np.stack([made_of, self.face.astype(np.int64), glazed]), axis=1, return_inverse=True)
        return np.where(chosen, number.reshape(-1), -1)

    def cover(self, size: tuple[int, int], window: tuple[int, int, int, int] | None = None) -> Cover:
        """The raster of ``size`` = (width, height) pixels that masks are looked up in, or a ``window`` = (x, y, width,
        height) of it.
        """
        if window is not None and window != (0, 0, *size):
            x, y, width, height = window
            across, down = self.frame[0] / size[0], self.frame[1] / size[1]
            box = shapely.box(x * across, y * down, (x + width) * across, (y + height) * down)
            rows = self.tree.query(box)
            shapes = shapely.transform(
                shapely.intersection(self.shapes[rows], box), lambda p: p - [x * across, y * down]
            )
            pieces, owner = shapely.get_parts(shapes, return_index=True)
            full = (shapely.get_type_id(pieces) == 3) & (
                shapely.area(pieces) > 0
            )  # not where a cell only touches the window
            found = cover_of(pieces[full], (width, height), (width * across, height * down))
            return found.numbered(rows[owner[full]])
        if size not in self.covers:
            while len(self.covers) >= 3:
                self.covers.pop(next(iter(self.covers)))
            self.covers[size] = cover_of(self.shapes, size, self.frame)
        return self.covers[size]

    def mask(
        self, cells: NDArray[np.bool_], size: tuple[int, int], window: tuple[int, int, int, int] | None = None
    ) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of each pixel that the cells (N,) take.
        With the other cells' mask it adds up to 255. Of a ``window`` = (x, y, width, height) of ``size`` = (width,
        height) pixels, or of all.
        """
        return self.cover(size, window).mask(cells)


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
            shapely.union_all([shapely.boundary(r.region) for r in rows]), shapely.boundary(mass.region).buffer(1e-4)
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
    edge, low, high, hidden, _ = split(scene.projection, scene.tolerances.contact, a, b, edges.beside, hiders, silent)
    shown = np.flatnonzero(~hidden)
    a, b = stretches_of(a, b, edge[shown], low[shown], high[shown])
    return np.stack([a[:, :2], b[:, :2]], 1)


def _horizon(scene: Scene) -> NDArray[np.float64]:
    """(1, 2, 2) the line of the horizon in a perspective that sees it, in frame millimetres; else (0, 2, 2)."""
    projection = scene.projection
    width, height = projection.width, projection.height
    if projection.eye is None or np.hypot(*projection.sight[:2]) < 1e-6:
        return np.empty((0, 2, 2))
    level = projection.sight * [1, 1, 0]
    level /= np.linalg.norm(level)
    across = np.array([-level[1], level[0], 0.0])
    # Two level directions before the eye, and the line through where they vanish.
    ways = np.stack([level + 0.05 * across, level - 0.05 * across])
    flat = projection.project(projection.eye + ways * 1e7)[:, :2]
    run = flat[1] - flat[0]
    if abs(run[0]) < 1e-9:
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
    """The map of a view; ``bounds`` are its lines and seams, ``edges`` those of light, ``sunlight`` what the sun sees
    on that ``day``.
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
    hair = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), NO_LENGTH) * 2e-3
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
