"""What is confined softly: discs and painted masks, alone or put together with regions.

A query is parted in two: what has an edge that vectors follow, and the rest, which is a share of each place from 0 to
1. Where several must hold shares are multiplied, where any does the largest counts, and what is not meant is what is
left of 1.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import shapely
import skia
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.noise.easing import eased
from warmgraphite.regions.kernels.painting import outline_distance
from warmgraphite.regions.painted import Painted
from warmgraphite.regions.query import All, Any, Not, Query, Through, asked_words
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import Projection
from warmgraphite.view.windows import Disc, OnPaper

__all__ = ["Reach", "Round", "Soft", "hard_parts", "is_soft", "mask_of", "parted", "reach_of", "window_names"]

Places = NDArray[np.float64]
Shares = NDArray[np.float32]


def is_soft(query: Query | None) -> bool:
    """Whether a query says anything of discs or painted masks."""
    return query is not None and "through" in asked_words(query)


def parted(query: Query | None) -> tuple[Query | None, Query | None]:
    """The query as what has an edge, and what is soft.
    Both hold where it does, and what is ``None`` holds everywhere.
    """
    if query is None or not is_soft(query):
        return query, None
    if not isinstance(query, All):
        return None, query
    rows = [parted(q) for q in query.of]
    hard, soft = ([p[k] for p in rows if p[k] is not None] for k in (0, 1))
    together = lambda found: None if not found else found[0] if len(found) == 1 else All(of=tuple(found))
    return together(hard), together(soft)


def hard_parts(query: Query) -> list[Query]:
    """The largest parts of a soft query that have an edge."""
    if not is_soft(query):
        return [query]
    inner = query.of if isinstance(query, All | Any) else (query.of,) if isinstance(query, Not) else ()
    return [part for q in inner for part in hard_parts(q)]


def window_names(query: Query) -> set[str]:
    """The names of discs and masks that a query says something of."""
    if isinstance(query, Through):
        return {query.name}
    inner = query.of if isinstance(query, All | Any) else (query.of,) if isinstance(query, Not) else ()
    return {name for q in inner for name in window_names(q)}


class Soft(Protocol):
    """Something with a share at each place, in frame millimetres."""

    def at(self, xy: Places) -> Shares:
        """(n,) shares at points (n, 2)."""

    def grid(self, x: Places, y: Places) -> Shares:
        """(h, w) shares at columns ``x`` (w,) and rows ``y`` (h,)."""


def _faded(away: NDArray[np.float64], softness: float) -> Shares:
    """Shares at distances from an edge, negative within.
    Half of it there, 0 and 1 half the ``softness`` beyond and within.
    """
    return eased(0.5 - away / max(softness, NEAR))


@dataclass(frozen=True)
class Round:
    """A disc where it lies on the paper: about ``middle``, of a ``radius``, or within an ``outline`` (m, 2).
    All millimetres.
    """

    middle: tuple[float, float]
    radius: float
    outline: tuple[tuple[float, float], ...]
    softness: float

    @staticmethod
    def of(disc: Disc, projection: Projection, middle: tuple[float, float]) -> Round | None:
        """A disc on a drawing whose own middle lies at ``middle``.
        ``None`` where its point of the model lies behind the viewer.
        """
        if isinstance(disc.middle, OnPaper):
            at = (middle[0] + disc.middle.at[0], middle[1] + disc.middle.at[1])
        else:
            point = np.array(disc.middle.at, float)
            if (
                projection.is_perspective
                and float(projection.matrix[3, :3] @ point + projection.matrix[3, 3]) <= ROUNDING
            ):
                return None
            at = tuple(projection.project(point)[:2].tolist())
        return Round(at, disc.radius, tuple((at[0] + x, at[1] + y) for x, y in disc.outline), disc.softness)

    def at(self, xy: Places) -> Shares:
        return _faded(self._away(xy[:, 0], xy[:, 1]), self.softness)

    def grid(self, x: Places, y: Places) -> Shares:
        # As soft as a pixel at least: so the edge of a hard one is smooth.
        soft = max(self.softness, abs(float(x[1] - x[0])) if len(x) > 1 else 0.0)
        out = np.empty((len(y), len(x)), np.float32)

        def rows(first: int, last: int) -> None:
            xx, yy = np.broadcast_arrays(x[None], y[first:last, None])
            out[first:last] = _faded(self._away(xx.reshape(-1), yy.reshape(-1)), soft).reshape(xx.shape)

        in_stretches(rows, len(y), 32)
        return out

    def _away(self, x: Places, y: Places) -> Places:
        if not self.outline:
            return np.hypot(x - self.middle[0], y - self.middle[1]) - self.radius
        out = np.empty(len(x))
        outline_distance(np.ascontiguousarray(x), np.ascontiguousarray(y), np.array(self.outline), out)
        return out


@dataclass(frozen=True)
class _Mask:
    painted: Painted
    middle: tuple[float, float]

    def at(self, xy: Places) -> Shares:
        return self.painted.at(xy - np.array(self.middle))

    def grid(self, x: Places, y: Places) -> Shares:
        return self.painted.grid(x - self.middle[0], y - self.middle[1])


@dataclass(frozen=True)
class _Within:
    """A region, which has an edge."""

    shape: shapely.Geometry

    def at(self, xy: Places) -> Shares:
        shapely.prepare(self.shape)
        return shapely.contains_xy(self.shape, xy).astype(np.float32)  # type: ignore[no-any-return]

    def grid(self, x: Places, y: Places) -> Shares:
        path = skia.Path()
        path.setFillType(skia.PathFillType.kEvenOdd)
        for ring in shapely.get_rings(shapely.get_parts(self.shape)):
            path.addPoly([skia.Point(*p) for p in shapely.get_coordinates(ring).tolist()], True)
        out = np.zeros((len(y), len(x)), np.uint8)
        surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeA8(len(x), len(y)), out)
        step = ((x[-1] - x[0]) / max(len(x) - 1, 1) or 1.0, (y[-1] - y[0]) / max(len(y) - 1, 1) or 1.0)
        target = surface.getCanvas()
        target.translate(0.5 - x[0] / step[0], 0.5 - y[0] / step[1])
        target.scale(1 / step[0], 1 / step[1])
        target.drawPath(path, skia.Paint(AntiAlias=True))
        surface.flushAndSubmit()
        return out.astype(np.float32) / np.float32(255)


@dataclass(frozen=True)
class _Together:
    """Several put together by ``way`` (one share with another), or what one leaves."""

    of: tuple[Soft, ...]
    way: Callable[[Shares, Shares], Shares] | None

    def _put(self, found: Sequence[Shares]) -> Shares:
        if self.way is None:
            return np.float32(1) - found[0]
        out = found[0]
        for other in found[1:]:
            out = self.way(out, other)
        return out

    def at(self, xy: Places) -> Shares:
        return self._put([s.at(xy) for s in self.of])

    def grid(self, x: Places, y: Places) -> Shares:
        return self._put([s.grid(x, y) for s in self.of])


@dataclass(frozen=True)
class _Nothing:
    def at(self, xy: Places) -> Shares:
        return np.zeros(len(xy), np.float32)

    def grid(self, x: Places, y: Places) -> Shares:
        return np.zeros((len(y), len(x)), np.float32)


@dataclass(frozen=True)
class Reach:
    """How much of each place of a drawing a soft query means."""

    soft: Soft

    def at(self, xy: Places) -> Shares:
        """(n,) shares at points (n, 2) in frame millimetres."""
        return self.soft.at(np.asarray(xy, np.float64)) if len(xy) else np.zeros(0, np.float32)

    def pixels(self, width: int, height: int, x: float, y: float, across: float, down: float) -> NDArray[np.uint8]:
        """(height, width) 255 times the share of each pixel of a picture over a rectangle in frame millimetres."""
        columns = x + (np.arange(width) + 0.5) * across / width
        out = np.empty((height, width), np.uint8)
        for first in range(0, height, 1024):  # of a large sheet not all at once
            last = min(first + 1024, height)
            rows = y + (np.arange(first, last) + 0.5) * down / height
            out[first:last] = np.round(self.soft.grid(columns, rows) * np.float32(255))
        return out


def reach_of(
    query: Query, windows: Callable[[str], Sequence[Soft]], room: Callable[[Query], shapely.Geometry]
) -> Reach:
    """What a query reaches.
    ``windows`` gives the discs and masks of a name, ``room`` the region of a part that has an edge.
    """

    def made(part: Query) -> Soft:
        if not is_soft(part):
            return _Within(room(part))
        if isinstance(part, Through):
            found = tuple(windows(part.name))
            return _Together(found, np.maximum) if found else _Nothing()
        if isinstance(part, Not):
            return _Together((made(part.of),), None)
        assert isinstance(part, All | Any)
        return _Together(tuple(made(q) for q in part.of), np.multiply if isinstance(part, All) else np.maximum)

    return Reach(made(query))


def mask_of(painted: Painted, middle: tuple[float, float]) -> Soft:
    """A painted mask on a drawing whose middle lies at ``middle``."""
    return _Mask(painted, middle)
