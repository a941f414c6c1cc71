"""Layers of the true shape: bands of the distance from the outer side, and from the inner one behind the layer that takes the rest.

Distances are taken from the outline of the whole envelope, so that layers go round corners and through junctions by themselves:
what lies at one depth is one band, whatever part it is of. Offsets are mitred, as boards and blocks are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.ink.buildups.sides import INNER, OUTER, Envelope, Run
from warmgraphite.ink.buildups.specification import BuildUp, Layer
from warmgraphite.passes.cut import GRID, polygonal

__all__ = ["Band", "Sheet", "bands_of", "kept_layers"]

Points = NDArray[np.float64]

#: Metres that the rest is thick at least, and that a place may be too thin by.
REST, ALLOWED = 0.004, 0.0005
#: How far a mitre may go, in distances.
MITRE = 6.0
#: Metres of pieces that are no thinner place, but what offsets leave at corners.
CRUMB = 0.01


@dataclass(frozen=True)
class Band:
    """A layer where it is drawn: its ``shape`` in metres in the surface's axes, of one ``part``, filled by number ``layer`` of its
    build-up; ``depth`` is from where to where it lies, in metres from the outer side, or, where ``inner``, from the inner one; the
    rest begins there and ends anywhere."""

    part: int
    build_up: BuildUp
    layer: int
    shape: shapely.Geometry
    depth: tuple[float, float]
    inner: bool = False

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
    """The numbers of the layers that are drawn where there are ``room`` metres, none thinner than ``least`` metres: those of least
    importance go first, of two alike the thinner. What lies in beds has room of its own."""
    rest, layers = build_up.rest, build_up.layers
    kept = [
        n
        for n, row in enumerate(layers)
        if not row.bed and (n == rest or row.thickness == 0 or (row.thickness or 0) >= least - 1e-9)
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


def _lines(runs: Sequence[Run], side: int, part: int) -> shapely.Geometry:
    """The outline of one side: of a part where its sides were said by hand, else of the envelope."""
    own = [r for r in runs if r.part == part and r.side == side]
    if not any(r.part == part for r in runs):
        own = [r for r in runs if r.part == -1 and r.side == side]
    return shapely.multilinestrings([shapely.linestrings(r.line) for r in own]) if own else shapely.MultiLineString()


def _along(lines: shapely.Geometry, shape: shapely.Geometry) -> shapely.Geometry:
    """What of lines runs along a shape's outline."""
    found = shapely.intersection(lines, shapely.buffer(shape, 10 * GRID))
    parts = shapely.get_parts(found)
    return shapely.line_merge(shapely.multilinestrings(parts[shapely.get_type_id(parts) == 1]))


class _Depths:
    """How deep places lie behind an outline, as shapes: each depth is made once for all parts."""

    def __init__(self, lines: shapely.Geometry) -> None:
        self.lines = lines
        self._held: dict[float, shapely.Geometry] = {}

    def within(self, depth: float) -> shapely.Geometry:
        """All that lies no deeper."""
        key = round(depth, 7)
        if key not in self._held:
            none = self.lines.is_empty or depth <= 0
            found = shapely.Polygon() if none else shapely.buffer(
                self.lines, depth, cap_style="flat", join_style="mitre", mitre_limit=MITRE
            )  # fmt: skip
            self._held[key] = found
        return self._held[key]

    def at(self, depth: float) -> shapely.Geometry:
        """The line at a depth, on either side."""
        if depth <= 0 or self.lines.is_empty:
            return self.lines
        rows = shapely.get_parts(self.lines)
        both = [shapely.offset_curve(rows, d, join_style="mitre", mitre_limit=MITRE) for d in (depth, -depth)]
        return shapely.union_all(np.concatenate(both))


def _opened(shape: shapely.Geometry, room: float) -> shapely.Geometry:
    """Where a shape is at least so thick."""
    half = max(room / 2 - ALLOWED, 0.0)
    core = shapely.buffer(shape, -half, join_style="mitre", mitre_limit=MITRE)
    return shapely.buffer(core, half, join_style="mitre", mitre_limit=MITRE)


def _zones(
    shape: shapely.Geometry, whole: shapely.Geometry, build_up: BuildUp, least: float, opened: dict[float, shapely.Geometry]
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
        key = round(need, 6)
        if key not in opened:
            opened[key] = _opened(whole, need)
        zone = polygonal(shapely.intersection(left, opened[key], grid_size=GRID))
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


def bands_of(
    envelope: Envelope, held: dict[int, BuildUp], per_metre: dict[int, float], earth: shapely.Geometry
) -> tuple[list[Band], list[Sheet]]:
    """The layers of an envelope. ``held`` is the build-up of each part, ``per_metre`` how many millimetres of paper a metre of it is,
    ``earth`` what is earth round it."""
    whole = shapely.union_all(list(envelope.regions.values()), grid_size=GRID)
    depths: dict[tuple[int, int, str], _Depths] = {}
    opened: dict[float, shapely.Geometry] = {}
    own = {r.part for r in envelope.runs}

    def depth_of(part: int, side: int) -> _Depths:
        # Outside, layers go on from part to part; a lining only goes on where the next part has it too.
        alike = held[part].id if side == INNER else ""
        key = (part if part in own else -1, side, alike)
        if key not in depths:
            lines = _lines(envelope.runs, side, key[0])
            if alike and not lines.is_empty:
                shapes = [s for p, s in envelope.regions.items() if held[p].id == alike]
                lines = _along(lines, shapely.union_all(shapes))
            depths[key] = _Depths(lines)
        return depths[key]

    bands: list[Band] = []
    sheets: list[Sheet] = []
    for part, shape in envelope.regions.items():
        build_up = held[part]
        passed, shape = _passed(envelope, held, part, shape)
        bands += passed
        least = build_up.least / max(per_metre[part], 1e-9)
        for kept, zone in _zones(shape, whole, build_up, least, opened):
            found, drawn = _bands(part, build_up, kept, zone, depth_of(part, OUTER), depth_of(part, INNER))
            bands += found
            sheets += drawn
        bands += _beds(part, build_up, shape, depth_of(part, OUTER), earth, least)
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
            deep = depths.within(at + thick)
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
    """What of a part whose sides were said by hand, as of a floor that runs out to the face of a wall, is passed by what goes on in
    the wall: its layers from outside in to the last one that does. And what is left of the part."""
    ends = [r for r in envelope.runs if r.end and r.part == -1]
    near = shapely.buffer(shape, 0.002)
    ends = [r for r in ends if shapely.intersects(shapely.linestrings(r.line), near)]
    others = [p for p in envelope.regions if p != part and not any(r.part == p for r in envelope.runs)]
    if not ends or not others or not any(r.part == part for r in envelope.runs):
        return [], shape
    lines = shapely.multilinestrings([shapely.linestrings(r.line) for r in ends])
    wall = min(others, key=lambda p: shapely.distance(envelope.regions[p], lines))
    build_up, depths, bands, at = held[wall], _Depths(lines), [], 0.0
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
    part: int, build_up: BuildUp, shape: shapely.Geometry, outer: _Depths, earth: shapely.Geometry, least: float
) -> list[Band]:
    """What lies outside of a part in the earth: under a floor, beside a wall."""
    layers = [n for n, row in enumerate(build_up.layers) if row.bed]
    if not layers or earth.is_empty:
        return []
    behind = _Depths(_along(outer.lines, shape))
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
