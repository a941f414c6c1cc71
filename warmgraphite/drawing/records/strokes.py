"""Strokes: lines put together as the pens go, of all, or of what a query means."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.geometry.tolerances import FINEST, NO_LENGTH, ROUNDING
from warmgraphite.ink.assign import built_parts, chosen_parts
from warmgraphite.ink.parted import parted
from warmgraphite.ink.rules import Away, Ink, PenRule
from warmgraphite.ink.strokes import StrokeSet, stroke_set
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.passes.cut import CutRegion
from warmgraphite.passes.edges import WHOLE
from warmgraphite.passes.line_set import NO_RIM, LineSet
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of
from warmgraphite.view.projection import Projection
from warmgraphite.view.sun import Sun, to_sun

__all__ = ["STROKES"]

#: What of a rule the strokes do not go by, or read otherwise.
_NOT_READ = {"where", "name", "id", "on", "along", "run_on"}

#: The cosine of the angle to the light above which the rim of a leaf is lost in it.
TURNED = -0.35


@dataclass(frozen=True)
class _Pens:
    rules: tuple[Any, ...]
    built: str
    #: What all weights are multiplied by, and by scale.
    times: float
    steps: tuple[tuple[float, float], ...]
    #: Where outlines drawn on the paper count from.
    middle: tuple[float, ...]
    where: Any
    #: Where the sun stands, for marks of leaves.
    sun: Any
    paper: tuple[float, float] = held()
    ink: Ink = held()
    model: Model = held()
    built_by: NDArray[np.int64] = held()
    meant: Query | None = held()
    shines: Sun = held()


def _leafy(model: Model) -> bool:
    return bool(((model.parts.crease >= WHOLE) & ~model.parts.plain).any())


def _of_lines(pens: tuple[PenRule, ...]) -> list[tuple[int, PenRule]]:
    return [(n, r) for n, r in enumerate(pens) if r.on and r.along == "lines"]


def _reads(spec: DrawingSpec, where: Query | None) -> _Pens:
    model, ink, sun = spec.model, spec.ink, spec.view.sun
    rules = _of_lines(spec.pens)
    said = tuple((read_of(r.where, model), r.model_dump(mode="json", exclude=_NOT_READ)) for _, r in rules)
    middle = spec.middle if any(r.away is not None for _, r in rules) else ()
    built = digest(_built(ink, spec.built_by, model)) if ink.construction else ""
    return _Pens(
        said, built, ink.weight, tuple((s.scale, s.times) for s in ink.steps), middle, read_of(where, model),
        (sun.azimuth, sun.altitude) if _leafy(model) else None, spec.paper, ink, model, spec.built_by, where, sun,
    )  # fmt: skip


def _built(ink: Ink, built_by: NDArray[np.int64], model: Model) -> NDArray[np.bool_]:
    return built_parts(ink.construction, built_by, model.parts.earth)


def _needs(spec: DrawingSpec, _where: Query | None) -> list[str | Need]:
    rules = [r for _, r in _of_lines(spec.pens)]
    outlines = [Need("outline", r.away.of) for r in rules if r.away is not None and r.away.of is not None]
    on_paper = spec.ink.steps or _leafy(spec.model) or any(r.least for r in rules)
    return [
        "lines", *(["paper"] if on_paper else []), *(["regions"] if any(r.light for r in rules) else []),
        *(["settled"] if any(r.least for r in rules) else []), *outlines,
    ]  # fmt: skip


def _sun_on_paper(read: _Pens, projection: Projection | None) -> float:
    """The angle on the paper, in radians, to rough steps, from which the sun shines.
    From above where it stands behind the viewer.
    """
    if projection is None:
        return -np.pi / 2
    at = read.model.median_centre
    ends = projection.project(np.stack([at, at + to_sun(read.shines) * FINEST]))[:, :2]
    way = ends[1] - ends[0]
    # Light comes from the sky, too.
    angle = np.arctan2(way[1] - 0.35 * np.linalg.norm(way) - NO_LENGTH, way[0])
    return float(np.round(angle / (np.pi / 18)) * (np.pi / 18))


def _strokes(read: _Pens, given: Given, _progress: Progress) -> StrokeSet:
    model, ink, found, rules = read.model, read.ink, given["lines"].drawn, _of_lines(read.ink.pens)
    if read.meant is not None:
        found = found.only(chosen_parts(model, read.meant)[found.part])
    lost = np.zeros(len(found), bool)
    if ink.construction:
        # Between two parts in layers the layers have boundaries of their own.
        built = np.append(_built(ink, read.built_by, model), False)
        lost |= (found.rank == 0) & built[found.left] & built[found.right]
    if _leafy(model):
        # Leaves are drawn where they turn from the light.
        angle = _sun_on_paper(read, given["paper"].projection)
        lost |= (found.rim < NO_RIM) & (np.cos(found.rim - angle) > TURNED)
    away = {n: (_end(read, r.away, given), r.away.reach, r.away.of is None) for n, r in rules if r.away is not None}
    cells = given["regions"] if any(r.light for _, r in rules) else None
    pieces = parted(found, read.paper, cells, away) if away or cells is not None else None
    thin = None
    if any(r.least for _, r in rules):
        thin = _thin(found, given["settled"], len(model.parts), given["paper"].projection)
    projection = given["paper"].projection if ink.steps else None
    times = ink.times(projection.scale if projection else None) if ink.steps else ink.weight
    return stroke_set(found, model, ink.pens, read.paper, times, pieces, thin, lost)


def _end(read: _Pens, away: Away, given: Given) -> shapely.Geometry:
    """The shape on the paper from which, or into which, lines end."""
    if away.of is not None:
        return given[Need("outline", away.of)]
    return shapely.make_valid(shapely.Polygon(np.array(away.outline) + read.middle))


def _thin(found: LineSet, settled: list[CutRegion], parts: int, paper: Projection) -> NDArray[np.float64]:
    """(N,) millimetres of paper that the thinner of the cut layers on either side of a line is thick.
    Infinite for other lines.
    """
    thick = np.full(parts + 1, np.inf)
    for row in settled:
        if row.region.length > 0:
            thick[row.part] = min(thick[row.part], 2000 * row.region.area / row.region.length)
    ends = paper.project(np.stack([found.start, found.end], 1))[..., :2]
    long = np.linalg.norm(found.end - found.start, axis=1)
    # How large a metre is there, by the line itself, which lies in the plane of the cut.
    per = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) / np.maximum(long, ROUNDING) / 1000
    beside = np.minimum(thick[found.left], thick[found.right])
    return np.where((found.rank == 0) & (long > 0), np.minimum(beside, thick[found.part]) * per, np.inf)


STROKES = Pass(
    name="strokes",
    stage="Drawing the lines",
    weight=0.05,
    reads=_reads,
    compute=_strokes,
    pack=StrokeSet.packed,
    unpack=StrokeSet.unpacked,
    needs=_needs,
)
