"""What level water and panes mirror: the model again, seen in the same frame.

Each mirror is a plane. The sight line of a pixel is turned about it, and what it meets there has its colour and its
light. A mirrored picture reaches over all of its mirror's pixels and a little beyond, so that ripples have something to
move: what stands in the water hides none of it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter

from warmgraphite.geometry.ragged import firsts
from warmgraphite.geometry.tolerances import NO_AREA
from warmgraphite.geometry.triangles import normals, unit_rows
from warmgraphite.passes.casters import Rays
from warmgraphite.passes.kernels.mirroring import Sight, Turned, coloured, lit, turned
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import Raster, Surface, shares
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import Projection

__all__ = ["MARGIN", "Mirrors", "Reflection", "Solid", "reflection"]

Mirrors = Literal["water", "glass"]
#: Mirrors of one drawing, the largest; what makes them one: metres, and how much their normals differ.
MOST, SAME, ALIKE = 24, 0.02, 0.01
#: Millimetres of paper by which a mirrored picture reaches over its mirror.
MARGIN = 8.0
#: Texels of mirrored pictures to a millimetre that are always enough: finer paper has them of several pixels.
FINEST = 5.9
#: How steeply a face of water may lie.
LEVEL = 0.98
#: Rays at once.
BAND = 1 << 15
#: Places in a pixel at which an edge is looked at.
_SUB = np.array([[-0.25, -0.25], [0.25, -0.25], [-0.25, 0.25], [0.25, 0.25]])


@dataclass(frozen=True)
class Reflection:
    """Mirrors (M) in a window of (h, w) pixels.

    ``share`` (h, w) uint8 of each pixel that is a mirror, ``label`` (h, w) uint8 which, from 1; ``planes`` (M, 4) unit
    normals towards the viewer and offsets, in metres; ``boxes`` (M, 4) the place and size of each mirrored picture in
    pixels of the window. Those begin at ``start`` (M + 1,): ``texels`` (N, 4) uint8 premultiplied, clear where there is
    sky, ``away`` (N,) metres from the mirror. A texel is ``side`` pixels wide and high, from the frame's corner on.
    """

    share: NDArray[np.uint8]
    label: NDArray[np.uint8]
    planes: NDArray[np.float64]
    boxes: NDArray[np.int64]
    start: NDArray[np.int64]
    texels: NDArray[np.uint8]
    away: NDArray[np.float32]
    side: NDArray[np.int64]


class Solid(NamedTuple):
    """What is mirrored: triangles (T, 3, 3) in metres, the colour (T, 3) of each, and rays against them."""

    corners: NDArray[np.float64]
    colour: NDArray[np.float32]
    rays: Rays


# Many arguments: the results of the passes that it is computed of.
def reflection(
    projection: Projection,
    hiders: Occluders,
    seen: Surface,
    sort: Mirrors,
    chosen: NDArray[np.bool_],
    solid: Solid,
    sun: NDArray[np.float64],
    dark: Callable[[NDArray[np.float32]], NDArray[np.bool_]] | None,
    progress: Progress = silent,
) -> Reflection:
    """What mirrors of the ``chosen`` (P,) parts show.
    ``dark`` tells of points about the middle of the solid's rays whether something keeps the light of the ``sun`` (3,)
    off them; ``None`` where there is none.
    """
    found = _water(hiders, seen, chosen) if sort == "water" else _panes(projection, hiders, seen, chosen)
    height, width = seen.triangle.shape
    share, which, planes = found
    across, down = projection.width / seen.raster.size[0], projection.height / seen.raster.size[1]
    side = max(1, int(1 / (FINEST * max(across, down))))
    margin = round(MARGIN * (1 if sort == "water" else 0.2) / min(across, down))
    label, boxes, kept, wanted = np.zeros((height, width), np.uint8), [], [], []
    order = (
        np.argsort(-np.bincount(which[which >= 0], minlength=len(planes)), kind="stable")[:MOST].tolist()
        if len(planes)
        else []
    )
    for number in order:
        mine = which == number
        rows, columns = np.flatnonzero(mine.any(1)), np.flatnonzero(mine.any(0))
        if not len(rows):
            continue
        kept.append(planes[number])
        label[mine] = len(kept)
        # Beyond the window, too: ripples look there, and windows of one drawing are to meet without a seam.
        box = _box(
            (int(columns[0]), int(rows[0])), (int(columns[-1]) + 1, int(rows[-1]) + 1), seen.raster, margin, side
        )
        boxes.append(box)
        around = np.zeros((box[3], box[2]), bool)
        down_to, across_to = rows[0] - box[1], columns[0] - box[0]
        part = mine[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
        around[down_to : down_to + part.shape[0], across_to : across_to + part.shape[1]] = part
        coarse = around.reshape(box[3] // side, side, box[2] // side, side).any((1, 3))
        wanted.append(np.flatnonzero(maximum_filter(coarse.view(np.uint8), 2 * -(-margin // side) + 1)))
    share = np.where(label > 0, share, 0).astype(np.uint8)
    sizes = np.array([b[2] * b[3] // side**2 for b in boxes], np.int64)
    start = firsts(sizes)
    texels, away = np.zeros((int(start[-1]), 4), np.uint8), np.full(int(start[-1]), np.inf, np.float32)
    mirrored = _Mirrored(projection, solid, sun, dark)
    done, todo = 0, max(1, sum(len(w) for w in wanted))
    for number, (plane, box, pixels) in enumerate(zip(kept, boxes, wanted, strict=True)):
        place = ((seen.raster.x + box[0]) // side, (seen.raster.y + box[1]) // side)
        shape = (box[2] // side, box[3] // side)
        own = _Own(mirrored, np.asarray(plane, np.float64), shape, place, (across * side, down * side))
        own.look(pixels, part_of(progress, done / todo, (done + len(pixels)) / todo))
        done += len(pixels)
        texels[start[number] : start[number + 1]] = own.texels
        away[start[number] : start[number + 1]] = own.away
    progress(1.0)
    return Reflection(
        share,
        label,
        np.array(kept, float).reshape(-1, 4),
        np.array(boxes, np.int64).reshape(-1, 4),
        start,
        texels,
        away,
        np.array(side),
    )


def _box(
    low: tuple[int, int], high: tuple[int, int], raster: Raster, margin: int, side: int
) -> tuple[int, int, int, int]:
    """Place and size, in pixels of a window, of the texels of some of its pixels.
    They go from one of its pixels up to another, with a margin about them.
    """
    corner = (raster.x, raster.y)
    first = [(corner[k] + low[k] - margin) // side * side - corner[k] for k in (0, 1)]
    last = [-(-(corner[k] + high[k] + margin) // side) * side - corner[k] for k in (0, 1)]
    return first[0], first[1], last[0] - first[0], last[1] - first[1]


class _Own:
    """The picture of one mirror, of a ``shape`` in texels across and down whose first lies at a ``place``.
    One is ``step`` millimetres.
    """

    def __init__(
        self, mirrored: _Mirrored, plane: NDArray[np.float64], shape: tuple[int, int], place: tuple[int, int],
        step: tuple[float, float]
    ) -> None:  # fmt: skip
        self.mirrored, self.plane, self.shape, self.place, self.step = mirrored, plane, shape, place, step
        count = shape[0] * shape[1]
        self.colour, self.hit = np.zeros((count, 4), np.float32), np.full(count, -2, np.int32)
        self.away = np.full(count, np.inf, np.float32)

    @property
    def texels(self) -> NDArray[np.uint8]:
        return np.round(np.clip(self.colour, 0, 255)).astype(np.uint8)

    def _at(
        self, texels: NDArray[np.int64], sub: NDArray | None = None
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        down, across = np.divmod(texels, self.shape[0])
        aside = np.zeros(2) if sub is None else sub.T
        x = (across + (self.place[0] + 0.5) + aside[0]) * self.step[0]
        y = (down + (self.place[1] + 0.5) + aside[1]) * self.step[1]
        return x, y

    def look(self, texels: NDArray[np.int64], progress: Progress) -> None:
        """Look at texels of the picture, and at edges more finely."""

        def band(first: int, last: int) -> None:
            mine = texels[first:last]
            colour = np.empty((len(mine), 4), np.float32)
            self.hit[mine], self.away[mine] = self.mirrored.look(*self._at(mine), self.plane, colour)
            self.colour[mine] = colour

        in_stretches(band, len(texels), BAND, part_of(progress, 0.0, 0.7))
        picture = self.colour.reshape(self.shape[1], self.shape[0], 4)
        edges = np.flatnonzero(_differs(picture) & (self.hit.reshape(picture.shape[:2]) > -2))

        def fine(first: int, last: int) -> None:
            mine = np.repeat(edges[first:last], len(_SUB))
            colour = np.empty((len(mine), 4), np.float32)
            self.mirrored.look(*self._at(mine, np.tile(_SUB, (last - first, 1))), self.plane, colour)
            self.colour[edges[first:last]] = colour.reshape(-1, len(_SUB), 4).mean(1)

        in_stretches(fine, len(edges), BAND // 4, part_of(progress, 0.7, 1.0))


def _differs(picture: NDArray[np.float32]) -> NDArray[np.bool_]:
    """(h, w) pixels that show something else than their neighbours: more than a curved face does."""
    out = np.zeros(picture.shape[:2], bool)
    for axis in (0, 1):
        far = np.abs(np.diff(picture, axis=axis)) > 12
        away = far[..., 0] | far[..., 1] | far[..., 2] | far[..., 3]
        first, last = (slice(None, -1), slice(1, None)) if axis == 0 else (np.s_[:, :-1], np.s_[:, 1:])
        out[first] |= away
        out[last] |= away
    return out


def _planes_of(
    normal: NDArray[np.float64], offset: NDArray[np.float64]
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Which of the planes that differ each of (N) is, and those (M, 4)."""
    rows = np.column_stack([np.round(normal / ALIKE), np.round(offset / SAME)])
    _, first, number = np.unique(rows, axis=0, return_index=True, return_inverse=True)
    return number.reshape(-1), np.column_stack([normal[first], offset[first]])


