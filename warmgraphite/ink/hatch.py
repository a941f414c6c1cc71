"""Hatching: the marks of a pattern within outlines on the paper, as the pattern lies on the paper or on a plane seen.

Lines are cut in the coordinates of the plane that they lie in, where they are level and evenly apart, and only their
ends are projected: what is straight there is straight on the paper, and ends exactly on the outline.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy import ndimage

from warmgraphite.geometry.ragged import firsts, firsts_of, joined, ordinals, row_of
from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.kernels import courses, within
from warmgraphite.ink.kernels.strewing import evenly_strewn
from warmgraphite.ink.pattern import Course, Mark, Pattern, Scatter, Tile
from warmgraphite.memory import remembered
from warmgraphite.noise.hashing import hashed, unit_share
from warmgraphite.noise.value import value_over

__all__ = [
    "Lie",
    "Marks",
    "Rings",
    "ToneField",
    "cover_share",
    "hatched",
    "joined_marks",
    "on_paper",
    "strokes_of",
    "unrolled_marks",
]

Points = NDArray[np.float64]

#: How many places a tile of strewn marks has.
STREWN = 2048
#: Lines, or strewn marks, of one hatch on one face; more are no hatch, and are thinned.
MOST = 400_000
#: Millimetres of paper from crest to crest below which a wave is none.
FINEST = 0.3
#: Cells along the longer side of a shape in which one tells roughly what lies near it.
CELLS = 240
#: A dot is so many times as wide as a line.
DOT = 2.0
#: Millimetres that ink may go beyond its region.
BEYOND = 0.04


@dataclass(frozen=True)
class Rings:
    """Closed outlines and holes: points (V, 2), of ring r those from ``first[r]`` to ``first[r + 1]``.
    What lies within is told by even-odd.
    """

    points: Points
    first: NDArray[np.int64]

    @staticmethod
    def of(rings: Iterable[Points]) -> Rings:
        rows = [np.asarray(r, np.float64)[:, :2] for r in rings]
        return Rings(
            *joined(rows, np.empty((0, 2))),
        )

    def under(self, matrix: NDArray) -> Points:
        """The points under a 3×3 collineation."""
        moved = self.points @ matrix[:, :2].T + matrix[:, 2]
        return np.ascontiguousarray(moved[:, :2] / moved[:, 2:])


@dataclass(frozen=True)
class Lie:
    """How a pattern lies: ``matrix`` takes (along its level, up, 1) to homogeneous frame millimetres.
    On the ``paper`` its unit is the millimetre and lines are as close as they are asked to be; else it is the metre.
    """

    matrix: Points
    paper: bool


@dataclass(frozen=True)
class ToneField:
    """A tone over the frame: (h, w) 255 times how dark it is, ``per_mm`` pixels to a millimetre down and across."""

    tone: NDArray[np.uint8]
    per_mm: tuple[float, float]


_NO_FIELD = ToneField(np.zeros((0, 0), np.uint8), (1.0, 1.0))


@dataclass(frozen=True)
class Marks:
    """Marks (S) on paper: polylines ``xy`` (V, 2) in frame millimetres, of mark s those from ``first[s]`` to ``first[s
    + 1]``; ``weight`` (S,) is in shares of the hatch's; ``dot`` (S,) whether one is a dot, which has one point.
    """

    xy: Points
    first: NDArray[np.int64]
    weight: NDArray[np.float64]
    dot: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.weight)


def joined_marks(rows: list[Marks]) -> Marks:
    """All marks as one."""
    rows = [r for r in rows if len(r)]
    counts = np.concatenate([np.diff(r.first) for r in rows]) if rows else np.empty(0, np.int64)
    return Marks(
        np.concatenate([np.empty((0, 2)), *(r.xy for r in rows)]),
        firsts(counts),
        np.concatenate([np.empty(0), *(r.weight for r in rows)]),
        np.concatenate([np.empty(0, bool), *(r.dot for r in rows)]),
    )


def strokes_of(ends: Points, weight: float) -> Marks:
    """Straight marks from their ends (M, 4)."""
    count = len(ends)
    return Marks(
        ends.reshape(-1, 2), 2 * np.arange(count + 1, dtype=np.int64), np.full(count, weight), np.zeros(count, bool)
    )


def on_paper(middle: tuple[float, float]) -> Lie:
    """The paper itself; places count from the middle of the drawing, which stays where it is when the paper is drawn
    out.
    """
    return Lie(np.array([[1.0, 0.0, middle[0]], [0.0, -1.0, middle[1]], [0.0, 0.0, 1.0]]), True)


def _turned(degrees: float) -> Points:
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def spacing_of(hatch: Hatch, pattern: Pattern, paper: bool) -> float:
    """Millimetres or metres between the lines of a pattern's usual course."""
    usual = pattern.spacing if paper else pattern.metres
    return (usual if hatch.spacing is None else hatch.spacing) * hatch.scale


