"""Light through openings: rays of the sun from the edge of a pane to what they meet first."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import HAIR, NEAR, NO_AREA, ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.model.mesh import Mesh
from warmgraphite.passes.casters import Rays
from warmgraphite.specification import Wanted
from warmgraphite.view.specification import Cut

__all__ = ["Beam", "Beams", "beam_of", "pane_of"]

#: Metres of the lattice that outlines of a beam are merged on.
MERGED = 1e-5

#: Metres by which rays begin within the edge of a pane, and beside it; and how far light is followed that meets
#: nothing.
INSET, OFF, FAR = 0.03, 0.02, 30.0
#: Rays round a pane.
ROUND = 48


class Beams(Wanted):
    """The light through panes, by the paths of their parts."""

    parts: tuple[str, ...] = ()


class Beam(NamedTuple):
    """Rays round the edge of a pane, in order.
    Where they begin and end, (N, 3) metres, and which of them the sun reaches (N,).
    """

    part: int
    start: NDArray[np.float64]
    end: NDArray[np.float64]
    lit: NDArray[np.bool_]


def pane_of(mesh: Mesh, part: int) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """The edge (N, 3) of the largest face of a part, and its unit normal (3,)."""
    corners = mesh.vertices[mesh.triangles[mesh.triangle_part == part]]
    if not len(corners):
        return None
    normal = normals(corners)
    area = np.linalg.norm(normal, axis=1)
    if not area.max() > ROUNDING:
        return None
    # Both faces of a pane look the same way, or the other.
    main = normal[int(np.argmax(area))] / area.max()
    turned = normal * np.sign(normal @ main + NO_AREA)[:, None]
    alike = np.abs(normal @ main) > 0.98 * area
    way = turned[alike].sum(0)
    way /= np.linalg.norm(way)
    u = np.cross(way, [0, 0, 1.0]) if abs(way[2]) < 0.95 else np.array([1.0, 0, 0])
    u /= np.linalg.norm(u)
    v = np.cross(way, u)
    middle = corners[alike].reshape(-1, 3).mean(0)
    flat = np.stack([(corners[alike] - middle) @ u, (corners[alike] - middle) @ v], -1)
    shape = shapely.union_all(shapely.set_precision(shapely.make_valid(shapely.polygons(flat)), MERGED))
    largest = max(shapely.get_parts(shape), key=shapely.area, default=None)
    if largest is None or largest.area < HAIR:
        return None
    inner = largest.buffer(-min(INSET, 0.2 * np.sqrt(largest.area)), join_style="mitre")
    ring = shapely.get_exterior_ring(max(shapely.get_parts(inner), key=shapely.area, default=largest))
    known = shapely.get_coordinates(ring)[:-1]
    extra = [
        shapely.get_coordinates(shapely.line_interpolate_point(ring, t, normalized=True))[0]
        for t in np.linspace(0, 1, ROUND, endpoint=False)
    ]
    points = np.vstack([known, extra]) if len(known) <= 200 else np.array(extra)
    points = points[np.argsort([shapely.line_locate_point(ring, shapely.Point(p)) for p in points])]
    return middle + points[:, :1] * u + points[:, 1:] * v, way


def beam_of(mesh: Mesh, part: int, solid: Rays, to_sun: NDArray[np.float64], cuts: Sequence[Cut]) -> Beam | None:
    """The light that falls through a pane; ``None`` where the sun is below the horizon, or shines along it."""
    found = pane_of(mesh, part)
    if found is None or to_sun[2] <= 0:
        return None
    edge, normal = found
    if abs(float(normal @ to_sun)) < 0.02:
        return None
    start = edge - to_sun * OFF / abs(float(normal @ to_sun))
    out = edge + to_sun * OFF / abs(float(normal @ to_sun))
    about = lambda p: (p - solid.middle).astype(np.float32)
    way = np.tile(-to_sun.astype(np.float32), (len(start), 1))
    lit = ~solid.blocked(about(out), -way)
    for cut in cuts:  # nothing shines in the half that was taken away
        normal_of = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        deepest = max([0.0, *(j.by for j in cut.jogs)])
        lit &= (start - np.array(cut.point)) @ normal_of <= deepest + NEAR
    hit, far = solid.first(about(start), way)
    end = start - to_sun * np.where(hit >= 0, far, FAR)[:, None]
    return Beam(part, start, end, lit) if lit.any() else None
