"""What is cut as it lies on the paper, and with its fills; of all, or of what a query means."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.records.penned import ByHand, by_hand
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.ink.assign import built_parts, chosen_parts
from warmgraphite.ink.filled import Filled, filled_shape, packed_filled, unpacked_filled
from warmgraphite.ink.poche import PocheShape, filled_shapes, packed_shapes, unpacked_shapes
from warmgraphite.ink.rules import PocheRule
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query

__all__ = ["POCHE", "SHAPES"]


@dataclass(frozen=True)
class _Alike:
    """Which parts are filled alike, and not how."""

    alike: str
    names: tuple[str, ...]
    numbers: NDArray[np.int64] = held()


def _built(spec: DrawingSpec) -> NDArray[np.bool_]:
    return built_parts(spec.ink.construction, spec.built_by, spec.model.parts.earth)


def _alike(spec: DrawingSpec, where: Query | None) -> NDArray[np.int64]:
    """(P,) a number for the parts that one rule fills, −1 for those that none does."""
    rules = spec.ink.poche
    filled = np.array([bool(r.fills) for r in rules] + [False])
    found = np.where(filled[spec.filled_by], spec.filled_by, -1)
    # What is built in layers is a shape of its own, whatever fills it else.
    found = np.where(chosen_parts(spec.model, where), np.where(_built(spec), len(rules) + spec.built_by, found), -1)
    used, number = np.unique(found, return_inverse=True)
    return number.astype(np.int64) - (1 if len(used) and used[0] < 0 else 0)


def _shapes_read(spec: DrawingSpec, where: Query | None) -> _Alike:
    numbers = _alike(spec, where)
    return _Alike(digest(numbers), tuple(m.name for m in spec.model.materials), numbers)


def _shapes(read: _Alike, given: Given, _progress: Progress) -> list[PocheShape]:
    return filled_shapes(given["scene"], given["settled"], read.numbers, given["caps"].corners, read.names)


SHAPES = Pass(
    name="shapes",
    stage="Closing the cut shapes",
    weight=0.05,
    reads=_shapes_read,
    compute=_shapes,
    pack=packed_shapes,
    unpack=unpacked_shapes,
    needs=lambda _s, _: ("scene", "settled", "caps"),
)


@dataclass(frozen=True)
class _Fills:
    fills: Any
    filled: str
    built: str
    by_hand: ByHand
    rules: tuple[PocheRule, ...] = held()
    filled_by: NDArray[np.int64] = held()
    layered: NDArray[np.bool_] = held()


def _reads(spec: DrawingSpec, _where: Query | None) -> _Fills:
    rules, built = spec.ink.poche, _built(spec)
    fills = tuple([f.model_dump(mode="json") for f in r.fills] for r in rules if r.on)
    return _Fills(fills, digest(spec.filled_by), digest(built), by_hand(spec), rules, spec.filled_by, built)


def _poche(read: _Fills, given: Given, _progress: Progress) -> list[Filled]:
    out, rule = [], read.filled_by
    hand = read.by_hand
    for shape in given["shapes"]:
        if rule[shape.part] >= 0 and not read.layered[shape.part]:
            fills, paper = read.rules[rule[shape.part]].fills, given["paper"].projection
            out.append(filled_shape(f"poche {shape.material}", shape, fills, [], paper, hand.hand, hand.middle))
    return out


POCHE = Pass(
    name="poche",
    stage="Filling what is cut",
    weight=0.02,
    reads=_reads,
    compute=_poche,
    pack=packed_filled,
    unpack=unpacked_filled,
    needs=lambda _s, where: (Need("shapes", where), "paper"),
)