def _sizes(matrix: Points, at: Points, along: float, across: float) -> tuple[Points, Points]:
    """(N,) at places of the plane.
    Millimetres of paper between lines ``across`` apart, and of a step ``along`` them.
    """

    def flat(points: Points) -> Points:
        moved = points @ matrix[:, :2].T + matrix[:, 2]
        return moved[:, :2] / moved[:, 2:]

    here, there, over = flat(at), flat(at + np.array([along, 0.0])), flat(at + np.array([0.0, across]))
    way, side = there - here, over - here
    size = np.maximum(np.linalg.norm(way, axis=1), NO_LENGTH)
    return np.abs(way[:, 0] * side[:, 1] - way[:, 1] * side[:, 0]) / size, size


@dataclass(frozen=True)
class Place:
    """One thing that is hatched: its ``rings``, how the pattern lies in it, and what is there.
    ``key`` is what disorder is made of, ``dark`` how dark it is, ``drop`` by how many halvings marks are thinned.
    """

    rings: Rings
    lie: Lie
    key: int = 1
    dark: float = 0.0
    drop: int = 0
    #: Width and height of the paper: outlines beyond it are where the paper ends.
    paper: tuple[float, float] = (np.inf, np.inf)
    #: Whether what is filled is seen from above, so that no side of it is its underside.
    level: bool = False


@dataclass(frozen=True)
class _Asked:
    """What is asked of each kind of mark; ``unit`` is the spacing."""

    hatch: Hatch
    place: Place
    unit: float
    middle: tuple[float, float]
    field: ToneField

    @property
    def rings(self) -> Rings:
        return self.place.rings

    @property
    def lie(self) -> Lie:
        return self.place.lie

    @property
    def dark(self) -> float:
        return self.place.dark

    @property
    def least(self) -> float:
        return 0.0 if self.lie.paper else self.hatch.least


def hatched(
    rings: Rings, lie: Lie, hatch: Hatch, middle: tuple[float, float], *, key: int = 1, field: ToneField | None = None,
    paper: tuple[float, float] = (np.inf, np.inf), level: bool = False,
) -> Marks:  # fmt: skip
    """The marks of a hatch within ``rings``.
    ``key`` is what its disorder is made of, ``middle`` the middle of the drawing, ``paper`` its width and height.
    """
    return hatched_places([Place(rings, lie, key, paper=paper, level=level)], hatch, middle, field)[0]


def hatched_places(
    places: Sequence[Place], hatch: Hatch, middle: tuple[float, float], field: ToneField | None = None
) -> tuple[Marks, NDArray[np.int32]]:
    """The marks of a hatch in several places, none of them empty, which all lie on the paper or all do not, and the
    place of each mark (S,).
    """
    pattern = hatch.drawn
    if not places or not len(places[0].rings.points):
        return joined_marks([]), np.empty(0, np.int32)
    unit = spacing_of(hatch, pattern, places[0].lie.paper)
    tone = field or _NO_FIELD
    rows, owner = [], []
    for number, course in enumerate(pattern.courses):
        marks, of = _course(places, hatch, unit, course, number, middle, tone)
        rows.append(marks)
        owner.append(of)
    if pattern.scatters or pattern.tile is not None or pattern.across is not None:
        for number, place in enumerate(places):
            asked = _Asked(hatch, place, unit, middle, tone)
            found = [_strewn(asked, scatter) for scatter in pattern.scatters]
            found += [_tiled(asked, pattern.tile)] if pattern.tile is not None else []
            found += [_across(asked, pattern.across)] if pattern.across is not None else []
            rows.append(joined_marks(found))
            owner.append(np.full(len(rows[-1]), number, np.int32))
    return joined_marks(rows), np.concatenate([np.empty(0, np.int32), *owner])


