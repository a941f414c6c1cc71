"""Poche: what is cut as filled shapes in frame millimetres.

Shapes are made of the settled regions of parts, so that each knows whose it is: parts of one material and one fill that
touch are one mass, without a line between them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.colour import is_light
from warmgraphite.geometry.frames import level_axes
from warmgraphite.geometry.ragged import firsts, split_rows
from warmgraphite.geometry.tolerances import HAIR, NEAR, ROUNDING
from warmgraphite.ink.assign import Style
from warmgraphite.ink.faces import PlaneFace
from warmgraphite.ink.fills import Fill, Flat, Hatch
from warmgraphite.ink.hatch import hatched, on_paper
from warmgraphite.ink.hatch_marks import Lie, Rings
from warmgraphite.ink.layer import shape_of
from warmgraphite.ink.surfaces import HatchSet
from warmgraphite.model.bodies import Bodies
from warmgraphite.passes.cut import CutRegion, Mass, kept_in, masses, on_slabs, polygonal
from warmgraphite.passes.store import Arrays
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene
from warmgraphite.view.surfaces import CutSurface, Plane, PlaneFrame, Slab, clip_triangles

__all__ = [
    "PocheShape",
    "confined_shape",
    "filled_shapes",
    "hatched_shape",
    "laid_on_paper",
    "lie_of",
    "packed_shapes",
    "shape_on_paper",
    "unpacked_shapes",
]


#: Cosine of a cut's lean up to which it is level.
LEVEL = 0.9
#: Sine of the slope up to which a cut is level, and what is to its right goes by the model.
LEVEL_CUT = 1e-3


@dataclass(frozen=True)
class PocheShape:
    """One filled shape: ``rings`` are closed (n, 2) outlines and holes in frame millimetres, filled by even-odd.
    ``part`` is one of the parts that it is made of, which says how all are filled; ``cut`` numbers the cutting surface,
    ``level`` says whether it is; ``plane`` (3, 3) takes metres in the cut's plane, to its right and up, to homogeneous
    frame millimetres. Of a shape that lies on several steps of a cut, ``steps`` are its pieces, each with the plane
    that it lies in.
    """

    material: str
    part: int
    cut: int
    earth: bool
    level: bool
    plane: NDArray[np.float64]
    rings: list[NDArray[np.float64]]
    steps: tuple[PocheShape, ...] = ()


def _faces_viewer(scene: Scene, slab: Slab) -> bool:
    """Whether one looks at a cut from the side that was taken away.
    From the other one its own body stands before it.
    """
    eye = scene.projection.eye
    return bool(slab.plane.side(eye) > 0 if eye is not None else scene.projection.sight @ slab.plane.normal < 0)


def _in_front(scene: Scene, number: int, slab: Slab, caps: NDArray[np.float64]) -> shapely.STRtree:
    """The triangles of what stands before a slab of a cutting surface, in frame millimetres.

    A single plane leaves nothing there but the parts that are spared; of a surface that steps, what its other steps
    leave does too, and their own caps (C, 3, 3).
    """
    surface = scene.surfaces[number]
    solid = ~scene.bodies.is_glass[scene.part]
    steps = len(surface.slabs) > 1 or surface.role == "return"
    straight = (
        scene.projection.eye is None and np.linalg.norm(np.cross(scene.projection.sight, slab.plane.normal)) < ROUNDING
    )
    rows = solid & (scene.spared[number][scene.part] | (steps and not straight))
    corners, source = scene.corners[rows], scene.source[rows]
    if steps and not straight:
        corners = np.concatenate([corners, caps])
        source = np.concatenate([source, np.full(len(caps), -1, source.dtype)])
    # What lies in the slab itself, its own caps too, stands before nothing of it.
    before = Plane(-slab.plane.normal, -scene.tolerances.near(2) - slab.plane.offset)
    corners, source = clip_triangles(corners, source, before)
    if scene.near is not None:
        corners, source = clip_triangles(corners, source, scene.near)
    flat = scene.projection.project(corners)[:, :, :2]
    one, two = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    area = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    low, high = flat.min(1), flat.max(1)
    paper = (high >= 0).all(1) & (low <= [scene.projection.width, scene.projection.height]).all(1)
    return shapely.STRtree(shapely.polygons(flat[paper & (np.abs(area) > NEAR)]))


def _not_behind(flat: shapely.Geometry, before: shapely.STRtree) -> shapely.Geometry:
    """What of a shape none of the triangles ``before`` it hides; only those that lie on it are made one."""
    hits = before.geometries[before.query(flat, predicate="intersects")]
    return shapely.difference(flat, shapely.union_all(hits, grid_size=HAIR)) if len(hits) else flat


def filled_shapes(
    scene: Scene, seen: list[CutRegion], fills: NDArray[np.int64], caps: NDArray[np.float64], names: Sequence[str]
) -> list[PocheShape]:
    """The settled regions ``seen`` of a scene as the frame shows them, less what stands before them.

    ``fills`` (P,) says which parts are filled alike, −1 which are not; ``caps`` (C, 3, 3) are the triangles, in metres,
    that close all cuts; ``names`` are those of the materials.
    """
    bodies, out = scene.bodies, []
    found: list[tuple[Mass, int]] = []
    for fill in np.unique(fills[[r.part for r in seen]]) if seen else ():
        rows = [r for r in seen if fills[r.part] == fill]
        found += [(mass, _one_of(bodies, rows, mass)) for mass in masses(bodies, rows)] if fill >= 0 else []
    found.sort(key=lambda row: (row[0].plane, bodies.cut_place[row[1]], row[0].earth))
    before: dict[int, shapely.STRtree] = {}
    for mass, part in found:
        surface, shapes, planes = scene.surfaces[mass.plane], [], []
        for flat, slab in laid_on_paper(scene, surface, mass.region):
            if id(slab) not in before:
                before[id(slab)] = _in_front(scene, mass.plane, slab, caps)
            shapes.append(_not_behind(flat, before[id(slab)]))
            planes.append(lie_of(scene, slab))
        if not shapes:
            continue
        name = names[mass.material]
        made = shape_on_paper(name, part, mass.plane, surface, shapes, planes, earth=mass.earth)
        out += [made] if made is not None else []
    return out


def shape_on_paper(
    name: str,
    part: int,
    cut: int,
    surface: CutSurface,
    shapes: list[shapely.Geometry],
    planes: list[NDArray[np.float64]],
    *,
    earth: bool = False,
) -> PocheShape | None:
    """One shape of its pieces, each of one step of a cut, on the paper, with how that step's plane lies there.
    ``None`` of nothing.
    """
    # The two sides of a step are one shape where they meet on the paper.
    whole = shapes[0] if len(shapes) == 1 else shapely.union_all(shapes, grid_size=NEAR)
    level = abs(float(surface.normal[2])) > LEVEL
    made = [
        PocheShape(name, part, cut, earth, level, plane, rings)
        for flat, plane in zip([whole, *shapes], [planes[0], *planes], strict=True)
        if (rings := _rings_of(flat))
    ]
    return replace(made[0], steps=tuple(made[1:] if len(shapes) > 1 else ())) if made else None


def laid_on_paper(scene: Scene, surface: CutSurface, region: shapely.Geometry) -> list[tuple[shapely.Geometry, Slab]]:
    """A region or lines in a surface's axes, in metres, as they lie on the paper, in millimetres.
    They lie there whatever stands before them: a piece for each step that is looked at from the side that was taken
    away.
    """
    out = []
    paper = shapely.box(-5, -5, scene.projection.width + 5, scene.projection.height + 5)
    for piece, slab in on_slabs(surface, region):
        if not _faces_viewer(scene, slab):
            continue
        frame = slab.frame
        if scene.near is not None:
            room = kept_in([scene.near], frame, piece)
            piece = shapely.intersection(piece, room)
            piece = polygonal(piece) if shapely.get_dimensions(region) == 2 else piece

        def onto_paper(points: NDArray, frame: PlaneFrame = frame) -> NDArray:
            return scene.projection.project(frame.lifted(points))[:, :2]

        if not piece.is_empty:
            flat = shapely.transform(piece, onto_paper)
            flat = shapely.make_valid(flat) if shapely.get_dimensions(region) == 2 else flat
            out.append((shapely.intersection(flat, paper), slab))
    return out


def _one_of(bodies: Bodies, rows: list[CutRegion], mass: Mass) -> int:
    """The first of the parts that a mass is made of."""
    same = (r.part for r in rows if r.plane == mass.plane and bodies.cut_as[r.part] == mass.material)
    return next(part for part in same if bool(bodies.earth[part]) == mass.earth)


def confined_shape(shape: PocheShape, room: shapely.Geometry) -> PocheShape:
    """What of a shape lies within ``room``, in frame millimetres."""
    rings = _rings_of(shapely.intersection(shape_of(shape.rings), room))
    return replace(shape, rings=rings, steps=tuple(confined_shape(s, room) for s in shape.steps))


def _rings_of(flat: shapely.Geometry) -> list[NDArray[np.float64]]:
    """The outlines and holes of all that has an area."""
    pieces = [p for p in shapely.get_parts(flat) if shapely.get_type_id(p) == 3 and p.area > HAIR]
    return [np.asarray(ring.coords) for p in pieces for ring in (p.exterior, *p.interiors)]


def lie_of(scene: Scene, slab: Slab) -> NDArray[np.float64]:
    """(3, 3) how a cut's plane lies on the paper: metres to the right of one who looks at it, and up."""
    normal = slab.plane.normal
    face = PlaneFace(*level_axes(normal, LEVEL_CUT), normal, normal * slab.plane.offset)
    return face.matrix(scene.projection)


