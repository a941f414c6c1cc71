"""Line work: pieces of lines gathered into long strokes, each group with one pen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.colours import channels, written
from warmgraphite.ink.specification import Pen, PenSet
from warmgraphite.model.model import Model
from warmgraphite.passes.lines import JOIN, RANKS, LineSet

__all__ = ["Strokes", "line_work", "profile_work", "runs"]

#: Sine of the turn below which a corner is none.
STRAIGHT = 1e-5
#: How much heavier the lines of a part that is drawn strongly are than its neighbours'.
STRONG = 1.4
#: Steps in which lines grow thinner with distance.
BANDS = 4


@dataclass(frozen=True)
class Strokes:
    """Strokes of one pen: ``lines`` are (n, 2) arrays of frame millimetres; ``group`` names pass and rank."""

    group: str
    pen: Pen
    lines: list[NDArray[np.float64]]


def runs(found: LineSet, rows: NDArray[np.int64]) -> list[NDArray[np.float64]]:
    """The chosen rows (in rising order) as polylines (n, 2) in millimetres: rows of one chain that follow one another are
    one. Corners that are none are left out; a stroke that comes back to where it began is closed."""
    if not len(rows):
        return []
    breaks = np.flatnonzero((np.diff(rows) != 1) | (np.diff(found.chain[rows]) != 0)) + 1
    first, last = np.append(0, breaks), np.append(breaks, len(rows)) - 1
    step = found.to_mm[rows] - found.from_mm[rows]
    step /= np.maximum(np.linalg.norm(step, axis=1, keepdims=True), 1e-12)
    turns = np.ones(len(rows), bool)
    turns[1:] = np.abs(step[1:, 0] * step[:-1, 1] - step[1:, 1] * step[:-1, 0]) > STRAIGHT
    turns[first] = True
    count = np.add.reduceat(turns, first)
    starts = found.from_mm[rows[turns]]
    out = []
    for line, end in zip(np.split(starts, np.cumsum(count)[:-1]), found.to_mm[rows[last]], strict=True):
        whole = np.concatenate([line, end[None]])
        if len(whole) > 3 and np.abs(whole[0] - end).max() <= JOIN:
            whole[-1] = whole[0]
        out.append(whole)
    return out


def _lighter(colour: str, share: float) -> str:
    """A colour moved towards the paper's white by ``share``."""
    return written(c + (238 - c) * share if c < 238 else c for c in channels(colour))


def profile_work(outline: shapely.MultiPolygon, pens: PenSet) -> list[Strokes]:
    """The strokes of the profile pen round an outline in frame millimetres; each is closed."""
    rings = [np.asarray(r.coords) for p in shapely.get_parts(outline) for r in (p.exterior, *p.interiors)]
    return [Strokes("profile", pens.profile, rings)] if pens.profile.on and rings else []


def line_work(found: LineSet, model: Model, pens: PenSet) -> list[Strokes]:
    """The strokes of a drawing, faintest first: hidden lines, then surface, edge, outline and cut."""
    out: list[Strokes] = []
    if pens.hidden.on and not found.visible.all():
        out.append(Strokes("hidden", pens.hidden, runs(found, np.flatnonzero(~found.visible))))
    if not found.visible.any():
        return out
    distance = found.distance
    # The middle nine tenths of the lines set the range, so that one far tree does not make all else near.
    near, far = np.quantile(distance[found.visible], [0.02, 0.97])
    depth = np.clip((distance - near) / max(far - near, 1e-9), 0, 1)
    band = np.where((found.rank == 0) | (pens.fade == 0), 0, np.minimum((depth * BANDS).astype(int), BANDS - 1))
    drawn_as = model.part_drawn[found.part]
    weight = np.where(drawn_as == "soft", 0, np.where(drawn_as == "strong", 2, 1))
    clear = found.through == 0
    # Rank by rank, faintest first; within one the farthest first, soft before strong, what is behind glass before what is not.
    style = ((len(RANKS) - 1 - found.rank.astype(int)) * BANDS + BANDS - 1 - band) * 6 + weight * 2 + clear
    style[~found.visible] = -1
    for number in np.unique(style[found.visible]):
        rows = np.flatnonzero(style == number)
        rank, step = int(found.rank[rows[0]]), int(band[rows[0]])
        pen: Pen = getattr(pens, RANKS[rank])
        if not pen.on:
            continue
        soft, strong, glazed = weight[rows[0]] == 0, weight[rows[0]] == 2, not clear[rows[0]]
        away = pens.fade * step / (BANDS - 1)
        share = (0.55 if soft and rank else STRONG if strong and rank else 1.0) * (1 - 0.55 * away) * (0.8 if glazed else 1.0)
        pale = 1 - (0.62 if soft and rank else 1.0) * (1 - 0.45 * away) * (0.7 if glazed else 1.0)
        drawn = pen.model_copy(update={"weight": max(round(pen.weight * share, 3), 0.03), "colour": _lighter(pen.colour, pale)})
        out.append(Strokes(RANKS[rank], drawn, runs(found, rows)))
    return out
