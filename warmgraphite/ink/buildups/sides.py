"""Which side of what is cut faces outside: told by the sky, by rooms, by the earth, or said by hand.

The parts of an envelope are taken as one shape. Along its outline, places are asked in the whole model, and not in the
half that the cut leaves: how much sky a place sees, itself or at one remove, as a soffit does that looks onto bright
ground. What touches earth faces outside; what sees the middle of a room faces inside, unless it stands in the open.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import ordinals, row_of
from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.geometry.triangles import normals
from warmgraphite.ink.buildups.specification import Outer
from warmgraphite.model.bodies import Bodies
from warmgraphite.passes.casters import Rays
from warmgraphite.passes.cut import GRID, CutRegion, polygonal
from warmgraphite.progress import Progress, silent
from warmgraphite.view.surfaces import CutSurface, Slab

__all__ = ["INNER", "NEITHER", "OUTER", "Envelope", "Run", "envelope_of"]

Points = NDArray[np.float64]

OUTER, INNER, NEITHER = 1, -1, 0
#: Metres between parts of an envelope that are one all the same, and within which bodies touch.
SHUT, TOUCH = 0.006, 0.001
#: Metres of the pieces that are asked, on sides shorter than a metre, and on others.
FINE, COARSE = 0.025, 0.25
#: Metres before a face from which one looks, and the share of the sky from which a place is in the open, or stands
#: there plainly.
BEFORE, OPEN, PLAIN = 0.004, 0.22, 0.6
#: Directions that are asked, and of the sky at one remove.
WAYS, SKY = 28, 5
#: Places that are asked at once: each is asked for all directions, which takes room.
AT_ONCE = 20_000
#: Metres: shorter stretches are what they lie between; what touches goes on behind a thing so long, outside and inside.
NOISE, BEHIND, BEHIND_INSIDE = 0.1, 1.5, 0.12
#: Metres within which the middle of a room is seen.
ROOM = 25.0
#: How many times as thick as it is a layer may look where a cut goes aslant; where it only grazes a face, nothing looks
#: right.
SLANT = 4.0
#: How far a side may turn from what was said by hand.
TURN = 0.35

#: Slants that differ by no more are one.
ALIKE = 1e-4

_SAID: dict[str, Points] = {
    "up": np.array([0.0, 0.0, 1.0]), "down": np.array([0.0, 0.0, -1.0]), "north": np.array([0.0, 1.0, 0.0]),
    "south": np.array([0.0, -1.0, 0.0]), "east": np.array([1.0, 0.0, 0.0]), "west": np.array([-1.0, 0.0, 0.0]),
}  # fmt: skip


@dataclass(frozen=True)
class Run:
    """A stretch of outline that faces one way.
    ``line`` (n, 2) metres in the surface's axes with the body at its left, closed where its ends are one; ``slant`` (n
    − 1,) is how many times as thick as it is what lies behind each of its straights looks, as the cut goes aslant
    through its face. ``side`` is OUTER or INNER; ``part`` the part whose outline it is, −1 of the envelope as a whole.
    ``end`` is one at the end of a part whose own sides were said by hand, as of a floor that runs out to the face of a
    wall.
    """

    line: Points
    slant: Points
    side: int
    part: int = -1
    end: bool = False


@dataclass(frozen=True)
class Envelope:
    """The parts that one surface cuts and that have build-ups.
    The ``region`` of each by number, metres in the surface's axes, without gaps between them, and the runs of their
    outline.
    """

    plane: int
    regions: dict[int, shapely.Geometry]
    runs: tuple[Run, ...]

    @cached_property
    def _lines(self) -> dict[tuple[int, int], list[Points]]:
        found: dict[tuple[int, int], list[Points]] = {}
        for run in self.runs:
            found.setdefault((run.side, run.part), []).append(run.line)
        return found

    def lines(self, side: int, part: int) -> list[Points]:
        """The outline of one side that a part lies behind: its own where that was said by hand."""
        return self._lines.get((side, part)) or self._lines.get((side, -1), [])


class Open:
    """How open places of bodies are: rays against all but planting and people.
    ``rooms`` are places within, in metres.
    """

    def __init__(self, bodies: Bodies, rooms: Sequence[tuple[float, float, float]]) -> None:
        rows = ~np.isin(bodies.role, ["planting", "people"])[bodies.mesh.triangle_part]
        self.corners = bodies.mesh.vertices[bodies.mesh.triangles[rows]]
        self.rays = Rays(self.corners)
        self.rooms = np.array(rooms).reshape(-1, 3) + np.array([0.0, 0.0, 1.2])

    @cached_property
    def _ways(self) -> Points:
        return _even(WAYS)

    def faces_out(self, at: Points, normal: Points, progress: Progress = silent) -> NDArray[np.int8]:
        """(N,) OUTER or INNER for places (N, 3) before faces of these ``normal`` (N, 3)."""
        out = np.full(len(at), OUTER, np.int8)
        for first in range(0, len(at), AT_ONCE) if self.rays.scene is not None else ():
            progress(first / len(at))
            rows = slice(first, first + AT_ONCE)
            out[rows] = self._faces_out(at[rows], normal[rows])
        return out

    def _faces_out(self, at: Points, normal: Points) -> NDArray[np.int8]:
        rays = self.rays
        assert rays.scene is not None
        start = (at - rays.middle).astype(np.float32)
        u, v = _across(normal)
        ways = self._ways
        way = (ways[:, 0, None, None] * u + ways[:, 1, None, None] * v + ways[:, 2, None, None] * normal).astype(
            np.float32
        )
        origin = np.tile(start, (len(ways), 1))
        way = np.ascontiguousarray(way.reshape(-1, 3))
        far = rays.scene.run(origin, way, query="DISTANCE")
        sky = (far > 1e6).astype(np.float64)
        hit = np.flatnonzero(sky == 0)
        # At one remove: what is seen there, a little before the face that the ray met.
        there = origin[hit] + way[hit] * np.maximum(far[hit] - 0.01, 0.0)[:, None]
        high = _even(SKY + 1)[:SKY].astype(np.float32)
        seen = np.zeros(len(hit))
        for one in high:
            seen += ~rays.blocked(there, np.tile(one / np.linalg.norm(one), (len(hit), 1)))
        sky[hit] = seen / SKY
        share = sky.reshape(len(ways), -1).mean(0)
        out = np.where(share > OPEN, OUTER, INNER).astype(np.int8)
        doubtful = np.flatnonzero((share > OPEN) & (share < PLAIN))
        if len(self.rooms) and len(doubtful):
            out[doubtful[self._sees_room(at[doubtful])]] = INNER
        return out

    def slants(self, at: Points, inward: Points, cut: Points) -> Points:
        """(N,) how many times as thick as it is what lies behind a face looks in a plane with the normals ``cut`` (N,
        3). Looked for from places (N, 3) before the face, ``inward`` (N, 3).
        """
        out = np.ones(len(at))
        if self.rays.scene is None or not len(at):
            return out
        start = (at - self.rays.middle).astype(np.float32)
        near = np.full(len(at), 3 * BEFORE, np.float32)
        hit = self.rays.scene.run(start, inward.astype(np.float32), near, query="INTERSECT")
        rows = np.flatnonzero(hit >= 0)
        corners = self.corners[hit[rows]]
        face = normals(corners)
        face /= np.maximum(np.linalg.norm(face, axis=1, keepdims=True), NO_LENGTH)
        lean = np.einsum("ij,ij->i", face, cut[rows])
        out[rows] = np.minimum(1 / np.sqrt(np.maximum(1 - lean**2, 1e-9)), SLANT)
        return out

    def _sees_room(self, at: Points) -> NDArray[np.bool_]:
        found = np.zeros(len(at), bool)
        for room in self.rooms:
            way = room - at
            far = np.linalg.norm(way, axis=1)
            rows = np.flatnonzero((far < ROOM) & (far > 0) & ~found)
            start = (at[rows] - self.rays.middle).astype(np.float32)
            unit = (way[rows] / far[rows, None]).astype(np.float32)
            found[rows] = ~self.rays.blocked(start, unit, far[rows].astype(np.float32))
        return found


def _even(count: int) -> Points:
    """(count, 3) directions spread evenly over the upper half of a sphere (Fibonacci lattice), from the zenith down."""
    k = np.arange(count) + 0.5
    z, turn = 1 - k / count, k * np.pi * (3 - np.sqrt(5))
    level = np.sqrt(1 - z * z)
    return np.stack([level * np.cos(turn), level * np.sin(turn), z], 1)


def _across(normal: Points) -> tuple[Points, Points]:
    """Two axes (N, 3) at right angles to normals and to each other."""
    aside = np.where(np.abs(normal[:, 2:]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]])
    u = np.cross(aside, normal)
    u /= np.maximum(np.linalg.norm(u, axis=1, keepdims=True), NO_LENGTH)
    return u, np.cross(normal, u)


@dataclass
class _Pieces:
    """Pieces of outlines, in order round each: ``ring`` (M,) numbers the outline, ``a``, ``b`` (M, 2) are the ends."""

    ring: NDArray[np.int64]
    a: Points
    b: Points

    @property
    def middle(self) -> Points:
        return (self.a + self.b) / 2

    @property
    def length(self) -> Points:
        return np.linalg.norm(self.b - self.a, axis=1)

    @property
    def normal(self) -> Points:
        """(M, 2) outward: the body lies at the left."""
        way = (self.b - self.a) / np.maximum(self.length, NO_LENGTH)[:, None]
        return np.stack([way[:, 1], -way[:, 0]], 1)


def _pieces(shape: shapely.Geometry, *others: shapely.Geometry) -> _Pieces:
    """The outlines of a shape in pieces, cut where the outlines of others meet it."""
    rings: list[NDArray[np.int64]] = []
    first: list[Points] = []
    second: list[Points] = []
    for polygon in shapely.get_parts(shapely.orient_polygons(shape)):
        for ring in (polygon.exterior, *polygon.interiors):
            xy = np.asarray(ring.coords)[:, :2]
            rings.append(np.full(len(xy) - 1, len(rings)))
            first.append(xy[:-1])
            second.append(xy[1:])
    ring, a, b = np.concatenate([np.empty(0, np.int64), *rings]), _stacked(first), _stacked(second)
    long = np.linalg.norm(b - a, axis=1)
    cuts: list[list[float]] = [[] for _ in range(len(a))]
    borders = [_segments(other.boundary) for other in others if not other.is_empty]
    if len(a) and borders:
        # Side by side, and not each side with all that there is.
        border, edges = np.concatenate(borders), shapely.linestrings(np.stack([a, b], 1))
        one, two = shapely.STRtree(edges).query(border, predicate="intersects")
        points, of = shapely.get_coordinates(shapely.intersection(edges[two], border[one]), return_index=True)
        edge = two[of]
        at = ((points - a[edge]) * (b - a)[edge]).sum(1) / np.maximum(long[edge], NO_LENGTH) ** 2
        for k, t in zip(edge, at, strict=True):
            if 1e-4 < t * long[k] < long[k] - 1e-4:
                cuts[k].append(float(t))
    rows, begins, ends = [], [], []
    for k, own in enumerate(cuts):
        stops = [0.0, *sorted(own), 1.0]
        step = (FINE if long[k] < 1.0 else COARSE) / max(long[k], 1e-9)
        for t, u in pairwise(stops):
            share = np.linspace(t, u, max(int(np.ceil((u - t) / step)), 1) + 1)
            rows += [ring[k]] * (len(share) - 1)
            begins.append(a[k] + share[:-1, None] * (b[k] - a[k]))
            ends.append(a[k] + share[1:, None] * (b[k] - a[k]))
    return _Pieces(np.array(rows, np.int64), _stacked(begins), _stacked(ends))


def _segments(lines: shapely.Geometry) -> NDArray[np.object_]:
    """The straights of lines, each as a line of its own."""
    xy, of = shapely.get_coordinates(shapely.get_parts(lines), return_index=True)
    rows = np.flatnonzero(of[1:] == of[:-1])
    return np.asarray(shapely.linestrings(np.stack([xy[rows], xy[rows + 1]], 1)))


def _stacked(rows: Sequence[Points]) -> Points:
    return np.concatenate([np.empty((0, 2)), *rows])


def _lifted(surface: CutSurface, at: Points) -> Points:
    """(N, 3) metres of places in a surface's axes, each on the step that it lies on."""
    out = surface.slabs[0].frame.lifted(at)
    for slab in surface.slabs[1:]:
        there = slab.frame.lifted(at)
        rows = np.all([w.side(there) <= 1e-9 for w in slab.walls], axis=0) if slab.walls else np.ones(len(at), bool)
        out[rows] = there[rows]
    return out


