"""Build-ups on the paper: layers of one kind are one shape, whatever parts they go through.
Their boundaries, waves and members.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import FINEST, NEAR, ROUNDING
from warmgraphite.ink.assign import Style
from warmgraphite.ink.buildups.bands import Band, bands_of
from warmgraphite.ink.buildups.envelope import Envelope
from warmgraphite.ink.buildups.open_sides import INNER, OUTER
from warmgraphite.ink.buildups.rhythm import is_crossed, members_of
from warmgraphite.ink.buildups.specification import Boundary, BuildUp, Layer, Rhythm
from warmgraphite.ink.buildups.wave import waves_in, ways_along
from warmgraphite.ink.filled import Filled, filled_shape
from warmgraphite.ink.fills import Fill, Hatch
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.hatch import spacing_of
from warmgraphite.ink.layer import shape_of
from warmgraphite.ink.poche import PocheShape, laid_on_paper, lie_of, packed_shapes, shape_on_paper
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.work import Work
from warmgraphite.passes.cut import GRID, CutRegion, kept_in
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene

__all__ = ["LayerSettings", "built_rows"]

#: Metres by which a layer may reach beyond what is seen of its part: the width of no line at any scale.
AROUND = 2e-3

Points = NDArray[np.float64]

#: Metres within which a boundary is the outline of all that is cut, which has a pen of its own, and within which two
#: are one.
ON_OUTLINE, SAME = 0.0012, 1e-4
#: How many times as thick as the thinnest layer what has only one must be to be drawn as that layer.
FEW = 4.0
#: Millimetres of a line that is none.
SPECK = 0.05
#: Metres that a layer may begin deeper than it was asked to, at corners.
SLACK = 0.03


@dataclass(frozen=True)
class LayerSettings:
    """What build-ups are laid with.
    That of each part, the fills of a part whose layers are all too thin to be drawn, what all weights are multiplied
    by, the hand, and the middle of the drawing in millimetres.
    """

    build_ups: dict[int, BuildUp]
    fills: Callable[[int], tuple[Fill, ...]]
    times: float
    hand: Hand
    middle: tuple[float, float]
    #: Earth that the model has not, by cutting surface, in metres in its axes.
    below: Mapping[int, shapely.Geometry]
    #: A filled shape by all that it is made of, made where it is not held: with another thickness most layers are as
    #: they were.
    keep: Callable[[str, Callable[[], Filled]], Filled]
    #: The names of the materials.
    materials: Sequence[str]

    def filled(
        self, group: str, shape: PocheShape, fills: tuple[Fill, ...], strokes: list[Strokes], onto: Projection
    ) -> Filled:
        """A shape with its fills and its own strokes."""
        rows = (*packed_shapes([shape]).values(), *Work.of_strokes(strokes).packed().values())
        said = json.dumps([group, [f.model_dump(mode="json") for f in fills], digest(*rows)])
        return self.keep(said, lambda: filled_shape(group, shape, fills, strokes, onto, self.hand, self.middle))


@dataclass(frozen=True)
class _Group:
    """Bands that are drawn alike; a ``plain`` one stands for all layers of parts of which nothing else is left."""

    layer: Layer
    fills: tuple[Fill, ...]
    name: str
    bands: tuple[Band, ...]
    shape: shapely.Geometry
    plain: bool


def built_rows(
    scene: Scene,
    envelopes: Sequence[Envelope],
    seen: Sequence[PocheShape],
    settled: Sequence[CutRegion],
    held: LayerSettings,
    progress: Progress = silent,
) -> list[Filled]:
    """What is drawn in the parts that have build-ups.
    ``seen`` are all cut shapes on the paper, ``settled`` all cut regions.
    """
    out: list[Filled] = []
    for done, envelope in enumerate(envelopes):
        part = part_of(progress, done / len(envelopes), (done + 1) / len(envelopes))
        out += _rows(scene, envelope, seen, settled, held, part)
    return out


def _rows(
    scene: Scene,
    envelope: Envelope,
    seen: Sequence[PocheShape],
    settled: Sequence[CutRegion],
    held: LayerSettings,
    progress: Progress,
) -> list[Filled]:
    bodies = scene.bodies
    own = [s for s in seen if s.cut == envelope.plane]
    built = [shape_of(s.rings) for s in own if s.part in held.build_ups]
    visible = shapely.union_all(built, grid_size=NEAR)
    if visible.is_empty:
        return []
    ground = shapely.union_all([shape_of(s.rings) for s in own if s.earth], grid_size=NEAR)
    per_metre = {part: _per_metre(scene, envelope, part) for part in envelope.regions}
    below = held.below.get(envelope.plane, shapely.Polygon())
    earth = shapely.union_all(
        [below, *(r.region for r in settled if r.plane == envelope.plane and bodies.earth[r.part])]
    )
    bands, sheets = bands_of(envelope, held.build_ups, per_metre, earth, part_of(progress, 0.0, 0.4))
    groups = _groups(scene, envelope, bands, held, per_metre)
    usual = float(np.median(list(per_metre.values())))
    void = earth if ground.is_empty else below  # what lies in earth that is left void is drawn all the same
    if not void.is_empty:
        ground = shapely.union_all(
            [ground, *(flat for flat, _ in laid_on_paper(scene, scene.surfaces[envelope.plane], void))]
        )
    paper = _Paper(scene, envelope, visible, ground)
    rows: list[Filled] = []
    for group in sorted(groups, key=lambda g: not g.layer.bed):
        strokes = _waves(group, envelope, usual, paper)
        made = paper.shape(group)
        if made is not None:
            rows.append(held.filled(f"poche {group.name}", made, group.fills, strokes, scene.projection))
    others = [
        r.region
        for r in settled
        if r.plane == envelope.plane and r.part not in envelope.regions and not bodies.earth[r.part]
    ]
    if others:  # of those that touch it
        near = shapely.STRtree(others).query(
            list(envelope.regions.values()), predicate="dwithin", distance=2 * ON_OUTLINE
        )[1]
        others = [others[k] for k in np.unique(near)]
    lines = _boundaries(groups, held, paper, shapely.union_all(others), part_of(progress, 0.4, 0.6))
    lines += [
        Strokes(_pen("layers", s.layer.boundary, held.times), paper.lines(s.line))
        for s in sheets
        if s.layer.boundary.weight
    ]
    lines = [s for s in lines if s.lines]
    empty = PocheShape("layers", next(iter(envelope.regions)), envelope.plane, False, False, np.eye(3), [])
    if lines:
        rows.append(held.filled("lines layers", empty, (), lines, scene.projection))
    return rows + _members(groups, envelope, held, per_metre, paper, part_of(progress, 0.6, 1.0))


class _Paper:
    """Where a surface's axes lie on the paper, as far as what has build-ups is seen."""

    def __init__(self, scene: Scene, envelope: Envelope, visible: shapely.Geometry, ground: shapely.Geometry) -> None:
        self.scene, self.plane, self.surface = scene, envelope.plane, scene.surfaces[envelope.plane]
        self.normal = self.surface.normal
        self.visible, self.ground = visible, ground
        self.around = shapely.buffer(visible, AROUND)
        shapely.prepare(self.visible)
        shapely.prepare(self.around)

    def shape(self, group: _Group) -> PocheShape | None:
        """A group's shape on the paper: a bed where the earth is seen."""
        return self.area(group.name, group.bands[0].part, group.shape, self.ground if group.layer.bed else self.visible)

    def area(self, name: str, part: int, region: shapely.Geometry, within: shapely.Geometry) -> PocheShape | None:
        shapes, planes = [], []
        for flat, slab in laid_on_paper(self.scene, self.surface, region):
            shapes.append(shapely.intersection(flat, within))
            planes.append(lie_of(self.scene, slab))
        return shape_on_paper(name, part, self.plane, self.surface, shapes, planes) if shapes else None

    def lines(self, line: shapely.Geometry, bed: bool = False) -> list[Points]:
        """Lines on the paper, as far as they are seen."""
        out = []
        within = shapely.union(self.around, shapely.buffer(self.ground, AROUND)) if bed else self.around
        for flat, _ in laid_on_paper(self.scene, self.surface, line):
            found = shapely.intersection(flat, within)
            parts = shapely.get_parts(found)
            merged = shapely.line_merge(shapely.multilinestrings(parts[shapely.get_type_id(parts) == 1]))
            out += [np.asarray(part.coords)[:, :2] for part in shapely.get_parts(merged) if part.length > SPECK]
        return out


