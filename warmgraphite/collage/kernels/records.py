"""Records that the loops of several traces take."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import numpy as np
from numba import types
from numpy.typing import NDArray

from warmgraphite.kernels.records import B1, F1, F2, F3, I1, I2, T1, T2, W1

__all__ = ["Cover", "Dials", "Faces", "Fields", "Middle", "Washes", "Window"]


class Dials(NamedTuple):
    """How a wash is laid: shares, but for ``pools``, ``rim_width``, ``white`` and ``short`` in millimetres.
    The way it thins out ``by``, from a place to another, millimetres from the middle of the drawing, or from a point at
    both within a ``reach``; and the frame's sides from the middle.
    """

    density: float
    flow: float
    pools: float
    wet: float
    rim: float
    rim_width: float
    bloom: float
    back_run: float
    granulation: float
    dry: float
    white: float
    lost: float
    way: float
    fade: float
    place_0: float
    place_1: float
    reach: float
    short: float
    left: float
    right: float
    top: float
    bottom: float


class Middle(NamedTuple):
    """The middle of the drawing, in millimetres."""

    x: float
    y: float


class Washes(NamedTuple):
    """Washes (W): ``of`` (N,) that of each cell, −1 for none; ``pigments`` (W, 2, 3) logarithms of both colours.
    ``reach`` (W, 2) where each begins and ends downwards, ``seeds`` (W,).
    """

    of: I1
    pigments: F3
    reach: F2
    seeds: W1


class Fields(NamedTuple):
    """What a wash goes by: the ``shadow`` (h, w) of 255, and how far from a border places lie.
    ``away`` in 128ths of a millimetre, a cell ``across`` by ``down``.
    """

    shadow: T2
    away: Annotated[NDArray[np.uint16], types.uint16[:, ::1]]
    across: float
    down: float


class Window(NamedTuple):
    """A window on the drawing: the place of its corner and the size of a pixel, in millimetres."""

    x: float
    y: float
    across: float
    down: float


class Faces(NamedTuple):
    """How faces lie.
    It says what ``triangle`` (h, w) each pixel sees, ``row_of`` (T,) where its face stands in ``table`` (R, 4, 3) from
    millimetres to metres along and up it; ``usual`` (R,) metres from the axis of a round one, 0 of a flat one;
    ``lying`` (R,) whether that axis does.
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
