"""The ground where the model has none.
A line through its points, run on to the frame, and earth below it where nothing else is cut.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import HAIR
from warmgraphite.ink.assign import Style
from warmgraphite.ink.filled import Filled, filled_shape
from warmgraphite.ink.fills import Fill
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.marks.specification import Ground, faded
from warmgraphite.ink.poche import PocheShape, laid_on_paper, lie_of, shape_on_paper
from warmgraphite.ink.strokes import Strokes
from warmgraphite.passes.cut import GRID, OPEN_EARTH, CutRegion, polygonal
from warmgraphite.view.scene import Scene

__all__ = ["earth_below", "ground_height", "ground_rows"]

Points = NDArray[np.float64]

#: Metres from one asked place of a ground to the next, and how many at most.
STEP, MOST = 0.25, 4000
#: How far from one line in plan points may lie, as a share of its length, to be a profile.
IN_LINE = 0.02
#: Layers of earth that fades, and the share of its depth by which a rough edge leaves its level.
FADES, ROUGH = 7, 0.16
#: Metres over the ground from which one looks round, and how far; the share of what one sees from which one is in a
#: room.
ABOVE, FAR, SHUT_IN = 0.3, 60.0, 0.78
#: Sine of a cut's lean from the upright up to which it has a ground.
UPRIGHT = 0.35


def ground_height(ground: Ground, at: Points) -> Points:
    """(N,) the height of a ground in metres at places (N, 2) in plan."""
    points = np.array(ground.points, float)
    if len(points) == 1:
        return np.full(len(at), points[0, 2])
    middle = points[:, :2].mean(0)
    _, size, ways = np.linalg.svd(points[:, :2] - middle, full_matrices=False)
    if len(points) < 4 or len(size) < 2 or size[1] < IN_LINE * size[0]:
        along = (points[:, :2] - middle) @ ways[0]
        order = np.argsort(along, kind="stable")
        return np.interp((at - middle) @ ways[0], along[order], points[order, 2])
    from scipy.interpolate import (
        LinearNDInterpolator,
        NearestNDInterpolator,
    )  # half a second, which only such a ground should take

    inside = LinearNDInterpolator(points[:, :2], points[:, 2])(at)
    nearest = NearestNDInterpolator(points[:, :2], points[:, 2])(at)
    return np.asarray(np.where(np.isnan(inside), nearest, inside))


def _profile(ground: Ground, scene: Scene, plane: int) -> Points | None:
    """(n, 2) the line of a ground in a surface's axes, far beyond the frame; ``None`` where the cut is not upright."""
    surface = scene.surfaces[plane]
    if not surface.cuts or abs(float(surface.normal[2])) > UPRIGHT:
        return None
    frame = surface.slabs[0].frame
    low, high = _reach(scene, plane, ground)
    along = np.linspace(low, high, int(np.clip((high - low) / STEP, 2, MOST)) + 1)
    own = frame.flat(np.array(ground.points, float))[:, 0]
    along = np.unique(np.concatenate([along, own[(own > low) & (own < high)]]))
    rise = frame.v[2]  # of a plane that leans a little: so much height to a metre up in it
    height = np.zeros(len(along))
    for _ in range(3 if abs(rise) < 0.9999 else 1):
        up = (height - frame.origin[2] - along * frame.u[2]) / rise
        place = frame.lifted(np.column_stack([along, up]))
        height = ground_height(ground, place[:, :2])
    up = (height - frame.origin[2] - along * frame.u[2]) / rise
    line = np.asarray(shapely.simplify(shapely.LineString(np.column_stack([along, up])), HAIR).coords)
    return line[:, :2]


def _reach(scene: Scene, plane: int, ground: Ground) -> tuple[float, float]:
    """From where to where the frame shows a cutting plane about the height of the ground.
    In metres along its level axis.
    """
    projection, slab = scene.projection, scene.surfaces[plane].slabs[0]
    corners = scene.bodies.mesh.vertices
    along = slab.frame.flat(np.stack([corners.min(0), corners.max(0)]))[:, 0]
    middle, size = float(along.mean()), float(scene.bodies.extent)
    if projection.scale:
        size = max(size, projection.width * projection.scale / 1000)
    return middle - 3 * size - 5, middle + 3 * size + 5


def earth_below(
    ground: Ground, scene: Scene, plane: int, settled: Sequence[CutRegion]
) -> tuple[shapely.Geometry, Points | None]:
    """The earth below a ground in a surface's axes, where nothing else is cut and no room is, and its line.
    Nothing where a cut has none.
    """
    line = _profile(ground, scene, plane)
    if line is None:
        return shapely.MultiPolygon(), None
    lower = line[::-1] - [0.0, ground.depth]
    if ground.edge == "rough":
        along = np.arange(line[0, 0], line[-1, 0], 0.12)
        down = np.interp(along, line[:, 0], line[:, 1]) - ground.depth * (1 + ROUGH * _unevenness(along))
        lower = np.column_stack([along, down])[::-1]
    band = shapely.make_valid(shapely.Polygon(np.concatenate([line, lower])))
    own = [r for r in settled if r.plane == plane]
    # Rooms are told in all that lies below, however thin the earth is drawn.
    deep = min([float(band.bounds[1]), *(float(r.region.bounds[1]) for r in own)]) - 1.0
    foot = np.array([(line[-1, 0], deep), (line[0, 0], deep)])
    whole = shapely.make_valid(shapely.Polygon(np.concatenate([line, foot])))
    solid = shapely.union_all([r.region for r in own])
    left = polygonal(shapely.difference(whole, solid, grid_size=GRID)) if own else whole
    built = shapely.union_all([r.region for r in own if not scene.bodies.earth[r.part]])
    if not built.is_empty:
        # Of what the building parts from the rest, only what lies open is earth: the rest are rooms.
        pieces = shapely.get_parts(left)
        outline = shapely.get_exterior_ring(pieces)
        free = shapely.difference(outline, shapely.buffer(built, 4 * GRID))
        open_ = shapely.length(free) > OPEN_EARTH * shapely.length(outline)
        shut = shapely.union_all([built, *(r.strokes for r in own)])
        path = shapely.LineString(line)
        open_ &= np.array([not _is_in_room(shapely.intersection(f, shapely.buffer(path, HAIR)), shut) for f in free])
        left = shapely.MultiPolygon(list(pieces[open_]))
    return polygonal(shapely.intersection(left, band, grid_size=GRID)), line


