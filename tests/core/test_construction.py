"""Build-ups, judged on the drawing that leaves the house.
Layers are read back from the SVG and measured in the model's metres, through a camera of the judge's own.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh

from tests.conftest import box, deeper, model_of
from tests.core.cases import ifc_house
from tests.core.judge import Camera
from tests.core.test_poche_on_paper import filled
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.ink.buildups.bands import kept_layers
from warmgraphite.ink.buildups.kit import KIT
from warmgraphite.ink.buildups.specification import BuildUp
from warmgraphite.ink.rules import Ink
from warmgraphite.model import Model
from warmgraphite.model.edits.parts import SetRole
from warmgraphite.regions.query import Match
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, ViewSpecification

WHITE = {"kind": "flat", "colour": "#ffffff"}
#: Millimetres of paper that a layer may be wrong by.
EXACT = 0.02


def layer(name: str, thickness: float | None, **more: Any) -> dict[str, Any]:
    return {"name": name, "thickness": thickness, "fills": [WHITE], **more}


WALL = [
    layer("Boards", 0.03), layer("Air", 0.05, importance=2), layer("Wool", 0.12, goes_on=True, importance=8),
    layer("Core", None),
    layer("Lining", 0.015, importance=3),
]  # fmt: skip
ROOF = [layer("Boards", 0.03), layer("Wool", None, goes_on=True, importance=8), layer("Lining", 0.015, importance=3)]
FLOOR = [layer("Screed", 0.06), layer("Slab", None)]


def ink(*built: tuple[str, list[dict[str, Any]], str], least: float = 0.0) -> Ink:
    """What parts, by the glob of their names, are built of."""
    return Ink.model_validate({
        "poche": [{"fills": [WHITE]}],
        "build_ups": [{"id": f"b{k}", "name": f"B {k}", "layers": rows, "least": least} for k,
            (_, rows, _) in enumerate(built)],
        "construction": [
            {"where": {"kind": "match", "parts": [names]}, "build_up": f"b{k}", "outer": outer} for k,
            (names, _, outer) in enumerate(built)
        ],
    })  # fmt: skip


def layers_of(model: Model, view: ViewSpecification, said: Ink) -> dict[str, shapely.Geometry]:
    """The layers of a drawing as they are on the paper, by name."""
    drawing = Drawing(model, view, (60, 40), ink=said)
    sheet = Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False)
    with TemporaryDirectory() as folder:
        write_drawing(drawing.plate(), (PocheTrace(id="poche", name="Poche"),), sheet, Path(folder) / "a.svg")
        return {n.removeprefix("poche "): s for n, s in filled(Path(folder) / "a.svg").items()}


def raised(plan: shapely.Polygon, low: float, high: float) -> trimesh.Trimesh:
    mesh = trimesh.creation.extrude_polygon(plan, high - low)
    mesh.apply_translation([0, 0, low])
    return mesh


def house_of(plan: shapely.Polygon) -> Model:
    """Walls on a plan, under a lid and on a base: what they enclose is inside."""
    whole = shapely.Polygon(plan.exterior)
    return model_of(
        ("Wall", raised(plan, 0, 3), 0), ("Lid", raised(whole, 3, 3.2), 2), ("Base", raised(whole, -0.3, 0), 2)
    )


def ring_of(outer: Sequence[tuple[float, float]], thick: float) -> shapely.Polygon:
    whole = shapely.Polygon(outer)
    return whole.difference(whole.buffer(-thick, join_style="mitre", mitre_limit=9))


ANGLED = [(0, 0), (7, 0), (9, 3.5), (4, 6.5), (0, 5)]
ROUND = [(5 + 4 * np.cos(t), 4 + 4 * np.sin(t)) for t in np.linspace(0, 2 * np.pi, 72, endpoint=False)]
TEE = ring_of([(0, 0), (8, 0), (8, 5), (0, 5)], 0.4).union(shapely.box(3, 0.2, 3.25, 4.8))
PLANS = {
    "straight": ring_of([(0, 0), (8, 0), (8, 5), (0, 5)], 0.4), "angled": ring_of(ANGLED, 0.4),
    "curved": ring_of(ROUND, 0.4),
    "with a wall between": TEE,
}  # fmt: skip

LEVEL = Cut(point=(0, 0, 1.2), normal=(0, 0, 1))
ABOVE = Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(4.5, 3.5, 0))
UPRIGHT = Cut(point=(4.4, 0, 0), normal=(-1, 0, 0))
BESIDE = Parallel(direction=(1, 0, 0), centre=(0, 3, 1.5))
LOOKING = {
    "plan": (ABOVE, LEVEL), "section": (BESIDE, UPRIGHT),
    "plan from above, in perspective": (Perspective(eye=(4, 2, 9), target=(4.6, 3.4, 1), up=(0, 1, 0),
        field_of_view=75), LEVEL),
    "section in perspective": (Perspective(eye=(-7, 2, 2.2), target=(4.4, 3, 1.6), field_of_view=60), UPRIGHT),
}  # fmt: skip

#: Every plan and every way of looking at it, each plan in two ways and each way at two plans at least; the full product
#: runs deep.
PAIRS = deeper(
    [p for k, p in enumerate(itertools.product(PLANS, LOOKING)) if (k // len(LOOKING) + k) % 2 == 0],
    [p for k, p in enumerate(itertools.product(PLANS, LOOKING)) if (k // len(LOOKING) + k) % 2],
)


def faces_of(plan: shapely.Polygon, cut: Cut) -> list[tuple[np.ndarray, np.ndarray]]:
    """Places on the outer face in the plane of the cut, well away from corners, with the way inward."""
    found = []
    ring = np.array(shapely.geometry.polygon.orient(plan).exterior.coords)
    for a, b in itertools.pairwise(ring):
        way = (b - a) / np.linalg.norm(b - a)
        inward = np.array([-way[1], way[0], 0.0])
        if cut is LEVEL:
            found.append((np.array([*((a + b) / 2), 1.2]), inward))
        elif (a[0] - 4.4) * (b[0] - 4.4) < 0:
            at = a + (4.4 - a[0]) / (b[0] - a[0]) * (b - a)
            # Across a wall that runs aslant to the cut layers are thicker by as much.
            along = np.array([0.0, np.sign(inward[1]), 0.0]) / abs(inward[1])
            found += [(np.array([*at, z]), along) for z in (0.8, 1.5, 2.2)]
    return found


@pytest.mark.parametrize(("plan", "looking"), PAIRS)
def test_layers_are_as_thick_as_they_were_asked_to_be(plan: str, looking: str) -> None:
    shape, (projection, cut) = PLANS[plan], LOOKING[looking]
    view = ViewSpecification(projection=projection, cuts=(cut,), frame=Frame(width=600, height=450, scale=20))
    found = layers_of(house_of(shape), view, ink(("Wall", WALL, "auto")))
    camera, edges = Camera(view), {name: shapely.boundary(s) for name, s in found.items()}
    asked = 0
    for place, inward in faces_of(shape, cut):
        # The section of a curved wall goes through chords: where it is not a wall that is 0.4 thick just there, nothing
        # is asked.
        flat = camera.flat(place + np.outer([0, 0.03, 0.08, 0.2, 0.385, 0.4], inward))
        middle = camera.flat(place + np.outer([0.015, 0.055, 0.14, 0.3, 0.3925], inward))
        if not ((flat > 1) & (flat < [599, 449])).all() or (plan == "curved" and cut is UPRIGHT):
            continue
        asked += 1
        for k, name in enumerate(("Boards", "Air", "Wool", "Core", "Lining")):
            assert shapely.contains_xy(found[name], *middle[k]), (name, place)
            for end in (flat[k], flat[k + 1]):
                assert edges[name].distance(shapely.Point(end)) < EXACT, (name, place)
    assert asked >= (4 if cut is LEVEL and "perspective" not in looking else 1) or plan == "curved"


@pytest.mark.parametrize("seed", deeper(range(3), range(3, 12)))
def test_layers_fill_what_is_cut_once_whatever_its_shape(seed: int) -> None:
    rng = np.random.default_rng(seed)
    turn = np.sort(rng.uniform(0, 2 * np.pi, rng.integers(5, 12)))
    rings = np.column_stack(
        [5 + rng.uniform(2.5, 5, len(turn)) * np.cos(turn), 4 + rng.uniform(2.5, 5, len(turn)) * np.sin(turn)]
    )
    whole = shapely.convex_hull(shapely.multipoints(rings)) if seed % 2 else shapely.make_valid(shapely.Polygon(rings))
    plan = max(
        shapely.get_parts(shapely.difference(whole, whole.buffer(-rng.uniform(0.1, 0.5), join_style="mitre"))),
        key=lambda p: p.area,
    )
    plan = max(
        shapely.get_parts(shapely.union(plan, shapely.box(4.9, 0, 5.1, 9).intersection(whole))), key=lambda p: p.area
    )
    view = ViewSpecification(projection=ABOVE, cuts=(LEVEL,), frame=Frame(width=900, height=900, scale=20))
    found = layers_of(house_of(plan), view, ink(("Wall", WALL, "auto")))
    camera = Camera(view)
    cut = shapely.transform(plan, lambda xy: camera.flat(np.column_stack([xy, np.full(len(xy), 1.2)])))
    areas = sum(s.area for s in found.values())
    united = shapely.union_all(list(found.values()))
    assert areas == pytest.approx(cut.area, rel=2e-4)
    assert shapely.symmetric_difference(united, cut).area < 2e-4 * cut.area


def test_the_least_important_layers_go_first_where_there_is_no_room() -> None:
    said = BuildUp.model_validate({"name": "Wall", "layers": WALL})
    names = [row["name"] for row in WALL]
    seen = []
    for room in np.arange(0.45, 0.0, -0.005):
        kept = [names[n] for n in kept_layers(said, float(room), 0.0)]
        seen += [kept] if not seen or seen[-1] != kept else []
        # No more than there is room for, and nothing went that there was room for.
        thick = sum(row["thickness"] or 0 for row in WALL if row["name"] in kept)
        assert thick < room or kept == ["Core"]
    gone = [set(a) - set(b) for a, b in itertools.pairwise(seen)]
    assert [sorted(g) for g in gone] == [["Air"], ["Lining"], ["Boards"], ["Wool"]]
    # On the paper: a wall whose one side is thin has fewer layers there, and all of them where it is thick.
    plan = shapely.box(0, 0, 8, 5).difference(shapely.box(0.4, 0.16, 7.6, 4.6))
    view = ViewSpecification(projection=ABOVE, cuts=(LEVEL,), frame=Frame(width=600, height=450, scale=20))
    found = layers_of(house_of(plan), view, ink(("Wall", WALL, "auto")))
    camera = Camera(view)
    for place, there in (((4, 0.0, 1.2), {"Boards", "Wool", "Core"}), ((4, 5.0, 1.2), set(names))):
        inward = np.array([0, 1 if place[1] == 0 else -1, 0])
        line = shapely.LineString(camera.flat(np.array(place) + np.outer([0, 0.16 if place[1] == 0 else 0.4], inward)))
        assert {n for n, s in found.items() if s.intersection(line).length > 0.01} == there


def test_what_would_be_finer_than_the_paper_allows_is_not_drawn_and_at_last_all_is_one() -> None:
    counts = []
    for scale in (20, 50, 100, 200, 500):
        view = ViewSpecification(projection=ABOVE, cuts=(LEVEL,), frame=Frame(width=600, height=450, scale=scale))
        found = layers_of(house_of(PLANS["straight"]), view, ink(("Wall", WALL, "auto"), least=0.5))
        thick = {row["name"]: (row["thickness"] or 1) * 1000 / scale for row in WALL}
        drawn = set(found) & set(thick)
        assert all(thick[n] >= 0.5 for n in drawn), (scale, drawn)
        counts.append(len(drawn))
    assert counts == [5, 4, 3, 2, 0]  # at 1:500 it is filled as stone is
    assert "Stone" in found


@pytest.mark.parametrize(
    ("scale", "there"), [(20, {"Studs", "Pins"}), (50, {"Studs", "Pins"}), (150, {"Pins"}), (250, set()), (500, set())]
)
def test_members_finer_or_closer_than_the_paper_allows_are_not_drawn(scale: int, there: set[str]) -> None:
    pen = {"weight": 0.13}
    rhythms = [
        {"name": "Studs", "spacing": 0.6, "width": 0.06, "fills": [WHITE], "boundary": pen},
        {"name": "Pins", "profile": "anchor", "spacing": 0.45, "boundary": pen},
    ]
    wall = [{**WALL[2], "thickness": None, "rhythms": rhythms}]
    view = ViewSpecification(projection=ABOVE, cuts=(LEVEL,), frame=Frame(width=600, height=450, scale=scale))
    drawing = Drawing(
        house_of(PLANS["with a wall between"]), view, (60, 40), ink=ink(("Wall", wall, "auto"), least=0.5)
    )
    found = {f.group.removeprefix("poche ") for f in drawing.result("built") if f.strokes}
    assert found & {"Studs", "Pins"} == there


def test_a_rhythm_keeps_its_spacing_round_a_corner() -> None:
    studs = {"name": "Studs", "spacing": 0.6, "width": 0.06, "fills": [WHITE], "runs": "up"}
    rows = [layer("Boards", 0.03), layer("Wool", 0.15, rhythms=[studs]), layer("Core", None)]
    view = ViewSpecification(projection=ABOVE, cuts=(LEVEL,), frame=Frame(width=600, height=450, scale=20))
    camera = Camera(view)
    found = layers_of(house_of(PLANS["angled"]), view, ink(("Wall", rows, "auto")))
    middle = shapely.Polygon(ANGLED).buffer(-0.105, join_style="mitre", mitre_limit=9).exterior
    path = shapely.transform(middle, lambda xy: camera.flat(np.column_stack([xy, np.full(len(xy), 1.2)])))
    studs_drawn = [s for s in shapely.get_parts(found["Studs"]) if s.area == pytest.approx(60 * 150 / 400, rel=0.02)]
    at = np.sort([path.project(s.centroid) for s in studs_drawn])
    gaps = np.diff(at)
    assert len(at) > 40
    # The layer's middle is one way round all corners; only where it begins and ends the last gap is what is left.
    assert (np.abs(gaps - 30.0) < 0.05).sum() >= len(gaps) - 1
    # Upright members are not gone across by an upright cut.
    section = ViewSpecification(projection=BESIDE, cuts=(UPRIGHT,), frame=Frame(width=600, height=450, scale=20))
    assert "Studs" not in layers_of(house_of(PLANS["angled"]), section, ink(("Wall", rows, "auto")))


@cache
def cross_section() -> dict[str, shapely.Geometry]:
    from demo.finishes import BUILT
    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views, with_sample_words
    from warmgraphite.study.kit import construction

    view = next(v for v in sample_views() if v.name.startswith("Cross section"))
    return layers_of(with_sample_words(build_kiln_house(planting=True)), view, construction(BUILT))


def test_insulation_goes_on_from_wall_to_roof_in_the_cross_section() -> None:
    found = cross_section()
    one = shapely.get_parts(found["Insulation"])
    largest = max(one, key=lambda p: p.area)
    # In the south wall over its window, and in the roof high up, 160 mm of paper are 8 m.
    west, top, east, bottom = largest.bounds
    assert east - west > 70 and bottom - top > 30
    upright = shapely.intersection(largest, shapely.box(west, bottom - 8, east, bottom))
    assert upright.area > 10  # it stands in the wall, and does not only lie in the roof
    # Below, the floor's goes on into the wall that holds the earth back.
    rigid = max(shapely.get_parts(found["Rigid insulation"]), key=lambda p: p.area)
    assert rigid.bounds[3] - rigid.bounds[1] > 60 and rigid.bounds[2] - rigid.bounds[0] > 190


def test_insulation_passes_a_floor_that_runs_out_to_the_face_and_turns_into_a_soffit() -> None:
    rows = [
        ("Wall low", box((0, 0, 0), (0.4, 6, 2.7)), 0), ("Wall high", box((0, 0, 3.0), (0.4, 6, 5.7)), 0),
        ("Wall east", box((7.6, 0, 0), (8, 6, 5.7)), 0), ("Wall north", box((0.4, 5.6, 0), (7.6, 6, 5.7)), 0),
        ("Wall south", box((0.4, 0, 0), (7.6, 0.4, 5.7)), 0), ("Floor", box((0, 0, 2.7), (7.6, 6, 3.0)), 0),
        ("Roof", box((-0.9, -0.9, 5.7), (8.9, 6.9, 6.1)), 2), ("Base", box((0, 0, -0.4), (8, 6, 0)), 2),
    ]  # fmt: skip
    model = model_of(*rows)
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(4, 0, 3)), cuts=(Cut(point=(0, 3, 0), normal=(0, -1, 0)),),
        frame=Frame(width=600, height=450, scale=20),
    )  # fmt: skip
    said = ink(("Wall*", WALL, "auto"), ("Roof", ROOF, "auto"), ("Floor", FLOOR, "up"))
    found, camera = layers_of(model, view, said), Camera(view)
    places = camera.flat(
        np.array(
            [(0.14, 3, 1), (0.14, 3, 2.85), (0.14, 3, 4), (0.14, 3, 5.85), (-0.5, 3, 5.9), (4, 3, 5.9), (7.86, 3, 2)]
        )
    )
    one = [p for p in shapely.get_parts(found["Wool"]) if shapely.contains_xy(p, *places[0])]
    assert len(one) == 1
    assert [bool(shapely.contains_xy(one[0], *xy)) for xy in places] == [True] * 7
    # The floor's own layers are where the wall's are not: its upper side was said to be the outer one.
    assert shapely.contains_xy(found["Screed"], *camera.flat(np.array([(3, 3, 2.97)]))[0])
    assert shapely.contains_xy(found["Slab"], *camera.flat(np.array([(3, 3, 2.75)]))[0])


def test_an_opening_ends_layers_with_a_return_up_to_its_pane() -> None:
    plan = PLANS["straight"]
    wall = raised(plan, 0, 3).difference(box((2, -1, 0.9), (6, 1, 2.2)))
    pane = box((2, 0.18, 0.9), (6, 0.2, 2.2))
    whole = shapely.Polygon(plan.exterior)
    model = model_of(
        ("Wall", wall, 0), ("Pane", pane, 1), ("Lid", raised(whole, 3, 3.2), 2), ("Base", raised(whole, -0.3, 0), 2)
    )
    view = ViewSpecification(projection=ABOVE, cuts=(LEVEL,), frame=Frame(width=600, height=450, scale=20))
    found, camera = layers_of(model, view, ink(("Wall", WALL, "auto"))), Camera(view)
    for x, way in ((2, -1), (6, 1)):
        reveal = camera.flat(
            np.array([(x + way * 0.015, 0.1, 1.2), (x + way * 0.0075, 0.3, 1.2), (x + way * 0.11, 0.1, 1.2)])
        )
        assert shapely.contains_xy(found["Boards"], *reveal[0]), "the boards turn into the reveal"
        assert shapely.contains_xy(found["Lining"], *reveal[1]), "behind the pane the lining does"
        assert shapely.contains_xy(found["Wool"], *reveal[2])


def test_what_sees_the_sky_is_outside_what_touches_earth_too_and_a_hand_may_say_otherwise() -> None:
    # A shed without walls has no inside: both faces of its roof are outer ones.
    shed = model_of(("Roof", box((0, 0, 2.4), (6, 4, 2.8)), 0), ("Post", box((1, 1, 0), (1.2, 1.2, 2.4)), 2))
    section = ViewSpecification(
        projection=BESIDE, cuts=(Cut(point=(3, 0, 0), normal=(-1, 0, 0)),), frame=Frame(width=600, height=450, scale=20)
    )
    found, camera = layers_of(shed, section, ink(("Roof", WALL, "auto"))), Camera(section)
    both = camera.flat(np.array([(3, 2, 2.79), (3, 2, 2.412)]))
    assert [bool(shapely.contains_xy(found["Boards"], *xy)) for xy in both] == [True, True]
    turned = layers_of(shed, section, ink(("Roof", WALL, "down")))
    assert [bool(shapely.contains_xy(turned["Boards"], *xy)) for xy in both] == [False, True]
    assert shapely.contains_xy(turned["Lining"], *both[0]) or shapely.contains_xy(turned["Core"], *both[0])
    # A cellar: earth stands against its walls, and a bed lies under its floor and nowhere else.
    plan, whole = PLANS["straight"], shapely.box(0, 0, 8, 5)
    hole = raised(whole, -0.4, 3)
    earth = box((-6, -6, -5), (14, 11, 2.5)).difference(hole)
    cellar = model_of(
        ("Wall", raised(plan, 0, 3), 0),
        ("Lid", raised(whole, 3, 3.2), 2),
        ("Base", raised(whole, -0.4, 0), 0),
        ("Earth", earth, 2),
    )
    cellar = SetRole(parts=(3,), role="ground").apply(cellar)
    base = [layer("Gravel", 0.2, bed=True), layer("Wool", 0.1, goes_on=True), layer("Core", None)]
    upright = ViewSpecification(projection=BESIDE, cuts=(UPRIGHT,), frame=Frame(width=600, height=450, scale=20))
    found = layers_of(cellar, upright, ink(("Wall", WALL, "auto"), ("Base", base, "auto")))
    camera = Camera(upright)
    below = camera.flat(np.array([(4.4, 2, -0.5), (4.4, 2, -0.35), (4.4, 0.015, 1), (4.4, 0.39, 1), (4.4, 2, -0.62)]))
    for name, xy, there in (
        ("Gravel", 0, True),
        ("Wool", 1, True),
        ("Boards", 2, True),
        ("Lining", 3, True),
        ("Gravel", 4, False),
    ):
        assert bool(shapely.contains_xy(found[name], *below[xy])) is there, (name, xy)


def test_a_drawing_changed_again_and_again_is_the_one_made_anew() -> None:
    def drawn(drawing: Drawing, path: Path) -> str:
        write_drawing(drawing.plate(), (PocheTrace(id="poche", name="Poche"),), Sheet(), path)
        return path.read_text()

    said, rng = ink(("Wall", WALL, "auto"), ("Lid", ROOF, "auto")), np.random.default_rng(3)
    view = ViewSpecification(projection=BESIDE, cuts=(UPRIGHT,), frame=Frame(width=200, height=140, scale=50))
    model, before = house_of(PLANS["angled"]), None
    with TemporaryDirectory() as folder:
        for turn in range(8):
            rows = said.model_dump(mode="json")
            build_up = rows["build_ups"][turn % 2]
            one = build_up["layers"][int(rng.integers(len(build_up["layers"])))]
            if one["thickness"]:
                one["thickness"] = float(rng.uniform(0.02, 0.1))
            pattern = ["parallel", "insulation", "dots", "gravel"][int(rng.integers(4))]
            one["fills"] = [{"kind": "hatch", "pattern": pattern, "weight": 0.13, "colour": f"#00{turn:02d}00"}]
            said = Ink.model_validate(rows)
            changed, anew = (Drawing(model, view, (60, 40), ink=said) for _ in range(2))
            if before is not None:
                changed.sharing(before)
            assert drawn(changed, Path(folder) / "a.svg") == drawn(anew, Path(folder) / "b.svg"), turn
            before = changed


def test_what_is_asked_wrongly_is_said_in_one_sentence() -> None:
    def fault(**said: Any) -> str:
        with pytest.raises(ValueError) as error:
            Ink.model_validate(said)
        return str(error.value)

    two = [layer("One", None), layer("Other", None)]
    assert "“One” and “Other” are both the rest" in fault(build_ups=[{"name": "B", "layers": two}])
    assert "beds lie outside" in fault(
        build_ups=[{"name": "B", "layers": [layer("Core", None), layer("Bed", 0.1, bed=True)]}]
    )
    assert "not among the build-ups" in fault(construction=[{"where": {"kind": "match"}, "build_up": "gone"}])


def test_pouring_a_build_up_takes_it_from_the_kit_and_pouring_it_again_takes_it_away() -> None:
    from warmgraphite.study.commands import apply_commands
    from warmgraphite.study.commands.look import PourBuildUp
    from warmgraphite.study.document import fresh_document

    def poured(document: Any, build_up: str, part: str = "Walls/South") -> Any:
        return apply_commands(document, [PourBuildUp(where=Match(parts=(part,)), build_up=build_up)])

    first = poured(fresh_document("Study", [ViewSpecification(projection=ABOVE)]), "brick-cavity-wall")
    assert [b.id for b in first.look.build_ups] == ["brick-cavity-wall"]
    assert [(r.build_up, r.where.parts) for r in first.look.construction] == [("brick-cavity-wall", ("Walls/South",))]  # type: ignore[union-attr]
    other = poured(first, "rendered-wall")
    assert [r.build_up for r in other.look.construction] == ["rendered-wall"]
    assert [r.build_up for r in poured(other, "rendered-wall").look.construction] == [""]
    with pytest.raises(ViewError, match="not in this finish"):
        poured(first, "no-such-wall")


@pytest.mark.parametrize("name", KIT)
def test_each_build_up_of_the_kit_fills_a_house_of_many_parts(name: str) -> None:
    model = ifc_house()
    said = Ink.model_validate({
        "build_ups": [KIT[name].model_dump(mode="json")],
        "construction": [{"where": {"kind": "match", "roles": ["structure", "envelope"]}, "build_up": name}],
        "poche": [{"fills": []}, {"where": {"kind": "match", "roles": ["structure", "envelope"]}, "fills": [WHITE]}],
    })  # fmt: skip
    middle = (model.vertices.min(0) + model.vertices.max(0)) / 2
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=tuple(middle)),
        cuts=(Cut(point=tuple(middle), normal=(0, -1, 0)),),
        frame=Frame(width=594, height=420, scale=50),
    )  # fmt: skip
    found = layers_of(model, view, said)
    drawing = Drawing(model, view, (60, 40), ink=said)
    built = [r for r in drawing.settled if model.parts.role[r.part] in ("structure", "envelope")]
    cut = shapely.union_all([r.region for r in built])
    names = {row.name for row in KIT[name].layers if not row.bed} | {m.name for m in model.materials}
    drawn = shapely.union_all([s for n, s in found.items() if n in names])
    assert drawn.area == pytest.approx(cut.area * 400, rel=0.02)
    assert any(row.name in found for row in KIT[name].layers)
