"""Cut regions: closed polygons per part in each cutting surface, strokes where nothing is enclosed.

Each triangle that a plane crosses gives one directed segment. Segments are noded, the faces of the arrangement found,
and a face is inside where the segments wind around it, or an odd number of them lies to its right. So inside-out,
doubled and self-intersecting bodies give the region that a person expects (Jacobson et al., "Robust inside-outside
segmentation using generalized winding numbers", 2013, here in the plane). Loose ends of a body that is not quite shut
are joined where they lie close together; where they do not, the place is reported.

Where bodies overlap, one of them is seen: regions are settled by the order of materials before anything is drawn of
them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple, TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from warmgraphite.geometry.ragged import numbers
from warmgraphite.model.bodies import Bodies
from warmgraphite.model.health import GAP
from warmgraphite.model.welding import grouped, mixed
from warmgraphite.passes.kernels.winding import single_loops, winding
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.view.surfaces import CutSurface, Plane, PlaneFrame, Slab

__all__ = [
    "CutRegion",
    "CutSet",
    "Mass",
    "cut_regions",
    "gone_in",
    "kept_in",
    "lifted",
    "masses",
    "on_slabs",
    "polygonal",
    "settled",
]


def polygonal(geometry: shapely.Geometry) -> shapely.Geometry:
    """The polygons of a geometry, lines and points left out, slivers too."""
    if shapely.get_type_id(geometry) == 3 and geometry.area > 100 * GRID * GRID:
        return shapely.MultiPolygon([geometry])
    parts = shapely.get_parts(geometry)
    keep = (shapely.get_type_id(parts) == 3) & (shapely.area(parts) > 100 * GRID * GRID)
    return shapely.MultiPolygon(list(parts[keep]))


Geometries: TypeAlias = shapely.Geometry | NDArray[Any]

#: Metres to which cut points are snapped before they are joined: far below a line's width at any scale.
GRID = 1e-6
#: A body whose section lacks no more than this share of its length is meant to be shut: the gap is reported.
NEARLY_SHUT = 0.2
#: A separate piece of ground is earth when more than this share of its outline meets no wall or floor.
OPEN_EARTH = 0.4


@dataclass(frozen=True)
class CutRegion:
    """What one surface cuts of one part: ``region`` (polygons) and ``strokes`` (lines), metres in the surface's axes.
    ``gaps`` (points) where the body should be shut and is not.
    """

    plane: int
    part: int
    region: shapely.Geometry
    strokes: shapely.Geometry
    gaps: shapely.Geometry = shapely.MultiPoint()  # noqa: RUF009 (geometries never change)


@dataclass(frozen=True)
class Mass:
    """All that one surface cuts of one material, overlaps settled: ``region`` in metres in the surface's axes.
    ``earth`` when it is hatched as earth.
    """

    plane: int
    material: int
    region: shapely.Geometry
    earth: bool = False


def _crossings(bodies: Bodies, plane: Plane, chosen: NDArray[np.bool_]) -> tuple[NDArray, NDArray]:
    """Segments (S, 2, 3) of the chosen triangles in the plane, and their parts.
    They run with the removed side's right hand outward, and their parts.
    """
    triangles = bodies.mesh.triangles[chosen]
    owner = bodies.mesh.triangle_part[chosen]
    # A corner on the plane counts as kept: then every closed body gives closed loops, whatever touches the plane.
    side = plane.side(bodies.mesh.vertices)
    beyond = side[triangles] > 0
    count = beyond.sum(1)
    rows = (count == 1) | (count == 2)
    triangles, owner, beyond, count = triangles[rows], owner[rows], beyond[rows], count[rows]
    odd = np.argmax(np.where((count == 1)[:, None], beyond, ~beyond), axis=1)
    turned = np.take_along_axis(triangles, (odd[:, None] + np.arange(3)) % 3, 1)
    points = []
    for i in (1, 2):
        # From the lower to the higher vertex number: the neighbour across this side finds the same point to the bit.
        a, b = np.minimum(turned[:, 0], turned[:, i]), np.maximum(turned[:, 0], turned[:, i])
        t = side[a] / (side[a] - side[b])
        points.append(bodies.mesh.vertices[a] + t[:, None] * (bodies.mesh.vertices[b] - bodies.mesh.vertices[a]))
    segments = np.stack(points, 1)
    segments[count == 1] = segments[count == 1][:, ::-1]
    return segments, owner


def _closed(flat: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Segments (S, 2, 2) with small gaps between loose ends joined.
    With the middles (N, 2) of gaps too wide for that.
    """
    nothing = np.empty((0, 2))
    ends = flat.reshape(-1, 2)
    points, node, count = np.unique(
        np.round(ends / GRID).astype(np.int64), axis=0, return_inverse=True, return_counts=True
    )
    loose = np.flatnonzero(count % 2 == 1)
    if not len(loose):
        return flat, nothing
    node = node.ravel()
    at = points[loose] * GRID
    pair = cKDTree(at).query_pairs(GAP, output_type="ndarray")
    free = np.ones(len(loose), bool)
    # Whether a path arrives at a loose end or leaves there: joined from the one to the other, the outline keeps its
    # sense.
    arrives = np.bincount(node, np.tile([-1, 1], len(flat)), len(points))[loose] > 0
    joins = []
    for i, j in pair[np.argsort(np.linalg.norm(at[pair[:, 0]] - at[pair[:, 1]], axis=1), kind="stable")]:
        if free[i] and free[j]:
            free[[i, j]] = False
            joins.append((at[i], at[j]) if arrives[i] or not arrives[j] else (at[j], at[i]))
    if joins:
        flat = np.concatenate([flat, np.array(joins)])
    left = np.flatnonzero(free)
    if not 2 <= len(left) <= 400:
        return flat, nothing
    wide = []
    for line in shapely.get_parts(shapely.line_merge(shapely.multilinestrings(shapely.linestrings(flat)))):
        first, last = np.asarray(line.coords)[[0, -1]]
        gap = np.linalg.norm(first - last)
        if GRID < gap < NEARLY_SHUT * line.length:
            wide.append((first + last) / 2)
    return flat, np.array(wide) if wide else nothing


