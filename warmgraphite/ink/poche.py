"""Poche: the cut masses of a scene as filled shapes in frame millimetres."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.ink.specification import Poche
from warmgraphite.passes.cut import Mass, PlaneFrame, half_plane, plane_frame, polygonal
from warmgraphite.view.scene import Plane, Scene, clip_triangles

__all__ = ["PocheShape", "colour_of", "poche_shapes"]


@dataclass(frozen=True)
class PocheShape:
    """One filled shape: ``rings`` are closed (n, 2) outlines and holes in frame millimetres, filled by even-odd; ``earth``
    ones are hatched as earth over their fill."""

    material: str
    rings: list[NDArray[np.float64]]
    earth: bool = False


def _in_front(scene: Scene, plane_index: int) -> shapely.Geometry:
    """What uncut parts standing before a cutting plane hide of it, in frame millimetres."""
    plane = scene.planes[plane_index]
    rows = scene.spared[plane_index][scene.part] & ~scene.model.part_is_glass[scene.part]
    kept = Plane(-plane.normal, -plane.offset + 2 * scene.slack, "near")
    corners, _ = clip_triangles(scene.corners[rows], scene.source[rows], kept)
    if not len(corners):
        return shapely.Polygon()
    flat = scene.projection.project(corners)[:, :, :2]
    area = np.cross(flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0])
    return shapely.union_all(shapely.polygons(flat[np.abs(area) > 1e-6]), grid_size=1e-4)


def poche_shapes(scene: Scene, found: list[Mass]) -> list[PocheShape]:
    """The masses as the frame shows them, less what stands before them."""
    out = []
    reach = 8 * scene.model.extent + 8
    paper = shapely.box(-5, -5, scene.projection.width + 5, scene.projection.height + 5)
    hidden: dict[int, shapely.Geometry] = {}
    for mass in found:
        frame = plane_frame(scene.planes[mass.plane], scene.model)
        region = mass.region
        if scene.near is not None:
            ahead = half_plane(scene.near, frame, reach)
            if ahead is not None:
                region = polygonal(shapely.intersection(region, ahead))
        if region.is_empty:
            continue

        def onto_paper(points: NDArray, frame: PlaneFrame = frame) -> NDArray:
            return scene.projection.project(frame.lifted(points))[:, :2]

        flat = shapely.make_valid(shapely.transform(region, onto_paper))
        if mass.plane not in hidden:
            hidden[mass.plane] = _in_front(scene, mass.plane)
        flat = shapely.difference(shapely.intersection(flat, paper), hidden[mass.plane])
        rings = [
            np.asarray(ring.coords)
            for polygon in shapely.get_parts(flat)
            if shapely.get_type_id(polygon) == 3 and not polygon.is_empty
            for ring in (polygon.exterior, *polygon.interiors)
        ]
        if rings:
            out.append(PocheShape(scene.model.materials[mass.material].name, rings, mass.earth))
    return out


def colour_of(poche: dict[str, Poche], material: str) -> str | None:
    """The fill of a material, ``None`` where its poche is off; graphite when nothing is said."""
    found = poche.get(material, Poche())
    return found.colour if found.on else None