def _per_metre(scene: Scene, envelope: Envelope, part: int) -> float:
    """Millimetres of paper to a metre of a part, about its middle."""
    slab, region = scene.surfaces[envelope.plane].slabs[0], envelope.regions[part]
    for one in scene.surfaces[envelope.plane].slabs:
        own = shapely.intersection(region, kept_in(one.walls, one.frame, region)) if one.walls else region
        if not own.is_empty:
            slab, region = one, own
            break
    if scene.near is not None:
        region = shapely.intersection(region, kept_in([scene.near], slab.frame, region))
    if region.is_empty:
        return 0.0
    x, y = region.representative_point().coords[0]
    step = 0.005
    flat = scene.projection.project(slab.frame.lifted(np.array([[x, y], [x + step, y], [x, y + step]])))[:, :2]
    u, v = flat[1] - flat[0], flat[2] - flat[0]
    return float(np.sqrt(abs(u[0] * v[1] - u[1] * v[0])) / step)


def _groups(
    scene: Scene, envelope: Envelope, bands: Sequence[Band], held: LayerSettings, per_metre: dict[int, float]
) -> list[_Group]:
    """Bands that are drawn alike as one shape.
    A part that is thin on the paper, and of which nothing is left but the rest, is filled as its material is.
    """
    layered = {b.part for b in bands if b.layer != b.build_up.rest and not b.what.bed}
    merged = {
        part
        for part in envelope.regions
        if part not in layered and _is_thin(envelope.regions[part], per_metre[part], held.build_ups[part])
    }
    rows: dict[str, list[Band]] = {}
    for band in bands:
        plain = band.part in merged and not band.what.bed
        said = band.what.model_dump(mode="json", include={"name", "material", "fills", "boundary", "bed"})
        key = json.dumps(["as it is", scene.bodies.cut_as[band.part].item()] if plain else said)
        rows.setdefault(key, []).append(band)
    out = []
    for key, own in rows.items():
        shape = shapely.union_all([b.shape for b in own], grid_size=GRID)
        plain = key.startswith('["as it is"')
        name = held.materials[int(scene.bodies.cut_as[own[0].part])] if plain else own[0].what.name
        out.append(
            _Group(own[0].what, held.fills(own[0].part) if plain else own[0].what.fills, name, tuple(own), shape, plain)
        )
    return out


