"""What is filled on the paper, judged by sight lines.
The SVG is read back, and each place of it asked what a ray meets there.

The judge knows bodies and cuts only as intervals along a ray: where it is within a body, and where it is in what a cut
takes away. It shares nothing with the engine, and knows steps, boxes and limits.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh

from tests.conftest import box, deeper, model_of
from tests.core.judge import Camera
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.drawing import Drawing
from warmgraphite.model import Model
from warmgraphite.model.edits.parts import SetRole
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.specification import Cut, Frame, Jog, Oblique, Parallel, Perspective, ViewSpecification

#: Millimetres from an outline within which neither has to be right.
EDGE = 0.25
SVG = "{http://www.w3.org/2000/svg}"


def house() -> Model:
    """Three storeys of walls and floors in two materials on a block of ground.
    With a drum, a table that is never cut, and beams that run into the walls.
    """
    rows = [("Ground", box((-6, -6, -3), (18, 14, -0.3)), 2)]
    for k in range(3):
        z = 3.2 * k
        rows += [(f"Floor {k}", box((0, 0, z - 0.3), (12, 8, z)), 0)]
        rows += [(f"Wall {k}.{i}", box(low, high), 0) for i, (low, high) in enumerate((
            ((0, 0, z), (12, 0.4, z + 2.9)), ((0, 7.6, z), (12, 8, z + 2.9)), ((0, 0, z), (0.4, 8, z + 2.9)),
            ((11.6, 0, z), (12, 8, z + 2.9)),
            ((5 + k, 0, z), (5.3 + k, 8, z + 2.9)),
        ))]  # fmt: skip
        rows += [(f"Beam {k}", box((-0.5, 3.7, z + 2.5), (12.5, 4.1, z + 2.9)), 2)]
    drum = trimesh.creation.cylinder(1.1, 8, sections=24)
    drum.apply_translation([9, 4, 4])
    rows += [("Drum", drum, 2), ("Table", box((1.5, 2.5, 0), (3, 5, 0.8)), 2)]
    model = model_of(*rows)
    table = len(rows) - 1
    return SetRole(parts=(0,), role="ground").apply(SetRole(parts=(table,), role="furniture").apply(model))


def cuts_of(*rows: tuple[tuple, tuple], **more) -> tuple[Cut, ...]:  # type: ignore[no-untyped-def]
    return tuple(Cut(point=point, normal=normal, **more) for point, normal in rows)


SOUTH = cuts_of(((0, 4, 0), (0, -1, 0)))
BOX = cuts_of(*(((2.2 * s + 6, 0, 0), (s, 0, 0)) for s in (-1, 1)), *(((0, 4 + 3 * s, 0), (0, s, 0)) for s in (-1, 1)),
    ((0, 0, 5.1), (0, 0, 1)), ((0, 0, -1.2), (0, 0, -1)))  # fmt: skip
STEPPED = (
    Cut(point=(6, 2, 0), normal=(0, -1, 0), jogs=(Jog(at=-2, by=-1.7), Jog(at=1.5, by=-3.3), Jog(at=4, by=0.5))),
)
LIMITED = (*SOUTH, Cut(point=(0, 7, 0), normal=(0, 1, 0), role="limit"), Cut(point=(8, 0, 0), normal=(1, 0, 0.3)))
AXONOMETRIC = Parallel(direction=(0.5, 1, -0.7), centre=(6, 4, 3))


def cases() -> Iterator:  # type: ignore[type-arg]
    def eye(place: tuple, target: tuple, upright: bool = False, angle: float = 70) -> Perspective:
        return Perspective(eye=place, target=target, field_of_view=angle, upright=upright)

    straight = eye((6, -11, 4), (6, 4, 4))
    yield pytest.param(straight, SOUTH, id="straight")
    for slip in (1e-6, 1e-4, 0.02, 0.3):
        yield pytest.param(eye((6, -11, 4), (6 + 15 * slip, 4, 4)), SOUTH, id=f"aslant by {slip:g}")
        yield pytest.param(eye((6, -11, 4 + 15 * slip), (6, 4, 4)), SOUTH, id=f"tilted by {slip:g}")
    yield pytest.param(eye((3, -8, 7), (7, 4, 3), upright=True), SOUTH, id="upright and aslant")
    yield pytest.param(eye((6, 2.9, 1.6), (6.3, 7, 1.4), angle=120), SOUTH, id="just before the plane")
    yield pytest.param(eye((6, -11, 4), (6.001, 4, 4.002)), STEPPED, id="stepped, aslant")
    yield pytest.param(AXONOMETRIC, STEPPED, id="stepped, axonometric")
    yield pytest.param(Parallel(direction=(0, 1, 0), centre=(6, 4, 4)), STEPPED, id="stepped")
    yield pytest.param(AXONOMETRIC, SOUTH, id="axonometric")
    yield pytest.param(AXONOMETRIC, BOX, id="boxed, axonometric")
    yield pytest.param(eye((-9, -14, 12), (6, 4, 2), angle=50), BOX, id="boxed, three-point")
    yield pytest.param(eye((6, -11, 4), (6.0001, 4, 4)), LIMITED, id="limited, aslant")
    yield pytest.param(
        Oblique(direction=(0, 0, -1), up=(0, 1, 0), centre=(6, 4, 1), receding_angle=250),
        cuts_of(((0, 0, 4.4), (0, 0, 1))),
        id="plan oblique",
    )
    yield pytest.param(
        Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(6, 4, 1)),
        cuts_of(((0, 0, 1.2), (1e-7, 0, 1))),
        id="plan, askew by a hair",
    )


def random_case(seed: int) -> tuple[Perspective | Parallel, tuple[Cut, ...]]:
    """A cut across the house in any direction, with up to three steps, seen from somewhere before it."""
    rng, middle = np.random.default_rng(seed), np.array([6.0, 4, 4])
    turn = rng.uniform(0, 2 * np.pi)
    out, side = np.array([np.sin(turn), -np.cos(turn), 0]), np.array([np.cos(turn), np.sin(turn), 0])
    places = np.cumsum(rng.uniform(0.8, 3, rng.integers(0, 4))) - 3
    jogs = tuple(Jog(at=round(float(a), 2), by=round(float(b), 2)) for a, b in zip(places, rng.uniform(-2.5, 2.5, 4)))
    cut = Cut(point=tuple(middle + rng.uniform(-1, 1, 3)), normal=tuple(out), jogs=jogs)
    if seed % 2:
        sight = -out + side * rng.uniform(-0.8, 0.8) + [0, 0, rng.uniform(-0.9, 0.2)]
        return Parallel(direction=tuple(sight), centre=tuple(middle)), (cut,)
    eye = middle + out * rng.uniform(11, 18) + side * rng.uniform(-6, 6) + [0, 0, rng.uniform(-2, 9)]
    angle = float(rng.uniform(45, 85))
    return Perspective(eye=tuple(eye), target=tuple(middle + rng.uniform(-1, 1, 3)), field_of_view=angle), (cut,)


def removed(cut: Cut, origin: np.ndarray, way: np.ndarray) -> list[tuple[np.ndarray, np.ndarray]]:
    """Intervals (N,), (N,) of the parameter along rays in which a cut takes all away: one for each of its steps."""
    normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
    along = np.cross([0, 0, 1.0] if abs(normal[2]) < 0.9 else [0, 1.0, 0], normal)
    along /= np.linalg.norm(along)
    jogs = sorted(cut.jogs, key=lambda j: j.at)
    start = along @ np.array(cut.point, float)
    places = [-np.inf, *(start + j.at for j in jogs), np.inf]
    found = []
    for depth, low, high in zip([0.0, *(j.by for j in jogs)], places[:-1], places[1:], strict=True):
        a, b = np.full(len(origin), -np.inf), np.full(len(origin), np.inf)
        # Each bound is linear in the parameter: c + t·v > 0.
        bounds = [(normal, -(normal @ np.array(cut.point, float)) - depth)]
        bounds += [(along, -low)] if np.isfinite(low) else []
        bounds += [(-along, high)] if np.isfinite(high) else []
        for axis, offset in bounds:
            c, v = origin @ axis + offset, way @ axis
            with np.errstate(divide="ignore", invalid="ignore"):
                t = -c / v
            a = np.where(v > 0, np.maximum(a, t), np.where((v == 0) & (c <= 0), np.inf, a))
            b = np.where(v < 0, np.minimum(b, t), b)
        found.append((a, b))
    return found


def beyond(cut: Cut, points: np.ndarray) -> np.ndarray:
    """(N,) whether points lie in what a cut takes away: asked along rays that begin there."""
    rows = removed(cut, points, np.broadcast_to(np.array(cut.normal, float), points.shape))
    return np.any([(a < 0) & (b > 0) for a, b in rows], axis=0)


def seen_cut(model: Model, view: ViewSpecification, flat: np.ndarray) -> np.ndarray:
    """(N,) the material that is cut where one looks through each place of the paper.
    −1 where something else is seen.
    """
    origin, way = Camera(view).rays(flat, 100.0)
    first, material = np.full(len(flat), np.inf), np.full(len(flat), -1)
    gone = [(cut, removed(cut, origin, way)) for cut in view.cuts]

    def taken(t: np.ndarray, but: object = None) -> np.ndarray:
        inside = np.zeros(t.shape, bool)
        for cut, rows in gone:
            if cut is not but:
                for a, b in rows:
                    inside |= (t > a[:, None] + 1e-9) & (t < b[:, None] - 1e-9)
        return inside

    for number, part in enumerate(model.parts):
        corners = model.vertices[model.triangles[model.triangle_part == number]]
        e1, e2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
        cross = np.cross(way[:, None], e2[None])
        size = (cross * e1).sum(-1)
        with np.errstate(divide="ignore", invalid="ignore"):
            to = origin[:, None] - corners[None, :, 0]
            u = (to * cross).sum(-1) / size
            turn = np.cross(to, e1[None])
            v = (way[:, None] * turn).sum(-1) / size
            t = (e2 * turn).sum(-1) / size
            hit = (u >= 0) & (v >= 0) & (u + v <= 1) & np.isfinite(t)
        at = np.where(hit, t, np.inf)
        whole = part.role == "furniture"
        if whole and any(beyond(cut, corners.reshape(-1, 3)).all() for cut in view.cuts):
            continue  # what is never cut goes where it lies wholly in what is taken away
        # Its own surface, where nothing took it away.
        shown = np.where((at > 0.02) & ~(np.zeros_like(hit) if whole else taken(at)), at, np.inf).min(1)
        nearer = shown < first - 1e-9
        first[nearer], material[nearer] = shown[nearer], -1
        if whole:
            continue
        for cut, rows in gone:
            if cut.role != "cut":
                continue
            for j, (a, b) in enumerate(rows):
                a, b = (np.where(a < b, e, np.inf) for e in (a, b))
                for end in (a, b):
                    within = (np.where(hit, t, -np.inf) > end[:, None]).sum(1) % 2 == 1
                    other = taken(end[:, None], cut)[:, 0]
                    # Of bodies that share the place, the one of the material that comes first is seen; earth comes
                    # last.
                    rank, held = (part.role == "ground", part.material), material
                    stronger = (end < first - 1e-7) | (
                        (np.abs(end - np.minimum(first, 1e9)) <= 1e-7)
                        & (held >= 0)
                        & ((held > rank[1]) | GROUND[held + 1])
                        & (not rank[0])
                    )
                    also_gone = np.zeros(len(end), bool)
                    for k, (c, d) in enumerate(
                        rows
                    ):  # where another step of the same cut goes on, nothing is left to be seen
                        also_gone |= (k != j) & (end > c - 1e-9) & (end < d + 1e-9) & (c < d)
                    chosen = within & ~other & ~also_gone & (end > 0.02) & np.isfinite(end) & stronger
                    first[chosen], material[chosen] = end[chosen], 9 if rank[0] else part.material
    return material


#: Whether a material number, from −1 on, is the judge's number of earth.
GROUND = np.array([False] * 10 + [True])


def filled(path: Path) -> dict[str, shapely.Geometry]:
    """The filled shapes of a drawing by the name of their group.
    Each path by even-odd, several laid over one another.
    """
    found: dict[str, shapely.Geometry] = {}
    for group in ET.parse(path).getroot().iter(f"{SVG}g"):
        name = group.get("data-name") or ""
        for element in group.findall(f"{SVG}path") if name.startswith("poche ") else ():
            if element.get("fill") == "none":
                continue
            shape: shapely.Geometry = shapely.Polygon()
            for ring in (element.get("d") or "").split("M")[1:]:
                points = np.array(re.findall(r"-?[\d.]+(?:e-?\d+)?", ring), float).reshape(-1, 2)
                shape = shapely.symmetric_difference(shape, shapely.make_valid(shapely.Polygon(points)))
            found[name] = shapely.union(found.get(name, shapely.Polygon()), shape)
    return found


@pytest.mark.parametrize(
    ("projection", "cuts"), [*cases(), *deeper(map(random_case, range(4)), map(random_case, range(4, 20)))]
)
def test_just_what_a_sight_line_meets_cut_is_filled_on_the_paper(
    projection: Perspective, cuts: tuple[Cut, ...], scratch: Path
) -> None:
    model = house()
    frame = Frame(width=200, height=140, scale=100)
    view = ViewSpecification(projection=projection, cuts=cuts, frame=frame)
    plate = Drawing(model, view, (100, 70)).plate()
    write_drawing(
        plate,
        (PocheTrace(id="poche", name="Poche"),),
        Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False),
        scratch / "a.svg",
    )
    shapes = filled(scratch / "a.svg")
    rng = np.random.default_rng(7)
    flat = rng.uniform(0.5, [199.5, 139.5], (2500, 2))
    wanted = seen_cut(model, view, flat)
    # The block of ground is of wood, as the beams are: on the paper both have that name, and only the block a hatch.
    wanted = np.where(wanted == 9, 2, wanted)
    edges = shapely.union_all([shapely.boundary(s) for s in shapes.values()])
    sure = shapely.distance(shapely.points(flat), edges) > EDGE
    assert (wanted >= 0).mean() > 0.02, "the case shows next to nothing cut"
    assert sure.mean() > 0.8, "of most places nothing is asked"
    for number, material in enumerate(model.materials):
        shape = shapes.get(f"poche {material.name}", shapely.Polygon())
        inside = shapely.contains_xy(shape, *flat.T)
        wrong = sure & (inside != (wanted == number))
        assert wrong.mean() < 0.002, (material.name, flat[wrong][:4], inside[wrong][:4])
