"""Cut regions: closed polygons per part in each cutting plane, strokes where nothing is enclosed.

Each triangle that a plane crosses gives one directed segment. Segments are noded, the faces of the arrangement found,
and a face is inside where the segments wind around it, or an odd number of them lies to its right. So inside-out,
doubled and self-intersecting bodies give the region that a person expects (Jacobson et al., "Robust inside-outside
segmentation using generalized winding numbers", 2013, here in the plane).
"""

from __future__ import annotations

from dataclasses import dataclass

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.passes._kernels import winding
from warmgraphite.progress import Progress, silent
from warmgraphite.view.scene import Plane, Scene

__all__ = ["CutRegion", "Mass", "PlaneFrame", "cut_regions", "half_plane", "masses", "plane_frame", "polygonal", "triangulate"]

#: Metres to which cut points are snapped before they are joined: far below a line's width at any scale.
GRID = 1e-6


@dataclass(frozen=True)
class PlaneFrame:
    """Coordinates in a cutting plane: ``origin`` and two unit axes in metres."""

    origin: NDArray[np.float64]
    u: NDArray[np.float64]
    v: NDArray[np.float64]

    def flat(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(..., 3) metres to (..., 2) metres in the plane."""
        moved = points - self.origin
        return np.stack([moved @ self.u, moved @ self.v], -1)

    def lifted(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(..., 2) in the plane to (..., 3) metres."""
        return self.origin + points[..., :1] * self.u + points[..., 1:2] * self.v


@dataclass(frozen=True)
class CutRegion:
    """What one plane cuts of one part: ``region`` (polygons) and ``strokes`` (lines), metres in the plane's frame."""

    plane: int
    part: int
    region: shapely.Geometry
    strokes: shapely.Geometry


@dataclass(frozen=True)
class Mass:
    """All that one plane cuts of one material, overlaps settled: ``region`` in metres in the plane's frame; ``earth`` when
    it is hatched as earth."""

    plane: int
    material: int
    region: shapely.Geometry
    earth: bool = False


def plane_frame(plane: Plane, model: Model) -> PlaneFrame:
    """Axes in the plane, level where it is not level itself, near the model's middle."""
    normal = plane.normal
    aside = np.array([0.0, 0.0, 1.0]) if abs(normal[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
    u = np.cross(aside, normal)
    u /= np.linalg.norm(u)
    return PlaneFrame(model.anchor - plane.side(model.anchor) * normal, u, np.cross(normal, u))


def _crossings(model: Model, plane: Plane, chosen: NDArray[np.bool_]) -> tuple[NDArray, NDArray]:
    """Segments (S, 2, 3) of the chosen triangles in the plane, the removed side's right hand outward, and their parts."""
    triangles = model.triangles[chosen]
    owner = model.triangle_part[chosen]
    # A corner on the plane counts as kept: then every closed body gives closed loops, whatever touches the plane.
    side = plane.side(model.vertices)
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
        points.append(model.vertices[a] + t[:, None] * (model.vertices[b] - model.vertices[a]))
    segments = np.stack(points, 1)
    segments[count == 1] = segments[count == 1][:, ::-1]
    return segments, owner


def _part_region(flat: NDArray[np.float64]) -> tuple[shapely.Geometry, shapely.Geometry]:
    """Region and strokes of one part's segments (S, 2, 2)."""
    flat = np.round(flat / GRID) * GRID
    flat = flat[(flat[:, 0] != flat[:, 1]).any(1)]
    nothing = shapely.MultiPolygon()
    if not len(flat):
        return nothing, shapely.MultiLineString()
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
    return region, shapely.line_merge(strokes) if not strokes.is_empty else shapely.MultiLineString()


def half_plane(plane: Plane, frame: PlaneFrame, reach: float) -> shapely.Geometry | None:
    """The kept side of another plane as a big polygon in this frame; ``None`` where they run parallel."""
    direction = np.array([plane.normal @ frame.u, plane.normal @ frame.v])
    length = np.linalg.norm(direction)
    if length < 1e-9:
        return None
    direction /= length
    foot = -plane.side(frame.origin) / length * direction
    along = np.array([-direction[1], direction[0]]) * reach
    back = -direction * reach
    return shapely.polygons(np.stack([foot - along, foot + along, foot + along + back, foot - along + back]))


def cut_regions(scene: Scene, progress: Progress = silent) -> list[CutRegion]:
    """What each ``cut`` plane of the scene cuts, part by part, in the model's order of parts."""
    model = scene.model
    reach = 8 * model.extent + 8
    found = []
    for number, plane in enumerate(scene.planes):
        if plane.role != "cut":
            continue
        frame = plane_frame(plane, model)
        segments, owner = _crossings(model, plane, (scene.part_shown & ~scene.uncut)[model.triangle_part])
        if not len(segments):
            continue
        flat = frame.flat(segments)
        others = []
        gone = np.zeros(len(model.parts), bool)
        for index, other in enumerate(scene.planes):
            if index == number:
                continue
            half = half_plane(other, frame, reach)
            if half is not None:
                others.append((half, scene.spared[index]))
            elif other.side(frame.origin) > 0:
                gone |= ~scene.spared[index]
        order = np.argsort(owner, kind="stable")
        parts, first = np.unique(owner[order], return_index=True)
        for at, (part, rows) in enumerate(zip(parts, np.split(order, first[1:]), strict=True)):
            progress(at / len(parts))
            if gone[part]:
                continue
            region, strokes = _part_region(flat[rows])
            for half, spared in others:
                if not spared[part]:
                    region, strokes = shapely.intersection(region, half), shapely.intersection(strokes, half)
            if not region.is_empty or not strokes.is_empty:
                found.append(CutRegion(number, int(part), region, strokes))
    progress(1.0)
    return found


_ORDER = ("structure", "subject", "envelope", "furniture", "context", "glass", "people", "planting", "water", "ground")


def masses(model: Model, regions: list[CutRegion]) -> list[Mass]:
    """One region per plane and material. Where parts overlap, structure goes before envelope, and earth comes last.

    Within one role the material that comes first in the model prevails.
    """
    found = []
    for plane in sorted({r.plane for r in regions}):
        groups: dict[tuple[int, int, bool], list[shapely.Geometry]] = {}
        for row in regions:
            if row.plane == plane and not row.region.is_empty:
                part = model.parts[row.part]
                key = (_ORDER.index(part.role), part.material, bool(model.part_earth[row.part]))
                groups.setdefault(key, []).append(row.region)
        taken: shapely.Geometry = shapely.Polygon()
        by_material: dict[tuple[int, bool], list[shapely.Geometry]] = {}
        for key in sorted(groups):
            # Snapping after the union is many times faster than during it, and the pieces lie on the grid already.
            region = shapely.set_precision(shapely.union_all(groups[key]), GRID)
            region = shapely.difference(region, taken, grid_size=GRID)
            taken = shapely.union(taken, region, grid_size=GRID)
            by_material.setdefault(key[1:], []).append(region)
        for (material, earth), pieces in by_material.items():
            region = polygonal(pieces[0] if len(pieces) == 1 else shapely.set_precision(shapely.union_all(pieces), GRID))
            if not region.is_empty:
                found.append(Mass(plane, material, region, earth))
    return found


def polygonal(geometry: shapely.Geometry) -> shapely.Geometry:
    """The polygons of a geometry, lines and points left out, slivers too."""
    parts = shapely.get_parts(geometry)
    keep = (shapely.get_type_id(parts) == 3) & (shapely.area(parts) > 100 * GRID * GRID)
    return shapely.MultiPolygon(list(parts[keep]))


def triangulate(region: shapely.Geometry) -> NDArray[np.float64]:
    """(T, 3, 2) triangles that fill a polygonal region exactly."""
    out = [np.empty((0, 3, 2))]
    for polygon in shapely.get_parts(region):
        if shapely.get_type_id(polygon) != 3 or polygon.is_empty:
            continue
        rings = [np.asarray(r.coords)[:-1] for r in (polygon.exterior, *polygon.interiors)]
        points = np.ascontiguousarray(np.concatenate(rings)[:, :2])
        ends = np.cumsum([len(r) for r in rings]).astype(np.uint32)
        out.append(points[mapbox_earcut.triangulate_float64(points, ends).reshape(-1, 3).astype(np.int64)])
    return np.concatenate(out)
