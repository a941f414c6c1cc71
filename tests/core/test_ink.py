"""Ink as it leaves the house: hatches, shadow as a hatch, the hand, the hierarchy.
Judged from the SVG, by rays and by rulers.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import binary_dilation
from scipy.spatial import cKDTree

from tests.conftest import box, examples, model_of
from tests.core.cases import FEWEST, SUN, drawing_of, judge_of, judged
from tests.core.judge import Camera
from tests.core.test_regions import edges_of, grid
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.collage.stack import draw_layers, layers
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.hand import PRESETS, Hand
from warmgraphite.ink.hatch import hatched, on_paper
from warmgraphite.ink.hatch_marks import Lie, Rings
from warmgraphite.ink.own import tile_from_svg
from warmgraphite.ink.patterns import PATTERNS
from warmgraphite.ink.rules import Ink
from warmgraphite.model import Model
from warmgraphite.study import Look
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, Sun, ViewSpecification
from warmgraphite.view.sun import to_sun

TRACES = [{"kind": n, "id": n, "name": n} for n in ("hatches", "poche", "lines")]


def inked(drawing: Drawing, traces: list[dict[str, Any]] = TRACES) -> str:
    """The drawing as SVG."""
    canvas = SvgCanvas(*drawing.plate().frame, "Test")
    draw_layers(canvas, list(layers(drawing.plate(), Look.model_validate({"traces": traces}).traces, 0)))
    return canvas.document()


def group_of(svg: str, name: str) -> str:
    """What is drawn in groups whose name begins so; none of them holds another."""
    return "".join(re.findall(rf'<g [^>]*data-name="{name}[^"]*"[^>]*>(.*?)</g>', svg, re.S))


def polylines(text: str) -> list[np.ndarray]:
    """The polylines (n, 2) of the paths of an SVG, whose steps are relative but for the first."""
    out = []
    for data in re.findall(r' d="([^"]*)"', text):
        for piece in data.split("M")[1:]:
            numbers = np.array([float(n) for n in re.findall(r"-?\d*\.?\d+", piece)]).reshape(-1, 2)
            out.append(np.cumsum(numbers, axis=0) if "l" in piece else numbers)
    return out


def surfaces(*rules: dict[str, Any], **more: Any) -> Ink:
    return Ink.model_validate({"surfaces": list(rules), **more})


@st.composite
def shapes(draw: st.DrawFn) -> shapely.Geometry:
    """Polygons with holes, slivers, and rings that touch themselves and one another."""
    number = st.floats(0, 60, allow_nan=False)
    found = shapely.Polygon()
    for _ in range(draw(st.integers(1, 4))):
        ring = draw(st.lists(st.tuples(number, number), min_size=3, max_size=9))
        piece = shapely.make_valid(shapely.Polygon(ring))
        found = shapely.union(found, piece) if draw(st.booleans()) else shapely.symmetric_difference(found, piece)
    x, y, wide = draw(number), draw(number), draw(st.sampled_from([0.01, 0.2, 5.0]))
    return shapely.symmetric_difference(found, shapely.box(x, y, x + 40, y + wide))


@settings(max_examples=examples(60, 20), deadline=None)
@given(shapes(), st.floats(0.4, 6), st.floats(-180, 180), st.sampled_from(sorted(PATTERNS)))
def test_a_hatch_fills_its_region_at_its_spacing_and_angle_and_never_leaves_it(
    shape: shapely.Geometry, spacing: float, angle: float, pattern: str
) -> None:
    polygons = [p for p in shapely.get_parts(shape) if shapely.get_type_id(p) == 3]
    rings = [np.asarray(r.coords) for p in polygons for r in (p.exterior, *p.interiors)]
    if not rings:
        return
    outlines, middle = Rings.of(r[:-1] for r in rings), (31.0, 22.0)
    solid = shapely.union_all(polygons)
    marks = hatched(outlines, on_paper(middle), Hatch(pattern=pattern, spacing=spacing, angle=angle), middle)
    lines = [marks.xy[a:b] for a, b in zip(marks.first, marks.first[1:], strict=False) if b - a > 1]
    around = shapely.buffer(solid, 0.05)
    shapely.prepare(around)
    assert (
        shapely.covers(around, shapely.linestrings([p for line in lines for p in pairwise(line)])).all()
        if lines
        else True
    )
    dots = marks.xy[marks.first[:-1][marks.dot]]
    assert shapely.covers(around, shapely.buffer(shapely.points(dots), 0.13)).all()
    # Plain lines lie where a ruler would lay them, and leave nothing out: as much of each as an independent section
    # finds.
    plain = hatched(outlines, on_paper(middle), Hatch(spacing=spacing, angle=angle), middle)
    ends = plain.xy.reshape(-1, 2, 2)
    turn = np.radians(angle)
    along, across = np.array([np.cos(turn), -np.sin(turn)]), np.array([-np.sin(turn), -np.cos(turn)])
    away = (ends - middle) @ across
    assert np.abs(away - np.round(away / spacing) * spacing).max(initial=0) < 1e-6
    corners = np.concatenate(rings) - middle
    for k in range(
        int(np.floor((corners @ across).min() / spacing)), int(np.ceil((corners @ across).max() / spacing)) + 1
    ):
        ruler = np.stack([middle + k * spacing * across + sign * 200 * along for sign in (-1, 1)])
        length = np.linalg.norm(np.diff(ends[np.round(away[:, 0] / spacing) == k], axis=1), axis=2).sum()
        # A side that lies just on the ruler belongs to either side of it.
        beside = [shapely.intersection(solid, shapely.LineString(ruler + d * across)).length for d in (-1e-5, 0, 1e-5)]
        assert min(beside) - 0.1 - 0.06 * len(rings) < length < max(beside) + 0.1, k


@pytest.mark.parametrize("pattern", ["gravel", "sand", "stones", "dots"])
def test_what_is_only_suggested_stays_where_it_is_when_the_paper_is_drawn_out(pattern: str) -> None:
    square = np.array([(10.0, 10.0), (90, 10), (90, 70), (10, 70)])
    drawn, pattern = (
        [],
        pattern if pattern in PATTERNS else next(n for n, p in PATTERNS.items() if p.scatters or p.tile is not None),
    )
    for out in (np.zeros(2), np.array([37.0, 11.0])):
        middle = tuple(np.array([60.0, 45.0]) + out)
        rings = Rings(square + out, np.array([0, 4]))
        marks = hatched(rings, on_paper(middle), Hatch(pattern=pattern, spacing=2.0, suggested=0.5), middle)
        drawn.append(marks.xy - out)
    assert len(drawn[0]) and drawn[0].shape == drawn[1].shape and np.abs(drawn[0] - drawn[1]).max() < 1e-6


def shadow_hatched(segments: np.ndarray, at: np.ndarray, spacing: float, degrees: float) -> np.ndarray:
    """(N,) whether places lie between lines of a hatch of segments (S, 2, 2).
    The nearest line on either side runs beside them.
    """
    turn = np.radians(degrees)
    along, across = np.array([np.cos(turn), -np.sin(turn)]), np.array([-np.sin(turn), -np.cos(turn)])
    line = np.round((segments @ across).mean(1) / spacing * 2).astype(int)
    start, end = np.sort(segments @ along, axis=1).T
    order = np.lexsort((start, line))
    line, start, end = line[order], start[order], end[order]
    found = np.zeros(len(at), bool)
    own = at @ across / spacing * 2
    place = at @ along
    for k in range(-2, 3):  # lines lie at whole or half numbers, whatever they count from
        near = np.round(own).astype(int) + k
        close = np.abs(near - own) <= 1.02
        row = np.searchsorted(line * 1e6 + start, near * 1e6 + place, side="right") - 1
        hit = (row >= 0) & (line[row] == near) & (end[row] > place - 0.01) & close
        found |= hit
    return found


@pytest.mark.parametrize(("model", "view"), judged(FEWEST))
def test_shadow_as_a_hatch_lies_where_sun_rays_are_blocked(model: Callable[[], Model], view: ViewSpecification) -> None:
    judge = judge_of(model, view)
    dark = {"where": {"kind": "match", "light": ["shadow"]}, "fills": [{"kind": "hatch", "spacing": 0.7, "angle": 40}]}
    drawing = Drawing(model(), view, ink=surfaces(dark)).sharing(drawing_of(model, view))
    lines = polylines(group_of(inked(drawing, TRACES[:1]), "hatch parallel"))
    segments = np.array([line for line in lines if len(line) == 2]) - drawing.middle
    assert len(segments) == len(lines) > 50
    size = (600, 424)
    at = grid(view, size)
    truth = judge.light(view, *Camera(view).rays(at, judge.reach), to_sun(SUN)).reshape(size[::-1])
    shown = shadow_hatched(segments, at - drawing.middle, 0.7, 40.0).reshape(size[::-1])
    clear = ~binary_dilation(edges_of(truth), iterations=1)
    assert (shown == (truth == 1))[clear].mean() > 0.995


def street(degrees: float = 0.0) -> tuple[Model, ViewSpecification]:
    """A long wall seen aslant, a sloping roof, a round tower and a level floor.
    Turned with its viewer about an upright axis.
    """
    import trimesh

    roof = trimesh.Trimesh([[0, 4, 3], [12, 4, 3], [12, 7, 5], [0, 7, 5]], [[0, 1, 2], [0, 2, 3]])
    tower = trimesh.creation.cylinder(1.3, 6, sections=48)
    tower.apply_translation([15, 5, 3])
    turn = trimesh.transformations.rotation_matrix(np.radians(degrees), [0, 0, 1])
    bodies = [
        ("Wall", box((0, 4, 0), (12, 4.3, 3)), 0),
        ("Floor", box((-3, -2, -0.2), (18, 3.8, 0)), 2),
        ("Roof", roof, 2),
        ("Tower", tower, 0),
    ]
    for _, body, _ in bodies:
        body.apply_transform(turn)
    turned = lambda p: tuple((turn[:3, :3] @ np.array(p)).tolist())
    view = ViewSpecification(
        projection=Perspective(eye=turned((-4, -7, 1.7)), target=turned((7, 4, 1.6)), field_of_view=62),
        sun=Sun(azimuth=(200 - degrees) % 360, altitude=40), frame=Frame(width=300, height=200),
    )  # fmt: skip
    return model_of(*bodies), view


def test_courses_lie_in_metres_on_the_faces_that_show_them_and_thin_out_by_halves() -> None:
    model, view = street()
    course = {"kind": "hatch", "pattern": "parallel", "lies": "face", "spacing": 0.075, "least": 0.6}
    rules = [
        {"where": {"kind": "match", "parts": [n], "facing": f}, "fills": [course]}
        for n, f in (("Wall", ["south"]), ("Roof", []), ("Tower", []))
    ]
    drawing = Drawing(model, view, ink=surfaces(*rules))
    matrix = drawing.paper.matrix
    for name, point, normal in (("Wall", (0, 4, 0), (0, -1, 0)), ("Roof", (0, 4, 3), (0, -2, 3))):
        only = Drawing(model, view, ink=surfaces(rules[("Wall", "Roof").index(name)]))
        lines = polylines(group_of(inked(only, TRACES[:1]), "hatch"))
        ends = np.concatenate([[line[0], line[-1]] for line in lines])
        # From the paper back to the plane of the face, by the matrix that the bundle gives.
        plane = np.append(normal, -np.dot(normal, point)).astype(float)
        near, far = (
            np.column_stack([ends, np.full(len(ends), z), np.ones(len(ends))]) @ np.linalg.inv(matrix).T
            for z in (0.2, 0.8)
        )
        t = (near @ plane) / (near @ plane - far @ plane)
        at = near + t[:, None] * (far - near)
        at = at[:, :3] / at[:, 3:]
        step = 0.075 * (1.0 if name == "Wall" else 2 / np.sqrt(13))
        number = at[:, 2] / step
        assert len(at) > 40 and np.abs(number - np.round(number)).max() < 0.06, (
            name
        )  # rounded to a thousandth of a millimetre
        # Nowhere closer on paper than was asked for, and every course is one that halving keeps.
        for x in np.linspace(60, 240, 7):
            crossed = np.sort(
                [
                    np.interp(x, *line[np.argsort(line[:, 0])].T)
                    for line in lines
                    if line[:, 0].min() < x < line[:, 0].max()
                ]
            )
            assert np.diff(crossed).min(initial=9.0) > 0.35, (name, x)
    found = drawing.result("surfaces")
    tower = [found.xy[a:b] for a, b in zip(found.first, found.first[1:], strict=False) if b - a > 3]
    assert len(tower) > 30, "courses bend round a tower"
    for line in tower:
        # On the paper each is a level circle seen: unprojected onto the tower it keeps its height and its radius.
        origin, way = drawing.paper.rays(line, 0.0)
        a, b = (way[:, :2] ** 2).sum(1), ((origin[:, :2] - [15, 5]) * way[:, :2]).sum(1)
        root = np.sqrt(np.maximum(b * b - a * (((origin[:, :2] - [15, 5]) ** 2).sum(1) - 1.3**2), 0))
        height = origin[:, 2] + (-b - root) / a * way[:, 2]
        assert np.ptp(height) < 0.02 and abs(height.mean() / 0.075 - round(height.mean() / 0.075)) < 0.15


def ribbons(drawing: Drawing) -> list[np.ndarray]:
    rows = [*drawing.result("penned"), *drawing.result("hatched").work]
    parts = [np.column_stack([r.xy, r.width if r.width is not None else np.zeros(len(r.xy))]) for r in rows]
    return [p for part, r in zip(parts, rows, strict=True) for p in np.split(part, r.first[1:-1])]


def test_turning_camera_and_model_together_changes_no_stroke() -> None:
    ink = surfaces(
        {"fills": [{"kind": "hatch", "pattern": "bond", "lies": "face", "disorder": 0.4}]},
        {"over": True, "where": {"kind": "match", "light": ["shadow", "shade"]},
            "fills": [{"kind": "hatch", "angle": 40}]},
        {"over": True, "where": {"kind": "match", "parts": ["Floor"]},
            "fills": [{"kind": "hatch", "pattern": "water", "lies": "face"}]},
        hand=PRESETS["Calm pencil"].model_dump(),
    )  # fmt: skip
    one, two = (ribbons(Drawing(*street(degrees), ink=ink)) for degrees in (0.0, 37.0))
    tree = cKDTree(np.stack([line[0] for line in two]))
    gap, found = tree.query(np.stack([line[0] for line in one]))
    same = [
        g < 0.02 and len(two[k]) == len(a) and np.abs(two[k] - a).max() < 0.02
        for a, g, k in zip(one, gap, found, strict=True)
    ]
    assert len(one) > 1000 and abs(len(one) - len(two)) < 0.005 * len(one) and np.mean(same) > 0.99


def test_the_hand_stays_within_its_waver_and_runs_over_at_corners_only() -> None:
    model = model_of(("Block", box((0, 0, 0), (6, 3, 4)), 0), ("Behind", box((1, 5, 0), (9, 6, 6)), 2))
    view = ViewSpecification(
        projection=Parallel(direction=(0.3, 1, -0.3), centre=(4, 2, 2)), frame=Frame(width=200, height=160, scale=75)
    )
    hand = Hand(waver=0.2, wave=12, overrun=1.5, pressure=0.6)
    still, drawn = Drawing(model, view), Drawing(model, view, ink=Ink(hand=hand))
    lines = shapely.union_all([shapely.LineString(line) for s in still.plate().strokes() for line in s.lines])
    outlines = [p for p in polylines(group_of(inked(drawn), "lines")) if len(p) > 3]
    assert len(outlines) >= 12
    corners = np.concatenate([line[[0, -1]] for s in still.plate().strokes() for line in s.lines])
    corners = np.concatenate([corners, *[line for s in still.plate().strokes() for line in s.lines]])
    points = np.concatenate(outlines)
    away = shapely.distance(lines, shapely.points(points))
    widest = max(s.style.weight for s in still.plate().strokes()) / 2 * 1.4
    near = cKDTree(corners).query(points)[0] < 1.5 + widest + 0.05
    assert away[~near].max() <= 0.2 + widest + 0.02 and away.max() <= 1.5 + widest + 0.02
    assert away[~near].mean() > 0.08, "it wavers"
    assert (away[near] > 0.6).any(), "it runs over"
    # Where an edge goes behind the block it ends there: nothing of it runs on over the block's face.
    strokes = [line for s in still.plate().strokes() for line in s.lines]
    ends = np.array([(line[k], line[k] - line[b]) for line in strokes for k, b in ((0, 1), (-1, -2))])
    every = cKDTree(np.concatenate(strokes))
    met = 0
    for at, way in ends:
        others = [line for line in strokes if not (line == at).all(1).any()]
        on = min(shapely.LineString(line).distance(shapely.Point(at)) for line in others)
        if len(every.query_ball_point(at, 0.05)) > 1 or on > 0.03:
            continue
        met += 1
        way = way / np.linalg.norm(way)
        gap = points - at
        beyond = gap @ way
        beside = np.abs(gap @ np.array([-way[1], way[0]])) < 0.5
        own = (
            shapely.distance(shapely.union_all([shapely.LineString(line) for line in others]), shapely.points(points))
            > 0.2 + widest
        )
        assert beyond[beside & own & (beyond < 1.4)].max(initial=0) < 0.05
    assert met >= 2
    calm = drawn.result("penned")
    assert all(
        (a.xy == b.xy).all()
        for a, b in zip(calm, Drawing(model, view, ink=Ink(hand=hand)).result("penned"), strict=True)
    )
    other = Drawing(model, view, ink=Ink(hand=hand.model_copy(update={"seed": 2}))).result("penned")
    assert not any(a.xy.shape == b.xy.shape and (a.xy == b.xy).all() for a, b in zip(calm, other, strict=True))


def test_tones_over_a_material_do_not_add_up_to_black() -> None:
    model, view = street()
    brick = {
        "where": {"kind": "match", "parts": ["Wall", "Tower"]},
        "fills": [{"kind": "hatch", "pattern": "bond", "lies": "face", "weight": 0.3, "least": 0.5}],
    }
    tone = {
        "over": True,
        "fills": [{"kind": "hatch", "spacing": 0.9, "angle": 45, "weight": 0.2}],
    }

    def covered(*rules: dict[str, Any], darkest: float = 1.0) -> float:
        found = Drawing(model, view, ink=surfaces(*rules, darkest=darkest)).result("surfaces")
        length = (
            np.linalg.norm(found.xy[1::2] - found.xy[::2], axis=1) if (np.diff(found.first) == 2).all() else np.zeros(0)
        )
        weights = np.array([s.weight for s in found.styles])[found.style]
        return float((length * weights).sum()) if len(length) else float("nan")

    walls = {"where": {"kind": "match", "parts": ["Wall"]}, "fills": brick["fills"]}
    both, bare = covered(walls, tone), covered(tone)
    calm = covered(walls, tone, darkest=0.3)
    assert bare < calm and calm - bare < 0.75 * (both - bare), "the material is thinned where a tone lies over it"
    # And not where none does.
    lit = {"where": {"kind": "match", "parts": ["Wall"], "light": ["lit"]}, "fills": brick["fills"]}
    assert covered(lit, darkest=0.1) == covered(lit)


def test_shade_and_corners_make_marks_closer_by_steps_and_stipple_is_even() -> None:
    model, view = street()
    shade = {
        "where": {"kind": "match", "parts": ["Tower"]},
        "fills": [{"kind": "hatch", "spacing": 0.25, "angle": 60, "by": "shade", "steps": 3}],
    }
    stepped = view.model_copy(update={"shade": view.shade.model_copy(update={"steps": 4})})
    found = Drawing(model, stepped, ink=surfaces(shade)).result("surfaces")
    assert len(found) > 20 and (found.xy[:, 0] > 150).all(), "only what is in shade has lines"
    corners = {"fills": [{"kind": "hatch", "pattern": "stipple", "spacing": 0.6, "by": "corners"}]}
    drawing = Drawing(model, view, (300, 200), ink=surfaces(corners))
    dots = drawing.result("surfaces")
    tone = drawing.occlusion()
    at = dots.xy.astype(int)
    assert dots.dot.all() and len(dots) > 300 and tone[at[:, 1], at[:, 0]].mean() > 2 * tone.mean()
    finer = Drawing(model, view, (450, 300), ink=surfaces(corners)).result("surfaces")
    assert np.array_equal(finer.xy, dots.xy), "marks do not hang on the pixels of the picture that they are drawn over"
    even = hatched(
        Rings.of([np.array([(0, 0), (80, 0), (80, 60), (0, 60)], float)]),
        on_paper((0, 0)),
        Hatch(pattern="stipple", spacing=1.0),
        (0.0, 0.0),
    )
    gap = cKDTree(even.xy).query(even.xy, 2)[0][:, 1]
    assert (
        gap.min() > 0.35 * gap.mean() and gap.std() < 0.3 * gap.mean() and len(even) == pytest.approx(80 * 60, rel=0.04)
    )


def section() -> tuple[Model, ViewSpecification]:
    """A wall of three layers on a footing in the ground, cut across, and a block in the sun before it."""
    model = model_of(
        ("Boards", box((0, 0, 0), (0.02, 4, 3)), 2), ("Wool", box((0.02, 0, 0), (0.22, 4, 3)), 1),
        ("Blocks", box((0.22, 0, 0), (0.42, 4, 3)), 0),
        ("Block", box((-3, 2, 0), (-1, 3.5, 1.5)), 0), ("Soil", box((-6, -1, -2), (6, 6, 0)), 2),
    )  # fmt: skip
    roles = ("envelope", "envelope", "structure", "structure", "ground")
    model = replace(model, parts=tuple(replace(p, role=r) for p, r in zip(model.parts, roles, strict=True)))
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(-1, 0, 1)), cuts=(Cut(point=(0, 1, 0), normal=(0, -1, 0)),),
        sun=Sun(azimuth=230, altitude=30), frame=Frame(width=240, height=160, scale=50),
    )  # fmt: skip
    return model, view


def test_rules_give_all_that_is_cut_one_outline_a_base_line_and_lines_that_end() -> None:
    model, view = section()
    match = lambda **said: {"kind": "match", **said}
    pens = [
        {"id": "cut", "where": match(ranks=["cut"]), "pen": {"weight": 0.15, "colour": "#111111"}, "least": 1.0},
        {"id": "edge", "where": match(ranks=["outline", "edge"], hidden=False),
            "pen": {"weight": 0.3, "colour": "#222222"}, "light": 1.0},
        {"id": "round", "along": "cut", "where": match(roles=["envelope", "structure"]),
            "pen": {"weight": 0.7, "colour": "#aa0000"}},
        {"id": "base", "along": "base", "run_on": True, "where": match(roles=["structure"]),
            "pen": {"weight": 0.9, "colour": "#0000aa"}},
    ]  # fmt: skip
    ink = Ink.model_validate(
        {"pens": pens, "weight": 2.0, "steps": [{"scale": 20, "times": 3.0}, {"scale": 50, "times": 0.5}]}
    )
    drawing = Drawing(model, view, ink=ink)
    by_group: dict[str, list[np.ndarray]] = {}
    for s in drawing.plate().strokes():
        by_group.setdefault(s.style.group, []).extend(s.lines)
    around = by_group["cut outline"]
    assert len(around) == 1 and (around[0][0] == around[0][-1]).all()
    # Three layers as one mass: 0.42 by 3 metres at 1:50, twice the weight by the dial and half of it by the scale.
    assert shapely.Polygon(around[0]).area == pytest.approx(8.4 * 60, abs=0.5)
    style = next(s.style for s in drawing.plate().strokes() if s.style.group == "cut outline")
    assert style.weight == pytest.approx(0.7)
    # Between boards 0.4 mm thick on paper and wool nothing is drawn; between wool and blocks, of 4 mm, there is.
    x = 120 + 20
    inner = np.concatenate([line for line in by_group["cut"] if abs(np.ptp(line[:, 0])) < 0.01])
    assert (np.abs(inner[:, 0] - (x + 0.22 * 20)) < 0.02).any() and not (
        np.abs(inner[:, 0] - (x + 0.02 * 20)) < 0.02
    ).any()
    base = np.concatenate(by_group["base"])
    assert (np.abs(base[:, 1] - base[0, 1]) < 0.05).all() and np.ptp(base[:, 0]) > 30
    run = [r for r in drawing.result("penned") if r.style.group == "base" and r.width is not None]
    reach = np.concatenate([r.xy[:, 0] for r in run])
    assert (
        reach.min() == pytest.approx(0) and reach.max() == pytest.approx(240) and min(r.width.min() for r in run) < 0.2
    )
    # Lost on the lit side, found in shade.
    shaded = Drawing(model, view.model_copy(update={"sun": Sun(azimuth=20, altitude=30)}), ink=ink)
    for lit, weight in ((drawing, 0.15), (shaded, 0.45)):
        assert {s.style.weight for s in lit.plate().strokes() if s.style.group == "outline"} == {weight}
    away = [
        {"where": match(hidden=False), "pen": {"weight": 0.3}, "away": {"of": match(parts=["Blocks"]), "reach": 20}}
    ]
    ends = np.concatenate(
        [
            line
            for s in Drawing(model, view, ink=Ink.model_validate({"pens": away})).plate().strokes()
            for line in s.lines
        ]
    )
    wall = shapely.box(x, 10, x + 8.4, 110)
    far = shapely.distance(wall, shapely.points(ends))
    assert 10 < far.max() < 22
    within = [
        {
            "where": match(hidden=False),
            "pen": {"weight": 0.3},
            "away": {"outline": [[-200, -200], [-10, -200], [-10, 200], [-200, 200]], "reach": 0},
        }
    ]
    kept = np.concatenate(
        [
            line
            for s in Drawing(model, view, ink=Ink.model_validate({"pens": within})).plate().strokes()
            for line in s.lines
        ]
    )
    assert kept[:, 0].min() > 120 - 10 - 0.8


def test_dashes_end_at_corners_and_poche_takes_stacked_hatches_in_its_plane() -> None:
    model, view = section()
    match = lambda **said: {"kind": "match", **said}
    fills = lambda *rows: {"fills": list(rows)}
    dash = [{"where": match(parts=["Block"], hidden=False), "pen": {"weight": 0.3, "dash": [3.0, 2.0]}}]
    block = [
        line
        for row in Drawing(model, view, ink=Ink.model_validate({"pens": dash})).result("penned")
        for line in np.split(row.xy, row.first[1:-1])
    ]
    ends = np.concatenate([line[[0, -1]] for line in block])
    for corner in np.array([(80, 70), (120, 70)]):
        assert (np.linalg.norm(ends - corner, axis=1) < 0.05).sum() == 2, "both sides of a corner begin with a mark"
    poche = [
        {"where": match(parts=["Blocks"]),
            **fills({"kind": "flat", "colour": "#eeeeee"},
                {"kind": "hatch", "lies": "cut", "spacing": 0.05, "angle": 45})},
        {"where": match(parts=["Wool"]), **fills({"kind": "hatch", "pattern": "insulation", "spacing": 3.0})},
        {"where": match(parts=["Soil"]), **fills({"kind": "hatch", "pattern": "earth"})},
    ]  # fmt: skip
    svg = inked(Drawing(model, view, ink=Ink.model_validate({"poche": poche})), TRACES[1:2])
    assert svg.index('fill="#eeeeee"') < svg.index('data-name="hatch parallel"')
    lines = np.array(polylines(group_of(svg, "hatch parallel")))
    away = np.sort(((lines - lines[0, 0]) @ np.array([np.sqrt(0.5), np.sqrt(0.5)])).mean(1))
    assert np.diff(away).min() == pytest.approx(1.0, abs=0.02)  # 50 mm at 1:50
    wave = polylines(group_of(svg, "hatch insulation"))
    assert len(wave) == 1 and np.ptp(wave[0][:, 0]) == pytest.approx(4.0, abs=0.1), (
        "from one side of the wool to the other"
    )
    depth = (
        np.concatenate([line.mean(0, keepdims=True) for line in polylines(group_of(svg, "hatch earth"))])[:, 1] - 100
    )
    assert (depth > -0.05).all() and (depth < 10).sum() > 2 * ((depth > 20) & (depth < 30)).sum() > 0


def test_a_hatch_in_a_stepped_cut_lies_at_the_depth_of_each_step() -> None:
    """Seen from 13 m and from 16 m the same quarter of a metre is 16 to 13."""
    model = model_of(("Block", box((0, 0, 0), (12, 8, 6)), 0))
    eye = Perspective(eye=(4, -11, 3), target=(4, 4, 3), field_of_view=70)
    cut = Cut(point=(6, 2, 0), normal=(0, -1, 0), jogs=({"at": 0, "by": -3},))
    view = ViewSpecification(projection=eye, cuts=(cut,), frame=Frame(width=200, height=140))
    fills = [
        {"kind": "hatch", "lies": "cut", "spacing": 0.25, "angle": 0},
        {"kind": "hatch", "pattern": "crossed", "spacing": 3.0},
    ]
    svg = inked(Drawing(model, view, ink=Ink.model_validate({"poche": [{"fills": fills}]})), TRACES[1:2])
    lines = [line for line in polylines(group_of(svg, "hatch parallel")) if np.ptp(line[:, 1]) < 1e-3]
    seen = {line.mean(0)[0] < 100 + 200 * 2 / 13 / 2 / np.tan(np.radians(35)) for line in lines}
    assert seen == {True, False}, "both steps are hatched"
    heights = [
        np.unique(np.round([r[0, 1] for r in lines if (r[:, 0].min() > 115) == far], 3)) for far in (False, True)
    ]
    gaps = [np.median(np.diff(rows)) for rows in heights]
    assert len(heights[1]) > 15 and gaps[0] / gaps[1] == pytest.approx(16 / 13, rel=0.01)
    assert len(polylines(group_of(svg, "hatch crossed"))) > 40, "what lies on paper goes over the step as it was"


def test_marks_of_a_tile_thin_out_by_halves_where_they_lie_too_close() -> None:
    """Eight rings to a piece of timber of 0.14 m.
    From 1:10 on to where 1:320 would be, on a face that lies across the view.
    """
    rings, hatch = (
        Rings.of([np.array([(0.0, 0), (80, 0), (80, 80), (0, 80)])]),
        Hatch(pattern="grain_across", lies="face", spacing=0.02, least=0.5),
    )
    pieces = []
    for halved in range(7):
        per_metre = 100.0 / 2**halved
        marks = hatched(rings, Lie(np.diag([per_metre, per_metre, 1.0]), False), hatch, (0, 0), key=3, paper=(80, 80))
        pieces.append((len(marks.first) - 1) / (80 / per_metre / 0.14) ** 2)
    assert pieces == pytest.approx([8, 8, 8, 4, 2, 1, 0.5], rel=0.3), pieces


def test_an_svg_becomes_a_tile_with_all_that_groups_do_to_their_place() -> None:
    text = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="-10 0 40 20">
      <defs><g id="mark"><line x2="4"/></g><path id="loose" d="M0 0H40"/></defs><symbol id="sign"><path d="M0 0V4"/></symbol>
      <g transform="translate(10, 10) rotate(90)"><use href="#mark" x="2"/><g transform="scale(2 -1)"><line x1="0" y1="1" x2="1" y2="1"/></g></g>
      <use xlink:href="#sign" transform="matrix(1 0 0 1 -5 3)"/><circle cx="20" cy="10" r="0.2" transform="rotate(180 20 5)"/>
      <g style="display: none"><path d="M0 0L9 9"/></g></svg>"""
    tile = tile_from_svg(text)
    assert tile.height == 0.5
    place = lambda x, y: ((x + 10) / 40, (20 - y) / 40)
    wanted = [
        (place(10, 12), place(10, 16)),
        (place(11, 10), place(11, 12)),
        (place(-5, 3), place(-5, 7)),
        (place(20, 0),),
    ]
    assert [len(m) for m in tile.marks] == [len(m) for m in wanted]
    for mark, line in zip(tile.marks, wanted, strict=True):
        assert np.allclose(mark, line, atol=1e-4)
    again = '<g id="{0}"><use href="#{1}"/><use href="#{1}"/></g>'
    for text in (
        "<svg", "<svg viewBox='0 0 9 9'/>", "<svg><path d='M0 0L1 1'/></svg>",
        "<svg viewBox='0 0 9 9'><g transform='melt(3)'/></svg>",
        "<svg viewBox='0 0 9 9'><use id='a' href='#a'/></svg>",
        f"<svg viewBox='0 0 9 9'>{''.join(again.format(k, k + 1) for k in range(60))}<use href='#0'/></svg>",
    ):  # fmt: skip
        with pytest.raises(ViewError, match=r"This SVG (could not be read|does not say|has no lines)"):
            tile_from_svg(text)


def test_what_is_wrong_with_ink_is_said_in_a_sentence() -> None:
    from warmgraphite.specification import valid

    for said, ink in {
        "there is no pattern “tartan”": {"surfaces": [{"fills": [{"kind": "hatch", "pattern": "tartan"}]}]},
        "lines end away from parts": {"pens": [{"away": {"reach": 4}}]},
        "three corners": {"pens": [{"away": {"outline": [[0, 0], [1, 1]]}}]},
        "which a region has not": {"surfaces": [{"where": {"kind": "match", "ranks": ["cut"]}}]},
        "less than or equal to 4": {"weight": 9}, "“hand.wiggle” is not a field": {"hand": {"wiggle": 1}},
    }.items():  # fmt: skip
        with pytest.raises(ViewError, match=re.escape(said)), valid("This ink"):
            Ink.model_validate(ink)