def _is_thin(region: shapely.Geometry, per_metre: float, build_up: BuildUp) -> bool:
    """Whether what is left of a build-up says nothing any more."""
    layers = [row for row in build_up.layers if not row.bed and row.thickness != 0]
    return len(layers) > 1 and 2 * region.area / max(region.length, ROUNDING) * per_metre < FEW * build_up.least


def _pen(group: str, said: Boundary, times: float, opacity: float = 1.0) -> Style:
    return Style(group, max(round(said.weight * times, 3), 0.03), said.colour, said.dash, opacity)


def _each(rows: Iterable[list[Points]]) -> list[Points]:
    """All lines of lists of which many are the same."""
    return [line for own in {id(r): r for r in rows}.values() for line in own]


def _reach(group: _Group, side: int) -> float:
    """How deep a group's layers begin at most behind a side."""
    deepest = 0.0
    for band in group.bands:
        after = (
            [row.thickness or 0.0 for row in band.build_up.layers[band.layer + 1 :]]
            if band.layer == band.build_up.rest
            else []
        )
        inward = band.depth[0] if band.inner or side == OUTER else sum(after)
        deepest = max(deepest, inward)
    return deepest + SLACK


def _waves(group: _Group, envelope: Envelope, per_metre: float, paper: _Paper) -> list[Strokes]:
    """The marks of patterns that follow a layer, from side to side of it."""
    out, parts = [], {b.part for b in group.bands}
    sides = (INNER, OUTER) if all(b.inner for b in group.bands) else (OUTER, INNER)
    for fill in group.fills:
        if not isinstance(fill, Hatch) or fill.drawn.across is None:
            continue
        on_paper = fill.lies == "paper"
        spacing = spacing_of(fill, fill.drawn, on_paper) / (per_metre if on_paper else 1.0)
        found, left = [], group.shape
        for side in sides:
            lines = _each(envelope.lines(side, part) for part in parts)
            waves, left = waves_in(left, ways_along(lines), max(spacing, FINEST), _reach(group, side))
            found += waves
        style = Style(f"hatch {fill.pattern}", fill.weight, fill.colour, opacity=fill.opacity)
        lines_on_paper = paper.lines(shapely.multilinestrings([shapely.linestrings(w) for w in found])) if found else []
        out.append(Strokes(style, lines_on_paper))
    return [s for s in out if s.lines]


