"""Hatches over the cells of a map: which marks lie in which cell, and where they are too dense."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts, numbers, ordinals, row_of, taken
from warmgraphite.geometry.tolerances import FINEST, NEAR, ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.ink.assign import Style
from warmgraphite.ink.faces import Faces, PlaneFace, RoundFace, to_the_right
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.hatch import cover_share, hatched_places, on_paper, spacing_of, unrolled_marks
from warmgraphite.ink.hatch_marks import Lie, Marks, Place, Rings, ToneField, joined_marks  # fmt: skip  # fmt: skip
from warmgraphite.ink.kernels import within
from warmgraphite.ink.rules import SurfaceRule
from warmgraphite.regions.map import LIT, NONE, RegionMap
from warmgraphite.view.projection import Projection

__all__ = [
    "GLASS_OPACITY",
    "GLASS_WEIGHT",
    "IN_LIGHT",
    "IN_SHADE",
    "SMALL",
    "THINNED",
    "Seen",
    "hatched_cells",
    "picked",
    "rings_of",
    "thinned_marks",
]

Points = NDArray[np.float64]

#: What is left of the weight and the opacity of a hatch behind glass.
GLASS_WEIGHT, GLASS_OPACITY = 0.85, 0.5
#: How dark faces count that are lit, and that are not.
IN_LIGHT, IN_SHADE = 0.0, 0.8
#: Square millimetres of a bent face up to which no one sees how marks bend with it: there they lie on the paper.
SMALL = 6.0
#: Halvings by which a material's hatch may be thinned where a tone lies over it; beyond that it is left out.
THINNED = 3


def picked(marks: Marks, rows: NDArray[np.int64]) -> Marks:
    at, first = taken(marks.first, rows)
    return Marks(marks.xy[at], first, marks.weight[rows], marks.dot[rows])


def rings_of(shape: shapely.Geometry) -> list[Points]:
    return [
        np.asarray(r.coords)[:, :2] for p in shapely.get_parts(shape) if p.area > 0 for r in (p.exterior, *p.interiors)
    ]


def _spacing_on_paper(cells: RegionMap, seen: Seen, hatch: Hatch, rows: NDArray[np.int64]) -> Points:
    """(n,) millimetres of paper between lines of a hatch at the inner points of cells."""
    pattern = hatch.drawn
    unit = spacing_of(hatch, pattern, hatch.lies == "paper")
    if hatch.lies == "paper":
        return np.full(len(rows), unit)
    # A metre at the distance of what is seen there, as if it faced the viewer.
    return unit * seen.per_metre(cells.point[rows])


def thinned_marks(
    cells: RegionMap, rules: Sequence[SurfaceRule], held: NDArray[np.bool_], hatches: Sequence[tuple[int, Hatch]],
    seen: Seen,
    darkest: float,
) -> list[NDArray[np.int8]]:  # fmt: skip
    """For each hatch (N,) by how many halvings its lines are thinned.
    What goes by shade for how light it is there, what shows a material so that together with the tones over it no more
    than ``darkest`` is covered. Minus one leaves it out.
    """
    found, tone, material = [], np.zeros(len(cells)), np.zeros(len(cells))
    covers = []
    for r, hatch in hatches:
        drop, cover = np.zeros(len(cells), np.int8), np.zeros(len(cells))
        rows = np.flatnonzero(held[r])
        cover[rows] = cover_share(hatch, _spacing_on_paper(cells, seen, hatch, rows))
        if hatch.by == "shade":
            dark = np.clip(np.where(cells.light == LIT, 0.0, cells.tone), 0, 1)
            level = np.minimum((dark * (hatch.steps + 0.999)).astype(np.int8), hatch.steps)
            drop = np.where(level == 0, -1, hatch.steps - level).astype(np.int8)
            cover = np.where(drop < 0, 0.0, cover * 0.5 ** np.maximum(drop, 0))
        elif hatch.by == "corners":
            cover *= 0.4
        covers.append(cover)
        found.append(drop)
        (tone if rules[r].over else material)[:] += cover
    room = np.maximum(darkest - tone, FINEST)
    more = np.where(
        (tone > 0) & (tone + material > darkest), np.ceil(np.log2(np.maximum(material / room, 1.0))), 0
    ).astype(int)
    for (r, _), drop in zip(hatches, found, strict=True):
        if not rules[r].over:
            thinner = drop + more
            drop[:] = np.where((drop < 0) | (thinner > drop + THINNED), -1, thinner)
    return found


def hatched_cells(
    cells: RegionMap, seen: Seen, hatch: Hatch, held: NDArray[np.bool_], drop: NDArray[np.int8],
    middle: tuple[float, float],
    corners: ToneField | None,
) -> list[tuple[Style, Marks]]:  # fmt: skip
    """One hatch on the cells that it fills: those alike are hatched as one, so that no line ends where they meet."""
    rows = np.flatnonzero(held & (drop >= 0))
    if not len(rows) or (hatch.by == "corners" and corners is None):
        return []
    field = corners if hatch.by == "corners" else None
    plain = Style(f"hatch {hatch.pattern}", hatch.weight, hatch.colour, opacity=hatch.opacity)
    glazed = replace(plain, weight=hatch.weight * GLASS_WEIGHT, opacity=hatch.opacity * GLASS_OPACITY)
    face = np.where(cells.face[rows] >= 0, cells.face[rows], -1) if hatch.lies != "paper" else np.full(len(rows), -1)
    dark = (cells.light[rows] != LIT) & (cells.light[rows] != NONE) & (hatch.suggested > 0)
    keys, number = np.unique(np.stack([face, cells.panes[rows] > 0, drop[rows], dark], 1), axis=0, return_inverse=True)
    order = np.argsort(number.ravel(), kind="stable")
    starts = np.searchsorted(number.ravel()[order], np.arange(len(keys) + 1))
    everything, turned = _CellRings(cells, rows), hatch.drawn.turned
    flat: dict[bool, list[Place]] = {False: [], True: []}  # by whether they lie on the paper
    glass: dict[bool, list[bool]] = {False: [], True: []}
    out: list[tuple[Style, Marks]] = []
    areas, small, glass_small = shapely.area(cells.shapes[rows]), [], []  # type: ignore[var-annotated]
    for (on, behind_glass, less, in_dark), a, b in zip(keys.tolist(), starts, starts[1:], strict=False):
        rings = everything.of(order[a:b])
        point = cells.point[rows[order[a]]]
        words = {
            "key": _key_of(seen.faces, int(on), hatch),
            "dark": IN_SHADE if in_dark else IN_LIGHT,
            "drop": int(less),
        }
        surface = seen.faces.seen(int(on), point, seen.projection, turned) if on >= 0 else None
        if on < 0 or isinstance(surface, PlaneFace):
            lie = on_paper(middle) if surface is None else Lie(surface.matrix(seen.projection), False)  # type: ignore[union-attr]
            flat[on < 0].append(Place(rings, lie, **words))  # type: ignore[arg-type]
            glass[on < 0].append(bool(behind_glass))
            continue
        if areas[order[a:b]].sum() < SMALL:
            small.append(Place(rings, on_paper(middle), **words))  # type: ignore[arg-type]
            glass_small.append(bool(behind_glass))
            continue
        if isinstance(surface, RoundFace):
            marks = _on_round(rings, surface, seen, point, hatch, words)
        else:
            marks = _on_slices(rings, int(on), seen, point, hatch, int(less))
        out.append((glazed if behind_glass else plain, marks))
    quiet = hatch.model_copy(update={"lies": "paper", "spacing": max(1.2 * hatch.least, 0.5), "scale": 1.0})
    for laid, places, behind_of in (
        (hatch, flat[False], glass[False]), (hatch, flat[True], glass[True]), (quiet, small, glass_small),
    ):  # fmt: skip
        marks, of = hatched_places(places, laid, middle, field)
        behind = np.array(behind_of, bool)[of] if len(of) else np.zeros(0, bool)
        for style, rows_of in ((plain, ~behind), (glazed, behind)):
            out.append((style, marks if rows_of.all() else picked(marks, np.flatnonzero(rows_of))))
    return [(style, marks) for style, marks in out if len(marks)]


class _CellRings:
    """The rings of chosen cells, taken apart once for all of them."""

    def __init__(self, cells: RegionMap, rows: NDArray[np.int64]) -> None:
        rings, self.of_ring = shapely.get_rings(cells.shapes[rows], return_index=True)
        self.points, ring = shapely.get_coordinates(rings, return_index=True)
        self.first = np.searchsorted(ring, np.arange(len(rings) + 1))
        self.begin = np.searchsorted(self.of_ring, np.arange(len(rows) + 1))

    def of(self, members: NDArray[np.int64]) -> Rings:
        """Those of some of them; without the point that closes each, which is its first."""
        rings = np.concatenate([np.arange(self.begin[m], self.begin[m + 1]) for m in members])
        count = self.first[rings + 1] - self.first[rings] - 1
        at = numbers(self.first[rings], count)
        return Rings(np.ascontiguousarray(self.points[at]), firsts(count))


def _key_of(faces: Faces, face: int, hatch: Hatch) -> int:
    """What disorder is made of.
    The pattern, and how large the face is that it lies on, which stays whatever a part is called and wherever it is
    turned.
    """
    size = int(np.floor(np.log(max(float(faces.area[face]), ROUNDING)) * 1000 + 0.3183)) if face >= 0 else 0
    return int.from_bytes(hashlib.sha256(f"{hatch.pattern} {size}".encode()).digest()[:7], "little")


@dataclass(frozen=True)
class Seen:
    """Faces, and how they are looked at."""

    faces: Faces
    projection: Projection

    def towards(self, at: Points) -> Points:
        """(N, 3) from places towards the viewer."""
        eye = self.projection.eye
        return eye - at if eye is not None else np.broadcast_to(-self.projection.sight, at.shape)

    def per_metre(self, points: Points) -> Points:
        """(N,) millimetres of paper to a metre at places, across the sight."""
        beside = points + 0.01 * to_the_right(self.projection)
        flat = self.projection.project(np.stack([points, beside]))[..., :2]
        return np.asarray(np.linalg.norm(flat[1] - flat[0], axis=-1) * 100)


def _on_round(
    rings: Rings, surface: RoundFace, seen: Seen, point: Points, hatch: Hatch, words: dict[str, Any]
) -> Marks:
    """A hatch that follows a round body: made on the body laid flat, bent back, and cut at the cells on the paper."""
    per_metre = max(float(seen.per_metre(point[None])[0]), NEAR)
    if surface.is_whole:  # begun where it is not seen, so that no joint shows, however the body is turned
        surface = surface.begun(-seen.towards(surface.foot[None])[0])
    rows = []
    for ends, weight in unrolled_marks(surface.low, surface.high, per_metre, hatch, **words):
        if not len(ends):
            continue
        span = ends[:, 2:] - ends[:, :2]
        bent = np.abs(span[:, 1 if surface.lying else 0]) / surface.usual / 0.14
        pieces = np.maximum(np.ceil(np.maximum(bent, np.linalg.norm(span, axis=1) * per_metre / 8)), 1).astype(int)
        of = row_of(pieces + 1)
        share = ordinals(pieces + 1) / pieces[of]
        at, way = surface.points(ends[of, :2] + share[:, None] * span[of])
        facing = (way * seen.towards(at)).sum(1)
        # A wall is seen from outside, a vault from within.
        own, own_way = surface.points(surface.nearest(point))
        facing = facing * np.sign((own_way * seen.towards(own)).sum() or 1.0)
        rows.append(_front_marks(rings, seen, at, facing > 0, of, weight))
    return joined_marks(rows)


def _front_marks(
    rings: Rings, seen: Seen, at: Points, kept: NDArray[np.bool_], of: NDArray[np.int64], weight: float
) -> Marks:
    """Polylines in space, of which only what is ``kept`` is seen, cut at outlines on the paper."""
    rows = np.flatnonzero(kept)
    if len(rows) < 2:
        return joined_marks([])
    breaks = (np.diff(rows) > 1) | (np.diff(of[rows]) != 0)
    begins = np.concatenate([[0], np.flatnonzero(breaks) + 1, [len(rows)]]).astype(np.int64)
    xy = np.ascontiguousarray(seen.projection.project(at[rows])[:, :2])
    found, first, _ = within.clipped(rings.points, rings.first, xy, begins)
    count = len(first) - 1
    return Marks(found, first, np.full(count, weight), np.zeros(count, bool))


def _on_slices(rings: Rings, face: int, seen: Seen, point: Points, hatch: Hatch, less: int) -> Marks:
    """Courses on a face that is bent in two ways: where level planes meet it."""
    corners = seen.faces.triangles(face)
    across = normals(corners)
    front = (across * seen.towards(corners.mean(1))).sum(1)
    nearest = int(np.argmin(((corners.mean(1) - point) ** 2).sum(1)))
    corners = corners[front * (front[nearest] or 1.0) > 0]
    pattern = hatch.drawn
    course = next((c for c in pattern.courses if c.angle == 0), pattern.courses[0] if pattern.courses else None)
    if course is None:
        return joined_marks([])
    step = spacing_of(hatch, pattern, False) * course.step
    per_metre = max(float(seen.per_metre(point[None])[0]), NEAR)
    while step * per_metre < hatch.least:
        step *= 2
    low, high = np.sort(corners[:, :, 2], axis=1)[:, [0, 2]].T
    step *= 2.0**less
    first, last = np.ceil(low / step).astype(int), np.ceil(high / step).astype(int)
    count = np.maximum(last - first, 0)
    of = row_of(count)
    if not len(of) or len(of) > 2_000_000:
        return joined_marks([])
    height = numbers(first, count) * step
    ends = np.empty((len(of), 2, 3))
    filled = np.zeros(len(of), int)
    for i, j in ((0, 1), (1, 2), (2, 0)):
        p, q = corners[of, i], corners[of, j]
        crossed = (p[:, 2] < height) != (q[:, 2] < height)
        rows = np.flatnonzero(crossed & (filled < 2))
        t = (height[rows] - p[rows, 2]) / (q[rows, 2] - p[rows, 2])
        ends[rows, filled[rows]] = p[rows] + t[:, None] * (q[rows] - p[rows])
        filled[rows] += 1
    ends = ends[filled == 2]
    at = ends.reshape(-1, 3)
    marks = _front_marks(rings, seen, at, np.ones(len(at), bool), np.repeat(np.arange(len(ends)), 2), course.weight)
    return marks