#: The ink of earth that only has flat fills.
_EARTH = Hatch(pattern="earth", weight=0.11)


def hatched_shape(
    shape: PocheShape, fills: Sequence[Fill], projection: Projection, middle: tuple[float, float]
) -> HatchSet:
    """The marks of the hatches among a shape's fills.
    Earth that has none, and is filled at all, is hatched as earth is.
    """
    hatches = [f for f in fills if isinstance(f, Hatch)]
    if shape.earth and fills and not hatches:
        last = fills[-1]
        assert isinstance(last, Flat)
        hatches = [_EARTH.model_copy(update={"colour": "#5d5145" if is_light(last.colour) else "#8d857b"})]
    rows, paper = [], (projection.width, projection.height)
    for hatch in hatches:
        on_steps = hatch.lies != "paper" and shape.steps
        for piece in shape.steps if on_steps else (shape,):
            lie = on_paper(middle) if hatch.lies == "paper" else Lie(piece.plane, False)
            rings = Rings.of(r[:-1] for r in piece.rings)
            marks = hatched(rings, lie, hatch, middle, key=7, paper=paper, level=shape.level)
            rows.append((Style(f"hatch {hatch.pattern}", hatch.weight, hatch.colour, opacity=hatch.opacity), marks))
    return HatchSet.of(rows, (), middle)


