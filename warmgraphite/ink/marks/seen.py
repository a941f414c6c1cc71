"""What is seen of marks.
Cut away where their plane is, hidden by what stands before it, filled and drawn as all else is.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import HAIR, NEAR, ROUNDING
from warmgraphite.ink.assign import Style
from warmgraphite.ink.confine import Confine, confined
from warmgraphite.ink.filled import Filled, filled_shape
from warmgraphite.ink.fills import GRAPHITE, Fill, Flat
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.marks.planes import Lain, lain
from warmgraphite.ink.marks.shapes import inside_of, line_of
from warmgraphite.ink.marks.specification import Mark, OnCut, OnFace, OnPaper
from warmgraphite.ink.poche import PocheShape
from warmgraphite.ink.strokes import Strokes
from warmgraphite.passes.cut import gone_in, kept_in, polygonal
from warmgraphite.regions.query import Query
from warmgraphite.view.scene import Scene
from warmgraphite.view.surfaces import Plane, clip_triangles

__all__ = ["MarksOn", "mark_rows"]

Points = NDArray[np.float64]

#: Metres from a cutting plane within which a mark lies in it, and in front of a plane within which a body lies on it.
IN_CUT, ON_PLANE = 0.005, 0.003
#: How far, in metres or as a sine, one may stand off a plane and still look along it.
ALONG = 1e-4
#: Millimetres of a line that is none; of an arrow's head, and per weight of its pen; degrees of half its angle.
SPECK, HEAD, HEAD_WEIGHTS, HEAD_ANGLE = 0.05, 2.2, 7.0, 20.0
#: Tones that a soft brush is laid in.
SOFT = 18


@dataclass(frozen=True)
class MarksOn:
    """What marks are drawn on.
    The ``scene``, the triangles ``caps`` (C, 3, 3) that close its cuts, the ``middle`` of the drawing in millimetres,
    the ``hand``, what all weights are multiplied by, and the rooms on the paper that queries mean.
    """

    scene: Scene
    caps: Points
    middle: tuple[float, float]
    hand: Hand
    times: float
    #: What is drawn in the usual graphite is drawn in this: the colour of the finish's own pens.
    ink: str
    room: Callable[[Query], Confine]
    #: The number of a part by its path, where it is there.
    part_of: Callable[[str], int | None]


def mark_rows(marks: Sequence[Mark], on: MarksOn) -> list[Filled]:
    """Marks as they are seen, in their order."""
    held: dict[str, _Seen] = {}
    return [row for mark in marks if mark.on for row in _rows(mark, on, held)]


def _rows(mark: Mark, on: MarksOn, held: dict[str, _Seen]) -> list[Filled]:
    name = f"mark {mark.name or mark.kind}"
    paper = shapely.box(-5, -5, on.scene.projection.width + 5, on.scene.projection.height + 5)
    matrix = np.array([[1.0, 0.0, on.middle[0]], [0.0, 1.0, on.middle[1]], [0.0, 0.0, 1.0]])
    if isinstance(mark.plane, OnPaper):
        flat = np.array(mark.points, float)[:, :2]

        def seen(shape: shapely.Geometry) -> shapely.Geometry:
            moved = shapely.transform(shape, lambda xy: xy + np.array(on.middle))
            return shapely.intersection(moved, paper)
    else:
        found = lain(mark, on.scene.bodies, on.part_of)
        if found is None or not _is_there(mark, found, on.scene):
            return []
        flat = found.flat
        # Marks on one plane are hidden by the same, but where one looks along it.
        key = f"{np.round(found.normal, 9)} {found.plane.offset:.6f} {found.part}"
        key += str(mark.points) if abs(_towards(found, on.scene)) < ALONG else ""
        if key not in held:
            held[key] = _Seen(found, on, paper)
        seen, flat = held[key], held[key].found.frame.flat(found.frame.lifted(flat))
        matrix = seen.found.face.matrix(on.scene.projection)
    shapes: list[tuple[shapely.Geometry, tuple[Fill, ...]]] = []
    lines: list[Points] = []
    line = line_of(mark.kind, flat)
    if mark.kind == "brush":
        spine = shapely.LineString(line) if len(line) > 1 else shapely.Point(line[0])
        shapes = [(seen(s), fills) for s, fills in _tones(mark, spine)]
    else:
        if mark.fills:
            shapes = [(seen(inside_of(mark, flat)), mark.fills)]
        if mark.pen.weight:
            drawn = seen(shapely.LineString(line))
            lines = _lines(drawn)
            if mark.kind == "arrow" and lines:
                lines += _head(seen, flat, max(HEAD, HEAD_WEIGHTS * mark.pen.weight))
    weight = max(round(mark.pen.weight * on.times, 3), 0.03)
    colour = on.ink if mark.pen.colour == GRAPHITE else mark.pen.colour
    strokes = [Strokes(Style("mark", weight, colour, mark.pen.dash, mark.pen.opacity), lines)] if lines else []
    room = on.room(mark.where) if mark.where is not None else None
    if room is not None:
        shapes = [(shapely.intersection(s, room.shape), fills) for s, fills in shapes]
        strokes = confined(strokes, room)
    rows = []
    for number, (shape, fills) in enumerate(shapes or [(shapely.Polygon(), ())]):
        rings = [np.asarray(r.coords)[:, :2] for p in shapely.get_parts(shape) if shapely.get_type_id(p) == 3
            and p.area > HAIR
                 for r in (p.exterior, *p.interiors)]  # fmt: skip
        own = strokes if number == max(len(shapes) - 1, 0) else []
        if rings or own:
            made = PocheShape(mark.name or mark.kind, 0, -1, False, False, matrix, rings)
            rows.append(filled_shape(name, made, fills if rings else (), own, on.scene.projection, on.hand, on.middle))
    return rows


def _tones(mark: Mark, spine: shapely.Geometry) -> list[tuple[shapely.Geometry, tuple[Fill, ...]]]:
    """The tones of a brush, from the widest in: all together are as dark as its pen says."""
    count = SOFT if mark.softness > 0.02 else 1
    each = 1 - (1 - min(mark.pen.opacity, 0.995)) ** (1 / count)
    out: list[tuple[shapely.Geometry, tuple[Fill, ...]]] = []
    for k in range(count):
        reach = mark.width / 2 * (1 - mark.softness * k / count)
        out.append((shapely.buffer(spine, max(reach, NEAR)), (Flat(colour=mark.pen.colour, opacity=round(each, 5)),)))
    return out


def _lines(shape: shapely.Geometry) -> list[Points]:
    parts = shapely.get_parts(shape)
    parts = parts[shapely.get_type_id(parts) == 1]
    merged = shapely.line_merge(shapely.multilinestrings(parts)) if len(parts) else shapely.MultiLineString()
    return [np.asarray(p.coords)[:, :2] for p in shapely.get_parts(merged) if p.length > SPECK]


def _head(seen: Callable[[shapely.Geometry], shapely.Geometry], flat: Points, long: float) -> list[Points]:
    """The two strokes of an arrow's head, where its tip is seen, as large on the paper whatever the plane."""
    ends = seen(shapely.LineString(flat[-2:]))
    lines = [np.asarray(p.coords)[:, :2] for p in shapely.get_parts(ends) if shapely.get_type_id(p) == 1]
    tip = shapely.get_coordinates(seen(shapely.Point(flat[-1])))
    if not len(tip) or not lines:
        return []
    last = min(lines, key=lambda n: float(np.linalg.norm(n - tip[0], axis=1).min()))
    back = last[0] if np.linalg.norm(last[0] - tip[0]) > np.linalg.norm(last[-1] - tip[0]) else last[-1]
    way = (back - tip[0]) / max(float(np.linalg.norm(back - tip[0])), ROUNDING)
    c, s = np.cos(np.radians(HEAD_ANGLE)), np.sin(np.radians(HEAD_ANGLE))
    sides = [np.array([c * way[0] - t * way[1], t * way[0] + c * way[1]]) for t in (s, -s)]
    return [np.array([tip[0] + long * side, tip[0]]) for side in sides]