def _turned(slab: Slab, flat: Points) -> Points:
    """(N, 3) directions of a plane's directions."""
    return flat[:, :1] * slab.frame.u + flat[:, 1:] * slab.frame.v


def _closed_up(shapes: dict[int, shapely.Geometry]) -> tuple[shapely.Geometry, dict[int, shapely.Geometry]]:
    """All as one, gaps of a few millimetres shut, and each with its share of them."""
    union = shapely.union_all(list(shapes.values()), grid_size=GRID)
    half = SHUT / 2
    whole = shapely.buffer(shapely.buffer(union, half, join_style="mitre"), -half, join_style="mitre")
    whole = polygonal(shapely.simplify(shapely.union(whole, union, grid_size=GRID), 1e-4))
    left = polygonal(shapely.difference(whole, union, grid_size=GRID))
    if left.is_empty:
        return whole, shapes
    gaps, parts = shapely.get_parts(left), list(shapes)
    _, near = shapely.STRtree([shapes[p] for p in parts]).query_nearest(
        shapely.point_on_surface(gaps), all_matches=False
    )
    out = dict(shapes)
    for k in np.unique(near):
        out[parts[k]] = polygonal(shapely.union_all([shapes[parts[k]], *gaps[near == k]], grid_size=GRID))
    return whole, out


