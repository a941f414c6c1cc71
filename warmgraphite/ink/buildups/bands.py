"""Layers of the true shape.
Bands of the distance from the outer side, and from the inner one behind the layer that takes the rest.

Distances are taken from the outline of the whole envelope, so that layers go round corners and through junctions by
themselves: what lies at one depth is one band, whatever part it is of. Offsets are mitred, as boards and blocks are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.ink.buildups.envelope import Envelope
from warmgraphite.ink.buildups.open_sides import INNER, OUTER
from warmgraphite.ink.buildups.sides import ALIKE, Run
from warmgraphite.ink.buildups.specification import BuildUp, Layer
from warmgraphite.passes.cut import GRID, polygonal
from warmgraphite.progress import Progress, silent

__all__ = ["Band", "Sheet", "bands_of", "kept_layers"]

Points = NDArray[np.float64]

#: Metres that the rest is thick at least, and that a place may be too thin by.
REST, ALLOWED = 0.004, 0.0005
#: How far a mitre may go, in distances.
MITRE = 6.0
#: Metres of pieces that are no thinner place, but what offsets leave at corners.
CRUMB = 0.01
#: Slants that are offset each by itself.
MOST_SLANTS = 12


@dataclass(frozen=True)
class Band:
    """A layer where it is drawn.
    Its ``shape`` in metres in the surface's axes, of one ``part``, filled by number ``layer`` of its build-up;
    ``depth`` is from where to where it lies, in metres from the outer side, or, where ``inner``, from the inner one;
    the rest begins there and ends anywhere.
    """

    part: int
    build_up: BuildUp
    layer: int
    shape: shapely.Geometry
    depth: tuple[float, float]
    inner: bool = False
    #: Numbers what hangs together.
    body: int = 0

    @property
    def what(self) -> Layer:
        return self.build_up.layers[self.layer]


@dataclass(frozen=True)
class Sheet:
    """A layer that is drawn as one line."""

    part: int
    layer: Layer
    line: shapely.Geometry


def kept_layers(build_up: BuildUp, room: float, least: float) -> list[int]:
    """The numbers of the layers that are drawn where there are ``room`` metres, none thinner than ``least`` metres.
    Those of least importance go first, of two alike the thinner. What lies in beds has room of its own.
    """
    rest, layers = build_up.rest, build_up.layers
    kept = [
        n
        for n, row in enumerate(layers)
        if not row.bed and (n == rest or row.thickness == 0 or (row.thickness or 0) >= least - ROUNDING)
    ]
    need = max(least, REST)

    def thick(n: int) -> float:
        return 0.0 if n == rest else layers[n].thickness or 0.0

    while sum(thick(n) for n in kept) + need > room + ALLOWED:
        others = [n for n in kept if n != rest and thick(n) > 0]
        if not others:
            break
        gone = min(others, key=lambda n: (layers[n].importance, thick(n), n))
        kept.remove(gone)
    return kept


def _side(runs: Sequence[Run], side: int, part: int) -> list[Run]:
    """The outline of one side: of a part where its sides were said by hand, else of the envelope."""
    own = [r for r in runs if r.part == part and r.side == side]
    return own if any(r.part == part for r in runs) else [r for r in runs if r.part == -1 and r.side == side]


class _Depths:
    """How deep places lie behind an outline, as shapes; each depth is made once for all parts.

    Where a cut goes aslant through a face, what lies behind it looks thicker: straights of one slant are offset
    together, and where two slants meet at a corner, its mitre is made of both.
    """

    def __init__(self, runs: Sequence[Run], along: shapely.Geometry | None = None) -> None:
        slants = np.concatenate([np.empty(0), *(r.slant for r in runs)])
        few = len(np.unique(np.round(slants / ALIKE))) <= MOST_SLANTS
        # A dome has as many slants as faces: there a few do.
        self._rounded = (
            (lambda v: np.round(v / ALIKE) * ALIKE) if few else (lambda v: np.exp(np.round(np.log(v) / 0.03) * 0.03))
        )
        rows: dict[float, list[Points]] = {}
        self._corners: list[tuple[Points, Points, float, Points, float]] = []
        for run in runs:
            slant = np.round(self._rounded(run.slant), 6)
            stops = [0, *(np.flatnonzero(np.diff(slant)) + 1), len(slant)]
            for a, b in pairwise(stops):
                rows.setdefault(float(slant[a]), []).append(run.line[a : b + 1])
            step = np.diff(run.line, axis=0)
            self._corners += [
                (
                    run.line[k],
                    step[k - 1] / np.linalg.norm(step[k - 1]),
                    float(slant[k - 1]),
                    step[k] / np.linalg.norm(step[k]),
                    float(slant[k]),
                )
                for k in stops[1:-1]
            ]
        self._rows = {
            slant: shapely.multilinestrings([shapely.linestrings(n) for n in lines]) for slant, lines in rows.items()
        }
        if along is not None:
            near = shapely.buffer(along, 10 * GRID)
            self._rows = {slant: _along(lines, near) for slant, lines in self._rows.items()}
            self._corners = [c for c in self._corners if shapely.intersects(near, shapely.Point(c[0]))]
        self._held: dict[float, shapely.Geometry] = {}

    @property
    def is_empty(self) -> bool:
        return all(lines.is_empty for lines in self._rows.values())

    @property
    def slant(self) -> float:
        """That of most of the outline."""
        return max(self._rows, key=lambda k: self._rows[k].length, default=1.0)

    def within(self, depth: float) -> shapely.Geometry:
        """All that lies no deeper."""
        key = round(depth, 7)
        if key not in self._held:
            found = [
                shapely.buffer(lines, depth * slant, cap_style="flat", join_style="mitre", mitre_limit=MITRE)
                for slant, lines in self._rows.items() if depth > 0 and not lines.is_empty
            ]  # fmt: skip
            found += [c for row in self._corners if depth > 0 and (c := _mitre(depth, *row)) is not None]
            self._held[key] = found[0] if len(found) == 1 else shapely.union_all(found)
        return self._held[key]

    def at(self, depth: float) -> shapely.Geometry:
        """The line at a depth, on either side."""
        out = []
        for slant, lines in self._rows.items():
            rows = shapely.get_parts(lines)
            for way in (depth, -depth) if depth > 0 else ():
                out += list(shapely.offset_curve(rows, way * slant, join_style="mitre", mitre_limit=MITRE))
        return shapely.union_all(out if depth > 0 else list(self._rows.values()))


def _mitre(depth: float, at: Points, way: Points, slant: float, after: Points, then: float) -> shapely.Geometry | None:
    """What a corner adds between what lies behind its two sides, of unlike slants; none where they overlap there."""
    turn = way[0] * after[1] - way[1] * after[0]
    if turn >= -NEAR:  # the body bends round the corner: behind it is more than both
        return None
    one, two = at + depth * slant * np.array([-way[1], way[0]]), at + depth * then * np.array([-after[1], after[0]])
    gap = two - one
    meet = one + (gap[0] * after[1] - gap[1] * after[0]) / turn * way
    if np.linalg.norm(meet - at) > MITRE * depth * max(slant, then):
        meet = (one + two) / 2
    return polygonal(shapely.make_valid(shapely.Polygon([at, one, meet, two])))


def _along(lines: shapely.Geometry, near: shapely.Geometry) -> shapely.Geometry:
    """What of lines runs near a shape's outline."""
    parts = shapely.get_parts(shapely.intersection(lines, near))
    merged = shapely.line_merge(shapely.multilinestrings(parts[shapely.get_type_id(parts) == 1]))
    # Without the hair's breadth by which it turns into what lies beside.
    return shapely.simplify(merged, 5 * 10 * GRID)


