"""Masks of regions at any resolution: all cells are laid into pixels once, exactly; every mask is then a look-up."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.passes.kernels.cover import covered
from warmgraphite.threads import in_stretches

__all__ = ["Cover", "cover_of"]

_ROWS = 48


@dataclass(frozen=True)
class Cover:
    """What of each pixel belongs to which cell.

    ``whole`` (h, w) the cell of pixels that belong to one, −1 where several share one: then ``pixel`` (M,) flat
    numbers, from ``start`` (M,) on with ``cell`` (K,) and ``share`` (K,) of 255. The shares of a pixel add up to 255.
    """

    whole: NDArray[np.int32]
    pixel: NDArray[np.int64]
    start: NDArray[np.int64]
    cell: NDArray[np.int32]
    share: NDArray[np.uint8]

    @cached_property
    def most(self) -> NDArray[np.int32]:
        """(h, w) the cell that has the most of each pixel."""
        out = self.whole.copy()
        if len(self.pixel):
            count = np.diff(np.append(self.start, len(self.cell)))
            largest = np.repeat(np.maximum.reduceat(self.share, self.start), count)
            rows = np.flatnonzero(self.share == largest)[::-1]
            out.reshape(-1)[np.repeat(self.pixel, count)[rows]] = self.cell[rows]
        return out

    def numbered(self, numbers: NDArray[np.int64]) -> Cover:
        """The same with each cell under another number."""
        table = np.append(numbers, -1).astype(np.int32)
        return Cover(table[self.whole], self.pixel, self.start, table[self.cell], self.share)

    def mask(self, cells: NDArray[np.bool_]) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of the chosen cells (N,)."""
        table = np.append(np.where(cells, 255, 0), 0).astype(np.uint8)
        out = table[self.whole]
        if len(self.pixel):
            own = np.where(cells[self.cell], self.share, 0).astype(np.int64)
            out.reshape(-1)[self.pixel] = np.add.reduceat(own, self.start)
        return out


def cover_of(shapes: NDArray[np.object_], size: tuple[int, int], frame: tuple[float, float]) -> Cover:
    """Cells (N,), polygons in millimetres of a ``frame``, laid into ``size`` = (width, height) pixels."""
    width, height = size
    scale = np.array([width / frame[0], height / frame[1]])
    turned = shapely.orient_polygons(shapes)
    rings, of = shapely.get_rings(turned, return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    points = np.ascontiguousarray(points * scale)
    ring_start = np.searchsorted(ring, np.arange(len(rings) + 1))
    cell_ring = np.searchsorted(of, np.arange(len(shapes) + 1))
    box = np.ascontiguousarray(shapely.bounds(shapes) * np.tile(scale, 2))
    whole = np.full((height, width), -1, np.int32)
    rows = in_stretches(lambda a, b: covered(points, ring_start, cell_ring, box, a, b, whole), height, _ROWS)
    pixel, cell, share = (np.concatenate(c) for c in zip(*rows, strict=True))
    order = np.lexsort((cell, pixel))
    pixel, cell, share = pixel[order], cell[order], share[order]
    mixed = whole.reshape(-1)[pixel] < 0
    pixel, cell, share = pixel[mixed], cell[mixed], share[mixed]
    start = np.flatnonzero(np.append(True, pixel[1:] != pixel[:-1])) if len(pixel) else np.empty(0, np.int64)
    # Whole numbers that add up: what has been given so far, rounded, is never lost or given twice.
    if len(pixel):
        count = np.diff(np.append(start, len(pixel)))
        running = np.cumsum(share)
        before = np.repeat(running[start] - share[start], count)
        total = np.repeat(running[start + count - 1], count) - before
        given = np.round(255 * (running - before) / total)
        amount = np.diff(given, prepend=0.0)
        amount[start] = given[start]
    else:
        amount = share
    return Cover(whole, pixel[start], start, cell, amount.astype(np.uint8))