def envelope_of(
    earthen: NDArray[np.bool_],
    surface: CutSurface,
    rows: Sequence[CutRegion],
    said: dict[int, Outer],
    open_air: Open,
    ground: shapely.Geometry,
    progress: Progress = silent,
) -> Envelope:
    """The envelope that a surface cuts, of its settled regions ``rows``.
    ``said`` is, for each part with a build-up, what says which side is its outer one; ``earthen`` (P,) are the parts
    that are earth, ``ground`` is earth that the model has not.
    """
    plane = rows[0].plane
    whole, shapes = _closed_up({r.part: r.region for r in rows if r.part in said})
    others = [r for r in rows if r.part not in said]
    earth = shapely.union_all([ground, *(r.region for r in others if earthen[r.part])])
    solid = shapely.union_all([r.region for r in others if not earthen[r.part]])
    touching = shapely.buffer(shapely.union_all([earth, solid]), TOUCH, join_style="mitre")
    pieces = _pieces(whole, touching, *(shapes[p] for p in shapes if said[p] != "auto"))
    if not len(pieces.ring):
        return Envelope(plane, shapes, ())
    side = _asked(pieces, np.arange(len(pieces.ring)), surface, earth, solid, open_air, progress)
    pieces, side = _refined(pieces, side, surface, earth, solid, open_air)
    side = _settled(pieces, side)
    part = _part_of(pieces, shapes)
    owner = {p: said[p] for p in shapes}
    turned = np.isin(part, [p for p, how in owner.items() if how == "turned"])
    side = np.where(turned, -side, side)
    directed = [p for p, how in owner.items() if how in _SAID]
    end = np.isin(part, directed)
    for p in directed:
        mine = part == p
        lean = _turned(surface.slabs[0], pieces.normal) @ _SAID[owner[p]]
        side[mine & (np.abs(lean) >= TURN)] = NEITHER
    runs = _runs(pieces, side, end, _slants(pieces, surface, open_air))
    for p in directed:
        runs += _said_runs(surface, shapes, p, _SAID[owner[p]], solid, open_air)
    return Envelope(plane, shapes, tuple(runs))


