"""Which pen draws each piece of line, and which rule fills each part, by the rules in their order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Cap, Join, Stroke
from warmgraphite.colour import channels, written
from warmgraphite.errors import NotThere
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.ink.fills import GRAPHITE
from warmgraphite.ink.parted import Parted
from warmgraphite.ink.rules import BuildUpRule, PenRule, PocheRule, Rule
from warmgraphite.model.model import Model
from warmgraphite.passes.line_set import RANKS, LineSet
from warmgraphite.regions.query import PartCells, Query, Table, answer
from warmgraphite.regions.reading import of_parts

__all__ = ["LineCells", "Style", "along_style", "fill_rules", "held_by", "pens_of"]

#: Steps in which lines grow thinner with distance.
BANDS = 4
#: Millimetres below which no rule thins a line.
THINNEST = 0.03
#: What is drawn along outlines is called.
_ALONG = {"subject": "profile", "cut": "cut outline", "base": "base"}
#: The grey of the paper that lines grow paler towards.
PAPER = 238


@dataclass(frozen=True)
class Style:
    """A pen as it draws: ``weight`` and ``dash`` in millimetres.
    ``group`` is the rank of what it draws, or what else it is; ``hand`` is what it changes of the drawing's hand, as
    pairs of dial and value.
    """

    group: str
    weight: float
    colour: str
    dash: tuple[float, ...] = ()
    opacity: float = 1.0
    cap: Cap = "usual"
    join: Join = "round"
    hand: tuple[tuple[str, float], ...] = ()

    @property
    def named(self) -> str:
        """What the group of its lines is called."""
        return {"figure": "figure outlines", "detail": "figure details"}.get(self.group, f"lines {self.group}")

    @property
    def stroke(self) -> Stroke:
        """As a canvas draws along lines."""
        return Stroke(self.weight, self.colour, self.dash, self.cap, self.join)

    def written(self) -> dict[str, Any]:
        """As JSON."""
        return asdict(self)

    @staticmethod
    def read(data: dict[str, Any]) -> Style:
        """From JSON."""
        return Style(**{**data, "dash": tuple(data["dash"]), "hand": tuple((n, v) for n, v in data["hand"])})


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


def held_by(rule: Rule, asked: Table, model: Model) -> NDArray[np.bool_]:
    """(N,) what a rule takes hold of; nothing where it goes by a part set that the model has not."""
    try:
        return answer(rule.where, asked, model)
    except NotThere:
        return np.zeros(len(asked), bool)


def _paled(colour: str, share: float) -> str:
    """A colour moved towards the paper's white by ``share``."""
    return written(c + (PAPER - c) * share if c < PAPER else c for c in channels(colour))


