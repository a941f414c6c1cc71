"""What loops over pixels take: what is seen there, what light falls on it, and how values are evened."""

from __future__ import annotations

from typing import NamedTuple

from warmgraphite.kernels.records import F1, F2, F3, I1, I2, S2, S3, W1

__all__ = ["EdgePixels", "Evening", "Floor", "PixelGrid", "Planes", "Rays", "Shading", "Shown", "Sighted", "Standing"]


class Sighted(NamedTuple):
    """Triangles (T) as they are seen, and from where: corners in the frame, normals, the model's triangle.
    The matrix back to metres, the ``eye``, if it is ``central``, or the ``sight``.
    """

    frame: F3
    normal: F2
    source: I1
    inverse: F2
    eye: F1
    sight: F1
    central: bool


class Floor(NamedTuple):
    """What one stands on: the corners of the model's triangles (M, 3, 3), normals ``smooth`` there.
    The metres by which rays are lifted, and the place from which they count.
    """

    corner: F3
    smooth: S3
    lift: float
    middle: F1


class Standing(NamedTuple):
    """Where rays set out (N, 3), the unit normal there, and the mean of the normals at corners."""

    start: S2
    flat: S2
    bent: S2


class PixelGrid(NamedTuple):
    """Pixels of a window: how many to a row, where the first is, millimetres across and down of each."""

    width: int
    left: int
    top: int
    across: float
    down: float


class Shading(NamedTuple):
    """How a surface's turn to the sun makes its tone: at ``night`` not at all; in ``steps``, 0 for evenly.
    The sun's strength, the tones of what it grazes and of what turns from it; shares of light from sky and ground, and
    of what comes from all round.
    """

    night: bool
    steps: int
    strength: float
    half: float
    back: float
    sky: float
    ground: float
    ambient: float


class Rays(NamedTuple):
    """Rays: of which point each is, and where it sets out (N, 3)."""

    row: W1
    start: S2


class Planes(NamedTuple):
    """Triangles (T) as planes: linear forms, normals, parts."""

    forms: F2
    normal: F2
    part: I1


class Shown(NamedTuple):
    """What pixels (h, w) show: the triangle, and how far it lies."""

    triangle: I2
    distance: S2


class Evening(NamedTuple):
    """How values are evened.
    ``pixel`` (4,) are the millimetres of one, and the place of the first of them in the frame; whether one looks from a
    point; metres within which two places are on one surface.
    """

    pixel: F1
    central: bool
    near: float


class EdgePixels(NamedTuple):
    """Pixels (E) at edges, by number, and what their subsamples see (E, 8)."""

    pixel: W1
    triangle: I2
