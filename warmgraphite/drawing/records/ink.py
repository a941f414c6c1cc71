"""Ink: strokes by pen, hatches of what is seen, and what is cut with its fills; of all, or of what a query means; by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Pass
from warmgraphite.ink.along import along_needs
from warmgraphite.ink.filled import Filled, filled_shape, packed_filled, unpacked_filled
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.hatch import Field
from warmgraphite.ink.parted import parted
from warmgraphite.ink.poche import filled_shapes, packed_shapes, unpacked_shapes
from warmgraphite.ink.rules import Away, PenRule
from warmgraphite.ink.strokes import StrokeSet, stroke_set
from warmgraphite.ink.surfaces import HatchSet, Laid, surface_marks
from warmgraphite.ink.work import Work, hatch_work, line_work
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.passes.edges import WHOLE
from warmgraphite.passes.lines import NO_RIM, LineSet
from warmgraphite.passes.packing import digest
from warmgraphite.passes.store import pass_key
from warmgraphite.progress import Progress
from warmgraphite.regions.query import PartCells, Query, answer
from warmgraphite.regions.reading import of_parts, read_of
from warmgraphite.view.sun import to_sun

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["HATCHED", "PENNED", "POCHE", "SHAPES", "STROKES", "SURFACES", "Hatched", "built_parts", "chosen_parts"]


def chosen_parts(drawing: Drawing, where: Query | None) -> NDArray[np.bool_]:
    """(P,) the parts that a query means; all where it is none of parts alone."""
    if where is None or not of_parts(where):
        return np.ones(len(drawing.model.parts), bool)
    return answer(where, PartCells.of(drawing.model), drawing.model)


_PLAIN = {"where", "name", "id", "on", "along", "run_on"}


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
    paper: tuple[float, ...]
    where: Any
    #: Where the sun stands on the paper, for marks of leaves.
    sun: Any


def _leafy(model: Model) -> bool:
    return bool(((model.parts.crease >= WHOLE) & ~model.parts.plain).any())


def _sun_on_paper(drawing: Drawing) -> float:
    """The angle on the paper, in radians, to rough steps, from which the sun shines: from above where it stands behind the viewer."""
    found = drawing.result("frame").projection
    if found is None:
        return -np.pi / 2
    at = drawing.model.median_centre
    ends = found.project(np.stack([at, at + to_sun(drawing.view.sun) * 1e-3]))[:, :2]
    way = ends[1] - ends[0]
    # Light comes from the sky, too.
    angle = np.arctan2(way[1] - 0.35 * np.linalg.norm(way) - 1e-12, way[0])
    return float(np.round(angle / (np.pi / 18)) * (np.pi / 18))


def _scale(drawing: Drawing) -> float | None:
    """The view's scale 1:n, ``None`` where it has none, or is not drawn."""
    found = drawing.result("frame").projection
    return None if found is None else found.scale


def _reads(drawing: Drawing, where: Query | None) -> Any:
    model = drawing.model
    rules = tuple(
        (read_of(r.where, model), r.model_dump(mode="json", exclude=_PLAIN)) for r in drawing.pens if r.on and r.along == "lines"
    )
    # Steps are read, and not what they come to: the frame need not be known to say whether a pass is fresh.
    steps = tuple((s.scale, s.times) for s in drawing.ink.steps)
    paper = drawing.middle if any(r.away is not None for _, r in _of_lines(drawing)) else ()
    built = digest(built_parts(drawing)) if drawing.ink.construction else ""
    sun = drawing.view.sun if _leafy(model) else None
    return _Pens(rules, built, drawing.ink.weight, steps, paper, read_of(where, model), sun and (sun.azimuth, sun.altitude))


def _of_lines(drawing: Drawing) -> list[tuple[int, PenRule]]:
    return [(n, r) for n, r in enumerate(drawing.pens) if r.on and r.along == "lines"]


def _strokes_need(drawing: Drawing, _where: Query | None) -> list[str | Need]:
    rules = [r for _, r in _of_lines(drawing)]
    outlines = [Need("outline", r.away.of) for r in rules if r.away is not None and r.away.of is not None]
    return [
        "lines", *(["regions"] if any(r.light for r in rules) else []), *(["cut"] if any(r.least for r in rules) else []),
        *outlines,
    ]  # fmt: skip