def _part_region(flat: NDArray[np.float64]) -> tuple[shapely.Geometry, shapely.Geometry, shapely.Geometry]:
    """Region, strokes and gaps of one part's segments (S, 2, 2)."""
    flat = np.round(flat / GRID) * GRID
    flat = flat[(flat[:, 0] != flat[:, 1]).any(1)]
    nothing = shapely.MultiPolygon()
    if not len(flat):
        return nothing, shapely.MultiLineString(), shapely.MultiPoint()
    flat, gaps = _closed(flat)
    lines = shapely.node(shapely.multilinestrings(shapely.linestrings(flat)))
    faces = shapely.get_parts(shapely.polygonize([lines]))
    region: shapely.Geometry = nothing
    if len(faces):
        inside = shapely.point_on_surface(faces)
        signed, crossed = winding(shapely.get_coordinates(inside), flat[:, 0].copy(), flat[:, 1].copy())
        solid = (signed != 0) | (crossed % 2 == 1)
        # Where two triangles met is no corner of the region.
        region = shapely.simplify(shapely.union_all(faces[solid]), 2 * GRID)
    # What bounds no solid face is an open surface: it is drawn as a stroke.
    strokes = shapely.difference(lines, region.buffer(GRID * 4)) if not region.is_empty else lines
    return (
        region,
        shapely.line_merge(strokes) if not strokes.is_empty else shapely.MultiLineString(),
        shapely.multipoints(gaps),
    )


def _part_regions(
    flat: NDArray[np.float64], owner: NDArray[np.int32], progress: Progress
) -> tuple[NDArray, list[NDArray]]:
    """The parts that segments (S, 2, 2) are of.
    And for each its region, strokes and gaps, as three arrays of geometries.

    Most parts are cut in one clean loop: these are told by their corners alone, all together.
    """
    order = np.argsort(owner, kind="stable")
    cells = np.round(flat[order] / GRID).astype(np.int64)
    owner = owner[order]
    long = (cells[:, 0] != cells[:, 1]).any(1)
    cells, owner = cells[long], owner[long].astype(np.int64)
    parts, begin = np.unique(owner, return_index=True)
    begin = np.append(begin, len(owner))
    ends = cells.transpose(1, 0, 2).reshape(-1, 2)
    node = grouped(mixed(ends[:, 0], ends[:, 1], np.tile(owner, 2)))
    loop, walk = single_loops(begin, node[: len(owner)], node[len(owner) :], int(node.max(initial=-1)) + 1)
    flat = cells * GRID

    columns = [
        np.full(len(parts), empty, object)
        for empty in (shapely.MultiPolygon(), shapely.MultiLineString(), shapely.MultiPoint())
    ]
    clean = np.flatnonzero(loop)
    if len(clean):
        count = np.diff(begin)[clean]
        rows = walk[numbers(begin[clean], count)]
        shapes = shapely.polygons(shapely.linearrings(flat[rows, 0], indices=np.repeat(np.arange(len(clean)), count)))
        good = shapely.is_valid(shapes)
        columns[0][clean[good]] = shapely.simplify(shapes[good], 2 * GRID)
        loop[clean[~good]] = False
    rest = np.flatnonzero(~loop)
    for done, k in enumerate(rest):
        progress(done / len(rest))
        for column, found in zip(columns, _part_region(flat[begin[k] : begin[k + 1]]), strict=True):
            column[k] = found
    return parts, columns


