"""What rules draw along, over all lines.
The outline of a subject, of all that is cut, the line where a building stands.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Protocol

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import FINEST
from warmgraphite.ink.assign import along_style, held_by
from warmgraphite.ink.layer import shape_of
from warmgraphite.ink.rules import PenRule
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.work import InkRow
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.passes.chains import JOIN, chained
from warmgraphite.passes.line_set import LineSet
from warmgraphite.regions.query import PartCells

__all__ = ["along", "along_needs", "base_lines", "cut_outline", "ringed", "rounds", "run_on", "runs_on"]

Points = NDArray[np.float64]

#: Metres behind a line on the ground that still are the ground it stands on.
STANDS = 0.3
#: Millimetres of paper over which a base line that is run on tapers.
TAPER = 60.0
#: Millimetres within which cut shapes are one.
TOUCH = 0.02


class _Shape(Protocol):
    @property
    def rings(self) -> list[Points]: ...


def along_needs(rule: PenRule) -> tuple[Need, ...]:
    """The passes that a rule draws along."""
    if rule.along == "subject":
        return (Need("outline", rule.where),)
    if rule.along == "cut":
        return (Need("shapes", rule.where),)
    return (Need("lines"),) if rule.along == "base" else ()


def ringed(outline: shapely.Geometry) -> list[Points]:
    """The closed lines (n, 2) round an outline in frame millimetres."""
    return [np.asarray(r.coords)[:, :2] for p in shapely.get_parts(outline) for r in (p.exterior, *p.interiors)]


def cut_outline(shapes: Sequence[_Shape]) -> list[Points]:
    """The closed lines (n, 2) round all that is cut, as one."""
    solid = [shapely.buffer(shape_of(s.rings), TOUCH, join_style="mitre") for s in shapes]
    whole = shapely.buffer(shapely.union_all(solid), -TOUCH, join_style="mitre") if solid else shapely.Polygon()
    parts = [p for p in shapely.get_parts(whole) if shapely.get_type_id(p) == 3 and p.area > 0]
    return [r for p in parts for r in ringed(shapely.simplify(p, FINEST))]


def base_lines(found: LineSet, model: Model, rule: PenRule) -> list[Points]:
    """Where what a rule means stands on the ground: lines (n, 2) between it and ground or water that lies right behind.
    Where there is none, the lowest edge.
    """
    parts = held_by(rule, PartCells.of(model), model)
    ground = np.append(np.isin(model.parts.role, ["ground", "water"]), False)  # −1 is nothing
    stands = np.append(parts, False) & ~ground & ~np.append(np.isin(model.parts.role, ["planting", "people"]), False)
    left, right = found.left, found.right
    near = ~(found.behind > STANDS) | ((found.rank == 0) & ground[found.part])  # or it rises behind ground that is cut
    rows = found.visible & ((stands[left] & ground[right]) | (stands[right] & ground[left])) & near
    if not rows.any():
        rows = found.visible & stands[found.part]
        if not rows.any():
            return []
        level = np.maximum(found.start[:, 2], found.end[:, 2])
        rows &= level <= level[rows].min() + 0.02
    chosen = np.flatnonzero(rows)
    place, turned, chain = chained(found.from_mm[chosen], found.to_mm[chosen], np.zeros(len(chosen), np.int64))
    chosen, turned = chosen[place], turned[:, None]
    start = np.where(turned, found.to_mm[chosen], found.from_mm[chosen])
    end = np.where(turned, found.from_mm[chosen], found.to_mm[chosen])
    begins = np.append(0, np.flatnonzero(np.diff(chain)) + 1)
    return [
        np.concatenate([start[a : a + 1], end[a:b]])
        for a, b in zip(begins, np.append(begins[1:], len(start)), strict=True)
    ]


def along(rule: PenRule, of: Callable[[Need], Any], model: Model) -> list[Points]:
    """What a rule draws along: polylines (n, 2) in frame millimetres.
    ``of`` gives the results of :func:`along_needs`.
    """
    if rule.along == "subject":
        return ringed(of(Need("outline", rule.where)))
    if rule.along == "cut":
        return cut_outline(of(Need("shapes", rule.where)))
    return base_lines(of(Need("lines")).drawn, model, rule)


def rounds(rules: Sequence[PenRule], times: float, of: Callable[[Need], Any], model: Model) -> list[Strokes]:
    """The strokes of those of the rules that draw along outlines."""
    return [Strokes(along_style(r, times), along(r, of, model)) for r in rules if r.on and r.along != "lines"]


def runs_on(
    rules: Sequence[PenRule], times: float, of: Callable[[Need], Any], model: Model, width: float
) -> Iterator[InkRow]:
    """Base lines run on to both edges of a frame ``width`` millimetres wide."""
    for rule in rules:
        if rule.on and rule.along == "base" and rule.run_on:
            style = along_style(rule, times)
            for line, share in run_on(along(rule, of, model), width):
                yield InkRow(style, line, share * style.weight, np.array([0, len(line)]))


def run_on(lines: list[Points], width: float) -> list[tuple[Points, Points]]:
    """A base line run on to both edges of a frame ``width`` millimetres wide.
    Polylines (n, 2) with shares (n,) of the weight, which taper towards the edges.
    """
    if not lines:
        return []
    points = np.concatenate(lines)
    out = []
    for end, edge in ((points[points[:, 0].argmin()], 0.0), (points[points[:, 0].argmax()], width)):
        if abs(end[0] - edge) < JOIN:
            continue
        x = np.linspace(end[0], edge, max(int(abs(edge - end[0]) / 2), 2))
        share = np.clip(np.abs(edge - x) / min(TAPER, abs(edge - end[0])), 0, 1)
        out.append((np.column_stack([x, np.full(len(x), end[1])]), 0.12 + 0.88 * share))
    return out
