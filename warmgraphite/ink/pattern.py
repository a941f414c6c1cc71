"""What a pattern is made of: courses of parallel lines, scattered marks, tiles; all as data.

Lengths are in the pattern's own spacing, so that one pattern serves on paper, in millimetres, and on a face, in metres.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

__all__ = ["Course", "Mark", "Pattern", "Scatter", "Tile"]

#: A mark is a polyline of (x, y) about its place; one of a single point is a dot.
Mark = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Course:
    """Parallel lines ``step`` apart, turned by ``angle`` degrees from the pattern's level.

    Line 0 lies ``at`` from the origin. Without ``marks`` lines go through; else they are of marks and gaps in turn,
    which begin ``along`` from the origin and ``slip`` farther in each line than in the one before. ``loose`` is how
    unlike marks and gaps are by nature, as a share; ``weight`` is in shares of the hatch's.
    """

    step: float = 1.0
    angle: float = 0.0
    at: float = 0.0
    along: float = 0.0
    slip: float = 0.0
    marks: tuple[float, ...] = ()
    loose: float = 0.0
    weight: float = 1.0


@dataclass(frozen=True)
class Scatter:
    """Marks strewn evenly without order, about one to a square of ``apart`` spacings.

    Each is one of ``marks``, turned by up to ``turn`` degrees to either side and up to ``vary`` larger or smaller, as a
    share. With ``sinks`` millimetres they thin out inwards from the edge of what they fill, as earth does under its
    surface.
    """

    marks: tuple[Mark, ...]
    apart: float = 1.0
    turn: float = 180.0
    vary: float = 0.3
    sinks: float = 0.0
    weight: float = 1.0
    #: Numbers scatters of one pattern, so that they do not lie on one another.
    seed: int = 0


@dataclass(frozen=True)
class Tile:
    """Marks in a tile of ``width`` by ``height`` spacings, which is laid edge to edge."""

    width: float
    height: float
    marks: tuple[Mark, ...]


@dataclass(frozen=True)
class Pattern:
    """One pattern.
    What it is called, its usual ``spacing`` in millimetres of paper and in ``metres`` on a face, and its marks.

    Its level runs as the face's level line does; where it says ``turned``, to the viewer on level faces, as ripples
    lie, or along the face, as the grain of timber runs. ``across`` makes marks of the shape itself that it fills, from
    its outlines in millimetres and the spacing. ``group`` is what it is offered under.
    """

    name: str
    label: str
    spacing: float
    metres: float
    courses: tuple[Course, ...] = ()
    scatters: tuple[Scatter, ...] = ()
    tile: Tile | None = None
    turned: Literal["", "viewer", "along"] = ""
    across: Callable[[list[NDArray[np.float64]], float], list[NDArray[np.float64]]] | None = None
    group: Literal["lines", "earth and stone", "walls", "timber", "roofs", "layers", "water and green"] = "lines"
