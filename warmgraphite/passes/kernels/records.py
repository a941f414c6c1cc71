"""Records that the loops of several passes take."""

from __future__ import annotations

from typing import NamedTuple

from warmgraphite.kernels.records import B1, F1, F2, I1, I2, W1

__all__ = ["Grid", "Hiders", "Pieces"]


class Grid(NamedTuple):
    """Square cells over a frame, row by row, each with the triangles that touch it, nearest first.

    ``start`` (cells + 1,) is where the stretch of each begins in ``triangle``; ``left``, ``top`` and ``size`` are
    millimetres.
    """

    start: W1
    triangle: I1
    left: float
    top: float
    size: float
    columns: int
    rows: int


class Hiders(NamedTuple):
    """Triangles (T) as loops see them: see :class:`warmgraphite.passes.occluders.Occluders`."""

    forms: F2
    source: I1
    pane: B1
    near: F1
    far: F1


class Pieces(NamedTuple):
    """Pieces of line (N) from ``a`` to ``b`` (N, 3) in the frame.

    What lies less than ``slack_a``, ``slack_b`` (N,) deep before either end does not hide it; ``beside`` (N, 2) are the
    model's triangles that it bounds, −1 for none.
    """

    a: F2
    b: F2
    slack_a: F1
    slack_b: F1
    beside: I2