def _opened(shape: shapely.Geometry, room: float) -> shapely.Geometry:
    """Where a shape is at least so thick."""
    half = max(room / 2 - ALLOWED, 0.0)
    core = shapely.buffer(shape, -half, join_style="mitre", mitre_limit=MITRE)
    return shapely.buffer(core, half, join_style="mitre", mitre_limit=MITRE)


def _about(shape: shapely.Geometry, other: shapely.Geometry) -> shapely.Geometry:
    """As much of a shape as lies about another: of a large house most of it is far off."""
    if shape.is_empty or other.is_empty or shapely.get_num_coordinates(shape) < 200:
        return shape
    left, low, right, high = other.bounds
    return shapely.clip_by_rect(shape, left - 1, low - 1, right + 1, high + 1)


def _zones(
    shape: shapely.Geometry,
    whole: shapely.Geometry,
    build_up: BuildUp,
    least: float,
    slant: float,
    opened: dict[float, shapely.Geometry],
) -> list[tuple[list[int], shapely.Geometry]]:
    """A part's shape in zones by how thick the envelope is there, each with the layers that it has room for."""
    layers, rest = build_up.layers, build_up.rest
    out, left, room = [], shape, np.inf
    while not left.is_empty:
        kept = kept_layers(build_up, room, least)
        need = sum(layers[n].thickness or 0.0 for n in kept if n != rest) + max(least, REST)
        if len([n for n in kept if n == rest or layers[n].thickness]) == 1:
            out.append((kept, left))
            break
        key = round(need * slant, 6)
        if key not in opened:
            opened[key] = _opened(whole, need * slant)
        zone = polygonal(shapely.intersection(left, _about(opened[key], left), grid_size=GRID))
        thin = polygonal(shapely.difference(left, zone, grid_size=GRID))
        pieces = shapely.get_parts(thin)
        crumbs = shapely.is_empty(shapely.buffer(pieces, -CRUMB / 2)) if len(pieces) else np.empty(0, bool)
        if crumbs.any() and not zone.is_empty:
            zone = polygonal(shapely.union_all([zone, *pieces[crumbs]], grid_size=GRID))
            thin = shapely.MultiPolygon(list(pieces[~crumbs]))
        if not zone.is_empty:
            out.append((kept, zone))
        left, room = thin, need - 2 * ALLOWED
    return out


