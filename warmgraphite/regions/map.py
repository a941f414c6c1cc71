"""The planar map of a drawing: cells between visible lines, cut outlines and edges of light, and what is seen in each.

Every boundary comes from the same exact frame as the lines. A cell is named by asking, at a point well within it, what
the view sees there and whether the sun does. A raster of the same questions then checks every cell; where a cell holds
two answers its boundary is missing, as with faces that run into each other unmarked, and the pixels' own contours,
smoothed, divide it instead.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.model.model import Model
from warmgraphite.regions.masks import Cover, cover_of
from warmgraphite.regions.query import Query, answer, asked_words, depth_bounds
from warmgraphite.regions.words.light import LIGHTS
from warmgraphite.regions.words.where import PLACES

__all__ = ["RegionMap"]

LIT, SHADOW, SHADE, NONE = (LIGHTS.index(w) for w in ("lit", "shadow", "shade", "none"))
BUILDING, SKY, OUTSIDE = (PLACES.index(w) for w in ("building", "sky", "outside"))

#: Pixels of the longer side of the raster that checks the map.
CHECK = 1100
#: Pixels of another answer from which a cell counts as holding two.
STRAYS = 8
#: How often cells that pixels had to divide are looked at again.
TURNS = 3
#: Cosine from level or upright within which a face is so.
LEVEL, UPRIGHT = 0.966, 0.26


@dataclass(frozen=True)
class Places:
    """Places in cells (N rows), as what a query asks: as their cells are, each at its own ``depth``."""

    part: NDArray[np.int32]
    face: NDArray[np.int32]
    light: NDArray[np.uint8]
    facing: NDArray[np.uint8]
    where: NDArray[np.uint8]
    cut: NDArray[np.bool_]
    panes: NDArray[np.uint8]
    depth: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.part)

    @staticmethod
    def of(cells: RegionMap, rows: NDArray[Any], depth: NDArray[np.float64]) -> Places:
        """Places of the cells in ``rows`` (N,)."""
        columns = ("part", "face", "light", "facing", "where", "cut", "panes")
        return Places(**{c: getattr(cells, c)[rows] for c in columns}, depth=depth)


@dataclass(frozen=True)
class RegionMap:
    """Cells (N) of the frame.

    ``shapes`` polygons in frame millimetres; ``inner`` (N, 2) a point within each, ``point`` (N, 3) what is seen there
    in metres, zero where nothing is; ``part`` and ``face``, −1 for none; ``light``, ``facing`` and ``where`` as the
    query's words are numbered; ``cut``; ``panes`` in front; ``near``, ``far`` and ``depth`` (at the inner point) in
    metres behind the nearest thing seen, infinite where nothing is; ``tone`` of shade 0–1; ``traced`` where pixels had
    to draw the boundary.
    """

    shapes: NDArray[np.object_]
    inner: NDArray[np.float64]
    point: NDArray[np.float64]
    part: NDArray[np.int32]
    face: NDArray[np.int32]
    light: NDArray[np.uint8]
    facing: NDArray[np.uint8]
    where: NDArray[np.uint8]
    cut: NDArray[np.bool_]
    panes: NDArray[np.uint8]
    near: NDArray[np.float64]
    far: NDArray[np.float64]
    depth: NDArray[np.float64]
    tone: NDArray[np.float32]
    traced: NDArray[np.bool_]
    #: Width and height in millimetres.
    frame: tuple[float, float]
    #: Metres from the viewer to the nearest thing seen, from which depth is told.
    start: float = 0.0

    def __len__(self) -> int:
        return len(self.shapes)

    @cached_property
    def tree(self) -> shapely.STRtree:
        """The cells by place."""
        return shapely.STRtree(self.shapes)

    @cached_property
    def covers(self) -> dict[tuple[int, int], Cover]:
        """The rasters that masks are looked up in, by (width, height) pixels; the newest three are kept."""
        return {}

    def at(self, x: float, y: float) -> int | None:
        """The cell at a place in frame millimetres; ``None`` outside of the frame."""
        found = self.tree.query(shapely.Point(x, y), predicate="intersects")
        return int(found[0]) if len(found) else None

    def chosen(self, query: Query, model: Model) -> NDArray[np.bool_]:
        """(N,) the cells that a query means."""
        return answer(query, self, model)

    def parted(self, query: Query) -> NDArray[np.bool_]:
        """(N,) the cells through which a bound of depth goes that a query asks for: of these it may mean a part."""
        bounds = np.array(depth_bounds(query))
        return np.asarray(((self.near[:, None] < bounds) & (bounds < self.far[:, None])).any(axis=1), bool)

    def possible(self, query: Query, model: Model) -> NDArray[np.bool_]:
        """(N,) the cells of which a query means all or, where a bound of depth goes through them, a part."""
        found, parted = self.chosen(query, model), np.flatnonzero(self.parted(query))
        bounds = [-np.inf, *sorted(depth_bounds(query)), np.inf]
        for low, high in pairwise(
            bounds
        ):  # what it means of them between two bounds, wherever they have something there
            near, far = np.maximum(self.near[parted], low), np.minimum(self.far[parted], high)
            at = Places.of(self, parted, (near + far) / 2)
            found[parted] |= (near < far) & answer(query, at, model)
        return found

    def mask_by_depth(
        self, query: Query, model: Model, cover: Cover, distance: NDArray[np.floating]
    ) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of each pixel that a query means.
        Where a bound of depth goes through a cell, pixel by pixel, by the ``distance`` (h, w) in metres that each sees.
        ``cover`` says which cell each pixel belongs to.
        """
        parted = self.parted(query)
        out = cover.mask(self.chosen(query, model) & ~parted)
        if not parted.any():
            return out
        table = np.append(parted, False)
        whole = np.flatnonzero(table[cover.whole.reshape(-1)])
        count = np.diff(np.append(cover.start, len(cover.cell)))
        mixed = np.flatnonzero(table[cover.cell])
        pixel = np.append(whole, np.repeat(cover.pixel, count)[mixed])
        cell = np.append(cover.whole.reshape(-1)[whole], cover.cell[mixed])
        share = np.append(np.full(len(whole), 255), cover.share[mixed])
        # At a cell's edge the middle of a pixel may see what lies beyond it.
        depth = np.clip(distance.reshape(-1)[pixel] - self.start, self.near[cell], self.far[cell])
        meant = answer(query, Places.of(self, cell, depth), model)
        np.add.at(out.reshape(-1), pixel[meant], share[meant].astype(np.uint8))
        return out

    def shape(self, cells: NDArray[np.bool_]) -> shapely.Geometry:
        """Cells (N,) as one shape in frame millimetres."""
        if not cells.any():
            return shapely.MultiPolygon()
        try:
            return shapely.coverage_union_all(self.shapes[cells])
        except shapely.errors.GEOSException:  # neighbours that do not meet point by point: slower, and on a grid
            return shapely.union_all(self.shapes[cells], grid_size=NEAR)

    def areas(self, query: Query | None, model: Model, held: str) -> NDArray[np.int64]:
        """(N,) a number for the area that each cell belongs to, −1 for none.
        All that a query means as one, or as ``held`` together by ``materials`` or ``faces``. What is cut belongs to it
        only where the query asks for it; without a query, all that is seen of parts does, and as one area all of the
        drawing.
        """
        if query is None:
            chosen = np.ones(len(self), bool) if held == "region" else (self.part >= 0) & ~self.cut
        else:
            chosen = self.possible(query, model)
            if "cut" not in asked_words(query):
                chosen = chosen & ~self.cut
        if held == "region":
            return np.where(chosen, 0, -1)
        made_of = np.append(model.parts.material, -1)[self.part].astype(np.int64)
        glazed = np.minimum(self.panes, 1).astype(np.int64)
        if held == "materials":
            return np.where(chosen, (made_of + 1) * 2 + glazed, -1)
        _, number = np.unique(np.stack([made_of, self.face.astype(np.int64), glazed]), axis=1, return_inverse=True)
        return np.where(chosen, number.reshape(-1), -1)

    def cover(self, size: tuple[int, int], window: tuple[int, int, int, int] | None = None) -> Cover:
        """The raster that masks are looked up in.
        It is of ``size`` = (width, height) pixels, or a ``window`` = (x, y, width, height) of it.
        """
        if window is not None and window != (0, 0, *size):
            x, y, width, height = window
            across, down = self.frame[0] / size[0], self.frame[1] / size[1]
            box = shapely.box(x * across, y * down, (x + width) * across, (y + height) * down)
            rows = self.tree.query(box)
            shapes = shapely.transform(
                shapely.intersection(self.shapes[rows], box), lambda p: p - [x * across, y * down]
            )
            pieces, owner = shapely.get_parts(shapes, return_index=True)
            full = (shapely.get_type_id(pieces) == 3) & (
                shapely.area(pieces) > 0
            )  # not where a cell only touches the window
            found = cover_of(pieces[full], (width, height), (width * across, height * down))
            return found.numbered(rows[owner[full]])
        if size not in self.covers:
            while len(self.covers) >= 3:
                self.covers.pop(next(iter(self.covers)))
            self.covers[size] = cover_of(self.shapes, size, self.frame)
        return self.covers[size]

    def mask(
        self, cells: NDArray[np.bool_], size: tuple[int, int], window: tuple[int, int, int, int] | None = None
    ) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of each pixel that the cells (N,) take.
        With the other cells' mask it adds up to 255. Of a ``window`` = (x, y, width, height) of ``size`` = (width,
        height) pixels, or of all.
        """
        return self.cover(size, window).mask(cells)
