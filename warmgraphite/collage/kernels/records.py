"""Records that the loops of several traces take."""

from __future__ import annotations

from typing import NamedTuple

from warmgraphite.kernels.records import B1, F1, F3, I1, I2, T1, W1

__all__ = ["Cover", "Faces", "Window"]


class Window(NamedTuple):
    """A window on the drawing: the place of its corner and the size of a pixel, in millimetres."""

    x: float
    y: float
    across: float
    down: float


class Faces(NamedTuple):
    """How faces lie: what ``triangle`` (h, w) each pixel sees, ``row_of`` (T,) where its face stands in ``table`` (R,
    4, 3) from millimetres to metres along and up it; ``usual`` (R,) metres from the axis of a round one, 0 of a flat
    one; ``lying`` (R,) whether that axis does.
    """

    triangle: I2
    row_of: I1
    table: F3
    usual: F1
    lying: B1


class Cover(NamedTuple):
    """Which cell of a map each pixel shows.
    ``whole`` (h, w) its number, −1 where there are several, whose shares of ``pixel`` (N,) stand from ``start`` (N,) on
    in ``cell`` and ``share``.
    """

    whole: I2
    pixel: W1
    start: W1
    cell: I1
    share: T1