def _is_in_room(surface: shapely.Geometry, built: shapely.Geometry) -> bool:
    """Whether over most of a stretch of ground one looks at what is built, whichever way one looks up."""
    if surface.is_empty or not surface.length:
        return False
    at = shapely.get_coordinates(shapely.line_interpolate_point(surface, np.linspace(0.1, 0.9, 5),
        normalized=True)) if (
        shapely.get_type_id(surface) == 1
    ) else shapely.get_coordinates(shapely.centroid(shapely.get_parts(surface)))  # fmt: skip
    turn = np.radians(np.linspace(4, 176, 9))
    way = np.column_stack([np.cos(turn), np.sin(turn)]) * FAR
    start = np.repeat(at + np.array([0.0, ABOVE]), len(way), axis=0)
    rays = shapely.linestrings(np.stack([start, start + np.tile(way, (len(at), 1))], 1))
    shapely.prepare(built)
    return bool(shapely.intersects(built, rays).mean() > SHUT_IN)


def _unevenness(along: Points) -> Points:
    """(N,) from −1 to 1: an edge as a hand would tear it, the same wherever it is seen."""
    return np.asarray(
        0.5 * np.sin(1.7 * along)
        + 0.3 * np.sin(4.3 * along + 1.1)
        + 0.2 * np.sin(11.9 * along + 2.7 * np.sin(2.3 * along))
    )


def ground_rows(
    grounds: Sequence[Ground],
    scene: Scene,
    settled: Sequence[CutRegion],
    hand: Hand,
    times: float,
    middle: tuple[float, float],
) -> list[Filled]:
    """Earth below grounds, and their lines, in all upright cuts of a view."""
    out: list[Filled] = []
    for ground in grounds:
        for plane, surface in enumerate(scene.surfaces):
            region, line = (
                earth_below(ground, scene, plane, settled)
                if ground.on and surface.cuts
                else (shapely.MultiPolygon(), None)
            )
            if line is None:
                continue
            strips = _strips(ground, region, line)
            for number, (strip, fills) in enumerate(strips):
                laid = laid_on_paper(scene, surface, strip)
                planes = [lie_of(scene, slab) for _, slab in laid]
                made = (
                    shape_on_paper("ground", 0, plane, surface, [flat for flat, _ in laid], planes, earth=True)
                    if laid
                    else None
                )
                strokes = _line(ground, scene, plane, region, line, times) if number == 0 else []
                if made is not None or strokes:
                    made = made or PocheShape("ground", 0, plane, True, False, np.eye(3), [])
                    out.append(
                        filled_shape(f"poche {ground.name}", made, fills, strokes, scene.projection, hand, middle)
                    )
    return out


def _strips(ground: Ground, region: shapely.Geometry, line: Points) -> list[tuple[shapely.Geometry, tuple[Fill, ...]]]:
    """Earth in one piece, or in strips that grow fainter downwards."""
    if ground.edge != "fading":
        return [(region, ground.fills)]
    out = []
    for k in range(FADES):
        a, b = (ground.depth * n / FADES for n in (k, k + 1))
        strip = shapely.Polygon(np.concatenate([line - [0.0, a], line[::-1] - [0.0, b]]))
        out.append(
            (
                polygonal(shapely.intersection(region, shapely.make_valid(strip), grid_size=GRID)),
                faded(ground.fills, 1 - k / FADES),
            )
        )
    return out


def _line(
    ground: Ground, scene: Scene, plane: int, region: shapely.Geometry, line: Points, times: float
) -> list[Strokes]:
    """The line of the ground, where it bounds earth."""
    if not ground.pen.weight:
        return []
    drawn = shapely.intersection(shapely.LineString(line), shapely.buffer(region, HAIR))
    lines = []
    for flat, _ in laid_on_paper(scene, scene.surfaces[plane], drawn):
        parts = shapely.get_parts(flat)
        merged = shapely.line_merge(shapely.multilinestrings(parts[shapely.get_type_id(parts) == 1]))
        lines += [np.asarray(p.coords)[:, :2] for p in shapely.get_parts(merged) if p.length > 0.05]
    pen = ground.pen
    style = Style("ground", max(round(pen.weight * times, 3), 0.03), pen.colour, pen.dash, pen.opacity)
    return [Strokes(style, lines)] if lines else []