def _asked(
    pieces: _Pieces,
    rows: NDArray[np.int64],
    surface: CutSurface,
    earth: shapely.Geometry,
    solid: shapely.Geometry,
    open_air: Open,
    progress: Progress = silent,
) -> NDArray[np.int8]:
    """The sides of the pieces in ``rows``."""
    middle, normal = pieces.middle[rows], pieces.normal[rows]
    beside = middle + TOUCH / 2 * normal
    out = np.full(len(rows), NEITHER, np.int8)
    in_earth, in_solid = _within(earth, beside), _within(solid, beside)
    out[in_earth & ~in_solid] = OUTER
    free = np.flatnonzero(~in_earth & ~in_solid)
    at = _lifted(surface, middle[free] + BEFORE * normal[free])
    out[free] = open_air.faces_out(at, _turned(surface.slabs[0], normal[free]), progress)
    return out


def _within(shape: shapely.Geometry, at: Points) -> NDArray[np.bool_]:
    if shape.is_empty:
        return np.zeros(len(at), bool)
    near = shapely.buffer(shape, TOUCH, join_style="mitre")
    shapely.prepare(near)
    return np.asarray(shapely.contains_xy(near, at))


def _refined(
    pieces: _Pieces,
    side: NDArray[np.int8],
    surface: CutSurface,
    earth: shapely.Geometry,
    solid: shapely.Geometry,
    open_air: Open,
) -> tuple[_Pieces, NDArray[np.int8]]:
    """Where outside turns to inside in the midst of a long side, its pieces are asked again in finer ones."""
    after = np.roll(side, -1)
    same = pieces.ring == np.roll(pieces.ring, -1)
    turn = same & (side * after < 0)
    coarse = np.flatnonzero((turn | np.roll(turn, 1)) & (pieces.length > 2 * FINE))
    if not len(coarse):
        return pieces, side
    count = np.ones(len(side), np.int64)
    count[coarse] = np.ceil(pieces.length[coarse] / FINE).astype(np.int64)
    row, number = row_of(count), ordinals(count)
    step = (pieces.b - pieces.a)[row] / count[row, None]
    a = pieces.a[row] + number[:, None] * step
    fine = _Pieces(pieces.ring[row], a, a + step)
    out, again = side[row].copy(), np.flatnonzero(count[row] > 1)
    out[again] = _asked(fine, again, surface, earth, solid, open_air)
    return fine, out