def _boundaries(
    groups: Sequence[_Group], held: LayerSettings, paper: _Paper, others: shapely.Geometry, progress: Progress
) -> list[Strokes]:
    """Lines between layers, each once, by the heavier of the two pens.
    Not where the outline of all that is cut runs, but where it touches ``others``.
    """
    ranked = sorted(groups, key=lambda g: -g.layer.boundary.weight)
    rows: dict[int, list[tuple[int, shapely.Geometry]]] = {}
    for number, group in enumerate(ranked):
        for band in group.bands:
            rows.setdefault(band.body, []).append((number, band.shape))
    round_others = shapely.buffer(others, ON_OUTLINE)
    shapely.prepare(round_others)
    found: list[list[shapely.Geometry]] = [[] for _ in ranked]
    # Body by body: of all that is cut at once it takes minutes.
    for done, own in enumerate(rows.values()):
        progress(done / len(rows))
        drawn = shapely.union_all([s for n, s in own if not ranked[n].layer.bed], grid_size=GRID).boundary
        if shapely.intersects(round_others, drawn):
            drawn = shapely.difference(drawn, round_others)
        for number in sorted({n for n, _ in own}):
            shapes = [s for n, s in own if n == number]
            edge = (shapes[0] if len(shapes) == 1 else shapely.union_all(shapes, grid_size=GRID)).boundary
            # On a grid as fine as no pen, so that boundaries which differ by a hair are one.
            found[number].append(shapely.difference(edge, drawn, grid_size=SAME))
            drawn = shapely.union(drawn, edge, grid_size=SAME)
    out = []
    for group, lines in zip(ranked, found, strict=True):
        pen = group.layer.boundary
        if pen.weight and lines:
            line = shapely.multilinestrings([p for p in shapely.get_parts(lines) if shapely.get_type_id(p) == 1])
            out.append(Strokes(_pen("layers", pen, held.times), paper.lines(line, group.layer.bed)))
    return out


def _union(shapes: NDArray[np.object_]) -> shapely.Geometry:
    """Shapes as one. Few of thousands meet, and only those are to be united."""
    one, other = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    meets = np.zeros(len(shapes), bool)
    meets[one[one != other]] = True
    return shapely.multipolygons(shapely.get_parts([*shapes[~meets], shapely.union_all(shapes[meets])]))


def _is_fine(rhythm: Rhythm, build_up: BuildUp, per_metre: float) -> bool:
    """Whether members would be finer on the paper than a layer may be; those that are lines, closer."""
    wide = rhythm.spacing / FEW if rhythm.profile == "anchor" else min(rhythm.width, rhythm.depth or rhythm.width)
    return wide * per_metre < build_up.least - ROUNDING


def _members(
    groups: Sequence[_Group],
    envelope: Envelope,
    held: LayerSettings,
    per_metre: dict[int, float],
    paper: _Paper,
    progress: Progress,
) -> list[Filled]:
    """Members at a rhythm, counted on through all parts that one build-up is of."""
    rows: dict[tuple[str, int, float], list[Band]] = {}
    for group in groups:
        for band in () if group.plain else group.bands:
            if any(not _is_fine(r, band.build_up, per_metre[band.part]) for r in band.what.rhythms):
                rows.setdefault((band.build_up.id, band.layer, band.depth[0]), []).append(band)
    out: list[Filled] = []
    for done, bands in enumerate(rows.values()):
        shape = shapely.union_all([b.shape for b in bands], grid_size=GRID)
        thick = 2 * shape.area / max(shape.length, ROUNDING)
        first = bands[0]
        lines = _each(envelope.lines(INNER if first.inner else OUTER, b.part) for b in bands)
        lines = lines or _each(envelope.lines(INNER, b.part) for b in bands)
        for rhythm in first.what.rhythms:
            largest = max(per_metre[b.part] for b in bands)
            if not is_crossed(rhythm.runs, paper.normal) or _is_fine(rhythm, first.build_up, largest):
                continue
            part = part_of(progress, done / len(rows), (done + 1) / len(rows))
            found = np.array(members_of(shape, rhythm, lines, first.depth, thick, part), dtype=object)
            if not len(found):
                continue
            is_solid = shapely.get_dimensions(found) == 2
            solids, edges = found[is_solid], np.append(shapely.boundary(found[is_solid]), found[~is_solid])
            pen, strokes = rhythm.boundary, []
            if pen.weight:
                strokes = [
                    Strokes(
                        _pen("members", pen, held.times),
                        paper.lines(shapely.multilinestrings(shapely.get_parts(edges))),
                    )
                ]
            made = paper.area(rhythm.name, first.part, _union(solids), paper.visible) if len(solids) else None
            made = made or PocheShape(rhythm.name, first.part, envelope.plane, False, False, np.eye(3), [])
            out.append(held.filled(f"poche {rhythm.name}", made, rhythm.fills, strokes, paper.scene.projection))
    return out
