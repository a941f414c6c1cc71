"""Marks of one's own: what of them is seen, and the ground below its line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from warmgraphite.drawing.graph import Pass
from warmgraphite.ink.filled import Filled, packed_filled, unpacked_filled
from warmgraphite.ink.fills import GRAPHITE
from warmgraphite.ink.marks.ground import ground_rows
from warmgraphite.ink.marks.seen import MarksOn, mark_rows
from warmgraphite.ink.marks.specification import Ground, Mark, OnFace
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["GROUND", "MARKS", "grounds_of"]


@dataclass(frozen=True)
class _Laid:
    framed: Any
    marks: tuple[Any, ...]
    #: The bodies that marks lie on, which a view need not show.
    under: str
    regions: tuple[Any, ...]
    weights: tuple[Any, ...]
    hand: Any
    middle: tuple[float, float]


def _marks(drawing: Drawing) -> list[Mark]:
    return [m for m in drawing.marks if isinstance(m, Mark) and m.on]


def grounds_of(drawing: Drawing) -> list[Ground]:
    """The lines of the ground that are on."""
    return [m for m in drawing.marks if isinstance(m, Ground) and m.on]


def _reads(drawing: Drawing, marks: list[Mark] | list[Ground]) -> _Laid:
    if not marks:
        return _Laid(None, (), "", (), (), None, (0.0, 0.0))
    model, ink = drawing.model, drawing.ink
    faces = {m.plane.part for m in marks if isinstance(m, Mark) and isinstance(m.plane, OnFace)}
    under = [k for k, p in enumerate(model.parts) if p.path in faces]
    wheres = tuple(read_of(m.where, model) for m in marks if isinstance(m, Mark) and m.where is not None)
    said = tuple(m.model_dump(mode="json", exclude={"id", "where"}) for m in marks)
    return _Laid(
        drawing.sight.framed, said, digest(model.part_shape[under], np.array(under), model.parts.present[under]) if under else "", wheres,
        (ink.weight, tuple((s.scale, s.times) for s in ink.steps), _ink(drawing)), ink.hand.model_dump(), drawing.middle,
    )  # fmt: skip


def _ink(drawing: Drawing) -> str:
    """The colour that the finish draws in."""
    return next((r.pen.colour for r in drawing.pens if r.on and r.pen.colour), GRAPHITE)


def _seen(drawing: Drawing, _where: Query | None, _progress: Progress) -> list[Filled]:
    marks = _marks(drawing)
    if not marks:
        return []
    on = MarksOn(
        drawing.scene, drawing.cap_faces()[0], drawing.middle, drawing.ink.hand, drawing.ink.times(drawing.paper.scale), _ink(drawing),
        lambda where: drawing.result(Need("room", where)),
    )  # fmt: skip
    return mark_rows(marks, on)


MARKS = Pass(
    name="marks",
    stage="Laying marks",
    weight=0.03,
    reads=lambda d, _: _reads(d, _marks(d)),
    compute=_seen,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda d, _: ("cut", "caps", *(Need("room", m.where) for m in _marks(d) if m.where is not None)) if _marks(d) else (),
)


def _below(drawing: Drawing, _where: Query | None, _progress: Progress) -> list[Filled]:
    grounds = grounds_of(drawing)
    if not grounds:
        return []
    times = drawing.ink.times(drawing.paper.scale)
    return ground_rows(grounds, drawing.scene, drawing.settled, drawing.ink.hand, times, drawing.middle)


GROUND = Pass(
    name="ground",
    stage="Laying the ground",
    weight=0.02,
    reads=lambda d, _: _reads(d, grounds_of(d)),
    compute=_below,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda d, _: ("cut",) if grounds_of(d) else (),
)