def kept_in(planes: Sequence[Plane], frame: PlaneFrame, around: Geometries) -> shapely.Geometry:
    """What lies on the kept side of all planes, in a frame: as much of it as anything of ``around`` could meet.

    The box around what is asked about is clipped by the side that each of its corners lies on (Sutherland and Hodgman,
    1974), so that a plane may be as nearly parallel to the frame as it likes, and its trace as far away.
    """
    low_x, low_y, high_x, high_y = shapely.total_bounds(around)
    if not np.isfinite(low_x):
        return shapely.Polygon()
    room = 0.01 * max(high_x - low_x, high_y - low_y) + 1.0
    ring = np.array(
        [
            [low_x - room, low_y - room],
            [high_x + room, low_y - room],
            [high_x + room, high_y + room],
            [low_x - room, high_y + room],
        ]
    )
    for plane in planes:
        side = plane.side(frame.lifted(ring))
        after, beyond = np.roll(ring, -1, 0), np.roll(side, -1)
        corners = []
        for a, b, here, there in zip(ring, after, side, beyond, strict=True):
            if here <= 0:
                corners.append(a)
            if (here > 0) != (there > 0):
                corners.append(a + here / (here - there) * (b - a))
        if len(corners) < 3:
            return shapely.Polygon()
        ring = np.array(corners)
    return shapely.Polygon(ring)


def gone_in(surface: CutSurface, frame: PlaneFrame, around: Geometries) -> shapely.Geometry:
    """What a surface takes away, in a frame: as much of it as anything of ``around`` could meet."""
    return shapely.union_all([kept_in([s.plane.turned, *s.walls], frame, around) for s in surface.slabs])


def on_slabs(surface: CutSurface, geometry: shapely.Geometry) -> list[tuple[shapely.Geometry, Slab]]:
    """A geometry in a surface's axes with the slab that it lies on: cut apart at the steps of a stepped one."""
    if len(surface.slabs) == 1:
        return [(geometry, surface.slabs[0])]
    found = [(shapely.intersection(geometry, kept_in(s.walls, s.frame, geometry)), s) for s in surface.slabs]
    return [(part, slab) for part, slab in found if not part.is_empty]


def lifted(surface: CutSurface, geometry: shapely.Geometry) -> list[tuple[shapely.Geometry, PlaneFrame]]:
    """A geometry in a surface's axes with the frame that it lies in: cut apart at the steps of a stepped one."""
    return [(part, slab.frame) for part, slab in on_slabs(surface, geometry)]


def cut_regions(
    bodies: Bodies, surfaces: Sequence[CutSurface], chosen: NDArray[np.bool_], progress: Progress = silent
) -> list[CutRegion]:
    """What each cutting surface cuts of the ``chosen`` parts (P,), part by part, in their order.
    What others of the surfaces take away is cut by none.
    """
    numbers = [k for k, surface in enumerate(surfaces) if surface.cuts]
    found = []
    for place, number in enumerate(numbers):
        surface = surfaces[number]
        pieces: dict[int, list[CutRegion]] = {}
        for slab in surface.slabs:
            segments, owner = _crossings(bodies, slab.plane, chosen[bodies.mesh.triangle_part])
            if not len(segments):
                continue
            flat = slab.frame.flat(segments)
            parts, rows = _part_regions(
                flat, owner, part_of(progress, place / len(numbers), (place + 0.9) / len(numbers))
            )
            around = shapely.multipoints(flat.reshape(-1, 2))
            if slab.walls:
                stretch = kept_in(slab.walls, slab.frame, around)
                rows = [shapely.intersection(column, stretch) for column in rows]
            others = [other for other in surfaces if other.cut != surface.cut and other.role != "return"]
            for other in others:
                gone = gone_in(other, slab.frame, around)
                if not gone.is_empty:
                    shapely.prepare(gone)
                    rows = [shapely.difference(column, gone) for column in rows]
            there = ~shapely.is_empty(rows[0]) | ~shapely.is_empty(rows[1])
            for part, *row in zip(parts[there], *(column[there] for column in rows), strict=True):
                pieces.setdefault(int(part), []).append(CutRegion(number, int(part), polygonal(row[0]), row[1], row[2]))
        found += [_one(pieces[part]) for part in sorted(pieces)]
    progress(1.0)
    return found


