"""Which pen draws each piece of line, and which rule fills each part, by the rules in their order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colours import channels, written
from warmgraphite.errors import ViewError
from warmgraphite.ink.rules import GRAPHITE, PenRule, PocheRule, Rule
from warmgraphite.model.model import Model
from warmgraphite.passes.lines import RANKS, LineSet
from warmgraphite.regions.query import Asked, PartCells, answer

__all__ = ["LineCells", "Style", "fill_rules", "held_by", "pens_of", "round_style"]

#: Steps in which lines grow thinner with distance.
BANDS = 4
#: Millimetres below which no rule thins a line.
THINNEST = 0.03
#: The grey of the paper that lines grow paler towards.
PAPER = 238


@dataclass(frozen=True)
class Style:
    """A pen as it draws: ``weight`` and ``dash`` in millimetres; ``group`` is the rank of what it draws, or what else it is."""

    group: str
    weight: float
    colour: str
    dash: tuple[float, ...] = ()
    opacity: float = 1.0


@dataclass(frozen=True)
class LineCells:
    """Lines (N) as what a query asks; ``depth`` is metres behind the nearest visible one."""

    part: NDArray[np.int32]
    rank: NDArray[np.uint8]
    kind: NDArray[np.uint8]
    hidden: NDArray[np.bool_]
    cut: NDArray[np.bool_]
    panes: NDArray[np.uint8]
    depth: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.part)

    @staticmethod
    def of(found: LineSet) -> LineCells:
        start = found.distance[found.visible].min(initial=np.inf)
        return LineCells(
            found.part, found.rank, found.kind, ~found.visible, found.rank == 0, found.through,
            found.distance - (start if np.isfinite(start) else 0.0),
        )  # fmt: skip


def held_by(rule: Rule, asked: Asked, model: Model) -> NDArray[np.bool_]:
    """(N,) what a rule takes hold of; nothing where it goes by a part set that the model has not."""
    try:
        return answer(rule.where, asked, model)
    except ViewError:
        return np.zeros(len(asked), bool)


def _paled(colour: str, share: float) -> str:
    """A colour moved towards the paper's white by ``share``."""
    return written(c + (PAPER - c) * share if c < PAPER else c for c in channels(colour))


def pens_of(found: LineSet, model: Model, rules: Sequence[PenRule]) -> tuple[NDArray[np.int32], list[Style]]:
    """(N,) the style of each line, −1 where none draws it, and the styles in the order in which they are drawn: hidden lines,
    then rank by rank from the faintest, in each the farthest first and the thinnest first."""
    count, cells = len(found), LineCells.of(found)
    weight, times, clear, opacity = np.full(count, np.nan), np.ones(count), np.ones(count), np.ones(count)
    colours, dashes = [GRAPHITE], [()]  # type: tuple[list[str], list[tuple[float, ...]]]
    colour, dash, band = (np.zeros(count, np.int64) for _ in range(3))
    away = None
    for rule in rules:
        if not rule.on or rule.round:
            continue
        rows = np.flatnonzero(held_by(rule, cells, model))
        if not len(rows):
            continue
        if rule.pen.weight is not None:
            weight[rows], times[rows] = rule.pen.weight, 1.0
        if rule.pen.colour is not None:
            colour[rows], clear[rows] = len(colours), 1.0
            colours.append(rule.pen.colour)
        if rule.pen.dash is not None:
            dash[rows] = len(dashes)
            dashes.append(rule.pen.dash)
        if rule.pen.opacity is not None:
            opacity[rows] = rule.pen.opacity
        times[rows] *= rule.times
        clear[rows] *= 1 - rule.paler
        if rule.fading.thinner or rule.fading.paler:
            away = _bands(found) if away is None else away
            band[rows] = away[rows]
            share = away[rows] / (BANDS - 1)
            times[rows] *= 1 - rule.fading.thinner * share
            clear[rows] *= 1 - rule.fading.paler * share
    style, drawn = np.full(count, -1, np.int32), np.flatnonzero(~np.isnan(weight))
    if not len(drawn):
        return style, []
    heavy = np.round(weight[drawn] * times[drawn], 3)
    rank = np.where(found.visible[drawn], len(RANKS) - found.rank[drawn].astype(int), 0)
    columns = [
        rank,
        -band[drawn],
        np.round(heavy * 1000),
        np.round(clear[drawn] * 1e6),
        colour[drawn],
        dash[drawn],
        opacity[drawn] * 1e4,
    ]
    unique, style[drawn] = np.unique(np.stack(columns, 1), axis=0, return_inverse=True)
    styles = [
        Style(
            group="hidden" if r == 0 else RANKS[len(RANKS) - int(r)], weight=max(w / 1000, THINNEST),
            colour=_paled(colours[int(k)], 1 - c / 1e6), dash=tuple(dashes[int(d)]), opacity=o / 1e4,
        )
        for r, _, w, c, k, d, o in np.asarray(unique).tolist()
    ]  # fmt: skip
    return style, styles


def _bands(found: LineSet) -> NDArray[np.int64]:
    """(N,) how far away each line is, in steps from 0."""
    if not found.visible.any():
        return np.zeros(len(found), np.int64)
    # The middle nine tenths of the lines set the range, so that one far tree does not make all else near.
    near, far = np.quantile(found.distance[found.visible], [0.02, 0.97])
    depth = np.clip((found.distance - near) / max(far - near, 1e-9), 0, 1)
    return np.minimum((depth * BANDS).astype(np.int64), BANDS - 1)


def round_style(rule: PenRule) -> Style:
    """The pen of a rule that draws round what it means."""
    pen = rule.pen
    weight = max(round((pen.weight or 0.7) * rule.times, 3), THINNEST)
    return Style(
        "profile", weight, _paled(pen.colour or GRAPHITE, rule.paler), pen.dash or (), 1.0 if pen.opacity is None else pen.opacity
    )


def fill_rules(model: Model, rules: Sequence[PocheRule]) -> NDArray[np.int64]:
    """(P,) the number of the rule that fills each part where it is cut, −1 for none."""
    cells, found = PartCells.of(model, cut=True), np.full(len(model.parts), -1, np.int64)
    for number, rule in enumerate(rules):
        if rule.on:
            found[held_by(rule, cells, model)] = number
    return found