# Long: the rules in order, over the same columns of lines.
def pens_of(
    found: LineSet, model: Model, rules: Sequence[PenRule], heavier: float = 1.0, pieces: Parted | None = None,
    thin: NDArray[np.float64] | None = None,
) -> tuple[NDArray[np.int32], list[Style]]:  # fmt: skip
    """(N,) the style of each line, −1 where none draws it, and the styles in the order in which they are drawn.
    Hidden lines, then rank by rank from the faintest, in each the farthest first and the thinnest first.

    All weights are ``heavier`` times as much; ``pieces`` (N) say what light lies on them and where they end, ``thin``
    (N,) how thin the thinner of the layers is, in millimetres, that a line of a cut parts.
    """
    count, cells = len(found), LineCells.of(found)
    weight, times, clear, opacity = np.full(count, np.nan), np.ones(count), np.ones(count), np.ones(count)
    colours, dashes = [GRAPHITE], [()]  # type: tuple[list[str], list[tuple[float, ...]]]
    colour, dash, band, ends, hand = (np.zeros(count, np.int64) for _ in range(5))
    caps: list[tuple[Cap, Join]] = [("usual", "round")]
    hands: list[tuple[tuple[str, float], ...]] = [()]
    away = None
    for number, rule in enumerate(rules):
        if not rule.on or rule.along != "lines":
            continue
        rows = np.flatnonzero(held_by(rule, cells, model))
        if rule.least and thin is not None:
            weight[rows[thin[rows] < rule.least]] = np.nan
            rows = rows[thin[rows] >= rule.least]
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
        if rule.pen.cap is not None or rule.pen.join is not None:
            for own in np.unique(ends[rows]):
                cap, join = caps[own]
                caps.append((rule.pen.cap or cap, rule.pen.join or join))
                ends[rows[ends[rows] == own]] = len(caps) - 1
        changes = {n: float(v) for n, v in rule.hand if v is not None}
        if changes:
            for own in np.unique(hand[rows]):
                hands.append(tuple(sorted({**dict(hands[own]), **changes}.items())))
                hand[rows[hand[rows] == own]] = len(hands) - 1
        if rule.light and pieces is not None:
            times[rows] *= 1 - 0.5 * rule.light * pieces.lit[rows]
        if rule.away is not None and pieces is not None:
            left = pieces.left[number][rows]
            weight[rows[left == 0]] = np.nan
            times[rows] *= 0.25 + 0.75 * left
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
    heavy = np.round(weight[drawn] * times[drawn] * heavier, 3)
    rank = np.where(found.visible[drawn], len(RANKS) - found.rank[drawn].astype(int), 0)
    columns = [
        rank,
        -band[drawn],
        np.round(heavy * 1000),
        np.round(clear[drawn] * 1e6),
        colour[drawn],
        dash[drawn],
        opacity[drawn] * 1e4,
        ends[drawn],
        hand[drawn],
    ]
    unique, style[drawn] = np.unique(np.stack(columns, 1), axis=0, return_inverse=True)
    styles = [
        Style(
            group="hidden" if r == 0 else RANKS[len(RANKS) - int(r)], weight=max(w / 1000, THINNEST),
            colour=_paled(colours[int(k)], 1 - c / 1e6), dash=tuple(dashes[int(d)]), opacity=o / 1e4,
            cap=caps[int(e)][0],
            join=caps[int(e)][1], hand=hands[int(h)],
        )
        for r, _, w, c, k, d, o, e, h in np.asarray(unique).tolist()
    ]  # fmt: skip
    return style, styles


def _bands(found: LineSet) -> NDArray[np.int64]:
    """(N,) how far away each line is, in steps from 0."""
    near, far = found.span
    depth = np.clip((found.distance - near) / max(far - near, ROUNDING), 0, 1)
    return np.minimum((depth * BANDS).astype(np.int64), BANDS - 1)


def along_style(rule: PenRule, heavier: float = 1.0) -> Style:
    """The pen of a rule that draws along what it means, ``heavier`` times as heavy as it says."""
    pen = rule.pen
    weight = max(round((pen.weight or 0.7) * rule.times * heavier, 3), THINNEST)
    return Style(
        _ALONG[rule.along], weight, _paled(pen.colour or GRAPHITE, rule.paler), pen.dash or (),
        1.0 if pen.opacity is None else pen.opacity,
        pen.cap or "usual", pen.join or "round", tuple(sorted((n, float(v)) for n, v in rule.hand if v is not None)),
    )  # fmt: skip


def chosen_parts(model: Model, where: Query | None) -> NDArray[np.bool_]:
    """(P,) the parts that a query means; all where it is none of parts alone."""
    if where is None or not of_parts(where):
        return np.ones(len(model.parts), bool)
    return answer(where, PartCells.of(model), model)


def built_parts(
    rules: Sequence[BuildUpRule], built_by: NDArray[np.int64], earth: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """(P,) the parts that have a build-up.
    Those of which ``built_by`` (P,) names a rule that has one, but for ``earth`` (P,).
    """
    named = np.array([bool(r.build_up) for r in rules] + [False])
    return named[built_by] & ~earth


def fill_rules(model: Model, rules: Sequence[PocheRule | BuildUpRule]) -> NDArray[np.int64]:
    """(P,) the number of the rule that fills, or builds, each part where it is cut, −1 for none."""
    cells, found = PartCells.of(model, cut=True), np.full(len(model.parts), -1, np.int64)
    for number, rule in enumerate(rules):
        if rule.on:
            found[held_by(rule, cells, model)] = number
    return found