def _is_there(mark: Mark, found: Lain, scene: Scene) -> bool:
    """Whether a view shows a mark's plane at all: its part, or a cut in it, from the side that it is drawn on."""
    towards = _towards(found, scene)
    if isinstance(mark.plane, OnFace):
        return bool(scene.part_shown[found.part]) and towards > -ALONG
    if isinstance(mark.plane, OnCut):
        return any(_lies_in(found, slab.plane) for s in scene.surfaces if s.cuts for slab in s.slabs)
    return True


def _lies_in(found: Lain, plane: Plane) -> bool:
    ends = found.frame.lifted(np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)]))
    return bool(np.abs(plane.side(ends)).max() < IN_CUT)


def _towards(found: Lain, scene: Scene) -> float:
    """Whether one looks at the side of a plane that its normal points to."""
    eye = scene.projection.eye
    return float(found.plane.side(eye[None])[0]) if eye is not None else -float(scene.projection.sight @ found.normal)


class _Seen:
    """What of a shape on a mark's plane is seen, in frame millimetres."""

    def __init__(self, found: Lain, on: MarksOn, paper: shapely.Geometry) -> None:
        self.found, self.on, self.paper = found, on, paper
        scene = on.scene
        side = 1.0 if _towards(found, scene) > 0 else -1.0
        normal = side * found.normal
        offset = float(normal @ found.frame.origin)
        if abs(_towards(found, scene)) < ALONG:
            # One looks along its plane: it is a line, hidden by what stands nearer than all of it.
            points = found.frame.lifted(found.flat)
            eye = scene.projection.eye
            normal = -scene.projection.sight if eye is None else (eye - points[0]) / np.linalg.norm(eye - points[0])
            offset = float((points @ normal).max())
        solid = ~scene.bodies.is_glass[scene.part]
        corners = np.concatenate([scene.corners[solid], on.caps])
        source = np.zeros(len(corners), np.int32)
        corners, source = clip_triangles(corners, source, Plane(-normal, -offset - scene.tolerances.near(2, ON_PLANE)))
        if scene.near is not None:
            corners, source = clip_triangles(corners, source, scene.near)
        flat = scene.projection.project(corners)[:, :, :2]
        one, two = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
        low, high = flat.min(1), flat.max(1)
        there = (high >= 0).all(1) & (low <= [scene.projection.width, scene.projection.height]).all(1)
        there &= np.abs(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]) > ROUNDING
        self.before = shapely.STRtree(shapely.polygons(flat[there]))

    def __call__(self, shape: shapely.Geometry) -> shapely.Geometry:
        scene, frame = self.on.scene, self.found.frame
        for surface in scene.surfaces:
            if surface.role == "return" or (
                self.found.part >= 0 and scene.spared[scene.surfaces.index(surface)][self.found.part]
            ):
                continue
            if any(_lies_in(self.found, slab.plane) for slab in surface.slabs):
                continue  # it lies in the cut itself
            gone = gone_in(surface, frame, shape)
            shape = shapely.difference(shape, gone) if not gone.is_empty else shape
        if scene.near is not None and not shape.is_empty:
            shape = shapely.intersection(shape, kept_in([scene.near], frame, shape))
        if shape.is_empty:
            return shape
        dimension = int(shapely.get_dimensions(shape))
        flat = shapely.transform(shape, lambda xy: scene.projection.project(frame.lifted(xy))[:, :2])
        flat = polygonal_mm(flat) if dimension == 2 else flat
        flat = shapely.intersection(flat, self.paper)
        if flat.is_empty:
            return flat
        # Only what lies on it is made one: of a whole model that takes seconds.
        hits = self.before.geometries[self.before.query(flat, predicate="intersects")]
        return shapely.difference(flat, shapely.union_all(hits, grid_size=HAIR)) if len(hits) else flat


def polygonal_mm(flat: shapely.Geometry) -> shapely.Geometry:
    """The polygons of a shape on the paper."""
    return polygonal(shapely.make_valid(flat))
