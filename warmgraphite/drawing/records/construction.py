"""Construction: which side of what is cut faces outside, and the layers of what has build-ups."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely

from warmgraphite.drawing.graph import Pass
from warmgraphite.drawing.records.ink import built_parts, chosen_parts
from warmgraphite.drawing.records.marks import grounds_of
from warmgraphite.ink.buildups.built import Held, built_rows
from warmgraphite.ink.buildups.sides import Envelope, Open, Run, envelope_of
from warmgraphite.ink.buildups.specification import BuildUp, Outer
from warmgraphite.ink.filled import Filled, packed_filled, unpacked_filled
from warmgraphite.ink.fills import Fill
from warmgraphite.ink.marks.ground import earth_below
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest, from_wkb, to_wkb
from warmgraphite.passes.store import Arrays, pass_key
from warmgraphite.progress import Progress, part_of
from warmgraphite.regions.query import Query

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["BUILT", "SIDES"]


def _said(drawing: Drawing) -> dict[int, Outer]:
    """What says which side is the outer one, of each part that has a build-up."""
    if not drawing.ink.construction:
        return {}
    return {int(p): drawing.ink.construction[drawing.built_by[p]].outer for p in np.flatnonzero(built_parts(drawing))}


@dataclass(frozen=True)
class _Sided:
    sawn: Any
    filled: Any
    said: tuple[tuple[int, str], ...]
    #: The whole model, which stands round what is cut; and where its rooms are.
    body: str
    rooms: tuple[Any, ...]
    grounds: tuple[Any, ...]
    #: Where the frame shows a ground, which runs on to it.
    framed: Any


def _below(drawing: Drawing) -> dict[int, shapely.Geometry]:
    """The earth below grounds that the model has not, by cutting surface."""
    grounds = grounds_of(drawing)
    planes = [k for k, s in enumerate(drawing.scene.surfaces) if s.cuts] if grounds else []
    return {k: shapely.union_all([earth_below(g, drawing.scene, k, drawing.settled)[0] for g in grounds]) for k in planes}


def _sides(drawing: Drawing, _where: Query | None, progress: Progress) -> list[Envelope]:
    said, settled = _said(drawing), drawing.settled
    planes = sorted({r.plane for r in settled if r.part in said})
    open_air, below = (Open(drawing.bare) if planes else None), _below(drawing)
    out = []
    for done, plane in enumerate(planes):
        assert open_air is not None
        rows, part = [r for r in settled if r.plane == plane], part_of(progress, done / len(planes), (done + 1) / len(planes))
        earth = below.get(plane, shapely.Polygon())
        out.append(envelope_of(drawing.model, drawing.scene.surfaces[plane], rows, said, open_air, earth, part))
    return out


def _pack_sides(found: list[Envelope]) -> Arrays:
    runs = [r for e in found for r in e.runs]
    about = [[e.plane, list(e.regions), [[r.side, r.part, r.end, len(r.line)] for r in e.runs]] for e in found]
    return {
        "about": np.frombuffer(json.dumps(about).encode(), np.uint8),
        "regions": to_wkb([g for e in found for g in e.regions.values()]),
        "xy": np.concatenate([np.empty((0, 2)), *(r.line for r in runs)]),
        "slant": np.concatenate([np.empty(0), *(np.append(r.slant, 1.0) for r in runs)]),
    }


def _unpack_sides(a: Arrays) -> list[Envelope]:
    shapes, at, out = iter(from_wkb(a["regions"])), 0, []
    for plane, parts, rows in json.loads(a["about"].tobytes() or b"[]"):
        runs = []
        for side, part, end, count in rows:
            runs.append(Run(a["xy"][at : at + count], a["slant"][at : at + count - 1], side, part, end))
            at += count
        out.append(Envelope(plane, {p: next(shapes) for p in parts}, tuple(runs)))
    return out


def _sides_read(drawing: Drawing, _where: Query | None) -> _Sided:
    said = _said(drawing)
    if not said:
        return _Sided(None, None, (), "", (), (), None)
    grounds, model = grounds_of(drawing), drawing.model
    return _Sided(
        drawing.sight.sawn, drawing.sight.filled, tuple(sorted(said.items())), digest(drawing.bare.parts.role) + drawing.bare.body,
        tuple((r.name, tuple(r.place)) for r in model.rooms), tuple(g.model_dump(mode="json") for g in grounds),
        drawing.sight.framed if grounds else None,
    )  # fmt: skip


SIDES = Pass(
    name="sides",
    stage="Telling outside from inside",
    weight=0.05,
    reads=_sides_read,
    compute=_sides,
    pack=_pack_sides,
    unpack=_unpack_sides,
    needs=lambda d, _: ("cut",) if _said(d) else (),
)


@dataclass(frozen=True)
class _Built:
    framed: Any
    build_ups: tuple[tuple[int, str], ...]
    known: tuple[Any, ...]
    fills: Any
    names: tuple[str, ...]
    chosen: str
    weights: tuple[Any, ...]
    grounds: tuple[Any, ...]
    hand: Any
    middle: tuple[float, float]


def _build_ups(drawing: Drawing) -> dict[int, BuildUp]:
    """The build-up of each part that has one."""
    if not drawing.ink.construction:
        return {}
    rules, known = drawing.ink.construction, {b.id: b for b in drawing.ink.build_ups}
    return {int(p): known[rules[drawing.built_by[p]].build_up] for p in np.flatnonzero(built_parts(drawing))}


def _built_reads(drawing: Drawing, where: Query | None) -> _Built:
    ink, held = drawing.ink, _build_ups(drawing)
    if not held:
        return _Built(None, (), (), None, (), "", (), (), None, (0.0, 0.0))
    used = {b.id: b for b in held.values()}
    fills = [[f.model_dump(mode="json") for f in r.fills] for r in ink.poche if r.on]
    return _Built(
        drawing.sight.framed, tuple((p, b.id) for p, b in sorted(held.items())), tuple(used[k].model_dump(mode="json") for k in sorted(used)),
        (fills, digest(drawing.filled_by)), tuple(m.name for m in drawing.model.materials),
        "" if where is None else digest(chosen_parts(drawing, where)), (ink.weight, tuple((s.scale, s.times) for s in ink.steps)),
        tuple(g.model_dump(mode="json") for g in grounds_of(drawing)), ink.hand.model_dump(), drawing.middle,
    )  # fmt: skip


def _built(drawing: Drawing, where: Query | None, progress: Progress) -> list[Filled]:
    held = _build_ups(drawing)
    if not held:
        return []
    rules, filled = drawing.ink.poche, drawing.filled_by

    def fills(part: int) -> tuple[Fill, ...]:
        return rules[filled[part]].fills if filled[part] >= 0 else ()

    alike = [drawing.key("frame"), drawing.ink.hand.model_dump(mode="json"), drawing.middle]
    keep = lambda made_of, make: drawing.kept(pass_key("layer", alike, made_of), make)
    said = Held(held, fills, drawing.ink.times(drawing.paper.scale), drawing.ink.hand, drawing.middle, _below(drawing), keep)
    return built_rows(
        drawing.scene, drawing.result("sides"), drawing.result(Need("shapes", where)), drawing.settled, said, progress
    )


BUILT = Pass(
    name="built",
    stage="Building what is cut",
    weight=0.05,
    reads=_built_reads,
    compute=_built,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda d, where: ("cut", "sides", Need("shapes", where)) if _said(d) else (),
)
