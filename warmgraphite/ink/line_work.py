"""Line work: pieces of lines gathered into long strokes, each group with one pen."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.ink.specification import Pen, PenSet
from warmgraphite.model.model import Model
from warmgraphite.passes.lines import RANKS, LineSet

__all__ = ["Strokes", "chained", "line_work"]

#: Millimetres within which two ends of line meet.
JOIN = 0.01
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


def chained(start: NDArray[np.float64], end: NDArray[np.float64]) -> list[NDArray[np.float64]]:
    """Segments (N, 2) joined end to end wherever exactly two meet; closed rings end where they begin."""
    if not len(start):
        return []
    points = np.concatenate([start, end])
    _, node = np.unique(np.round(points / JOIN).astype(np.int64), axis=0, return_inverse=True)
    node = node.ravel()
    n = len(start)
    degree = np.bincount(node)
    order = np.argsort(node, kind="stable")
    first = np.searchsorted(node[order], np.arange(len(degree)))
    used = np.zeros(n, bool)

    def follow(end_index: int) -> list[int]:
        """Ends passed from one end of a segment on, each the far end of the next segment."""
        out = []
        while True:
            segment = end_index % n
            used[segment] = True
            far = end_index + n if end_index < n else end_index - n
            out.append(far)
            at = node[far]
            if degree[at] != 2:
                return out
            pair = order[first[at] : first[at] + 2]
            following = int(pair[0] if pair[1] == far else pair[1])
            if used[following % n]:
                return out
            end_index = following

    lines = []
    free = [e for e in range(2 * n) if degree[node[e]] != 2]
    for e in [*free, *range(n)]:
        if not used[e % n]:
            lines.append(points[[e, *follow(e)]])
    return lines


def _lighter(colour: str, share: float) -> str:
    """A colour moved towards the paper's white by ``share``."""
    rgb = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    return "#" + "".join(f"{round(c + (238 - c) * share):02x}" if c < 238 else f"{c:02x}" for c in rgb)


def line_work(found: LineSet, model: Model, pens: PenSet) -> list[Strokes]:
    """The strokes of a drawing, faintest first: hidden lines, then surface, edge, outline and cut."""
    out: list[Strokes] = []
    hidden = np.flatnonzero(~found.visible)
    if pens.hidden.on and len(hidden):
        out.append(Strokes("hidden", pens.hidden, chained(found.from_mm[hidden], found.to_mm[hidden])))
    seen = np.flatnonzero(found.visible)
    if not len(seen):
        return out
    distance = found.distance
    # The middle nine tenths of the lines set the range, so that one far tree does not make all else near.
    near, far = np.quantile(distance[seen], [0.02, 0.97])
    depth = np.clip((distance - near) / max(far - near, 1e-9), 0, 1)
    band = np.minimum((depth * BANDS).astype(int), BANDS - 1)
    drawn_as = model.part_drawn[found.part]
    softly, strongly = drawn_as == "soft", drawn_as == "strong"
    for rank in range(len(RANKS) - 1, -1, -1):
        pen: Pen = getattr(pens, RANKS[rank])
        if not pen.on:
            continue
        for step in range(BANDS - 1, -1, -1):
            for soft, strong in ((True, False), (False, False), (False, True)):
                for glazed in (True, False):
                    rows = found.visible & (found.rank == rank) & ((found.through > 0) == glazed)
                    rows &= (softly == soft) & (strongly == strong)
                    rows &= band == step if rank else (step == 0)
                    if not rows.any():
                        continue
                    away = pens.fade * step / (BANDS - 1)
                    share = (
                        (0.55 if soft and rank else STRONG if strong and rank else 1.0)
                        * (1 - 0.55 * away)
                        * (0.8 if glazed else 1.0)
                    )
                    pale = 1 - (0.62 if soft and rank else 1.0) * (1 - 0.45 * away) * (0.7 if glazed else 1.0)
                    drawn = pen.model_copy(
                        update={"weight": max(round(pen.weight * share, 3), 0.03), "colour": _lighter(pen.colour, pale)}
                    )
                    out.append(Strokes(RANKS[rank], drawn, chained(found.from_mm[rows], found.to_mm[rows])))
    return out