def _components(envelope: Envelope) -> list[Envelope]:
    """An envelope taken apart into what hangs together, each with its own outline."""
    wholes = shapely.get_parts(shapely.union_all(list(envelope.regions.values()), grid_size=GRID))
    if len(wholes) < 2:
        return [envelope]
    tree = shapely.STRtree(wholes)
    pieces, of = shapely.get_parts(np.array(list(envelope.regions.values()), dtype=object), return_index=True)
    place = tree.query_nearest(shapely.point_on_surface(pieces), all_matches=False)[1]
    middle = shapely.points([r.line[:2].mean(0) for r in envelope.runs]) if envelope.runs else np.empty(0, object)
    run = tree.query_nearest(middle, all_matches=False)[1] if len(middle) else np.empty(0, np.int64)
    parts = list(envelope.regions)
    regions: list[dict[int, list[shapely.Geometry]]] = [{} for _ in wholes]
    for piece, k, where in zip(pieces, of, place, strict=True):
        regions[where].setdefault(parts[k], []).append(piece)
    runs: list[list[Run]] = [[] for _ in wholes]
    for one, where in zip(envelope.runs, run, strict=True):
        runs[where].append(one)
    return [
        Envelope(envelope.plane, {p: shapely.MultiPolygon(g) for p, g in own.items()}, tuple(lines))
        for own, lines in zip(regions, runs, strict=True) if own
    ]  # fmt: skip


def bands_of(
    envelope: Envelope,
    held: dict[int, BuildUp],
    per_metre: dict[int, float],
    earth: shapely.Geometry,
    progress: Progress = silent,
) -> tuple[list[Band], list[Sheet]]:
    """The layers of an envelope.
    ``held`` is the build-up of each part, ``per_metre`` how many millimetres of paper a metre of it is, ``earth`` what
    is earth round it.
    """
    found, bodies = [], _components(envelope)
    for done, one in enumerate(bodies):
        progress(done / len(bodies))
        found.append(_bands_of(one, held, per_metre, earth))
    bands = [replace(b, body=k) for k, (own, _) in enumerate(found) for b in own]
    return bands, [s for _, sheets in found for s in sheets]


def _bands_of(
    envelope: Envelope, held: dict[int, BuildUp], per_metre: dict[int, float], earth: shapely.Geometry
) -> tuple[list[Band], list[Sheet]]:
    whole = shapely.union_all(list(envelope.regions.values()), grid_size=GRID)
    depths: dict[tuple[int, int, str], _Depths] = {}
    opened: dict[float, shapely.Geometry] = {}
    own = {r.part for r in envelope.runs}

    def depth_of(part: int, side: int) -> _Depths:
        # Outside, layers go on from part to part; a lining only goes on where the next part has it too.
        alike = held[part].id if side == INNER else ""
        key = (part if part in own else -1, side, alike)
        if key not in depths:
            shapes = [s for p, s in envelope.regions.items() if held[p].id == alike]
            depths[key] = _Depths(_side(envelope.runs, side, key[0]), shapely.union_all(shapes) if alike else None)
        return depths[key]

    bands: list[Band] = []
    sheets: list[Sheet] = []
    for part, shape in envelope.regions.items():
        build_up = held[part]
        passed, shape = _passed(envelope, held, part, shape)
        bands += passed
        least = build_up.least / max(per_metre[part], ROUNDING)
        outer, inner = depth_of(part, OUTER), depth_of(part, INNER)
        slant = max((outer.slant, inner.slant), key=abs)
        for kept, zone in _zones(shape, whole, build_up, least, slant, opened):
            found, drawn = _bands(part, build_up, kept, zone, outer, inner)
            bands += found
            sheets += drawn
        bands += _beds(part, build_up, shape, _side(envelope.runs, OUTER, part if part in own else -1), earth, least)
    return bands, sheets


