"""Poche: the cut masses of a scene as filled shapes in frame millimetres."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.ink.specification import Poche
from warmgraphite.passes.cut import Mass, kept_in, on_slabs, polygonal
from warmgraphite.view.scene import Scene
from warmgraphite.view.surfaces import Plane, PlaneFrame, Slab, clip_triangles

__all__ = ["PocheShape", "colour_of", "poche_shapes"]


@dataclass(frozen=True)
class PocheShape:
    """One filled shape: ``rings`` are closed (n, 2) outlines and holes in frame millimetres, filled by even-odd; ``earth``
    ones are hatched as earth over their fill."""

    material: str
    rings: list[NDArray[np.float64]]
    earth: bool = False


def _faces_viewer(scene: Scene, slab: Slab) -> bool:
    """Whether one looks at a cut from the side that was taken away; from the other one its own body stands before it."""
    eye = scene.projection.eye
    return bool(slab.plane.side(eye) > 0 if eye is not None else scene.projection.sight @ slab.plane.normal < 0)


def _in_front(scene: Scene, number: int, slab: Slab, caps: NDArray[np.float64]) -> shapely.Geometry:
    """What stands before a slab of a cutting surface, in frame millimetres.

    A single plane leaves nothing there but the parts that are spared; of a surface that steps, what its other steps leave
    does too, and their own caps (C, 3, 3).
    """
    surface = scene.surfaces[number]
    solid = ~scene.model.part_is_glass[scene.part]
    steps = len(surface.slabs) > 1 or surface.role == "return"
    straight = scene.projection.eye is None and np.linalg.norm(np.cross(scene.projection.sight, slab.plane.normal)) < 1e-9
    rows = solid & (scene.spared[number][scene.part] | (steps and not straight))
    corners, source = scene.corners[rows], scene.source[rows]
    if steps and not straight:
        corners = np.concatenate([corners, caps])
        source = np.concatenate([source, np.full(len(caps), -1, source.dtype)])
    before = Plane(-slab.plane.normal, 2 * scene.slack - slab.plane.offset)
    corners, source = clip_triangles(corners, source, before)
    if scene.near is not None:
        corners, source = clip_triangles(corners, source, scene.near)
    if not len(corners):
        return shapely.Polygon()
    flat = scene.projection.project(corners)[:, :, :2]
    one, two = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    area = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    low, high = flat.min(1), flat.max(1)
    paper = (high >= 0).all(1) & (low <= [scene.projection.width, scene.projection.height]).all(1)
    return shapely.union_all(shapely.polygons(flat[paper & (np.abs(area) > 1e-6)]), grid_size=1e-4)


def poche_shapes(scene: Scene, found: list[Mass], caps: NDArray[np.float64]) -> list[PocheShape]:
    """The masses as the frame shows them, less what stands before them; ``caps`` (C, 3, 3) are the triangles, in metres, that
    close all cuts."""
    out = []
    paper = shapely.box(-5, -5, scene.projection.width + 5, scene.projection.height + 5)
    hidden: dict[int, shapely.Geometry] = {}
    for mass in found:
        shapes = []
        for region, slab in on_slabs(scene.surfaces[mass.plane], mass.region):
            if not _faces_viewer(scene, slab):
                continue
            frame = slab.frame
            if scene.near is not None:
                region = polygonal(shapely.intersection(region, kept_in([scene.near], frame, region)))

            def onto_paper(points: NDArray, frame: PlaneFrame = frame) -> NDArray:
                return scene.projection.project(frame.lifted(points))[:, :2]

            if not region.is_empty:
                if id(slab) not in hidden:
                    hidden[id(slab)] = _in_front(scene, mass.plane, slab, caps)
                flat = shapely.intersection(shapely.make_valid(shapely.transform(region, onto_paper)), paper)
                shapes.append(shapely.difference(flat, hidden[id(slab)]))
        if not shapes:
            continue
        # The two sides of a step are one shape where they meet on the paper.
        flat = shapes[0] if len(shapes) == 1 else shapely.union_all(shapes, grid_size=1e-6)
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