def _course(
    places: Sequence[Place],
    hatch: Hatch,
    unit: float,
    course: Course,
    number: int,
    middle: tuple[float, float],
    field: ToneField,
) -> tuple[Marks, NDArray[np.int32]]:
    """The lines of a course in all places at once."""
    papers = np.stack([p.lie.matrix for p in places]) @ _turned(hatch.angle + course.angle)
    points = np.concatenate([p.rings.points for p in places])
    counts = np.concatenate([np.diff(p.rings.first) for p in places])
    first = firsts(counts)
    groups = firsts([len(p.rings.first) - 1 for p in places])
    asked = courses.Groups(
        papers,
        np.asarray(np.linalg.inv(papers), np.float64),
        np.array([p.drop for p in places], np.int64),
        np.array([p.dark for p in places], float),
        np.array([p.key + 1000 * number for p in places], np.uint64),
    )
    least = 0.0 if places[0].lie.paper else float(hatch.least)
    spacing = courses.Spacing(
        float(course.step * unit), float(course.at * unit), float(unit), least, float(hatch.disorder)
    )
    outlines = courses.Outlines(points, first, groups)
    group, line, along, levels, joined = courses.course_crossings(outlines, asked, spacing, MOST / 20)
    order = np.lexsort((along, line, group))
    rows = courses.Rows(*courses.course_rows(group[order], line[order], along[order], joined))
    marks = np.array(course.marks, float) * unit
    dashes = courses.Dashes(marks, float(course.along * unit), float(course.slip * unit), float(course.loose))
    (x, y), (per_x, per_y) = middle, field.per_mm
    look = courses.Look(
        float(hatch.suggested), float(x), float(y), field.tone, float(per_x), float(per_y), int(hatch.steps)
    )
    found, of = courses.course_marks(rows, asked, levels, spacing, dashes, look)
    return strokes_of(found, course.weight), of.astype(np.int32)


@remembered("patterns")
def _evenly(seed: int) -> Points:
    return np.asarray(evenly_strewn(STREWN, 17 + seed))


def _strewn(asked: _Asked, scatter: Scatter) -> Marks:
    """Marks without order: the beginning of an even order as long as is wanted there, tile by tile."""
    hatch, apart = asked.hatch, scatter.apart * asked.unit
    matrix = asked.lie.matrix @ _turned(hatch.angle)
    points = asked.rings.under(np.linalg.inv(matrix))
    side = np.sqrt(STREWN) * apart
    _, size = _sizes(matrix, points, apart, apart)
    most = float(size.max(initial=0.0))
    share = 0.5**asked.place.drop * (min(1.0, (most / asked.least) ** 2) if asked.least else 1.0)
    low, high = np.floor(points.min(0) / side).astype(int), np.floor(points.max(0) / side).astype(int)
    tiles = int(np.prod(high - low + 1))
    share = min(share, MOST / tiles / STREWN)
    count = int(STREWN * share)
    if not count:
        return joined_marks([])
    i, j, n = (
        g.ravel()
        for g in np.meshgrid(
            np.arange(low[0], high[0] + 1), np.arange(low[1], high[1] + 1), np.arange(count), indexing="ij"
        )
    )
    place = (_evenly(scatter.seed)[n] + np.stack([i, j], 1)) * side
    margin = 1.5 * apart
    near = _is_near(points, asked.rings.first, place, margin)
    i, j, n, place = i[near], j[near], n[near], place[near]
    flat = place @ matrix[:, :2].T + matrix[:, 2]
    ahead = flat[:, 2] * (points[0] @ matrix[2, :2] + matrix[2, 2]) > 0  # on this side of the plane's horizon
    i, j, n, place, flat = i[ahead], j[ahead], n[ahead], place[ahead], flat[ahead]
    xy = np.ascontiguousarray(flat[:, :2] / flat[:, 2:])
    number = hashed(i, j, n, np.full(len(n), scatter.seed))
    rank = (n + unit_share(number ^ np.uint64(5))) / STREWN
    kept = np.ones(len(n), bool)
    if asked.least and len(place):
        _, here = _sizes(matrix, place, apart, apart)
        kept &= rank < (here / asked.least) ** 2
    if scatter.sinks:
        depth = within.depth_within(asked.rings.points, asked.rings.first, xy, *asked.place.paper, asked.place.level)
        kept &= rank < np.exp(-np.maximum(depth - 0.6, 0.0) / scatter.sinks)
    if len(asked.field.tone):
        kept &= rank < _tone_at(asked.field, xy) ** 1.3
    if hatch.suggested:
        patch = _patch(asked, xy)
        kept &= patch + 0.45 * asked.dark >= 1.12 * hatch.suggested * (0.6 + 0.4 * unit_share(number ^ np.uint64(9)))
    return _marks_at(asked, scatter, place[kept], xy[kept], number[kept], matrix)


