"""Hatching: the marks of a pattern within outlines on the paper, as the pattern lies on the paper or on a plane seen.

Lines are cut in the coordinates of the plane that they lie in, where they are level and evenly apart, and only their
ends are projected: what is straight there is straight on the paper, and ends exactly on the outline.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts, firsts_of
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.ink.fading_hatch import halving_steps, patch_share, stays_at, strewn
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.hatch_marks import (
    FINEST,
    MOST,
    Asked,
    Lie,
    Marks,
    Place,
    Points,
    Rings,
    ToneField,
    joined_marks,
    laid_marks,
    sizes,
    turn_matrix,
)
from warmgraphite.ink.kernels import courses
from warmgraphite.ink.pattern import Course, Pattern, Tile
from warmgraphite.noise.hashing import hashed, unit_share

__all__ = [
    "cover_share",
    "hatched",
    "hatched_places",
    "on_paper",
    "spacing_of",
    "strokes_of",
    "unrolled_marks",
]


_NO_FIELD = ToneField(np.zeros((0, 0), np.uint8), (1.0, 1.0))


def strokes_of(ends: Points, weight: float) -> Marks:
    """Straight marks from their ends (M, 4)."""
    count = len(ends)
    return Marks(
        ends.reshape(-1, 2), 2 * np.arange(count + 1, dtype=np.int64), np.full(count, weight), np.zeros(count, bool)
    )


def on_paper(middle: tuple[float, float]) -> Lie:
    """The paper itself.
    Places count from the middle of the drawing, which stays where it is when the paper is drawn out.
    """
    return Lie(np.array([[1.0, 0.0, middle[0]], [0.0, -1.0, middle[1]], [0.0, 0.0, 1.0]]), True)


def spacing_of(hatch: Hatch, pattern: Pattern, paper: bool) -> float:
    """Millimetres or metres between the lines of a pattern's usual course."""
    usual = pattern.spacing if paper else pattern.metres
    return (usual if hatch.spacing is None else hatch.spacing) * hatch.scale


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
    """The marks of a hatch in several places, and the place of each mark (S,).
    None of the places is empty; all lie on the paper, or none does.
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
            asked = Asked(hatch, place, unit, middle, tone)
            found = [strewn(asked, scatter) for scatter in pattern.scatters]
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
    papers = np.stack([p.lie.matrix for p in places]) @ turn_matrix(hatch.angle + course.angle)
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


def _tiled(asked: Asked, tile: Tile) -> Marks:
    hatch, unit = asked.hatch, asked.unit
    matrix = asked.lie.matrix @ turn_matrix(hatch.angle)
    points = asked.rings.under(np.linalg.inv(matrix))
    side = np.array([tile.width, tile.height]) * unit
    low, high = np.floor(points.min(0) / side).astype(int) - 1, np.floor(points.max(0) / side).astype(int) + 1
    nearest = float(sizes(matrix, points, unit, unit)[1].max(initial=0.0)) if asked.least else np.inf
    drawn = [k for k in range(len(tile.marks)) if k == 0 or nearest * 2.0 ** halving_steps(k) >= 0.6 * asked.least]
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
            _, here = sizes(matrix, place + middle, unit, unit)
            kept = here * 2.0 ** stays_at(number, len(tile.marks), j) >= 0.6 * asked.least
            place, own = place[kept], own[kept]
        flat = (place + middle) @ matrix[:, :2].T + matrix[:, 2]
        ahead = flat[:, 2] * (points[0] @ matrix[2, :2] + matrix[2, 2]) > 0
        place, own, flat = place[ahead], own[ahead], flat[ahead]
        if hatch.suggested and len(place):
            patch = patch_share(asked, flat[:, :2] / flat[:, 2:])
            kept = patch + 0.45 * asked.dark + 0.2 * unit_share(own ^ np.uint64(9)) >= 1.12 * hatch.suggested
            place = place[kept]
        rows.append(laid_marks(asked, mark, place, np.full(len(place), unit), np.zeros(len(place)), matrix, 1.0))
    return joined_marks(rows)


def _across(asked: Asked, across: Callable[[list[Points], float], list[Points]]) -> Marks:
    """Marks of the shape itself, which goes by millimetres of paper."""
    rings, unit = asked.rings, asked.unit
    if not asked.lie.paper:
        at = rings.under(np.linalg.inv(asked.lie.matrix))
        unit *= float(np.median(sizes(asked.lie.matrix, at, 1.0, 1.0)[1]))
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
    """(N,) about what share of the paper a hatch covers.
    Where lines one spacing apart lie ``gap`` (N,) millimetres apart.
    """
    pattern = hatch.drawn
    total = np.zeros(len(gap))
    for course in pattern.courses:
        full = sum(course.marks[::2]) / sum(course.marks) if course.marks else 1.0
        apart = np.maximum(gap * course.step, NEAR)
        if hatch.lies != "paper":
            apart = apart * 2.0 ** np.maximum(np.ceil(np.log2(np.maximum(hatch.least, NEAR) / apart)), 0)
        total += course.weight * hatch.weight * full / apart
    for scatter in pattern.scatters:
        total += 3.0 * hatch.weight**2 / np.maximum(gap * scatter.apart, hatch.least) ** 2
    return np.minimum(total * hatch.opacity * (1 - 0.5 * hatch.suggested), 1.0)
