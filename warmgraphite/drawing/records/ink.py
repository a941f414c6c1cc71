"""Ink: strokes by pen, and what is cut with its fills; of all, or of what a query means."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Pass
from warmgraphite.ink.assign import fill_rules
from warmgraphite.ink.poche import PocheShape, filled_shapes, packed_shapes, unpacked_shapes
from warmgraphite.ink.rules import Flat
from warmgraphite.ink.strokes import StrokeSet, stroke_set
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.regions.query import PartCells, Query, answer
from warmgraphite.regions.reading import of_parts, read_of

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["POCHE", "SHAPES", "STROKES", "Filled"]


def _chosen(drawing: Drawing, where: Query | None) -> NDArray[np.bool_]:
    """(P,) the parts that a query means; all where it is none of parts alone."""
    if where is None or not of_parts(where):
        return np.ones(len(drawing.model.parts), bool)
    return answer(where, PartCells.of(drawing.model), drawing.model)


@dataclass(frozen=True)
class _Pens:
    rules: tuple[Any, ...]
    #: Strokes know their part by its name.
    names: str
    where: Any


def _reads(drawing: Drawing, where: Query | None) -> Any:
    model = drawing.model
    plain = {"where", "name", "id", "on", "round"}
    rules = tuple(
        (read_of(r.where, model), r.model_dump(mode="json", exclude=plain)) for r in drawing.pens if r.on and not r.round
    )
    return _Pens(rules, digest(np.array([p.path for p in model.parts], dtype=np.str_)), read_of(where, model))


def _strokes(drawing: Drawing, where: Query | None, _progress: Progress) -> StrokeSet:
    found, paper = drawing.lines(), drawing.view.frame
    if where is not None:
        found = found.only(_chosen(drawing, where)[found.part])
    return stroke_set(found, drawing.model, drawing.pens, (paper.width, paper.height))


STROKES = Pass(
    name="strokes",
    stage="Drawing the lines",
    weight=0.05,
    reads=_reads,
    compute=_strokes,
    pack=StrokeSet.packed,
    unpack=StrokeSet.unpacked,
    needs=lambda _d, _: ("lines",),
)


@dataclass(frozen=True)
class _Fills:
    assigned: str
    names: tuple[str, ...]
    where: Any


def _alike(drawing: Drawing, where: Query | None) -> NDArray[np.int64]:
    """(P,) a number for the parts that one rule fills, −1 for those that none does."""
    rules = drawing.poche_rules
    found = fill_rules(drawing.model, rules)
    filled = np.array([bool(r.fills) for r in rules] + [False])
    found = np.where(filled[found] & _chosen(drawing, where), found, -1)
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


@dataclass(frozen=True)
class Filled:
    """A shape of what is cut, with its fills from the lowest up."""

    shape: PocheShape
    fills: tuple[Flat, ...]


def _filled(drawing: Drawing, where: Query | None, _progress: Progress) -> list[Filled]:
    rules = drawing.poche_rules
    held = fill_rules(drawing.model, rules)
    return [Filled(s, rules[held[s.part]].fills) for s in drawing.result(Need("shapes", where)) if held[s.part] >= 0]


POCHE = Pass(
    name="poche",
    stage="Filling what is cut",
    weight=0.01,
    reads=lambda d, where: (tuple(r.fills for r in d.poche_rules if r.on), digest(fill_rules(d.model, d.poche_rules))),
    compute=_filled,
    unpack=lambda _: [],
    needs=lambda _d, where: (Need("shapes", where),),
    light=True,
)