def _strokes(drawing: Drawing, where: Query | None, _progress: Progress) -> StrokeSet:
    found, rules = drawing.lines(), _of_lines(drawing)
    frame = (drawing.view.frame.width, drawing.view.frame.height)
    if where is not None:
        found = found.only(chosen_parts(drawing, where)[found.part])
    lost = np.zeros(len(found), bool)
    if drawing.ink.construction:
        # Between two parts in layers the layers have boundaries of their own.
        built = np.append(built_parts(drawing), False)
        lost |= (found.rank == 0) & built[found.left] & built[found.right]
    if _leafy(drawing.model):
        # Leaves are drawn where they turn from the light.
        lost |= (found.rim < NO_RIM) & (np.cos(found.rim - _sun_on_paper(drawing)) > TURNED)
    away = {n: (_end(drawing, r.away), r.away.reach, r.away.of is None) for n, r in rules if r.away is not None}
    cells = drawing.region_map() if any(r.light for _, r in rules) else None
    pieces = parted(found, frame, cells, away) if away or cells is not None else None
    thin = _thin(drawing, found) if any(r.least for _, r in rules) else None
    times = drawing.ink.times(_scale(drawing)) if drawing.ink.steps else drawing.ink.weight
    return stroke_set(found, drawing.model, drawing.pens, frame, times, pieces, thin, lost)


def _end(drawing: Drawing, away: Away) -> shapely.Geometry:
    """The shape on the paper from which, or into which, lines end."""
    if away.of is not None:
        return drawing.result(Need("outline", away.of))
    return shapely.make_valid(shapely.Polygon(np.array(away.outline) + drawing.middle))


def built_parts(drawing: Drawing) -> NDArray[np.bool_]:
    """(P,) the parts that have a build-up."""
    rules = drawing.ink.construction
    if not rules:
        return np.zeros(len(drawing.model.parts), bool)
    named = np.array([bool(r.build_up) for r in rules] + [False])
    return named[drawing.built_by] & ~drawing.model.parts.earth


def _thin(drawing: Drawing, found: LineSet) -> NDArray[np.float64]:
    """(N,) millimetres of paper that the thinner of the cut layers on either side of a line is thick; infinite for other lines."""
    thick = np.full(len(drawing.model.parts) + 1, np.inf)
    for row in drawing.settled:
        if row.region.length > 0:
            thick[row.part] = min(thick[row.part], 2000 * row.region.area / row.region.length)
    paper = drawing.paper
    ends = paper.project(np.stack([found.start, found.end], 1))[..., :2]
    long = np.linalg.norm(found.end - found.start, axis=1)
    # How large a metre is there, by the line itself, which lies in the plane of the cut.
    per = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1) / np.maximum(long, 1e-9) / 1000
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
    needs=_strokes_need,
)


@dataclass(frozen=True)
class _ByHand:
    hand: Any
    #: Places count from here.
    middle: tuple[float, float]


def _hand(drawing: Drawing, _where: Query | None = None) -> _ByHand:
    return _ByHand(drawing.ink.hand.model_dump(), drawing.middle)


@dataclass(frozen=True)
class _Penned:
    by_hand: _ByHand
    #: What is drawn along outlines, over all lines, where it is of all of them.
    along: tuple[Any, ...]


def _along(drawing: Drawing, where: Query | None) -> list[PenRule]:
    return [r for r in drawing.pens if r.on and r.along != "lines"] if where is None else []


def _penned_reads(drawing: Drawing, where: Query | None) -> _Penned:
    rules = _along(drawing, where)
    read = tuple((read_of(r.where, drawing.model), r.model_dump(mode="json", exclude={"where", "name", "id"})) for r in rules)
    stands = digest(drawing.model.parts.role) if any(r.along == "base" for r in rules) else ""
    weights = (drawing.ink.weight, [(s.scale, s.times) for s in drawing.ink.steps]) if rules else ()
    return _Penned(_hand(drawing), (read, weights, stands))


def _penned(drawing: Drawing, where: Query | None, _progress: Progress) -> Work:
    found = drawing.result(Need("strokes", where))
    lines = line_work(found.xy, found.first, found.style, found.styles, drawing.ink.hand, drawing.middle)
    if not _along(drawing, where):
        return lines
    plate = drawing.plate()
    return Work((*lines, *plate.by_hand(plate.rounds()), *plate.run_on()))


PENNED = Pass(
    name="penned",
    stage="Inking by hand",
    weight=0.05,
    reads=_penned_reads,
    compute=_penned,
    pack=Work.packed,
    unpack=Work.unpacked,
    needs=lambda d, where: (Need("strokes", where), *(n for r in _along(d, where) for n in along_needs(r))),
)


@dataclass(frozen=True)
class _Surfaces:
    rules: tuple[Any, ...]
    darkest: float
    middle: tuple[float, float]
    corners: tuple[Any, ...]


def _goes_by_corners(drawing: Drawing) -> bool:
    return any(isinstance(f, Hatch) and f.by == "corners" for r in drawing.ink.surfaces if r.on for f in r.fills)


def _surfaces_read(drawing: Drawing, _where: Query | None) -> Any:
    rules = tuple(
        (read_of(r.where, drawing.model), r.model_dump(mode="json", include={"fills", "over"}))
        for r in drawing.ink.surfaces
        if r.on
    )
    corners = (drawing.sight.corners, drawing.view.occlusion.strength) if _goes_by_corners(drawing) else ()
    return _Surfaces(rules, drawing.ink.darkest, drawing.middle, corners)