def _patch(asked: _Asked, xy: Points) -> Points:
    """(N,) from 0 to 1: where a pattern is drawn out that is only suggested, at places of the paper, counted from what
    stays when that is drawn out; as in the loops over courses.
    """
    u, v = ((xy - asked.middle) / courses.PATCH).T
    return 0.5 + 0.5 * value_over(asked.place.key, u, v)


def _is_near(points: Points, first: NDArray[np.int64], place: Points, margin: float) -> NDArray[np.bool_]:
    """(N,) whether places lie within outlines, or about ``margin`` from them.
    Told in coarse cells, so that of a long thin shape not all that lies round it is looked at.
    """
    low, high = points.min(0) - margin, points.max(0) + margin
    near = ((place >= low) & (place <= high)).all(1)
    cell = max(margin, float((high - low).max()) / CELLS)
    size = np.ceil((high - low) / cell).astype(int) + 2
    inside = np.zeros(size[::-1], bool)
    edges = np.zeros_like(inside)
    for a, b in itertools.pairwise(first):
        image = Image.new("1", (int(size[0]), int(size[1])))
        ImageDraw.Draw(image).polygon([tuple(p) for p in ((points[a:b] - low) / cell + 1).tolist()], fill=1, outline=1)
        inside ^= np.asarray(image, bool)
        # Outlines count as within, whichever way the halves of two rings fall out.
        step = np.abs(np.diff(points[a:b], axis=0, append=points[a : a + 1])).max(1)
        count = np.maximum(np.ceil(2 * step / cell), 1).astype(int)
        k = row_of(count)
        share = ordinals(count) / count[k]
        edge = points[a:b][k] + share[:, None] * (np.roll(points[a:b], -1, 0) - points[a:b])[k]
        x, y = ((edge - low) / cell + 1).astype(int).T
        edges[y, x] = True
    inside = ndimage.binary_dilation(inside | edges, iterations=int(np.ceil(margin / cell)) + 1)
    rows = np.flatnonzero(near)
    x, y = ((place[rows] - low) / cell + 1).astype(int).T
    near[rows] = inside[y, x]
    return near


def _tone_at(field: ToneField, xy: Points) -> Points:
    j, i = (xy * [field.per_mm[0], field.per_mm[1]]).astype(int).T
    rows, columns = field.tone.shape
    return field.tone[np.clip(i, 0, rows - 1), np.clip(j, 0, columns - 1)] / 255.0