def packed_shapes(shapes: list[PocheShape]) -> Arrays:
    """Shapes as arrays, for the store."""
    steps = np.array([len(s.steps) for s in shapes], np.int64)
    shapes = [row for shape in shapes for row in (shape, *shape.steps)]
    lines = [ring for shape in shapes for ring in shape.rings]
    return {
        "steps": steps,
        "material": np.array([s.material for s in shapes], dtype=np.str_),
        "part": np.array([s.part for s in shapes], np.int64),
        "cut": np.array([s.cut for s in shapes], np.int64),
        "rings": np.array([len(s.rings) for s in shapes], np.int64),
        "earth": np.array([s.earth for s in shapes], bool),
        "level": np.array([s.level for s in shapes], bool),
        "plane": np.array([s.plane for s in shapes]).reshape(-1, 3, 3),
        "points": np.array([len(line) for line in lines], np.int64),
        "xy": np.concatenate([np.empty((0, 2)), *lines]),
    }


def unpacked_shapes(a: Arrays) -> list[PocheShape]:
    """Shapes from the arrays of the store."""
    lines = iter(split_rows(a["xy"], firsts(a["points"])))
    rows = iter(
        [
            PocheShape(
                str(material), int(part), int(cut), bool(earth), bool(level), plane, [next(lines) for _ in range(rings)]
            )
            for material, part, cut, earth, level, plane, rings in zip(
                a["material"], a["part"], a["cut"], a["earth"], a["level"], a["plane"], a["rings"], strict=True
            )
        ]
    )
    return [replace(next(rows), steps=tuple(next(rows) for _ in range(n))) for n in a["steps"]]