def _surfaces_need(drawing: Drawing, _where: Query | None) -> Iterable[str]:
    return ("regions",) if any(r.on and r.fills for r in drawing.ink.surfaces) else ()


def _surfaces(drawing: Drawing, _where: Query | None, progress: Progress) -> HatchSet:
    if not any(r.on and r.fills for r in drawing.ink.surfaces):
        return HatchSet.of([], [], drawing.middle)
    corners, made_of = None, [drawing.key("regions")]
    if _goes_by_corners(drawing):
        # On a raster of their own, so that marks are the same on the desk, in print and in every window.
        own, frame = drawing.steady(), drawing.view.frame
        tone = own.occlusion()
        corners = Field(np.ascontiguousarray(tone), (tone.shape[1] / frame.width, tone.shape[0] / frame.height))
        made_of.append(own.key("occlusion"))

    def keep(about: tuple[str, str], make: Callable[[], Any]) -> Any:
        return drawing.kept(pass_key("hatch", [*about, *drawing.middle], made_of), make)

    return surface_marks(
        drawing.region_map(), drawing.model, drawing.paper, drawing.ink.surfaces, drawing.middle, drawing.ink.darkest, corners,
        progress, keep,
    )  # fmt: skip


SURFACES = Pass(
    name="surfaces",
    stage="Hatching what is seen",
    weight=0.2,
    slow=True,
    reads=_surfaces_read,
    compute=_surfaces,
    pack=HatchSet.packed,
    unpack=HatchSet.unpacked,
    needs=_surfaces_need,
)


@dataclass(frozen=True)
class Hatched:
    """Hatches as the hand draws them, and the ``flats`` under them."""

    flats: tuple[Laid, ...]
    work: Work


def _hatched(drawing: Drawing, _where: Query | None, _progress: Progress) -> Hatched:
    found = drawing.result("surfaces")
    return Hatched(found.flats, hatch_work(found, drawing.ink.hand))


def _pack_hatched(found: Hatched) -> Any:
    rows = HatchSet.of([], found.flats, (0.0, 0.0)).packed()
    return {**{f"flat {k}": v for k, v in rows.items()}, **found.work.packed()}


def _unpack_hatched(a: Any) -> Hatched:
    flats = HatchSet.unpacked({k[5:]: v for k, v in a.items() if k.startswith("flat ")}).flats
    return Hatched(flats, Work.unpacked(a))


HATCHED = Pass(
    name="hatched",
    stage="Hatching by hand",
    weight=0.05,
    reads=_hand,
    compute=_hatched,
    pack=_pack_hatched,
    unpack=_unpack_hatched,
    needs=lambda _d, _: ("surfaces",),
)


def _alike(drawing: Drawing, where: Query | None) -> NDArray[np.int64]:
    """(P,) a number for the parts that one rule fills, −1 for those that none does."""
    rules = drawing.ink.poche
    filled = np.array([bool(r.fills) for r in rules] + [False])
    found = np.where(filled[drawing.filled_by], drawing.filled_by, -1)
    # What is built in layers is a shape of its own, whatever fills it else.
    found = np.where(chosen_parts(drawing, where), np.where(built_parts(drawing), len(rules) + drawing.built_by, found), -1)
    used, number = np.unique(found, return_inverse=True)
    return number.astype(np.int64) - (1 if len(used) and used[0] < 0 else 0)


SHAPES = Pass(
    name="shapes",
    stage="Closing the cut shapes",
    weight=0.05,
    # Which parts are filled alike, and not how.
    reads=lambda d, where: (d.sight.framed, digest(_alike(d, where)), tuple(m.name for m in d.model.materials)),
    compute=lambda d, where, _: filled_shapes(d.scene, d.settled, _alike(d, where), d.cap_faces()[0]),
    pack=packed_shapes,
    unpack=unpacked_shapes,
    needs=lambda _d, _: ("cut", "caps"),
)


def _filled(drawing: Drawing, where: Query | None, _progress: Progress) -> list[Filled]:
    rules, hand = drawing.ink.poche, drawing.ink.hand
    held = drawing.filled_by
    out = []
    built = built_parts(drawing)
    for shape in drawing.result(Need("shapes", where)):
        if held[shape.part] >= 0 and not built[shape.part]:
            fills = rules[held[shape.part]].fills
            out.append(filled_shape(f"poche {shape.material}", shape, fills, [], drawing.paper, hand, drawing.middle))
    return out


@dataclass(frozen=True)
class _Fills:
    rules: Any
    held: str
    built: str
    by_hand: Any


POCHE = Pass(
    name="poche",
    stage="Filling what is cut",
    weight=0.02,
    reads=lambda d, where: _Fills(
        tuple([f.model_dump(mode="json") for f in r.fills] for r in d.ink.poche if r.on), digest(d.filled_by),
        digest(built_parts(d)), _hand(d, where),
    ),
    compute=_filled,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda _d, where: (Need("shapes", where),),
)  # fmt: skip
