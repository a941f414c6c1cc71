"""Strokes as a hand draws them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.ink.along import along_needs, rounds, runs_on
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.rules import Ink, PenRule
from warmgraphite.ink.work import Work, line_work, line_work_of
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of

__all__ = ["PENNED"]


@dataclass(frozen=True)
class ByHand:
    """A hand; places count from the ``middle`` of the drawing."""

    hand: Hand
    middle: tuple[float, float]


def by_hand(spec: DrawingSpec) -> ByHand:
    """The hand of what is drawn."""
    return ByHand(spec.ink.hand, spec.middle)


@dataclass(frozen=True)
class _Penned:
    by_hand: ByHand
    #: What is drawn along outlines, over all lines, where it is of all of them.
    rules: tuple[Any, ...]
    weights: tuple[Any, ...]
    stands: str
    along: tuple[PenRule, ...] = held()
    ink: Ink = held()
    model: Model = held()
    width: float = held()


def _along(spec: DrawingSpec, where: Query | None) -> tuple[PenRule, ...]:
    return tuple(r for r in spec.pens if r.on and r.along != "lines") if where is None else ()


def _reads(spec: DrawingSpec, where: Query | None) -> _Penned:
    rules, ink = _along(spec, where), spec.ink
    said = tuple(
        (read_of(r.where, spec.model), r.model_dump(mode="json", exclude={"where", "name", "id"})) for r in rules
    )
    stands = digest(spec.model.parts.role) if any(r.along == "base" for r in rules) else ""
    weights = (ink.weight, tuple((s.scale, s.times) for s in ink.steps)) if rules else ()
    return _Penned(by_hand(spec), said, weights, stands, rules, ink, spec.model, spec.paper[0])


def _penned(read: _Penned, given: Given, _progress: Progress) -> Work:
    found, (hand, middle) = given["strokes"], (read.by_hand.hand, read.by_hand.middle)
    lines = line_work(found.xy, found.first, found.style, found.styles, hand, middle)
    if not read.along:
        return lines
    times = read.ink.times(given["paper"].projection.scale)
    round_it = line_work_of(rounds(read.along, times, given.__getitem__, read.model), hand, middle)
    return Work((*lines, *round_it, *runs_on(read.along, times, given.__getitem__, read.model, read.width)))


def _needs(spec: DrawingSpec, where: Query | None) -> list[Need]:
    rules = _along(spec, where)
    frame = [Need("paper")] if rules else []
    return [Need("strokes", where), *frame, *(n for r in rules for n in along_needs(r))]


PENNED = Pass(
    name="penned",
    stage="Inking by hand",
    weight=0.05,
    reads=_reads,
    compute=_penned,
    pack=Work.packed,
    unpack=Work.unpacked,
    needs=_needs,
)