def _marks_at(
    asked: _Asked, scatter: Scatter, place: Points, xy: Points, number: NDArray[np.uint64], matrix: Points
) -> Marks:
    """Marks at places of the plane, turned and sized by their number, and cut at the outlines."""
    hatch, rows = asked.hatch, []
    which = (number % np.uint64(len(scatter.marks))).astype(int)
    size = asked.unit * (1 + scatter.vary * (2 * unit_share(number ^ np.uint64(21)) - 1))
    turn = np.radians(scatter.turn) * (2 * unit_share(number ^ np.uint64(33)) - 1)
    shift = hatch.disorder * 0.5 * asked.unit * np.stack([unit_share(number ^ np.uint64(k)) - 0.5 for k in (41, 43)], 1)
    for k, mark in enumerate(scatter.marks):
        chosen = np.flatnonzero(which == k)
        rows.append(
            _laid(asked, mark, place[chosen] + shift[chosen], size[chosen], turn[chosen], matrix, scatter.weight)
        )
    return joined_marks(rows)


def _laid(asked: _Asked, mark: Mark, place: Points, size: Points, turn: Points, matrix: Points, weight: float) -> Marks:
    """One mark at places (N, 2) of the plane, each of its own size and turned its own way."""
    if not len(place):
        return joined_marks([])
    rings, shape = asked.rings, np.array(mark)
    c, s = (np.cos(turn) * size)[:, None], (np.sin(turn) * size)[:, None]
    points = np.stack(
        [place[:, :1] + c * shape[:, 0] - s * shape[:, 1], place[:, 1:] + s * shape[:, 0] + c * shape[:, 1]], 2
    )
    flat = points.reshape(-1, 2) @ matrix[:, :2].T + matrix[:, 2]
    xy = np.ascontiguousarray(flat[:, :2] / flat[:, 2:])
    if len(shape) == 1:
        reach = np.full(len(xy), max(0.5 * DOT * asked.hatch.weight * weight - BEYOND, 0.0))
        xy = xy[within.kept_points(rings.points, rings.first, xy, reach)]
        count = len(xy)
        return Marks(xy, np.arange(count + 1, dtype=np.int64), np.full(count, weight), np.ones(count, bool))
    begins = np.arange(len(place) + 1, dtype=np.int64) * len(shape)
    return _cut(rings, xy, begins, weight)


def _cut(rings: Rings, xy: Points, begins: NDArray[np.int64], weight: float) -> Marks:
    """Polylines cut at outlines, but for specks."""
    xy, first, _ = within.clipped(rings.points, rings.first, np.ascontiguousarray(xy), begins)
    count = len(first) - 1
    return Marks(xy, first, np.full(count, weight), np.zeros(count, bool))


def _tiled(asked: _Asked, tile: Tile) -> Marks:
    hatch, unit = asked.hatch, asked.unit
    matrix = asked.lie.matrix @ _turned(hatch.angle)
    points = asked.rings.under(np.linalg.inv(matrix))
    side = np.array([tile.width, tile.height]) * unit
    low, high = np.floor(points.min(0) / side).astype(int) - 1, np.floor(points.max(0) / side).astype(int) + 1
    nearest = float(_sizes(matrix, points, unit, unit)[1].max(initial=0.0)) if asked.least else np.inf
    drawn = [k for k in range(len(tile.marks)) if k == 0 or nearest * 2.0 ** _halvings(k) >= 0.6 * asked.least]
    if np.prod((high - low + 1).astype(float)) * len(drawn) > MOST:
        return joined_marks([])
    i, j = (
        g.ravel() for g in np.meshgrid(np.arange(low[0], high[0] + 1), np.arange(low[1], high[1] + 1), indexing="ij")
    )
    rows = []
    for number in drawn:
        mark = tile.marks[number]
        place = np.stack([i, j], 1) * side
        own = hashed(i, j, np.full(len(i), number))
        place = place + hatch.disorder * 0.4 * unit * np.stack(
            [unit_share(own ^ np.uint64(k)) - 0.5 for k in (3, 5)], 1
        )
        middle = np.array(mark).mean(0) * unit
        if asked.least and len(place):
            _, here = _sizes(matrix, place + middle, unit, unit)
            kept = here * 2.0 ** _stays(number, len(tile.marks), j) >= 0.6 * asked.least
            place, own = place[kept], own[kept]
        flat = (place + middle) @ matrix[:, :2].T + matrix[:, 2]
        ahead = flat[:, 2] * (points[0] @ matrix[2, :2] + matrix[2, 2]) > 0
        place, own, flat = place[ahead], own[ahead], flat[ahead]
        if hatch.suggested and len(place):
            patch = _patch(asked, flat[:, :2] / flat[:, 2:])
            kept = patch + 0.45 * asked.dark + 0.2 * unit_share(own ^ np.uint64(9)) >= 1.12 * hatch.suggested
            place = place[kept]
        rows.append(_laid(asked, mark, place, np.full(len(place), unit), np.zeros(len(place)), matrix, 1.0))
    return joined_marks(rows)


