"""Lines taken to pieces where something changes along them that a pen goes by.
The light on their faces, how far they lie from what is meant to be seen.

What is asked is the paper: a raster of the map's cells, and of outlines, a fifth of a millimetre fine, which is less
than anyone sees of a soft change.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import ndimage

from warmgraphite.geometry.ragged import ordinals, row_of
from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH, ROUNDING
from warmgraphite.passes.line_set import LineSet
from warmgraphite.regions.map import LIT, SHADE, SHADOW, RegionMap
from warmgraphite.regions.masks import cover_of

__all__ = ["Parted", "parted"]

Points = NDArray[np.float64]

#: Millimetres of the pieces, of a raster's pixel, and to either side of a line where its faces are asked.
PIECE, PIXEL, BESIDE = 0.6, 0.2, 0.32
#: Steps in which a line fades.
FADES = 4


@dataclass(frozen=True)
class Parted:
    """Pieces (M) of lines.
    The line that each is of, ``rows`` in rising order, its ends ``from_mm``, ``to_mm`` (M, 2), ``lit`` (M,) 1 between
    lit faces and −1 between those in shade or shadow, and for each rule that fades lines what is left of them there, as
    a share (M,), 0 where they are gone.
    """

    rows: NDArray[np.int64]
    from_mm: Points
    to_mm: Points
    lit: Points
    left: dict[int, Points]


def parted(
    found: LineSet,
    frame: tuple[float, float],
    cells: RegionMap | None,
    away: Mapping[int, tuple[shapely.Geometry, float, bool]],
) -> Parted:
    """The lines of a ``frame`` = (width, height) millimetres in pieces along which nothing changes.
    ``cells`` says where light falls. ``away`` is, by rule, a shape on the paper, how many millimetres lines take to
    end, and whether they end within it, or beyond.
    """
    length = np.linalg.norm(found.to_mm - found.from_mm, axis=1)
    count = np.maximum(np.ceil(length / PIECE), 1).astype(np.int64)
    rows, number = row_of(count), ordinals(count)
    step = (found.to_mm - found.from_mm)[rows] / count[rows, None]
    start = found.from_mm[rows] + number[:, None] * step
    middle = start + step / 2
    size = (max(round(frame[0] / PIXEL), 1), max(round(frame[1] / PIXEL), 1))
    lit = np.zeros(len(rows)) if cells is None else _light(cells, found, rows, middle, step, size)
    left = {rule: _left(shape, reach, within, middle, frame, size) for rule, (shape, reach, within) in away.items()}
    # Neighbours of one line that are alike are one piece again.
    columns = np.stack([rows, lit * 2, *left.values()], 1) if len(rows) else np.empty((0, 2))
    begins = (
        np.append(0, np.flatnonzero((np.diff(columns, axis=0) != 0).any(1)) + 1) if len(rows) else np.empty(0, np.int64)
    )
    ends = np.append(begins[1:], len(rows)) - 1 if len(rows) else begins
    last = number[ends] == count[rows[ends]] - 1
    to_mm = np.where(last[:, None], found.to_mm[rows[ends]], (start + step)[ends])
    return Parted(rows[begins], start[begins], to_mm, lit[begins], {k: v[begins] for k, v in left.items()})


def _pixel(
    at: Points, frame_size: tuple[float, float], size: tuple[int, int]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    x = np.clip((at[:, 0] / frame_size[0] * size[0]).astype(np.int64), 0, size[0] - 1)
    return np.clip((at[:, 1] / frame_size[1] * size[1]).astype(np.int64), 0, size[1] - 1), x


def _light(
    cells: RegionMap, found: LineSet, rows: NDArray[np.int64], middle: Points, step: Points, size: tuple[int, int]
) -> Points:
    """(M,) from −1 in the dark to 1 in the light: of the faces of a line's own part on either side of it, or of any."""
    whole = cells.cover(size).most
    side = np.stack([-step[:, 1], step[:, 0]], 1) / np.maximum(np.linalg.norm(step, axis=1, keepdims=True), NO_LENGTH)
    total, weight = np.zeros(len(rows)), np.zeros(len(rows))
    for sign in (-1, 1):
        cell = whole[_pixel(middle + sign * BESIDE * side, cells.frame, size)]
        light = cells.light[cell]
        value = np.where(light == LIT, 1.0, np.where((light == SHADE) | (light == SHADOW), -1.0, 0.0))
        value = np.where((cell >= 0) & ~cells.cut[cell], value, 0.0)
        trust = np.where(value == 0, 0.0, np.where(cells.part[cell] == found.part[rows], 8.0, 1.0))
        total, weight = total + trust * value, weight + trust
    share = np.where(weight > 0, total / np.maximum(weight, ROUNDING), 0.0)
    return np.round(share * 2) / 2


def _left(
    shape: shapely.Geometry,
    reach: float,
    within: bool,
    middle: Points,
    frame: tuple[float, float],
    size: tuple[int, int],
) -> Points:
    """(M,) what is left of lines at places, in steps; along their last steps they break up, more and more."""
    polygons = np.array([p for p in shapely.get_parts(shape) if shapely.get_type_id(p) == 3], dtype=object)
    inside = cover_of(polygons, size, frame).most >= 0 if len(polygons) else np.zeros(size[::-1], bool)
    gone_in = inside if within else ~inside
    deep = (
        ndimage.distance_transform_edt(gone_in, sampling=(frame[1] / size[1], frame[0] / size[0]))
        if gone_in.any()
        else None
    )
    if deep is None:
        return np.ones(len(middle))
    at = deep[_pixel(middle, frame, size)]
    share = np.clip(1 - at / max(reach, NEAR), 0, 1)
    stepped = np.ceil(share * FADES) / FADES
    # Broken up by a noise along the paper, so that neighbours do not break at one distance.
    noise = np.sin(middle[:, 0] * 1.9 + 3.1 * np.sin(middle[:, 1] * 0.83)) * np.cos(middle[:, 1] * 1.7 + 1.3)
    return np.where((share < 0.75) & (0.5 + 0.5 * noise > share * 1.5), 0.0, stepped)
