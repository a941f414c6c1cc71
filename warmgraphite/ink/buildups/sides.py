"""Which side of what is cut faces outside: told by the sky, by rooms, by the earth, or said by hand.

The parts of an envelope are taken as one shape. Along its outline, places are asked in the whole model, and not in the
half that the cut leaves: how much sky a place sees, itself or at one remove, as a soffit does that looks onto bright
ground. What touches earth faces outside; what sees the middle of a room faces inside, unless it stands in the open.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import ordinals, row_of
from warmgraphite.geometry.tolerances import HAIR, NO_LENGTH, ROUNDING
from warmgraphite.ink.buildups.open_sides import (
    BEFORE,
    BEHIND,
    BEHIND_INSIDE,
    COARSE,
    FINE,
    INNER,
    NEITHER,
    NOISE,
    OUTER,
    SHUT,
    TOUCH,
    TURN,
    Open,
    Points,
    SidePieces,
    asked_sides,
    lies_within,
    lifted,
    turned_about,
)
from warmgraphite.passes.cut import GRID, polygonal
from warmgraphite.view.surfaces import CutSurface

__all__ = [
    "ALIKE",
    "Run",
    "closed_up",
    "part_of",
    "refined",
    "runs_along",
    "said_runs",
    "settled_sides",
    "side_pieces",
    "slants",
]

#: Sine by which an outline may bend and still go straight on.
STRAIGHT = 1e-5

#: Metres past a cut at which one asks what is behind it.
WITHIN = 1e-5


#: Slants that differ by no more are one.
ALIKE = 1e-4

SAID: dict[str, Points] = {
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


def side_pieces(shape: shapely.Geometry, *others: shapely.Geometry) -> SidePieces:
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
            if HAIR < t * long[k] < long[k] - HAIR:
                cuts[k].append(float(t))
    rows, begins, ends = [], [], []
    for k, own in enumerate(cuts):
        stops = [0.0, *sorted(own), 1.0]
        step = (FINE if long[k] < 1.0 else COARSE) / max(long[k], ROUNDING)
        for t, u in pairwise(stops):
            share = np.linspace(t, u, max(int(np.ceil((u - t) / step)), 1) + 1)
            rows += [ring[k]] * (len(share) - 1)
            begins.append(a[k] + share[:-1, None] * (b[k] - a[k]))
            ends.append(a[k] + share[1:, None] * (b[k] - a[k]))
    return SidePieces(np.array(rows, np.int64), _stacked(begins), _stacked(ends))


def _segments(lines: shapely.Geometry) -> NDArray[np.object_]:
    """The straights of lines, each as a line of its own."""
    xy, of = shapely.get_coordinates(shapely.get_parts(lines), return_index=True)
    rows = np.flatnonzero(of[1:] == of[:-1])
    return np.asarray(shapely.linestrings(np.stack([xy[rows], xy[rows + 1]], 1)))


def _stacked(rows: Sequence[Points]) -> Points:
    return np.concatenate([np.empty((0, 2)), *rows])


def closed_up(shapes: dict[int, shapely.Geometry]) -> tuple[shapely.Geometry, dict[int, shapely.Geometry]]:
    """All as one, gaps of a few millimetres shut, and each with its share of them."""
    union = shapely.union_all(list(shapes.values()), grid_size=GRID)
    half = SHUT / 2
    whole = shapely.buffer(shapely.buffer(union, half, join_style="mitre"), -half, join_style="mitre")
    whole = polygonal(shapely.simplify(shapely.union(whole, union, grid_size=GRID), HAIR))
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


def refined(
    pieces: SidePieces,
    side: NDArray[np.int8],
    surface: CutSurface,
    earth: shapely.Geometry,
    solid: shapely.Geometry,
    open_air: Open,
) -> tuple[SidePieces, NDArray[np.int8]]:
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
    fine = SidePieces(pieces.ring[row], a, a + step)
    out, again = side[row].copy(), np.flatnonzero(count[row] > 1)
    out[again] = asked_sides(fine, again, surface, earth, solid, open_air)
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


def settled_sides(pieces: SidePieces, side: NDArray[np.int8]) -> NDArray[np.int8]:
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


def part_of(pieces: SidePieces, shapes: dict[int, shapely.Geometry]) -> NDArray[np.int64]:
    """(M,) the part that each piece is the outline of."""
    parts = list(shapes)
    inside = shapely.points(pieces.middle - 0.001 * pieces.normal)
    _, near = shapely.STRtree([shapes[p] for p in parts]).query_nearest(inside, all_matches=False)
    return np.array(parts, np.int64)[near]


def slants(pieces: SidePieces, surface: CutSurface, open_air: Open) -> Points:
    """(M,) of the pieces, as :class:`Run` has them."""
    out = turned_about(surface.slabs[0], pieces.normal)
    at = lifted(surface, pieces.middle + BEFORE * pieces.normal)
    cut = np.broadcast_to(surface.normal, at.shape)
    # A hair off a face's own edges, so that a ray between two triangles meets one of them.
    return open_air.slants(at + WITHIN * cut, -out, cut)


def runs_along(pieces: SidePieces, side: NDArray[np.int8], end: NDArray[np.bool_], slant: Points) -> list[Run]:
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
    bends = np.abs(way[:-1, 0] * way[1:, 1] - way[:-1, 1] * way[1:, 0]) > STRAIGHT
    bends |= (way[:-1] * way[1:]).sum(1) < 0
    stays = np.concatenate([[True], bends | (np.abs(np.diff(slant)) > ALIKE), [True]])
    return line[stays], np.minimum.reduceat(slant, np.flatnonzero(stays[:-1]))


def said_runs(
    surface: CutSurface,
    shapes: dict[int, shapely.Geometry],
    part: int,
    way: Points,
    solid: shapely.Geometry,
    open_air: Open,
) -> list[Run]:
    """The sides of a part by a direction that was said by hand."""
    others = shapely.union_all([solid, *(s for p, s in shapes.items() if p != part)])
    pieces = side_pieces(shapes[part], shapely.buffer(others, TOUCH, join_style="mitre"))
    lean = turned_about(surface.slabs[0], pieces.normal) @ way
    side = np.where(lean >= TURN, OUTER, np.where(lean <= -TURN, INNER, NEITHER)).astype(np.int8)
    side[lies_within(others, pieces.middle + TOUCH / 2 * pieces.normal)] = NEITHER
    side = settled_sides(pieces, side)
    rows = runs_along(pieces, side, np.zeros(len(side), bool), slants(pieces, surface, open_air))
    return [Run(r.line, r.slant, r.side, part) for r in rows]