_Found = tuple[NDArray[np.uint8], NDArray[np.int64], NDArray[np.float64]]


def _water(hiders: Occluders, seen: Surface, chosen: NDArray[np.bool_]) -> _Found:
    """The share (h, w) of each pixel that is level and of the chosen parts.
    With the plane (h, w) of it, −1 for none, and the planes (M, 4).
    """
    unit = unit_rows(hiders.normal, NO_AREA)
    level = chosen[hiders.part] & (np.abs(unit[:, 2]) > LEVEL) & (hiders.source >= 0)
    is_level = np.append(level, False)
    there = is_level[seen.triangle]
    share = np.where(there, np.uint8(255), np.uint8(0))
    shares(share, seen.edge_pixel, is_level[seen.edge_triangle])
    flat = seen.triangle.reshape(-1).copy()
    # At its edge a pixel may show something else in its middle: then it is of the mirror that one of its sides shows.
    other = ~is_level[flat[seen.edge_pixel]]
    good = is_level[seen.edge_triangle[other]]
    has = good.any(1)
    flat[seen.edge_pixel[other][has]] = seen.edge_triangle[other][has][
        np.arange(int(has.sum())), np.argmax(good[has], 1)
    ]
    rows = np.flatnonzero(level)
    height = hiders.corners[rows, :, 2].mean(1)
    number, planes = _planes_of(np.tile([0.0, 0.0, 1.0], (len(rows), 1)), height)
    of_triangle = np.full(len(level) + 1, -1, np.int64)
    of_triangle[rows] = number
    return share, of_triangle[flat].reshape(seen.triangle.shape), planes