def _halvings(number: int) -> int:
    """Through how many halvings a whole number but 0 is left: 1, 3, 5, … go first, then 2, 6, 10, …"""
    return (number & -number).bit_length() - 1


def _stays(number: int, marks: int, row: NDArray[np.int64]) -> NDArray[np.float64]:
    """(N,) how many halvings a mark of a tile stays through where tiles lie too close.
    The first of its marks, when all others are gone, goes with every other row.
    """
    if number:
        return np.full(len(row), float(_halvings(number)))
    lowest = np.where(row == 0, 1 << 20, row & -row)
    return np.ceil(np.log2(marks)) + np.log2(lowest)  # type: ignore[no-any-return]


def _across(asked: _Asked, across: Callable[[list[Points], float], list[Points]]) -> Marks:
    """Marks of the shape itself, which goes by millimetres of paper."""
    rings, unit = asked.rings, asked.unit
    if not asked.lie.paper:
        at = rings.under(np.linalg.inv(asked.lie.matrix))
        unit *= float(np.median(_sizes(asked.lie.matrix, at, 1.0, 1.0)[1]))
    unit = max(unit, FINEST)
    lines = across([rings.points[a:b] for a, b in zip(rings.first, rings.first[1:], strict=False)], unit)
    if not lines:
        return joined_marks([])
    begins = firsts_of(lines)
    return Marks(np.concatenate(lines), begins, np.ones(len(lines)), np.zeros(len(lines), bool))


def unrolled_marks(
    low: Points, high: Points, per_metre: float, hatch: Hatch, *, key: int, dark: float, drop: int
) -> list[tuple[Points, float]]:
    """The courses of a pattern on a surface laid flat, from ``low`` to ``high`` metres (2,).
    Ends (M, 4) in metres with their weight. One metre is about ``per_metre`` millimetres of paper.
    """
    pattern, out = hatch.drawn, []
    unit = spacing_of(hatch, pattern, False)
    box = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    place = Place(Rings.of([box * per_metre]), Lie(np.diag([per_metre, per_metre, 1.0]), False), key, dark, drop)
    for number, course in enumerate(pattern.courses):
        found, _ = _course([place], hatch, unit, course, number, (0.0, 0.0), _NO_FIELD)
        out.append((found.xy.reshape(-1, 4) / per_metre, course.weight))
    return out


def cover_share(hatch: Hatch, gap: NDArray[np.float64]) -> NDArray[np.float64]:
    """(N,) about what share of the paper a hatch covers where lines one spacing apart lie ``gap`` (N,) millimetres
    apart.
    """
    pattern = hatch.drawn
    total = np.zeros(len(gap))
    for course in pattern.courses:
        full = sum(course.marks[::2]) / sum(course.marks) if course.marks else 1.0
        apart = np.maximum(gap * course.step, 1e-6)
        if hatch.lies != "paper":
            apart = apart * 2.0 ** np.maximum(np.ceil(np.log2(np.maximum(hatch.least, 1e-6) / apart)), 0)
        total += course.weight * hatch.weight * full / apart
    for scatter in pattern.scatters:
        total += 3.0 * hatch.weight**2 / np.maximum(gap * scatter.apart, hatch.least) ** 2
    return np.minimum(total * hatch.opacity * (1 - 0.5 * hatch.suggested), 1.0)