def _bands(
    part: int, build_up: BuildUp, kept: list[int], zone: shapely.Geometry, outer: _Depths, inner: _Depths
) -> tuple[list[Band], list[Sheet]]:
    layers, rest = build_up.layers, build_up.rest
    bands: list[Band] = []
    sheets: list[Sheet] = []
    left, at = zone, 0.0
    inside = 0.0
    for numbers, depths, is_inner in (
        ([n for n in kept if n < rest], outer, False),
        ([n for n in reversed(kept) if n > rest], inner, True),
    ):
        at = 0.0
        for n in numbers:
            thick = layers[n].thickness or 0.0
            if thick == 0:
                line = shapely.intersection(depths.at(at), shapely.buffer(zone, 2 * GRID))
                if not line.is_empty:
                    sheets.append(Sheet(part, layers[n], line))
                continue
            deep = _about(depths.within(at + thick), left)
            found = polygonal(shapely.intersection(left, deep, grid_size=GRID)) if not deep.is_empty else deep
            if not found.is_empty:
                bands.append(Band(part, build_up, n, found, (at, at + thick), is_inner))
                left = polygonal(shapely.difference(left, deep, grid_size=GRID))
            at += thick
        inside = at if not is_inner else inside
    if not left.is_empty:
        bands.append(Band(part, build_up, rest, left, (inside, np.inf)))
    return bands, sheets


def _passed(
    envelope: Envelope, held: dict[int, BuildUp], part: int, shape: shapely.Geometry
) -> tuple[list[Band], shapely.Geometry]:
    """What of a part whose sides were said by hand is passed by what goes on in the wall.
    As of a floor that runs out to the face of a wall: its layers from outside in to the last one that does. And what is
    left of the part.
    """
    ends = [r for r in envelope.runs if r.end and r.part == -1]
    near = shapely.buffer(shape, 0.002) if ends else shape
    ends = [r for r in ends if shapely.intersects(shapely.linestrings(r.line), near)]
    own = {r.part for r in envelope.runs}
    others = [p for p in envelope.regions if p != part and p not in own] if ends and part in own else []
    if not others:
        return [], shape
    lines = shapely.multilinestrings([shapely.linestrings(r.line) for r in ends])
    wall = min(others, key=lambda p: shapely.distance(envelope.regions[p], lines))
    build_up, depths, bands, at = held[wall], _Depths(ends), [], 0.0
    before = [n for n in range(build_up.rest) if not build_up.layers[n].bed]
    last = max((n for n in before if build_up.layers[n].goes_on), default=-1)
    for n in (n for n in before if n <= last):
        thick = build_up.layers[n].thickness or 0.0
        deep = depths.within(at + thick)
        found = polygonal(shapely.intersection(shape, deep, grid_size=GRID))
        if thick and not found.is_empty:
            bands.append(Band(part, build_up, n, found, (at, at + thick)))
            shape = polygonal(shapely.difference(shape, deep, grid_size=GRID))
        at += thick
    return bands, shape


def _beds(
    part: int, build_up: BuildUp, shape: shapely.Geometry, outer: Sequence[Run], earth: shapely.Geometry, least: float
) -> list[Band]:
    """What lies outside of a part in the earth: under a floor, beside a wall."""
    layers = [n for n, row in enumerate(build_up.layers) if row.bed]
    if not layers or earth.is_empty:
        return []
    behind = _Depths(outer, shape)
    out, at, left = [], 0.0, earth
    for n in reversed(layers):
        thick = build_up.layers[n].thickness or 0.0
        if thick < least:
            continue
        deep = behind.within(at + thick)
        found = polygonal(shapely.intersection(left, deep, grid_size=GRID))
        if not found.is_empty:
            out.append(Band(part, build_up, n, found, (at, at + thick)))
            left = polygonal(shapely.difference(left, deep, grid_size=GRID))
        at += thick
    return out