def _stretches(ring: NDArray[np.int64], side: NDArray[np.int8]) -> list[NDArray[np.int64]]:
    """The pieces in stretches of one side, in order round each outline."""
    found = []
    for rows in _rings(ring):
        breaks = np.flatnonzero(np.diff(side[rows])) + 1
        parts = np.split(rows, breaks)
        if len(parts) > 1 and side[rows[0]] == side[rows[-1]]:
            parts = [np.concatenate([parts[-1], parts[0]]), *parts[1:-1]]
        found += parts
    return found


def _rings(ring: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """The pieces of each outline; they stand outline by outline."""
    return np.split(np.arange(len(ring)), np.flatnonzero(np.diff(ring)) + 1) if len(ring) else []


def _settled(pieces: _Pieces, side: NDArray[np.int8]) -> NDArray[np.int8]:
    """Sides without noise: short stretches become what lies round them, and what touches a face does not break it."""
    side, length = side.copy(), pieces.length

    def mended(own: list[NDArray[np.int64]]) -> bool:
        for k, rows in enumerate(own):
            before, after, here = side[own[k - 1][0]], side[own[(k + 1) % len(own)][0]], side[rows[0]]
            if before != after or before in (here, NEITHER):
                continue
            behind = BEHIND if before == OUTER else BEHIND_INSIDE
            if length[rows].sum() < (behind if here == NEITHER else NOISE):
                side[rows] = before
                return True
        return False

    for rows in _rings(pieces.ring):
        # What is mended joins its neighbours, which are longer then: one after another.
        for _ in range(len(rows)):
            own = [rows[s] for s in _stretches(np.zeros(len(rows), np.int64), side[rows])]
            if len(own) < 2 or not mended(own):
                break
    return side


def _part_of(pieces: _Pieces, shapes: dict[int, shapely.Geometry]) -> NDArray[np.int64]:
    """(M,) the part that each piece is the outline of."""
    parts = list(shapes)
    inside = shapely.points(pieces.middle - 0.001 * pieces.normal)
    _, near = shapely.STRtree([shapes[p] for p in parts]).query_nearest(inside, all_matches=False)
    return np.array(parts, np.int64)[near]


def _slants(pieces: _Pieces, surface: CutSurface, open_air: Open) -> Points:
    """(M,) of the pieces, as :class:`Run` has them."""
    out = _turned(surface.slabs[0], pieces.normal)
    at = _lifted(surface, pieces.middle + BEFORE * pieces.normal)
    cut = np.broadcast_to(surface.normal, at.shape)
    # A hair off a face's own edges, so that a ray between two triangles meets one of them.
    return open_air.slants(at + 1e-5 * cut, -out, cut)


def _runs(pieces: _Pieces, side: NDArray[np.int8], end: NDArray[np.bool_], slant: Points) -> list[Run]:
    """Stretches of one side as lines."""
    out = []
    code = side * 2 + np.where(end & (side == OUTER), 1, 0)
    for rows in _stretches(pieces.ring, code.astype(np.int8)):
        if side[rows[0]] != NEITHER:
            line = np.concatenate([pieces.a[rows], pieces.b[rows[-1:]]])
            out.append(Run(*_plain(line, slant[rows]), int(side[rows[0]]), end=bool(code[rows[0]] == 3)))
    return out


def _plain(line: Points, slant: Points) -> tuple[Points, Points]:
    """A line without points on its straights."""
    way = np.diff(line, axis=0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), NO_LENGTH)
    bends = np.abs(way[:-1, 0] * way[1:, 1] - way[:-1, 1] * way[1:, 0]) > 1e-5
    bends |= (way[:-1] * way[1:]).sum(1) < 0
    stays = np.concatenate([[True], bends | (np.abs(np.diff(slant)) > ALIKE), [True]])
    return line[stays], np.minimum.reduceat(slant, np.flatnonzero(stays[:-1]))


def _said_runs(
    surface: CutSurface,
    shapes: dict[int, shapely.Geometry],
    part: int,
    way: Points,
    solid: shapely.Geometry,
    open_air: Open,
) -> list[Run]:
    """The sides of a part by a direction that was said by hand."""
    others = shapely.union_all([solid, *(s for p, s in shapes.items() if p != part)])
    pieces = _pieces(shapes[part], shapely.buffer(others, TOUCH, join_style="mitre"))
    lean = _turned(surface.slabs[0], pieces.normal) @ way
    side = np.where(lean >= TURN, OUTER, np.where(lean <= -TURN, INNER, NEITHER)).astype(np.int8)
    side[_within(others, pieces.middle + TOUCH / 2 * pieces.normal)] = NEITHER
    side = _settled(pieces, side)
    rows = _runs(pieces, side, np.zeros(len(side), bool), _slants(pieces, surface, open_air))
    return [Run(r.line, r.slant, r.side, part) for r in rows]
