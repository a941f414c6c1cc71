"""Figures as they come out on paper.
Heights by a ruler, hidden by rays, lit by the sun's, strewn where they may stand.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import box, deeper, examples
from tests.core import models
from tests.core.judge import Camera
from warmgraphite.bundle import write_bundle
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.errors import ViewError
from warmgraphite.figures.choosing import Marked
from warmgraphite.figures.figure import Figure, OnSheet, Seen
from warmgraphite.figures.floors import floors_of
from warmgraphite.figures.kinds import KINDS
from warmgraphite.figures.kinds.person import Person
from warmgraphite.figures.kinds.plant import Plant
from warmgraphite.figures.kinds.thing import Thing
from warmgraphite.figures.people.poses import POSES
from warmgraphite.figures.placing import along_line, dressed_parts, gathered, on_seats, over_area, stood_at
from warmgraphite.figures.planting.habits import HABITS
from warmgraphite.figures.pointing import outline_of, pointed_at
from warmgraphite.figures.stock import figure_stock
from warmgraphite.ink.assign import Style
from warmgraphite.ink.entourage import FigureRule
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.strokes import StrokeSet
from warmgraphite.model import Material, Model, Part, build_model
from warmgraphite.model.bodies import bodies_of
from warmgraphite.passes.edges import GeometryKey, Topology, find_topology, intersections_of, topology_of
from warmgraphite.passes.line_set import RANKS
from warmgraphite.sheet.preview import LayerCache, compose
from warmgraphite.sheet.specification import Sheet
from warmgraphite.study.changes import Change
from warmgraphite.study.commands import apply_commands
from warmgraphite.study.commands.look import ChangeFigures
from warmgraphite.study.document import fresh_document
from warmgraphite.study.figure_sheets import with_sheets
from warmgraphite.view.specification import Cut, FigureChoice, Frame, Parallel, Perspective, Sun, ViewSpecification

ELEVATION = Parallel(direction=(0, 1, 0), centre=(0, 0, 1.5))
SLANT = Parallel(direction=(0.5, 1.0, -0.6), centre=(0, 0, 1.0))
EYE = Perspective(eye=(-3, -9, 1.6), target=(0.5, 2, 1.2), field_of_view=55, upright=True)
SUN = Sun(azimuth=240, altitude=40)


def yard(*more: tuple[str, trimesh.Trimesh, str], slope: float = 0.0) -> Model:
    """Ground that rises to the north by ``slope``, and bodies on it."""
    ground = box((-30, -30, -1), (30, 30, 0))
    points = np.array(ground.vertices)
    points[:, 2] += slope * points[:, 1]
    rows = [(Part("Ground", "Site", 0, "ground"), points, np.array(ground.faces))]
    rows += [(Part(n, "House", 1, role), np.array(m.vertices), np.array(m.faces)) for n, m, role in more]
    return build_model("Yard", rows, [Material("Earth", "#c9b98f"), Material("Wall", "#b8a58c")])


def view_of(projection: Parallel | Perspective, **more) -> ViewSpecification:  # type: ignore[no-untyped-def]
    scale = 50 if isinstance(projection, Parallel) else None
    return ViewSpecification(
        name="View",
        projection=projection,
        frame=Frame(width=240, height=160, scale=scale, **more.pop("frame", {})),
        sun=SUN,
        **more,
    )


def drawing_of(
    model: Model,
    view: ViewSpecification,
    figures: Sequence[Figure] = (),
    rules: Sequence[FigureRule] = (),
    size: tuple[int, int] = (240, 160),
) -> Drawing:
    numbered = [f.model_copy(update={"id": f.id or f"figure-{k}"}) for k, f in enumerate(figures)]
    return Drawing(model, view, size, ink=Marked(figures=tuple(numbered), entourage=tuple(rules)))


def picture(drawing: Drawing, pixels: int = 2400) -> np.ndarray:
    """(h, w) the greys of the lines alone, ten pixels to the millimetre."""
    traces = (LinesTrace(id="lines", name="Lines"),)
    drawing.compute(needs_of(traces, drawing.ink))
    frame = drawing.view.frame
    size = (pixels, round(pixels * frame.height / frame.width))
    return compose(drawing.plate(), traces, Sheet(margin=0), size, LayerCache()).toarray()[..., 1].astype(int)


def mesh_of(figure: Figure, coarsely: bool = True) -> trimesh.Trimesh:
    """The body of a figure where it stands, turned by hand.
    Told ``coarsely``, as it is where it is less than 40 mm tall.
    """
    pieces = figure.pieces(Seen(coarsely=coarsely))
    angle = np.radians(figure.turn)
    turn = np.array([[np.cos(angle), -np.sin(angle), 0], [np.sin(angle), np.cos(angle), 0], [0, 0, 1]])
    rows = [trimesh.Trimesh(p.points @ turn.T + np.array(figure.at), p.triangles, process=False) for p in pieces]
    return trimesh.util.concatenate(rows)


def figures_lines(drawing: Drawing, visible: bool = True) -> np.ndarray:
    """Rows of the lines of figures."""
    lines, model = drawing.bounds(), drawing.model
    return np.flatnonzero((model.parts.figure[lines.part] >= 0) & (lines.visible == visible))


@pytest.mark.parametrize(
    ("projection", "height"),
    deeper([(ELEVATION, 1.04), (SLANT, 1.72)], [(ELEVATION, 1.72), (ELEVATION, 1.9), (SLANT, 1.04), (SLANT, 1.9)]),
)
def test_a_figure_is_as_tall_on_paper_as_it_is(projection: Parallel, height: float) -> None:
    """By a ruler laid on what two drawings do not share: with the figure, and without it."""
    model, view = yard(), view_of(projection)
    person = Person(
        pose="standing",
        age=5 if height < 1.2 else 34,
        height=height,
        seed=4,
        outfit="shirt and trousers",
        at=(0.6, 0.0, 0.0),
        turn=160,
    )
    with_it, without = picture(drawing_of(model, view, [person])), picture(drawing_of(model, view))
    rows, columns = np.nonzero(np.abs(with_it - without) > 40)
    found = (rows.max() - rows.min()) / 10
    body = mesh_of(person)
    on_paper = Camera(view).flat(np.array(body.vertices))
    assert abs(found - np.ptp(on_paper[:, 1])) < 0.5
    assert abs((columns.max() - columns.min()) / 10 - np.ptp(on_paper[:, 0])) < 0.5
    # Hair and the heels of shoes aside, the body is as tall as it was told.
    assert abs(np.ptp(body.vertices[:, 2]) - height) < 0.055 * height
    if projection is ELEVATION:
        assert abs(found - height * 20) < 0.055 * height * 20 and abs(rows.max() / 10 - on_paper[:, 1].max()) < 0.3


def test_in_a_perspective_it_stands_where_the_matrix_says(tmp_path) -> None:  # type: ignore[no-untyped-def]
    """Feet meet the ground and eye level meets the horizon, by the matrix that is handed out with the passes."""
    import json

    model, view = yard(), view_of(EYE)
    near, far = (
        Person(seed=2, height=1.72, at=(-1.0, -2.0, 0.0), turn=90),
        Person(seed=2, height=1.72, at=(3.0, 9.0, 0.0), turn=90),
    )
    drawing = drawing_of(model, view, [near, far])
    drawing.compute()
    write_bundle(drawing, tmp_path / "passes")
    told = json.loads((tmp_path / "passes" / "bundle.json").read_text())
    matrix = np.array(told["world_to_frame"])
    horizon = 80 + drawing.paper.over_horizon(np.zeros(1), np.full(1, 80.0))[0]
    lines = drawing.lines()
    for k, person in enumerate((near, far)):
        part = np.flatnonzero([p.figure == f"figure-{k}" for p in drawing.model.parts])
        rows = np.flatnonzero(np.isin(lines.part, part) & lines.visible)
        y = np.concatenate([lines.from_mm[rows, 1], lines.to_mm[rows, 1]])
        corners = mesh_of(person, coarsely=person is far).vertices
        body = np.column_stack([corners, np.ones(len(corners))]) @ matrix.T
        flat = body[:, 1] / body[:, 3]
        assert abs(y.max() - flat.max()) < 0.1 and abs(y.min() - flat.min()) < 0.1
        # Whoever is as tall as the eye is high reaches the horizon with it, near or far.
        top, foot = y.min(), y.max()
        assert abs((foot - horizon) / (foot - top) - 1.6 / np.ptp(corners[:, 2])) < 0.03


WALL, RAIL = (
    ("Wall", box((-2, -1.2, 0), (2, -1.0, 2.6)), "structure"),
    ("Rail", box((-2, -1.2, 0.9), (2, -1.1, 1.0)), "structure"),
)


@pytest.mark.parametrize("projection", [ELEVATION, SLANT, EYE], ids=["elevation", "axonometric", "perspective"])
def test_a_figure_is_hidden_by_what_stands_before_it_as_rays_say(projection: Parallel | Perspective) -> None:
    person = Person(pose="talking", seed=5, at=(0.2, 0.0, 0.0), turn=170)
    behind_rail = drawing_of(yard(RAIL), view_of(projection), [person])
    rows, hidden = figures_lines(behind_rail), figures_lines(behind_rail, visible=False)
    assert len(rows) > 40 and len(hidden) > 5
    # What is hidden of a figure is never drawn, whatever else is dashed.
    drawn = behind_rail.lines()
    assert drawn.visible[behind_rail.model.parts.figure[drawn.part] >= 0].all()
    if projection is not SLANT:
        assert not len(figures_lines(drawing_of(yard(WALL), view_of(projection), [person])))
    lines, camera = behind_rail.bounds(), Camera(view_of(projection))
    rail = trimesh.ray.ray_triangle.RayMeshIntersector(RAIL[1])

    def covered(some: np.ndarray) -> np.ndarray:
        middle = (lines.start[some] + lines.end[some]) / 2
        way = camera.eye - middle if camera.eye is not None else np.broadcast_to(-camera.forward, middle.shape)
        return rail.intersects_any(middle, way / np.linalg.norm(way, axis=1, keepdims=True))

    long = np.linalg.norm(lines.to_mm - lines.from_mm, axis=1) > 0.1
    assert covered(rows[long[rows]]).mean() < 0.01
    # What is hidden is so by the rail or by the body itself.
    body = trimesh.ray.ray_triangle.RayMeshIntersector(mesh_of(person, projection is not EYE))
    middle = (lines.start[hidden] + lines.end[hidden]) / 2
    way = camera.eye - middle if camera.eye is not None else np.broadcast_to(-camera.forward, middle.shape)
    way = way / np.linalg.norm(way, axis=1, keepdims=True)
    assert (covered(hidden) | body.intersects_any(middle + 0.004 * way, way))[long[hidden]].mean() > 0.93


def test_its_shadow_falls_where_the_sun_s_rays_are_stopped() -> None:
    model, view = yard(), view_of(SLANT)
    person = Person(pose="walking", seed=3, at=(0.5, 0.3, 0.0), turn=40)
    size = (720, 480)
    light = drawing_of(model, view, [person], size=size)
    light.compute(("light", "surface"))
    seen, lit = light.surface(), light.light()
    rows, columns = np.nonzero((seen.part == 0) & (seen.cover == 255))
    some = np.random.default_rng(1).choice(len(rows), 20_000, replace=False)
    rows, columns = rows[some], columns[some]
    origin, way = Camera(view).rays(np.column_stack([(columns + 0.5) / 3, (rows + 0.5) / 3]), 50.0)
    ground = origin + way * (-origin[:, 2] / way[:, 2])[:, None]
    azimuth, altitude = np.radians(SUN.azimuth), np.radians(SUN.altitude)
    sun = np.array([np.sin(azimuth) * np.cos(altitude), np.cos(azimuth) * np.cos(altitude), np.sin(altitude)])
    dark = mesh_of(person).ray.intersects_any(np.add(ground, (0, 0, 1e-3)), np.broadcast_to(sun, ground.shape))
    told = lit.shadow[rows, columns] > 127
    assert dark.sum() > 60 and (dark == told).mean() > 0.997
    for said, shadow in (({"casts": False}, 0), ({}, 60)):
        again = drawing_of(model, view, [person.model_copy(update=said)], size=size)
        assert (
            (again.light().shadow[(again.surface().part == 0)] > 127).sum() >= shadow
            if shadow
            else not (again.light().shadow[again.surface().part == 0] > 127).any()
        )


def test_out_of_shadow_is_lit_where_others_are_dark() -> None:
    wall = ("Roof", box((-5, -5, 3.0), (5, 5, 3.2)), "structure")
    person = Person(seed=3, at=(0.0, 0.0, 0.0), turn=180)
    sun = view_of(ELEVATION).model_copy(update={"sun": Sun(azimuth=180, altitude=65)})
    share = []
    for receives in (True, False):
        found = drawing_of(yard(wall), sun, [person.model_copy(update={"receives": receives})], size=(480, 320))
        mine = found.model.parts.figure[np.maximum(found.surface().part, 0)] >= 0
        share.append(float((found.light().shadow[mine & (found.surface().part >= 0)] > 127).mean()))
    assert share[0] > 0.4 and share[1] == 0.0


def test_seen_from_its_front_it_is_not_its_back() -> None:
    """An apron is before the body: who turns round shows none of it."""
    model, view = yard(), view_of(ELEVATION)
    seen = []
    for turn in (180.0, 0.0):
        drawing = drawing_of(
            model, view, [Person(seed=8, outfit="apron and trousers", at=(0, 0, 0), turn=turn)], size=(960, 640)
        )
        part = drawing.surface().part
        apron = [k for k, p in enumerate(drawing.model.parts) if p.name == "apron"]
        seen.append(int(np.isin(part, apron).sum()) / int((drawing.model.parts.figure[np.maximum(part, 0)] >= 0).sum()))
    assert seen[0] > 0.2 and seen[1] < 0.2 * seen[0]


def test_no_figure_moves_a_line_of_the_house() -> None:
    """Neither the frame that is fitted to the model, nor what is computed of it where no figure stands."""
    pavilion = models.pavilion()
    view = ViewSpecification(name="Fitted", projection=Parallel(direction=(0.5, 1, -0.6)))
    bare, peopled = (
        Drawing(pavilion, view, (64, 48)),
        drawing_of(
            pavilion,
            view,
            [Plant(habit="oak", height=30.0, at=(60.0, 40.0, 0.0)), Person(at=(1, -4, 0))],
            size=(64, 48),
        ),
    )
    assert np.array_equal(bare.paper.matrix, peopled.paper.matrix) and len(peopled.model.parts) > len(pavilion.parts)
    lines = peopled.lines()
    own = np.flatnonzero((peopled.model.parts.figure[lines.part] < 0) & ~lines.visible)
    assert len(own)
    assert {RANKS[r] for r in np.unique(bare.lines().rank)} <= {"cut", "outline", "edge", "surface"}
    assert {"figure", "detail"} <= {RANKS[r] for r in np.unique(lines.rank)}
    alone = drawing_of(
        pavilion, view.model_copy(update={"figures": FigureChoice(on=False)}), [Person(at=(1, -4, 0))], size=(64, 48)
    )
    assert alone.key("lines") == bare.key("lines")


@pytest.mark.parametrize(
    ("eye", "at"), deeper([((-30.0, -42.0, 14.0), (-6.0, -8.0, 0.0))], [((45.0, -30.0, 3.0), (24.0, -10.0, 0.0))])
)
def test_a_figure_leaves_every_stroke_that_it_does_not_hide_as_it_was_to_the_bit(
    kiln_house: Model, eye: tuple[float, float, float], at: tuple[float, float, float]
) -> None:
    """Strokes of a hand that wavers, in pens that fade with distance.
    The figure stands nearer than all of the house.
    """
    look = Marked(hand=Hand(waver=0.08, overrun=0.8, pressure=0.4, breaks=0.05), figures=(Person(id="f", at=at),))
    view = view_of(Perspective(eye=eye, target=(8, 4, 2)))
    (bare, without), (peopled, with_it) = (
        (d, d.result("strokes"))
        for d in (
            Drawing(kiln_house, view, (240, 160), ink=look.model_copy(update={"figures": ()})),
            Drawing(kiln_house, view, (240, 160), ink=look),
        )
    )
    lines = peopled.lines()
    mine = lines.part >= len(kiln_house.parts)
    ends = np.concatenate([lines.from_mm[mine], lines.to_mm[mine]])
    box = shapely.box(*(ends.min(0) - 0.3), *(ends.max(0) + 0.3))

    # A line that runs on behind the figure is parted by it, and with it whatever goes on in one stroke; all other parts
    # are as they were.
    ran = bare.lines()
    behind = shapely.intersects(shapely.linestrings(np.stack([ran.from_mm, ran.to_mm], 1)), box)
    parted = np.unique(np.concatenate([ran.part[behind], ran.left[behind], ran.right[behind]]))

    def pieces(drawing: Drawing, found: StrokeSet) -> set[tuple[frozenset[bytes], Style]]:
        lines = drawing.lines()
        rows = np.flatnonzero((found.pen >= 0) & ~np.isin(lines.part, parted) & (lines.part < len(kiln_house.parts)))
        ends = [frozenset((lines.from_mm[k].tobytes(), lines.to_mm[k].tobytes())) for k in rows]
        return set(zip(ends, (found.styles[s] for s in found.pen[rows]), strict=True))

    before, after = pieces(bare, without), pieces(peopled, with_it)
    assert mine.any() and behind.any() and len(before) > 1000 and before == after


def test_figures_stand_once_in_whatever_is_drawn_from_a_drawing() -> None:
    """At another size, under another sun, in a window: the same model, so that what has no pixels is computed once."""
    whole = drawing_of(yard(), view_of(SLANT), [Person(at=(1, -2, 0)), Plant(habit="birch", at=(4, -3, 0))])
    sun = whole.view.model_copy(update={"sun": whole.view.sun.model_copy(update={"azimuth": 20.0})})
    others = (
        whole.sized((60, 40)),
        whole.under(sun),
        whole.windowed((10, 10, 50, 50)),
        whole.looked(),
        whole.sized((60, 40)).under(sun),
    )
    for other in others:
        assert [p.path for p in other.model.parts] == [p.path for p in whole.model.parts] and other.key(
            "lines"
        ) == whole.key("lines")
    # Some of the triangles are no longer what they were added to.
    some = whole.model.only(whole.model.parts.figure[whole.model.triangle_part] >= 0)
    assert topology_of(bodies_of(some)).ends.max() < len(some.vertices)


def test_a_view_hides_one_a_group_or_a_kind_and_a_finish_draws_them_its_way() -> None:
    model, view = yard(), view_of(ELEVATION)
    people = [
        Person(id="one", at=(-1, 0, 0)),
        Person(id="two", group="Crowd", at=(0, 0, 0)),
        Plant(id="tree", habit="birch", height=3.0, at=(1.5, 0, 0)),
    ]

    def there(choice: FigureChoice, *rules: FigureRule) -> set[str]:
        found = drawing_of(model, view.model_copy(update={"figures": choice}), people, rules).model.parts
        return {p.figure for p in found} - {""}

    assert there(FigureChoice()) == {"one", "two", "tree"}
    assert there(FigureChoice(hidden=("one",))) == {"two", "tree"} and there(FigureChoice(groups=("Crowd",))) == {
        "one",
        "tree",
    }
    assert (
        there(FigureChoice(kinds=("person",)))
        == {"tree"}
        == there(FigureChoice(), FigureRule(kinds=("person",), shown=False))
    )
    plain = drawing_of(model, view, people, [FigureRule(kinds=("plant",), drawn="outline")])
    detail = lambda d: int(
        ((d.lines().rank == RANKS.index("detail")) & (d.model.parts.role[d.lines().part] == "planting")).sum()
    )
    assert detail(plain) == 0 < detail(drawing_of(model, view, people))
    bare = drawing_of(model, view, people, [FigureRule(kinds=("plant",), drawn="bare")])
    assert "leaves" not in {p.name for p in bare.model.parts}
    inked = drawing_of(
        model, view, people, [FigureRule(sorts=("birch",), drawn="silhouette", hue="#336655", weight=0.4)]
    )
    assert {s.group: s.weight for s in inked.result("strokes").styles if s.group == "figure"}["figure"] in (
        0.4,
        pytest.approx(0.15, abs=0.1),
    )
    assert any(abs(s.weight - 0.4) < 1e-9 for s in inked.result("strokes").styles)
    fills = [f for laid in inked.result("surfaces").flats for f in [laid.colour]]
    assert "#336655" in fills


def test_what_is_small_on_paper_is_drawn_with_less() -> None:
    model, figures = (
        yard(),
        [Person(seed=2, at=(0, 0, 0)), Plant(habit="broad-leaved", height=8.0, seed=2, at=(4, 0, 0))],
    )
    count, details = [], []
    for scale in (20, 100, 400, 1000, 5000):
        drawing = drawing_of(
            model,
            view_of(ELEVATION, frame={}).model_copy(update={"frame": Frame(width=240, height=160, scale=scale)}),
            figures,
        )
        count.append(len(drawing.model.triangles))
        details.append(int((drawing.lines().rank == RANKS.index("detail")).sum()))
    assert (
        count == sorted(count, reverse=True)
        and count[-1] < 40 < count[0]
        and details[1] > 100
        and details[2:] == [0, 0, 0]
    )


def test_planes_leave_figures_whole_unless_they_are_told_to() -> None:
    """A crown over the plane of a plan stays with its stem; who is to be cut is filled."""
    model, tree = yard(), Plant(habit="broad-leaved", height=7.0, seed=3, at=(0, 0, 0))
    view = view_of(
        Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0)), cuts=(Cut(point=(0, 0, 1.2), normal=(0, 0, 1)),)
    )
    whole = drawing_of(model, view, [tree])
    assert (
        "leaves" in {whole.model.parts[p].name for p in np.unique(whole.surface().part) if p >= 0}
        and not whole.regions()
    )
    assert {r.part for r in drawing_of(model, view, [tree.model_copy(update={"cut": True})]).regions()}


def test_on_the_paper_it_is_as_large_as_from_so_far_away() -> None:
    model, view = yard(), view_of(EYE)
    focal = 120 / np.tan(np.radians(55) / 2)
    tall = []
    for distance in (8.0, 16.0):
        bird = Thing(thing="bin", paper=OnSheet(view="here", x=20.0, y=-50.0, distance=distance))
        drawing = drawing_of(model, view, [bird])
        rows = figures_lines(drawing)
        at = np.concatenate([drawing.bounds().from_mm[rows], drawing.bounds().to_mm[rows]])
        tall.append(np.ptp(at[:, 1]))
        assert abs(at[:, 0].mean() - 140) < 6 and abs(at[:, 1].max() - 30) < 6
        assert not (drawing.light().shadow > 127).any()
    assert tall[0] == pytest.approx(focal / 8.0 * 0.86, rel=0.2) and tall[0] / tall[1] == pytest.approx(2.0, rel=0.08)


@pytest.mark.parametrize("name", sorted(POSES))
def test_every_pose_stands_on_the_ground_in_three_thousand_triangles(name: str) -> None:
    kind = POSES[name]
    for age, seed in ((34, 1), (4, 2), (10, 3), (76, 4)):
        person = Person(pose=name, age=age, seed=seed)
        pieces = person.pieces(Seen())
        clothed = [
            p for p in pieces if p.name in ("skin", "hair", "shoes", "shirt", "trousers", "skirt", "dress", "coat")
        ]
        assert sum(len(p.triangles) for p in clothed) <= 3000
        points = np.concatenate([p.points for p in pieces])
        assert np.isfinite(points).all() and -0.06 < points[:, 2].min() < (0.30 if kind.touches == "seat" else 0.03)
        assert points[:, 2].max() < person.tall * 1.62 and (points[:, 2].max() > 0.45 * person.tall)
    two, again = (Person(pose=name, seed=s).pieces(Seen()) for s in (7, 7))
    assert all(np.array_equal(a.points, b.points) and a.colour == b.colour for a, b in zip(two, again, strict=True))


def test_hands_and_hips_reach_what_is_touched() -> None:
    for pose_, low, high in (("leaning on a rail", 0.75, 1.15), ("wedging", 0.7, 1.0), ("at a bench", 0.7, 1.0)):
        for fits in np.linspace(low, high, 4):
            skin = next(p for p in Person(pose=pose_, seed=3, fits=float(fits)).pieces(Seen()) if p.name == "skin")
            ahead = skin.points[(skin.points[:, 1] > 0.22) & (skin.points[:, 2] < fits + 0.45)]
            assert abs(ahead[:, 2].min() - fits) < 0.10, (pose_, fits)
    for fits in (0.36, 0.42, 0.5):
        seat = next(
            p
            for p in Person(pose="sitting on a bench", seed=3, fits=fits, outfit="shirt and trousers").pieces(Seen())
            if p.name == "trousers"
        )
        under = seat.points[np.abs(seat.points[:, 1]) < 0.12]
        assert abs(under[:, 2].min() - fits) < 0.05


@pytest.mark.parametrize("name", sorted(HABITS))
def test_every_habit_grows_as_tall_as_it_is_told_and_no_two_alike(name: str) -> None:
    habit = HABITS[name]
    tall = habit.height * 0.9
    pieces = Plant(habit=name, height=tall, seed=3).pieces(Seen())
    top = max(p.points[:, 2].max() for p in pieces)
    assert abs(top - tall) < 0.28 * tall and min(p.points[:, 2].min() for p in pieces) > -0.2
    other = Plant(habit=name, height=tall, seed=4).pieces(Seen())
    assert any(
        a.points.shape != b.points.shape or not np.allclose(a.points, b.points)
        for a, b in zip(pieces, other, strict=False)
    )
    if habit.own is None:
        bare = Plant(habit=name, height=tall, seed=3, season="bare").pieces(Seen())
        assert ("leaves" in {p.name for p in bare}) == habit.evergreen
        young, old = (Plant(habit=name, age=years) for years in (5, 60))
        assert young.tall < old.tall <= habit.height * 1.3


def test_all_of_the_stock_stands_on_its_foot() -> None:
    rows = figure_stock()
    assert len({r.id for r in rows}) == len(rows) >= 24 + 16 + 18 and len(POSES) >= 24 and len(HABITS) >= 16
    for row in rows:
        figure = KINDS[row.figure["kind"]].model_validate(row.figure)
        for detail in (0, 1, 2):
            assert figure.pieces(Seen(detail=detail, coarsely=detail > 0))


SQUARE = [(-9.0, -7.0, 0.0), (9.0, -7.0, 0.0), (9.0, 7.0, 0.0), (-9.0, 7.0, 0.0)]


@settings(max_examples=examples(25, 9), deadline=None)
@given(st.integers(0, 10_000), st.floats(0.02, 0.6), st.floats(0.2, 3.0), st.floats(-0.45, 0.45))
def test_what_is_strewn_keeps_its_distance_its_area_and_its_feet_on_the_slope(
    seed: int, density: float, least: float, slope: float
) -> None:
    model = yard(slope=slope)
    area = [(x, y, slope * y) for x, y, _ in SQUARE]
    found = over_area(model, Plant(habit="grasses"), area, density, least, seed)
    at = np.array([f.at for f in found]).reshape(-1, 3)
    assert len(found) <= round(18 * 14 * density) and (np.abs(at[:, 0]) <= 9).all() and (np.abs(at[:, 1]) <= 7).all()
    assert np.abs(at[:, 2] - slope * at[:, 1]).max(initial=0.0) < 0.02
    if len(at) > 1:
        gap = np.linalg.norm(at[:, None, :2] - at[None, :, :2], axis=2)
        np.fill_diagonal(gap, np.inf)
        assert gap.min() >= least - 1e-3
    if density * least**2 < 0.25:  # there is room for all
        assert len(found) == round(18 * 14 * density)
    assert [f.model_dump() for f in over_area(model, Plant(habit="grasses"), area, density, least, seed)] == [
        f.model_dump() for f in found
    ]


def test_a_row_keeps_its_heights_and_a_group_faces_itself() -> None:
    model = yard(slope=0.2)
    row = along_line(model, Person(height=1.7), [(-8, 0, 0), (0, 4, 0.8), (8, 0, 0)], 1.5, seed=3, loose=0.2)
    at = np.array([f.at for f in row])
    assert {f.tall for f in row} == {1.7} and np.abs(at[:, 2] - 0.2 * at[:, 1]).max() < 0.02 and len(row) == 12
    group = gathered(model, Person(), (0, 0, 0), 4, seed=2)
    middle = np.mean([f.at for f in group], axis=0)
    for person in group:
        way = (middle - person.at)[:2]
        facing = np.array([-np.sin(np.radians(person.turn)), np.cos(np.radians(person.turn))])
        assert way @ facing / np.linalg.norm(way) > 0.8
    with pytest.raises(ViewError, match="1,000 are put at once"):
        over_area(model, Plant(habit="grasses"), SQUARE, 20.0)


def test_seats_rails_and_steps_are_found_and_fitted_to() -> None:
    bench = ("Bench", box((-1, 3, 0.38), (1, 3.4, 0.44)), "furniture")
    table, rail = (
        ("Table", box((4, 3, 0.7), (6, 4, 0.76)), "furniture"),
        ("Rail", box((-5, -6, 0), (5, -5.9, 1.05)), "structure"),
    )
    model = yard(bench, table, rail)
    seats = floors_of(model).seats()
    assert {s.part for s in seats} == {1} and len(seats) == 3 and all(abs(s.height - 0.44) < 1e-6 for s in seats)
    people = on_seats(model, Person())
    assert [p.fits for p in people] == [0.44] * 3 and all(p.at[2] == 0 for p in people)
    sat = stood_at(model, Person(pose="sitting"), (0.2, 3.2, 0.44))
    assert (sat.pose, sat.fits, sat.at[2]) == ("sitting on a bench", 0.44, 0.0)
    leant = stood_at(model, Person(pose="leaning on a rail", turn=180), (0.0, -5.3, 0.0))
    assert leant.fits == pytest.approx(1.05) and -5.5 < leant.at[1] < -5.2
    with pytest.raises(ViewError, match="Nothing is there to stand on"):
        stood_at(model, Person(), (100, 100, 0))


@pytest.mark.parametrize("projection", [ELEVATION, SLANT, EYE], ids=["elevation", "axonometric", "perspective"])
def test_a_click_falls_on_what_is_seen_there(projection: Parallel | Perspective) -> None:
    model, view = yard(RAIL), view_of(projection)
    spot = np.array([[1.0, -1.15, 1.0]])
    found = pointed_at(model, view, np.add(Camera(view).flat(spot), (0, 0.2)))[0]
    assert abs(found[1] + 1.2) < 0.02 or abs(found[2] - 1.0) < 0.02
    person = Person(seed=4, at=(0.0, -2.0, 0.0), turn=30)
    shape = outline_of(person, model, view)
    flat = Camera(view).flat(np.array(mesh_of(person).vertices))
    assert np.abs(np.array(shape.bounds) - [*flat.min(0), *flat.max(0)]).max() < 3.0


def test_modelled_trees_are_dressed_at_the_same_foot_and_height(kiln_house: Model) -> None:
    chosen = np.flatnonzero(kiln_house.parts.role == "planting")
    found = dressed_parts(kiln_house, [n for n in chosen.tolist() if "Alder" in kiln_house.parts[n].layer])
    assert len(found) == 9 and all(f.kind == "plant" and f.habit == "alder" for f in found)  # type: ignore[attr-defined]
    for figure in found:
        rows = np.isin(kiln_house.triangle_part, [n for n in chosen if kiln_house.parts[n].path in figure.replaces])
        points = kiln_house.vertices[np.unique(kiln_house.triangles[rows])]
        trunk = points[points[:, 2] < points[:, 2].min() + 0.3]
        assert np.abs(np.array(figure.at[:2]) - trunk[:, :2].mean(0)).max() < 0.1
        assert abs(figure.at[2] + figure.tall - points[:, 2].max()) < 0.05
    view = ViewSpecification(projection=Parallel(direction=(0, -1, 0), centre=(12, 0, 4)), frame=Frame(scale=200))
    drawing = drawing_of(kiln_house, view, found)
    seen = {drawing.model.parts[p].path for p in np.unique(drawing.surface().part) if p >= 0}
    assert not any("Alder crown" in path for path in seen) and any(path.startswith("Figures/") for path in seen)
    # Hidden in a view, what it replaces does not come back.
    hidden = drawing_of(kiln_house, view.model_copy(update={"figures": FigureChoice(on=False)}), found)
    assert not any("Alder crown" in hidden.model.parts[p].path for p in np.unique(hidden.surface().part) if p >= 0)


def test_awkward_ground_open_doubled_and_far_away_bears_all_the_same() -> None:
    """An open sheet, twice, kilometres from the origin, above a hole."""
    sheet = np.add([(-5, -5, 3.0), (5, -5, 3.0), (5, 5, 3.0), (-5, 5, 3.0)], (5_500_000.0, 40_000.0, 0.0))
    faces = np.array([(0, 1, 2), (0, 2, 3), (2, 1, 0), (3, 2, 0)], np.int32)
    model = build_model("Far", [(Part("Sheet", "", 0), sheet, faces)], [Material("M")])
    stood = stood_at(model, Person(), (5_500_001.0, 40_001.0, 3.2))
    assert abs(stood.at[2] - 3.0) < 1e-6
    view = ViewSpecification(
        projection=Parallel(direction=(0.3, 1, -0.4), centre=(5_500_000.0, 40_000.0, 3.5)), frame=Frame(scale=50)
    )
    assert len(figures_lines(drawing_of(model, view, [stood]))) > 50


def test_what_is_known_of_bodies_by_themselves_is_what_the_whole_model_says() -> None:
    """Edges and meeting lines of a model with figures are put together of those of each.
    Found from the beginning they are the same.
    """
    figures = [
        Person(pose="talking", seed=5, at=(0.2, 0.0, 0.0), turn=170),
        Person(pose="talking", seed=5, at=(2.2, -1.0, 0.0), turn=40),
        Plant(habit="alder", height=5, seed=2, at=(-3, 1, 0)), Thing(thing="bench", at=(4, 0, 0), turn=33),
    ]  # fmt: skip
    model = drawing_of(yard(WALL), view_of(ELEVATION), figures).model
    put_together, whole = topology_of(bodies_of(model)), find_topology(replace(bodies_of(model), base=None, put=()))

    def rows(found: Topology) -> np.ndarray:
        ends = np.sort(model.vertices[found.ends].round(6), axis=1)
        order = np.lexsort(np.column_stack([ends.reshape(-1, 6), found.part]).T)
        return np.column_stack([ends.reshape(-1, 6), found.part, found.count, found.fold.round(2)])[order]

    assert len(put_together.part) == len(whole.part) and np.allclose(rows(put_together), rows(whole), atol=0.02)
    assert np.array_equal(put_together.open_parts, whole.open_parts)
    assert np.array_equal(np.sort(put_together.half.ravel()), np.sort(whole.half.ravel()))
    meet = intersections_of(bodies_of(model))
    for side in meet.faces.T:
        corner, normal = (
            model.vertices[model.triangles[side, 0]],
            np.cross(*np.diff(model.vertices[model.triangles[side]], axis=1).swapaxes(0, 1)),
        )
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
        assert len(side) > 10 and np.abs(((meet.start - corner) * normal).sum(1)).max() < 1e-4
    assert len(meet.touched) == len(model.triangles)
    # Two that are alike but for where they stand are one body.
    one, two = model.put[0].body, model.put[1].body
    assert GeometryKey(bodies_of(one)) == GeometryKey(bodies_of(two)) and not np.allclose(
        model.put[0].by, model.put[1].by
    )


def test_figures_in_wash_are_laid_by_their_sheet_and_no_others_are() -> None:
    washed, plain = (
        Plant(habit="alder", height=3, seed=2, at=(-2, 0, 0), drawn="wash"),
        Plant(habit="alder", height=3, seed=2, at=(2, 0, 0)),
    )
    document = apply_commands(
        fresh_document("Study", figures=[washed.model_copy(update={"id": "a"})]),
        [ChangeFigures(label="Put",
            changes=[Change(path=("figures", "b"), value=plain.model_dump(mode="json") | {"id": "b"})])]
    )  # fmt: skip
    assert not any(
        t.kind == "wash" for t in document.look.traces
    )  # it was there before, and had no sheet: somebody took it out
    sheet = next(t for t in with_sheets(document).look.traces if t.kind == "wash")
    drawing = drawing_of(yard(), view_of(ELEVATION), [washed, plain], size=(480, 320))
    drawing.compute(needs_of((sheet,), drawing.ink))
    share = sheet.confined(drawing.plate())[..., 3] > 60
    part = drawing.surface().part
    mine = np.array([p.figure for p in drawing.model.parts] + [""])[part]
    assert share[mine == "figure-0"].mean() > 0.8 and share[mine != "figure-0"].mean() < 0.02
    nobody = drawing_of(yard(), view_of(ELEVATION), size=(480, 320))
    nobody.compute(needs_of((sheet,), nobody.ink))
    assert not sheet.confined(nobody.plate()).any()
