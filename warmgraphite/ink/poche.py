"""Poche: the cut masses of a scene as filled shapes in frame millimetres."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.ink.specification import Poche
from warmgraphite.passes.cut import Mass, kept_in, lifted, polygonal
from warmgraphite.view.scene import Scene
from warmgraphite.view.surfaces import PlaneFrame

__all__ = ["PocheShape", "colour_of", "poche_shapes"]


@dataclass(frozen=True)
class PocheShape:
    """One filled shape: ``rings`` are closed (n, 2) outlines and holes in frame millimetres, filled by even-odd; ``earth``
    ones are hatched as earth over their fill."""

    material: str
    rings: list[NDArray[np.float64]]
    earth: bool = False


def _in_front(scene: Scene, number: int) -> shapely.Geometry:
    """What uncut parts standing before a cutting surface hide of it, in frame millimetres."""
    rows = scene.spared[number][scene.part] & ~scene.model.part_is_glass[scene.part]
    corners, _ = scene.surfaces[number].clip(scene.corners[rows], scene.source[rows], beyond=True, reach=2 * scene.slack)
    if not len(corners):
        return shapely.Polygon()
    flat = scene.projection.project(corners)[:, :, :2]
    area = np.cross(flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0])
    return shapely.union_all(shapely.polygons(flat[np.abs(area) > 1e-6]), grid_size=1e-4)


def poche_shapes(scene: Scene, found: list[Mass]) -> list[PocheShape]:
    """The masses as the frame shows them, less what stands before them."""
    out = []
    paper = shapely.box(-5, -5, scene.projection.width + 5, scene.projection.height + 5)
    hidden: dict[int, shapely.Geometry] = {}
    for mass in found:
        shapes = []
        for region, frame in lifted(scene.surfaces[mass.plane], mass.region, scene.model):
            if scene.near is not None:
                region = polygonal(shapely.intersection(region, kept_in([scene.near], frame, scene.model)))

            def onto_paper(points: NDArray, frame: PlaneFrame = frame) -> NDArray:
                return scene.projection.project(frame.lifted(points))[:, :2]

            if not region.is_empty:
                shapes.append(shapely.make_valid(shapely.transform(region, onto_paper)))
        if not shapes:
            continue
        if mass.plane not in hidden:
            hidden[mass.plane] = _in_front(scene, mass.plane)
        # The two sides of a step are one shape where they meet on the paper.
        flat = shapes[0] if len(shapes) == 1 else shapely.union_all(shapes, grid_size=1e-6)
        flat = shapely.difference(shapely.intersection(flat, paper), hidden[mass.plane])
        rings = [
            np.asarray(ring.coords)
            for polygon in shapely.get_parts(flat)
            if shapely.get_type_id(polygon) == 3 and polygon.area > 1e-4
            for ring in (polygon.exterior, *polygon.interiors)
        ]
        if rings:
            out.append(PocheShape(scene.model.materials[mass.material].name, rings, mass.earth))
    return out


def colour_of(poche: dict[str, Poche], material: str) -> str | None:
    """The fill of a material, ``None`` where its poche is off; graphite when nothing is said."""
    found = poche.get(material, Poche())
    return found.colour if found.on else None