def _one(pieces: list[CutRegion]) -> CutRegion:
    """The region of a part in a stepped surface: what meets at a step goes on over it."""
    if len(pieces) == 1:
        return pieces[0]
    return replace(
        pieces[0],
        # On the grid, so that two sides of a step which differ by the last bit still meet.
        region=polygonal(shapely.union_all([p.region for p in pieces], grid_size=GRID)),
        strokes=shapely.line_merge(shapely.union_all([p.strokes for p in pieces], grid_size=GRID)),
        gaps=shapely.union_all([p.gaps for p in pieces]),
    )


class CutSet(NamedTuple):
    """All that is cut: part by part, the same as it is seen, and as masses of one material."""

    regions: list[CutRegion]
    settled: list[CutRegion]
    masses: list[Mass]


def settled(bodies: Bodies, regions: list[CutRegion]) -> list[CutRegion]:
    """The regions as they are seen: each less what stronger materials take of it, and less what is left void.

    A piece of earth that is walled off from the rest is a room below ground, unless it was said to be filled.
    """
    out = []
    for plane in sorted({r.plane for r in regions}):
        rows = sorted(
            (
                r
                for r in regions
                if r.plane == plane and not r.region.is_empty and not str(bodies.poche[r.part]).endswith("void")
            ),
            key=lambda r: (bodies.cut_place[r.part], bool(bodies.earth[r.part]), r.part),
        )
        if not rows:
            continue
        shapes = np.array([r.region for r in rows])
        tree = shapely.STRtree(shapes)
        stronger, weaker = tree.query(shapes, predicate="intersects")
        before = stronger < weaker
        stronger, weaker = stronger[before], weaker[before]
        for k in np.unique(weaker):
            # Bodies of one material that overlap are one mass anyway; the first of them keeps what they share.
            over = shapely.union_all(shapes[stronger[weaker == k]])
            shapes[k] = polygonal(shapely.difference(shapely.set_precision(shapes[k], GRID), over, grid_size=GRID))
        kept = [replace(row, region=shape) for row, shape in zip(rows, shapes, strict=True)]
        earth = [k for k, r in enumerate(kept) if bodies.earth[r.part] and bodies.poche[r.part] == "usually earth"]
        if earth:
            solid = shapely.union_all([r.region for r in kept if not bodies.earth[r.part]])
            for k in earth:
                kept[k] = replace(kept[k], region=_open_earth(kept[k].region, solid))
        out += [row for row in kept if not row.region.is_empty]
    return out


def _open_earth(region: shapely.Geometry, solid: shapely.Geometry) -> shapely.Geometry:
    """Earth less the pieces of it that are walled off from the rest: cellars, and courts sunk into the ground."""
    pieces = shapely.get_parts(region)
    if len(pieces) < 2:
        return region
    outline = shapely.get_exterior_ring(pieces)
    free = shapely.length(shapely.difference(outline, solid.buffer(4 * GRID)))
    return shapely.MultiPolygon(list(pieces[free > OPEN_EARTH * shapely.length(outline)]))


def masses(bodies: Bodies, regions: list[CutRegion]) -> list[Mass]:
    """One region per surface and material of settled ``regions``."""
    groups: dict[tuple[int, int, int, bool], list[shapely.Geometry]] = {}
    for row in regions:
        # Parts that count as one material come in one place.
        key = (row.plane, int(bodies.cut_place[row.part]), int(bodies.cut_as[row.part]), bool(bodies.earth[row.part]))
        groups.setdefault(key, []).append(row.region)
    found = []
    for key in sorted(groups):
        pieces = groups[key]
        # Snapping after the union is many times faster than during it, and the pieces lie on the grid already.
        region = polygonal(
            pieces[0] if len(pieces) == 1 else shapely.set_precision(shapely.disjoint_subset_union_all(pieces), GRID)
        )
        if not region.is_empty:
            found.append(Mass(key[0], key[2], region, key[3]))
    return found
