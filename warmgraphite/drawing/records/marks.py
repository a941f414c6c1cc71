"""Marks of one's own: what of them is seen, and the ground below its line."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.ink.filled import Filled, packed_filled, unpacked_filled
from warmgraphite.ink.fills import GRAPHITE
from warmgraphite.ink.marks.ground import ground_rows
from warmgraphite.ink.marks.seen import MarksOn, mark_rows
from warmgraphite.ink.marks.specification import Ground, Mark, OnFace
from warmgraphite.ink.rules import Ink
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.regions.reading import read_of

__all__ = ["GROUND", "MARKS", "grounds_of"]


@dataclass(frozen=True)
class _OnPaper:
    """Marks with what they are drawn with."""

    marks: tuple[Any, ...]
    #: The bodies that marks lie on, which a view need not show.
    under: str
    regions: tuple[Any, ...]
    weights: tuple[Any, ...]
    hand: Any
    middle: tuple[float, float]
    drawn: tuple[Mark, ...] | tuple[Ground, ...] = held()
    #: The numbers of those bodies by their paths.
    part_of: Callable[[str], int | None] = held()
    ink: Ink = held()


def marks_of(spec: DrawingSpec) -> tuple[Mark, ...]:
    """The marks that are on."""
    return tuple(m for m in spec.marks if isinstance(m, Mark) and m.on)


def grounds_of(spec: DrawingSpec) -> tuple[Ground, ...]:
    """The lines of the ground that are on."""
    return tuple(m for m in spec.marks if isinstance(m, Ground) and m.on)


def _reads(spec: DrawingSpec, marks: tuple[Mark, ...] | tuple[Ground, ...]) -> _OnPaper:
    model, ink = spec.model, spec.ink
    if not marks:
        return _OnPaper((), "", (), (), None, (0.0, 0.0), (), model.parts.at, ink)
    faces = {m.plane.part for m in marks if isinstance(m, Mark) and isinstance(m.plane, OnFace)}
    under = [k for k, p in enumerate(model.parts) if p.path in faces] if faces else []
    present = model.parts.present[under]
    wheres = tuple(read_of(m.where, model) for m in marks if isinstance(m, Mark) and m.where is not None)
    said = tuple(m.model_dump(mode="json", exclude={"id", "where"}) for m in marks)
    return _OnPaper(
        said, digest(model.part_shape[under], np.array(under), present) if under else "", wheres,
        (ink.weight, tuple((s.scale, s.times) for s in ink.steps), _colour(spec)), ink.hand.model_dump(), spec.middle,
        marks, model.parts.at, ink,
    )  # fmt: skip


def _colour(spec: DrawingSpec) -> str:
    """The colour that the finish draws in."""
    return next((r.pen.colour for r in spec.pens if r.on and r.pen.colour), GRAPHITE)


def _seen(read: _OnPaper, given: Given, _progress: Progress) -> list[Filled]:
    if not read.drawn:
        return []
    scene = given["scene"]
    on = MarksOn(
        scene, given["caps"].corners, read.middle, read.ink.hand, read.ink.times(scene.projection.scale),
        read.weights[2],
        lambda where: given[Need("room", where)], read.part_of,
    )  # fmt: skip
    return mark_rows(read.drawn, on)  # type: ignore[arg-type]


MARKS = Pass(
    name="marks",
    stage="Laying marks",
    weight=0.03,
    reads=lambda s, _: _reads(s, marks_of(s)),
    compute=_seen,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda s, _: (
        ("scene", "caps", *(Need("room", m.where) for m in marks_of(s) if m.where is not None)) if marks_of(s) else ()
    ),
)


def _below(read: _OnPaper, given: Given, _progress: Progress) -> list[Filled]:
    if not read.drawn:
        return []
    scene = given["scene"]
    times = read.ink.times(scene.projection.scale)
    return ground_rows(read.drawn, scene, given["settled"], read.ink.hand, times, read.middle)  # type: ignore[arg-type]


GROUND = Pass(
    name="ground",
    stage="Laying the ground",
    weight=0.02,
    reads=lambda s, _: _reads(s, grounds_of(s)),
    compute=_below,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda s, _: ("scene", "cut", "settled") if grounds_of(s) else (),
)
