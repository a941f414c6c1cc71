"""The outside of a building: which sides see the sky, and what lies behind them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.ink.buildups.open_sides import NEITHER, TOUCH, TURN, Open, Points, asked_sides, turned_about
from warmgraphite.ink.buildups.sides import (
    SAID,
    Run,
    closed_up,
    part_of,
    refined,
    runs_along,
    said_runs,
    settled_sides,
    side_pieces,
    slants,
)
from warmgraphite.ink.buildups.specification import Outer
from warmgraphite.passes.cut import CutRegion
from warmgraphite.progress import Progress, silent
from warmgraphite.view.surfaces import CutSurface

__all__ = [
    "Envelope",
    "envelope_of",
]


@dataclass(frozen=True)
class Envelope:
    """The parts that one surface cuts and that have build-ups.
    The ``region`` of each by number, metres in the surface's axes, without gaps between them, and the runs of their
    outline.
    """

    plane: int
    regions: dict[int, shapely.Geometry]
    runs: tuple[Run, ...]

    @cached_property
    def _lines(self) -> dict[tuple[int, int], list[Points]]:
        found: dict[tuple[int, int], list[Points]] = {}
        for run in self.runs:
            found.setdefault((run.side, run.part), []).append(run.line)
        return found

    def lines(self, side: int, part: int) -> list[Points]:
        """The outline of one side that a part lies behind: its own where that was said by hand."""
        return self._lines.get((side, part)) or self._lines.get((side, -1), [])


def envelope_of(
    earthen: NDArray[np.bool_],
    surface: CutSurface,
    rows: Sequence[CutRegion],
    said: dict[int, Outer],
    open_air: Open,
    ground: shapely.Geometry,
    progress: Progress = silent,
) -> Envelope:
    """The envelope that a surface cuts, of its settled regions ``rows``.
    ``said`` is, for each part with a build-up, what says which side is its outer one; ``earthen`` (P,) are the parts
    that are earth, ``ground`` is earth that the model has not.
    """
    plane = rows[0].plane
    whole, shapes = closed_up({r.part: r.region for r in rows if r.part in said})
    others = [r for r in rows if r.part not in said]
    earth = shapely.union_all([ground, *(r.region for r in others if earthen[r.part])])
    solid = shapely.union_all([r.region for r in others if not earthen[r.part]])
    touching = shapely.buffer(shapely.union_all([earth, solid]), TOUCH, join_style="mitre")
    pieces = side_pieces(whole, touching, *(shapes[p] for p in shapes if said[p] != "auto"))
    if not len(pieces.ring):
        return Envelope(plane, shapes, ())
    side = asked_sides(pieces, np.arange(len(pieces.ring)), surface, earth, solid, open_air, progress)
    pieces, side = refined(pieces, side, surface, earth, solid, open_air)
    side = settled_sides(pieces, side)
    part = part_of(pieces, shapes)
    owner = {p: said[p] for p in shapes}
    turned = np.isin(part, [p for p, how in owner.items() if how == "turned"])
    side = np.where(turned, -side, side)
    directed = [p for p, how in owner.items() if how in SAID]
    end = np.isin(part, directed)
    for p in directed:
        mine = part == p
        lean = turned_about(surface.slabs[0], pieces.normal) @ SAID[owner[p]]
        side[mine & (np.abs(lean) >= TURN)] = NEITHER
    runs = runs_along(pieces, side, end, slants(pieces, surface, open_air))
    for p in directed:
        runs += said_runs(surface, shapes, p, SAID[owner[p]], solid, open_air)
    return Envelope(plane, shapes, tuple(runs))
