"""The map of a drawing, judged by rays: shadows, cells, queries and masks."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError
from scipy.ndimage import binary_dilation

from tests.conftest import DEEP, box, examples, model_of
from tests.core.cases import SLANT, SUN, drawing_of, judge_of, judged
from tests.core.judge import Camera, Judge
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.model import Model
from warmgraphite.regions import Query
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.planar import cells_of
from warmgraphite.regions.query import All, Any, Match, NamedRegion, Not
from warmgraphite.regions.words.face import Face
from warmgraphite.regions.words.light import LIGHTS
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, Sun, ViewSpecification
from warmgraphite.view.sun import Exempt, to_sun

PLAN = Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0))


def grid(view: ViewSpecification, size: tuple[int, int]) -> np.ndarray:
    """(N, 2) the middles of pixels in frame millimetres."""
    x, y = np.meshgrid(
        (np.arange(size[0]) + 0.5) * view.frame.width / size[0],
        (np.arange(size[1]) + 0.5) * view.frame.height / size[1],
    )
    return np.column_stack([x.ravel(), y.ravel()])


def edges_of(picture: np.ndarray) -> np.ndarray:
    """(h, w) pixels within one pixel of another value."""
    edge = np.zeros(picture.shape, bool)
    edge[:, 1:] |= picture[:, 1:] != picture[:, :-1]
    edge[1:] |= picture[1:] != picture[:-1]
    return binary_dilation(edge, np.ones((3, 3), bool))


@pytest.mark.parametrize(("model", "view"), judged())
def test_shadows_as_polygons_and_as_pixels_lie_where_sun_rays_say(
    model: Callable[[], Model], view: ViewSpecification
) -> None:
    judge, size = judge_of(model, view), (1200, 848) if DEEP else (640, 452)
    drawing = drawing_of(model, view).sized(size)
    cells, camera = drawing.region_map(), Camera(view)
    areas = shapely.area(cells.shapes)
    assert areas.sum() == pytest.approx(view.frame.width * view.frame.height, rel=1e-6)
    truth = judge.light(view, *camera.rays(grid(view, size), judge.reach), to_sun(SUN)).reshape(size[::-1])
    cover = cells.cover(size)
    border = edges_of(truth)
    clear = ~border & ~binary_dilation(cover.whole < 0, np.ones((3, 3), bool))
    assert (cells.light[cover.whole] == truth)[clear].mean() > 0.9997
    assert ((drawing.light().shadow > 127) == (truth == 1))[~border].mean() > 0.997
    # The rays' own estimate of the area has an error too, of a share of the pixels on the border.
    pixel = view.frame.width * view.frame.height / truth.size
    capped = cells.light[cover.most] == LIGHTS.index("none")
    expected = ((truth == 1) & ~capped).sum() * pixel
    assert areas[cells.light == 1].sum() == pytest.approx(
        expected, abs=0.005 * expected + 3 * pixel * np.sqrt(border.sum())
    )
    assert areas[cells.traced].sum() < 0.005 * areas.sum(), "what pixels had to divide"


def test_the_area_of_a_shadow_is_that_of_geometry() -> None:
    """A block of two by two metres, three high, under a sun at 45° square to it; and a ball."""
    frame = Frame(width=200, height=200, scale=100)
    yard = ("Yard", box((-10, -10, -0.5), (10, 10, 0)), 0)
    sun = Sun(azimuth=180, altitude=45)
    block = Drawing(
        model_of(yard, ("Block", box((-1, -1, 0), (1, 1, 3)), 0)),
        ViewSpecification(projection=PLAN, sun=sun, frame=frame),
    )
    cells = block.region_map()
    assert shapely.area(cells.shapes)[cells.light == 1].sum() == pytest.approx(6 * 100, abs=1e-3)
    ball = trimesh.creation.icosphere(subdivisions=5, radius=1.0)
    ball.apply_translation([0, 0, 4])
    view = ViewSpecification(projection=PLAN, sun=Sun(azimuth=180, altitude=30), frame=frame)
    cells = Drawing(model_of(yard, ("Ball", ball, 2)), view).region_map()
    # An ellipse, as long as the ball is wide over the sine of the altitude; the plan hides none of it.
    on_ground = cells.shape((cells.light == 1) & (cells.part == 0))
    assert on_ground.area == pytest.approx(np.pi * 2 * 100, rel=2e-3)
    assert on_ground.centroid.coords[0] == pytest.approx((100, 100 - 40 / np.tan(np.radians(30))), abs=0.05)


def test_who_casts_and_who_receives_is_as_the_sun_was_told() -> None:
    wall = ("Wall", box((-2, 0, 0), (2, 0.2, 3)), 0)
    pane = ("Pane", trimesh.Trimesh([[4, 0, 0], [7, 0, 0], [7, 0, 3], [4, 0, 3]], [[0, 1, 2], [0, 2, 3]]), 1)
    screen = ("Screen", box((-1, 1, 0), (1, 1.1, 1)), 2)
    model = model_of(("Yard", box((-10, -10, -0.5), (10, 10, 0)), 0), wall, pane, screen)

    def dark(cut: tuple[Cut, ...] = (), **sun: object) -> tuple[float, float, np.ndarray]:
        view = ViewSpecification(
            projection=PLAN,
            cuts=cut,
            sun=Sun(azimuth=180, altitude=45, **sun),
            frame=Frame(width=200, height=200, scale=100),
        )
        drawing = Drawing(model, view, (400, 400))
        cells, light = drawing.region_map(), drawing.light().shadow
        areas = shapely.area(cells.shapes) * (cells.light == 1) / 100
        assert areas.sum() == pytest.approx(
            ((light > 127).sum() / 400), rel=0.02
        )  # a pixel is a twentieth of a metre wide
        return areas[cells.part == 0].sum(), areas[cells.part == 3].sum(), light

    usual, on_screen, _ = dark()
    assert usual == pytest.approx(4 * 3 - 2 * 0.1, abs=1e-6) and on_screen == pytest.approx(0.2, abs=1e-6)
    ground, on_screen, _ = dark(not_casting=Exempt(parts=("Wall",)))
    assert ground == pytest.approx(2, abs=1e-6) and on_screen == 0  # the screen's own
    assert dark(not_receiving=Exempt(parts=("Yard",)))[0] == 0
    level = Cut(point=(0, 0, 1.5), normal=(0, 0, 1))
    # The wall is half as high now, and the screen's own shadow comes out of its.
    assert dark((level,))[0] == pytest.approx(4 * 1.5 - 2 * 0.1 + 2 * 0.4, abs=1e-6)
    assert dark((level,), cast_off=True)[0] == pytest.approx(usual, abs=1e-6)
    light = dark(glass=0.25)[2]
    assert light[145:195, 285:335].mean() == pytest.approx(0.25 * 255, abs=1)  # behind the pane


def test_a_caster_behind_the_viewer_throws_its_shadow_before_them() -> None:
    model = model_of(("Yard", box((-30, -30, -0.5), (30, 30, 0)), 0), ("Tower", box((-1, -20, 0), (1, -18, 20)), 0))
    view = ViewSpecification(
        projection=Perspective(eye=(0, -12, 3), target=(0, 0, 0), field_of_view=70), sun=Sun(azimuth=180, altitude=45)
    )
    drawing = Drawing(model, view, (420, 297))
    cells = drawing.region_map()
    dark = cells.shape(cells.light == 1)
    assert dark.area > 0.02 * 420 * 297
    assert (drawing.light().shadow > 127).sum() == pytest.approx(dark.area, rel=0.02)


@pytest.mark.parametrize("snapped", [False, True])
def test_the_map_of_segments_is_the_one_that_the_geometry_library_makes(snapped: bool) -> None:
    rng = np.random.default_rng(3)
    start = rng.uniform(2, 98, (1500, 2))
    end = np.clip(start + rng.normal(0, 7, start.shape), 1, 99)
    if snapped:  # along one another, through corners, twice
        start, end = np.round(start / 4) * 4, np.round(end / 4) * 4
    segments, paper = np.stack([start, end], 1), shapely.box(0, 0, 100, 100)
    segments = segments[(start != end).any(1)]
    found = cells_of(segments, paper)
    lines = [shapely.multilinestrings(list(segments)), shapely.boundary(paper)]
    truth = shapely.get_parts(shapely.polygonize([shapely.unary_union(lines, grid_size=0.005)]))
    assert len(found) == len(truth) > 500 and shapely.is_valid(found).all()
    assert np.allclose(np.sort(shapely.area(found)), np.sort(shapely.area(truth)), atol=1e-9)
    assert sum(len(p.interiors) for p in found) == sum(len(p.interiors) for p in truth)


@st.composite
def scenes(draw: st.DrawFn) -> Model:
    """Up to eight boxes that stand on, beside and in each other."""
    place = st.integers(-4, 4)
    size = st.sampled_from([0.5, 1.0, 1.5, 2.0, 3.0])
    rows = [("Ground", box((-6, -6, -0.4), (6, 6, 0)), 0)]
    for i in range(draw(st.integers(1, 8))):
        x, y = draw(place), draw(place)
        body = box((0, 0, 0), (draw(size), draw(size), draw(size)))
        if draw(st.booleans()):
            body.apply_transform(trimesh.transformations.rotation_matrix(draw(st.sampled_from([0.3, 0.7])), [0, 0, 1]))
        # No two lie flush: where unlike ones did, nobody could say which of them is seen.
        body.apply_translation([x + 0.0137 * i, y - 0.0071 * i, draw(st.sampled_from([0.0, 0.0, 1.0])) + 0.0113 * i])
        rows.append((f"Body {i}", body, draw(st.sampled_from([0, 1, 2]))))
    return model_of(*rows)


@settings(max_examples=examples(25, 9), deadline=None)
@given(scenes(), st.sampled_from([SLANT, (0, 0, -1), (-1, 0.4, -0.3)]), st.sampled_from([(215, 38), (90, 20), (0, 70)]))
def test_cells_of_random_scenes_leave_no_gap_and_are_what_a_ray_finds(model: Model, sight: tuple, light: tuple) -> None:
    up = (0, 1, 0) if sight == (0, 0, -1) else (0, 0, 1)
    view = ViewSpecification(
        projection=Parallel(direction=sight, up=up, centre=(0, 0, 0.5)), frame=Frame(scale=50),
        sun=Sun(azimuth=light[0], altitude=light[1]),
    )  # fmt: skip
    cells = Drawing(model, view).region_map()
    assert shapely.area(cells.shapes).sum() == pytest.approx(420 * 297, rel=1e-6)
    assert shapely.is_valid(cells.shapes).all()
    judge, camera = Judge(model, view), Camera(view)
    # Points of cells so thin that a ray may pass by are not asked.
    wide = shapely.distance(shapely.boundary(cells.shapes), shapely.points(cells.inner)) > 0.02
    origins, ways = (r[wide] for r in camera.rays(cells.inner, judge.reach))
    _, part = judge.first(origins, ways)
    assert (part == cells.part[wide]).all()
    assert (judge.light(view, origins, ways, to_sun(view.sun)) == cells.light[wide]).all()


@pytest.fixture(scope="module")
def court() -> tuple[Model, Drawing, RegionMap]:
    """A wall of wood behind a pane, a stone block and its shadow, on two storeys."""
    model = model_of(
        ("Ground", box((-8, -8, -0.4), (8, 8, 0)), 0),
        ("Wall", box((-3, 3, 0), (3, 3.3, 3)), 2),
        ("Pane", trimesh.Trimesh([[-3, 1, 0], [0, 1, 0], [0, 1, 3], [-3, 1, 3]], [[0, 1, 2], [0, 2, 3]]), 1),
        ("Block", box((1, -1, 0), (2, 0, 1.4)), 0),
    )
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, -0.4), centre=(0, 0, 1)), frame=Frame(scale=50), sun=SUN
    )
    drawing = Drawing(model, view)
    return model, drawing, drawing.region_map()


def test_the_sunlit_part_of_the_wooden_wall_behind_the_glass_is_a_shape(
    court: tuple[Model, Drawing, RegionMap],
) -> None:
    model, _, cells = court
    behind = All(of=(Match(materials=("Wood",), light=("lit",), facing=("south",)), Match(glass=True)))
    shape = cells.shape(cells.chosen(behind, model))
    # The pane's image on the wall, less what of the wall the camera's slant lets it miss: three metres wide at 1:50.
    assert shapely.bounds(shape)[2] - shapely.bounds(shape)[0] == pytest.approx(60, abs=0.02)
    rest = cells.chosen(Match(materials=("Wood",), light=("lit",), facing=("south",), glass=False), model)
    whole = cells.chosen(Match(parts=("Wall",), light=("lit",), facing=("south",)), model)
    assert shape.area + cells.shape(rest).area == pytest.approx(cells.shape(whole).area, rel=1e-9)


def test_masks_of_a_query_and_of_its_complement_add_up_at_every_pixel(court: tuple[Model, Drawing, RegionMap]) -> None:
    model, _, cells = court
    query = Any(of=(Match(light=("shadow",)), Match(parts=("Pane", "Block"))))
    chosen, rest = cells.chosen(query, model), cells.chosen(Not(of=query), model)
    for size in ((640, 453), (97, 31)):
        one, two = cells.mask(chosen, size), cells.mask(rest, size)
        assert (one.astype(int) + two == 255).all()
        assert one.sum() / 255 / one.size == pytest.approx(cells.shape(chosen).area / (420 * 297), rel=2e-3)
    soft = cells.mask(chosen, (640, 453))
    assert ((soft > 0) & (soft < 255)).any()


def test_every_word_of_the_language_finds_what_it_means(court: tuple[Model, Drawing, RegionMap]) -> None:
    model, _, cells = court

    def parts(**words: object) -> set[str]:
        chosen = cells.chosen(Match(**words), model)
        return {model.parts[p].name if p >= 0 else "" for p in cells.part[chosen]}

    assert parts(where=("outside", "sky")) == {""}
    assert parts(roles=("structure",)) == {"Ground", "Wall", "Block"}
    assert parts(layers=("Nowhere",)) == set() and parts(materials=("Stone",)) == {"Ground", "Block"}
    assert parts(facing=("up",)) >= {"Ground", "Block"}
    assert parts(light=("shadow",)) >= {"Ground"}
    reach = cells.depth[np.isfinite(cells.depth)]
    middle = float(np.median(reach))
    near, far = (cells.chosen(Match(where=("building",), depth=d), model) for d in ((None, middle), (middle, None)))
    assert near.any() and far.any() and not (near & far).any() and ((near | far) == (cells.part >= 0)).all()
    assert (cells.near <= cells.depth + 1e-9).all() and (cells.far >= cells.depth - 1e-9).all()
    face = cells.chosen(Match(face=Face(part="Block", point=(1.5, -1.0, 0.7))), model)
    assert {model.parts[p].name for p in cells.part[face]} == {"Block"} and set(cells.facing[face]) == {4}  # its south
    with pytest.raises(ViewError, match="part set"):
        cells.chosen(Match(sets=("Nobody",)), model)


def test_a_kept_region_is_a_query_that_follows_model_and_camera(court: tuple[Model, Drawing, RegionMap]) -> None:
    model, _, cells = court
    kept = NamedRegion.model_validate_json('{"id": "r-1", "name": "Glass", "query": {"kind": "match", "glass": true}}')
    other = ViewSpecification(projection=Perspective(eye=(-4, -9, 2), target=(0, 2, 1), field_of_view=60), sun=SUN)
    for drawing_cells in (cells, Drawing(model, other).region_map()):
        chosen = drawing_cells.chosen(kept.query, model)
        assert chosen.any() and (drawing_cells.panes[chosen] == 1).all() and (drawing_cells.panes[~chosen] == 0).all()
    deep: dict = {"kind": "match"}
    for _ in range(40):
        deep = {"kind": "not", "of": deep}
    with pytest.raises(ValidationError, match="deep"):
        NamedRegion(id="r-2", name="Deep", query=deep)  # type: ignore[arg-type]
    with pytest.raises(ValidationError, match="colour"):
        TypeAdapter(Query).validate_python({"kind": "match", "colour": ["red"]})


def test_steps_of_shade_are_regions_and_one_turn_has_one_tone() -> None:
    drum = trimesh.creation.cylinder(2.0, 4.0, sections=96)
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(0, 0, 0)), frame=Frame(width=150, height=150, scale=50),
        sun=Sun(azimuth=180, altitude=30), shade={"steps": 4},  # type: ignore[arg-type]
    )  # fmt: skip
    drawing = Drawing(model_of(("Drum", drum, 0)), view, (600, 600))
    cells = drawing.region_map()
    tones = np.unique(cells.tone[cells.part == 0])
    assert len(tones) == 4  # four steps towards the sun; what is turned away is not seen from here
    # Steps two and three meet where the cosine to the sun is a half.
    bounds = [shapely.bounds(cells.shape((cells.part == 0) & (cells.tone == t))) for t in tones]
    step = 0.5 / np.cos(np.radians(30))
    assert bounds[1][2] == pytest.approx(75 + 40 * np.sqrt(1 - step**2), abs=0.3)
    shade = drawing.light().shade
    flat = ~edges_of(cells.cover((600, 600)).most)
    assert len(np.unique(shade[flat & (drawing.surface().part == 0)])) == 4
