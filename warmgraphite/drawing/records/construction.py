"""Construction: which side of what is cut faces outside, and the layers of what has build-ups."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Filled as Share
from warmgraphite.drawing.inputs import Framed, Sawn, held
from warmgraphite.drawing.records.marks import grounds_of
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.ink.assign import built_parts, chosen_parts
from warmgraphite.ink.buildups.built import LayerSettings, built_rows
from warmgraphite.ink.buildups.envelope import Envelope, envelope_of
from warmgraphite.ink.buildups.open_sides import Open
from warmgraphite.ink.buildups.sides import Run
from warmgraphite.ink.buildups.specification import BuildUp, Outer
from warmgraphite.ink.filled import Filled, packed_filled, unpacked_filled
from warmgraphite.ink.fills import Fill
from warmgraphite.ink.marks.ground import earth_below
from warmgraphite.ink.marks.specification import Ground
from warmgraphite.ink.rules import Ink
from warmgraphite.model.bodies import Bodies, bodies_of
from warmgraphite.needs import Need
from warmgraphite.passes.cut import CutRegion
from warmgraphite.passes.packing import digest, from_wkb, to_wkb
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress, part_of
from warmgraphite.regions.query import Query
from warmgraphite.view.scene import Scene

__all__ = ["BUILT", "SIDES"]


def _built(spec: DrawingSpec) -> NDArray[np.int64]:
    """The numbers of the parts that have a build-up."""
    return np.flatnonzero(built_parts(spec.ink.construction, spec.built_by, spec.model.parts.earth))


def _said(spec: DrawingSpec) -> dict[int, Outer]:
    """What says which side is the outer one, of each part that has a build-up."""
    rules = spec.ink.construction
    return {int(p): rules[spec.built_by[p]].outer for p in _built(spec)} if rules else {}


@dataclass(frozen=True)
class _Sided:
    """What is said of sides, of all that is cut, and the whole model, which stands round it, with its rooms."""

    sawn: Sawn | None
    filled: Share | None
    said: tuple[tuple[int, str], ...]
    body: str
    rooms: tuple[Any, ...]
    grounds: tuple[Any, ...]
    #: Where the frame shows a ground, which runs on to it.
    framed: Framed | None
    outer: Mapping[int, Outer] = held()
    around: Bodies | None = held()
    lines: tuple[Ground, ...] = held()


def _below(grounds: Iterable[Ground], scene: Scene, settled: list[CutRegion]) -> dict[int, shapely.Geometry]:
    """The earth below grounds that the model has not, by cutting surface."""
    rows = list(grounds)
    planes = [k for k, s in enumerate(scene.surfaces) if s.cuts] if rows else []
    return {k: shapely.union_all([earth_below(g, scene, k, settled)[0] for g in rows]) for k in planes}


def _sides(read: _Sided, given: Given, progress: Progress) -> list[Envelope]:
    out: list[Envelope] = []
    if read.sawn is None or read.around is None:
        return out
    settled = given["settled"]
    planes = sorted({r.plane for r in settled if r.part in read.outer})
    below = _below(read.lines, given["scene"], settled) if read.lines else {}
    open_air = Open(read.around, [place for _, place in read.rooms]) if planes else None
    for done, plane in enumerate(planes):
        assert open_air is not None
        rows, part = (
            [r for r in settled if r.plane == plane],
            part_of(progress, done / len(planes), (done + 1) / len(planes)),
        )
        earth = below.get(plane, shapely.Polygon())
        surface = read.sawn.surfaces[plane]
        out.append(envelope_of(read.sawn.bodies.earth, surface, rows, dict(read.outer), open_air, earth, part))
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


def _sides_read(spec: DrawingSpec, _where: Query | None) -> _Sided:
    said = _said(spec)
    if not said:
        return _Sided(None, None, (), "", (), (), None, {}, None, ())
    grounds, model, sight = grounds_of(spec), spec.model, spec.sight
    return _Sided(
        sight.sawn, sight.filled, tuple(sorted(said.items())), digest(spec.bare.parts.role) + spec.bare.body,
        tuple((r.name, tuple(r.place)) for r in model.rooms), tuple(g.model_dump(mode="json") for g in grounds),
        sight.framed if grounds else None, said, bodies_of(spec.bare), grounds,
    )  # fmt: skip


SIDES = Pass(
    name="sides",
    stage="Telling outside from inside",
    weight=0.05,
    reads=_sides_read,
    compute=_sides,
    pack=_pack_sides,
    unpack=_unpack_sides,
    needs=lambda s, _: ("cut", "settled", *(("scene",) if grounds_of(s) else ())) if _said(s) else (),
)


@dataclass(frozen=True)
class _Read:
    build_ups: tuple[tuple[int, str], ...]
    known: tuple[Any, ...]
    fills: Any
    names: tuple[str, ...]
    chosen: str
    weights: tuple[Any, ...]
    grounds: tuple[Any, ...]
    hand: Any
    middle: tuple[float, float]
    layered: Mapping[int, BuildUp] = held()
    ink: Ink = held()
    filled_by: NDArray[np.int64] = held()
    lines: tuple[Ground, ...] = held()
    where: Query | None = held()


def _build_ups(spec: DrawingSpec) -> dict[int, BuildUp]:
    """The build-up of each part that has one."""
    rules, known = spec.ink.construction, {b.id: b for b in spec.ink.build_ups}
    return {int(p): known[rules[spec.built_by[p]].build_up] for p in _built(spec)} if rules else {}


def _built_reads(spec: DrawingSpec, where: Query | None) -> _Read:
    ink, said = spec.ink, _build_ups(spec)
    grounds, filled_by = grounds_of(spec), spec.filled_by
    if not said:
        return _Read((), (), None, (), "", (), (), None, (0.0, 0.0), {}, ink, filled_by, (), where)
    used = {b.id: b for b in said.values()}
    fills = [[f.model_dump(mode="json") for f in r.fills] for r in ink.poche if r.on]
    return _Read(
        tuple((p, b.id) for p, b in sorted(said.items())), tuple(used[k].model_dump(mode="json") for k in sorted(used)),
        (fills, digest(filled_by)), tuple(m.name for m in spec.model.materials),
        "" if where is None else digest(chosen_parts(spec.model, where)),
        (ink.weight, tuple((s.scale, s.times) for s in ink.steps)),
        tuple(g.model_dump(mode="json") for g in grounds), ink.hand.model_dump(), spec.middle, said, ink, filled_by,
        grounds, where,
    )  # fmt: skip


def _layers(read: _Read, given: Given, progress: Progress) -> list[Filled]:
    if not read.layered:
        return []
    rules, filled = read.ink.poche, read.filled_by
    scene, settled = given["scene"], given["settled"]

    def fills(part: int) -> tuple[Fill, ...]:
        return rules[filled[part]].fills if filled[part] >= 0 else ()

    alike = ["layer", given.key("scene"), read.hand, read.middle]
    said = LayerSettings(
        dict(read.layered), fills, read.ink.times(scene.projection.scale), read.ink.hand, read.middle,
        _below(read.lines, scene, settled),
        lambda made_of, make: given.remember([*alike, made_of], make), read.names,
    )  # fmt: skip
    return built_rows(scene, given["sides"], given["shapes"], settled, said, progress)


BUILT = Pass(
    name="built",
    stage="Building what is cut",
    weight=0.05,
    reads=_built_reads,
    compute=_layers,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda s, where: ("scene", "settled", "sides", Need("shapes", where)) if _said(s) else (),
)
