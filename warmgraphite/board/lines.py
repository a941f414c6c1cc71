"""How drawings on a board stand in line: where their axes, or their levels, lie on the paper.

What a parallel drawing shows at a place of the paper depends on the model alone: to the right it is a linear function
of the point, and so downwards. Two drawings of which that function has the same factors, at one scale, can stand in
line: a plan over a section by the axes that both show, a section beside an elevation by their levels.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.board.specification import Board, PlacedDrawing
from warmgraphite.view.projection import Projection

__all__ = ["Lie", "lie_of", "placed", "share_a_line"]

#: Millimetres of paper by which the same point may differ, over the length of a building, and still be in line.
ALIKE = 0.02


@dataclass(frozen=True)
class Lie:
    """Where a drawing shows points (x, y, z) of the model.
    To the right at ``across`` · point + ``left``, down at ``down`` · point + ``top``, in millimetres of its own frame.
    ``size`` is that of its frame.
    """

    across: tuple[float, float, float]
    left: float
    down: tuple[float, float, float]
    top: float
    size: tuple[float, float]


def lie_of(projection: Projection) -> Lie | None:
    """How a drawing lies; ``None`` for a perspective, which has no one scale."""
    if projection.eye is not None:
        return None
    m: NDArray[np.float64] = projection.matrix / projection.matrix[3, 3]
    row = lambda k: (float(m[k, 0]), float(m[k, 1]), float(m[k, 2]))
    return Lie(row(0), float(m[0, 3]), row(1), float(m[1, 3]), (projection.width, projection.height))


def share_a_line(one: Lie | None, other: Lie | None, way: str, extent: float = 30.0) -> float | None:
    """Millimetres by which the second drawing must stand from the first to be in line with it.
    In line are its axes (``x``), or its levels (``y``); ``None`` where they show no common one.
    """
    if one is None or other is None:
        return None
    a, b = (one.across, other.across) if way == "x" else (one.down, other.down)
    if float(np.abs(np.array(a) - np.array(b)).max()) * extent > ALIKE:
        return None
    return one.left - other.left if way == "x" else one.top - other.top


def placed(board: Board, lies: Mapping[str, Lie | None]) -> dict[str, tuple[float, float]]:
    """Where each drawing's frame lies on its page: those that keep in line with another are moved there."""
    by_id = {d.id: d for d in board.drawings}
    found: dict[str, list[float]] = {d.id: list(d.at) for d in board.drawings}

    def settle(row: PlacedDrawing, way: str, index: int, seen: frozenset[str]) -> float:
        to = getattr(row, f"line_{way}")
        other = by_id.get(to)
        if other is None or to in seen:
            return row.at[index]
        off = share_a_line(lies.get(to), lies.get(row.id), way)
        if off is None:
            return row.at[index]
        return settle(other, way, index, seen | {row.id}) + off

    for row in board.drawings:
        found[row.id] = [settle(row, way, k, frozenset()) for k, way in enumerate(("x", "y"))]
    return {k: (v[0], v[1]) for k, v in found.items()}