def _panes(projection: Projection, hiders: Occluders, seen: Surface, chosen: NDArray[np.bool_]) -> _Found:
    """As :func:`_water`, of the first pane before what each pixel sees."""
    height, width = seen.triangle.shape
    which = np.full(height * width, -1, np.int64)
    rows = np.flatnonzero(hiders.pane & chosen[hiders.part])
    pixels = np.flatnonzero(seen.glass.reshape(-1) > 0)
    if not len(rows) or not len(pixels):
        return np.zeros((height, width), np.uint8), which.reshape(height, width), np.empty((0, 4))
    corners = hiders.corners[rows]
    rays = Rays(corners)
    unit = unit_rows(hiders.normal[rows], NO_AREA)
    toward = projection.sight if projection.eye is None else corners.mean(1) - projection.eye
    unit = np.where(((unit * toward).sum(1) > 0)[:, None], -unit, unit)
    number, planes = _planes_of(unit, (unit * corners.mean(1)).sum(1))
    step = np.array([projection.width / seen.raster.size[0], projection.height / seen.raster.size[1]])
    near = _before(projection, corners)

    def band(first: int, last: int) -> None:
        mine = pixels[first:last]
        xy = (np.stack([mine % width + seen.raster.x, mine // width + seen.raster.y], 1) + 0.5) * step
        start, way = projection.rays(xy, near)
        hit, _ = rays.first(np.asarray(start - rays.middle, np.float32), np.ascontiguousarray(way, np.float32))
        which[mine] = np.where(hit >= 0, number[hit], -1)

    in_stretches(band, len(pixels), BAND)
    return seen.glass, which.reshape(height, width), planes


def _before(projection: Projection, corners: NDArray[np.float64]) -> float:
    """A depth before all of the corners."""
    return (
        0.0
        if projection.is_perspective
        else float((corners.reshape(-1, 3) @ projection.matrix[2, :3]).min() + projection.matrix[2, 3]) - 1.0
    )


class _Mirrored:
    """Sight lines turned about planes."""

    def __init__(
        self, projection: Projection, solid: Solid, sun: NDArray[np.float64],
        dark: Callable[[NDArray[np.float32]], NDArray[np.bool_]] | None
    ) -> None:  # fmt: skip
        self.solid, self.sun, self.dark = solid, sun, dark
        normal = normals(solid.corners)
        self.normal = np.asarray(unit_rows(normal, NO_AREA), np.float32)
        self.colour = np.ascontiguousarray(solid.colour, np.float32)
        self.parallel = not projection.is_perspective
        near = _before(projection, solid.corners) if len(solid.corners) else 0.0
        # Where sight lines begin, and where they go, is linear on the paper.
        places = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])
        if projection.eye is None:
            start = projection.unproject(np.column_stack([places, np.full(3, near)]))
            way = np.tile(projection.sight, (3, 1))
        else:
            start = np.tile(projection.eye, (3, 1))
            way = projection.unproject(np.column_stack([places, np.full(3, 0.5)])) - projection.eye
        self.start, self.way = (
            np.column_stack([rows[1] - rows[0], rows[2] - rows[0], rows[0]]) for rows in (start, way)
        )

    def look(
        self, x: NDArray[np.float64], y: NDArray[np.float64], plane: NDArray[np.float64], colour: NDArray[np.float32]
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Fill ``colour`` (n, 4), premultiplied, with what is mirrored at points in frame millimetres.
        The triangle (n,) that it is of, and how far (n,) that lies from the mirror: −1 and infinite for the sky, −2
        where the plane is not met.
        """
        count = len(x)
        from_, ahead = np.empty((count, 3), np.float32), np.empty((count, 3), np.float32)
        meets = np.empty(count, np.bool_)
        turned(
            x, y, Sight(self.start, self.way, self.parallel, self.solid.rays.middle), plane, Turned(from_, ahead, meets)
        )
        hit, away = self.solid.rays.first(from_, ahead)
        hit[~meets] = -2
        away[hit < 0] = np.inf
        dark = np.full(count, self.dark is None)
        if self.dark is not None and count:
            row, at = np.empty(count, np.int64), np.empty((count, 3), np.float32)
            facing = lit(hit, away, from_, ahead, self.normal, self.sun, row, at)
            dark[row[:facing]] = self.dark(at[:facing])
        coloured(hit, ahead, dark, self.normal, self.colour, self.sun, colour)
        return hit, away
