"""Tones of light: shadow by sun rays, penumbrae, shade by orientation, corners; all registered with the lines."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from scipy.ndimage import map_coordinates

from tests.conftest import box, model_of
from tests.core.judge import Judge
from tests.core.models import PLAIN
from warmgraphite.drawing import PASSES, Drawing, Need
from warmgraphite.errors import ViewError
from warmgraphite.model import Model
from warmgraphite.passes.kernels.pixels import clear_specks
from warmgraphite.passes.line_set import RANKS
from warmgraphite.passes.pictures import normals
from warmgraphite.regions.query import Match
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, Shade, Sun, ViewSpecification
from warmgraphite.view.sun import Exempt, to_sun

PLAN = {"projection": Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0))}
YARD = ("Yard", box((-10, -10, -0.5), (10, 10, 0)), 0)


def test_the_shadow_of_a_block_has_the_area_of_geometry_and_moves_with_the_sun() -> None:
    model = model_of(YARD, ("Block", box((-1, -1, 0), (1, 1, 3)), 0))
    for azimuth in (180.0, 90.0):
        frame = Frame(width=200, height=200, scale=100, resolution=127)
        drawing = Drawing(model, ViewSpecification(**PLAN, sun=Sun(azimuth=azimuth, altitude=45), frame=frame))
        shadow = drawing.light().shadow / 255.0
        metres_per_pixel = 20.0 / shadow.shape[0]
        assert shadow.sum() * metres_per_pixel**2 == pytest.approx(2 * 3, rel=0.01)  # as long as the block is high
        rows, columns = np.nonzero(shadow > 0.5)
        centre = (columns.mean() * metres_per_pixel - 10, 10 - rows.mean() * metres_per_pixel)
        away = {180.0: (0, 2.5), 90.0: (-2.5, 0)}[azimuth]
        assert centre == pytest.approx(away, abs=0.05)


def test_a_weaker_sun_and_ambient_light_make_a_paler_shadow_of_the_same_shape() -> None:
    model = model_of(YARD, ("Block", box((-1, -1, 0), (1, 1, 3)), 0))
    frame = Frame(width=200, height=200, scale=100, resolution=60)
    suns = [Sun(azimuth=180, altitude=45, strength=s, ambient=a) for s, a in ((1.0, 0.0), (0.5, 0.2))]
    full, pale = (Drawing(model, ViewSpecification(**PLAN, sun=sun, frame=frame)).light().shadow for sun in suns)
    assert (full.max(), pale.max()) == (255, round(0.5 * 0.8 * 255))
    assert np.abs(pale - full * 0.4).max() <= 1


def test_glass_casts_nothing_and_no_sun_casts_nothing() -> None:
    pane = trimesh.Trimesh([[-2, 0, 0], [2, 0, 0], [2, 0, 3], [-2, 0, 3]], [[0, 1, 2], [0, 2, 3]])
    frame = Frame(width=200, height=200, scale=100, resolution=60)
    sheet = model_of(YARD, ("Sheet", pane, 0))
    south, night = Sun(azimuth=180, altitude=40), Sun(azimuth=180, altitude=-5)
    assert Drawing(sheet, ViewSpecification(**PLAN, sun=south, frame=frame)).light().shadow.sum() > 0
    assert (
        Drawing(model_of(YARD, ("Pane", pane, 1)), ViewSpecification(**PLAN, sun=south, frame=frame))
        .light()
        .shadow.sum()
        == 0
    )
    dark = Drawing(sheet, ViewSpecification(**PLAN, sun=night, frame=frame)).light()
    assert dark.shadow.sum() == 0 and (dark.shade > 100).any()


@pytest.mark.parametrize(
    "projection",
    [
        Parallel(direction=(0.5, 1.0, -0.6)),
        Perspective(eye=(-7, -10, 4), target=(3, 0, 2), field_of_view=60),
    ],
)
def test_every_pixel_in_shadow_is_blocked_from_the_sun_and_no_other(yard: Model, projection) -> None:  # type: ignore[no-untyped-def]
    view = ViewSpecification(projection=projection, sun=Sun(azimuth=215, altitude=38), frame=Frame(resolution=40))
    drawing = Drawing(yard, view)
    judge = Judge(yard, view)
    light, seen = drawing.light(), drawing.surface()
    height, width = light.shadow.shape
    x, y = np.meshgrid((np.arange(width) + 0.5) * 420 / width, (np.arange(height) + 0.5) * 297 / height)
    origins, directions = drawing.scene.projection.rays(np.column_stack([x.ravel(), y.ravel()]), -60.0)
    directions = np.ascontiguousarray(directions)
    distance, part = judge.first(np.ascontiguousarray(origins), directions)
    # Pixels that the edge of something crosses see several answers; every other pixel has one.
    plain = np.ones(height * width, bool)
    plain[seen.edge_pixel] = False
    assert (part == seen.part.ravel())[plain].mean() > 0.9995
    rows = np.flatnonzero(plain & (part >= 0))
    ray = to_sun(view.sun)
    points = origins[rows] + distance[rows, None] * directions[rows]
    reach, _ = judge.first(points - directions[rows] * 2e-3, np.tile(ray, (len(rows), 1)))
    shadow = light.shadow.ravel()[rows]
    shade = light.shade.ravel()[rows] / 255.0
    facing = shade < 0.61  # below that the surface looks away from the sun, and is shade and not shadow
    sure = facing & ((shadow < 3) | (shadow > 252))
    assert ((reach < np.inf) == (shadow > 127))[sure].mean() > 0.995
    assert (shadow[shade > 0.63] == 0).all()


def test_pixels_and_lines_register() -> None:
    """The silhouette of a box in the pixels lies where the drawn outline lies, to a fraction of a pixel."""
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(0, 0, 0)), frame=Frame(scale=50, resolution=97)
    )
    drawing = Drawing(model_of(("Box", box((-1.37, 0, -0.83), (2.11, 1, 1.59)), 0)), view)
    cover = drawing.surface().cover / 255.0
    lines = drawing.lines()
    for axis, total in ((0, cover.sum(1)), (1, cover.sum(0))):
        low = np.minimum(lines.from_mm[:, axis], lines.to_mm[:, axis]).min()
        high = np.maximum(lines.from_mm[:, axis], lines.to_mm[:, axis]).max()
        per_mm = cover.shape[1 - axis] / (420, 297)[axis]
        assert total.max() == pytest.approx((high - low) * per_mm, abs=0.15)
    centre = (np.arange(cover.shape[1]) + 0.5) @ cover.sum(0) / cover.sum()
    expected = (lines.from_mm[:, 0].min() + lines.from_mm[:, 0].max()) / 2 * cover.shape[1] / 420
    assert centre == pytest.approx(expected, abs=0.1)


def test_cover_is_transparent_where_nothing_is_and_glass_is_told_apart() -> None:
    pane = trimesh.Trimesh([[-2, 0, 0], [2, 0, 0], [2, 0, 3], [-2, 0, 3]], [[0, 1, 2], [0, 2, 3]])
    model = model_of(("Pane", pane, 1), ("Wall", box((0, 3, 0), (6, 3.2, 3)), 0))
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(1, 0, 1.5)), frame=Frame(scale=50, resolution=50)
    )
    seen = Drawing(model, view).surface()
    per_metre2 = (20 / 25.4 * 50) ** 2
    assert seen.cover.sum() / 255 / per_metre2 == pytest.approx(18, rel=0.01)  # the wall; a pane alone covers nothing
    assert seen.glass.sum() / 255 / per_metre2 == pytest.approx(12, rel=0.01)


def test_a_drawing_under_another_sun_shares_its_scene_and_casts_its_own_shadow() -> None:
    model = model_of(YARD, ("Block", box((-1, -1, 0), (1, 1, 3)), 0))
    frame = Frame(width=200, height=200, scale=100, resolution=60)
    morning, evening = (ViewSpecification(**PLAN, sun=Sun(azimuth=a, altitude=45), frame=frame) for a in (100, 260))
    first = Drawing(model, morning)
    first.light()
    turned = first.under(evening)
    assert turned.scene.corners is first.scene.corners and turned.hiders is first.hiders
    assert (turned.light().shadow == Drawing(model, evening).light().shadow).all()
    assert (turned.light().shadow != first.light().shadow).any()
    moved = first.under(morning.model_copy(update={"projection": Parallel(direction=(0, 1, 0))}))
    # What planes leave of the bodies does not go by the camera; what hides what does.
    assert moved.scene.remainder is first.scene.remainder and moved.hiders is not first.hiders


def recoloured(model: Model) -> Model:
    return replace(model, materials=(replace(model.materials[0], colour="#204060"), *model.materials[1:]))


def renamed(model: Model) -> Model:
    return replace(model, parts=tuple(replace(p, name="Spared") if p.name == "Block" else p for p in model.parts))


SPARED = Exempt(parts=("Spared",))
_computed: dict[str, Drawing] = {}


def computed_under(not_casting: Exempt, not_receiving: Exempt) -> Drawing:
    """A drawing of which every pass is held."""
    key = f"{not_casting} {not_receiving}"
    if key not in _computed:
        hill = trimesh.creation.icosphere(subdivisions=2, radius=2.0)
        hill.apply_translation([4, 2, -0.8])
        pane = ("Pane", box((-4, -2, 0), (-3.9, 2, 2)), 1)
        model = model_of(YARD, ("Block", box((-1, -1, 0), (1, 1, 3)), 0), pane, ("Hill", hill, 2))
        view = ViewSpecification(
            projection=Parallel(direction=(0.3, 1, -0.7), centre=(0, 0, 0)),
            cuts=(Cut(point=(0, -0.5, 0), normal=(0, -1, 0)),),
            sun=Sun(azimuth=140, altitude=40, not_casting=not_casting, not_receiving=not_receiving),
            frame=Frame(width=120, height=90, scale=100, resolution=30),
        )
        _computed[key] = Drawing(model, view)
        _computed[key].compute(PLAIN)
    return _computed[key]


@pytest.mark.parametrize(
    ("model_of_it", "sun", "more"),
    [
        (recoloured, {}, {}),
        (lambda m: replace(m, white_card=True), {}, {}),
        (renamed, {"not_casting": SPARED}, {}),
        (renamed, {"not_receiving": SPARED}, {}),
        (None, {"azimuth": 250.0}, {}),
        (None, {"altitude": -8.0}, {}),
        (None, {"cast_off": True}, {}),
        (None, {"glass": 0.6}, {}),
        (None, {}, {"shade": Shade(steps=4)}),
    ],
    ids=["a colour", "white card", "a caster renamed", "a receiver renamed", "azimuth", "night", "cast-off half",
        "glass", "steps"],
)  # fmt: skip
def test_what_is_shared_with_a_drawing_before_brings_nothing_of_it_along(
    coarse: None, model_of_it, sun: dict, more: dict
) -> None:  # type: ignore[no-untyped-def]
    """A drawing that takes over what it may of one before comes out as one that starts from nothing."""
    before = computed_under(
        SPARED if "not_casting" in sun else Exempt(), SPARED if "not_receiving" in sun else Exempt()
    )
    names = PLAIN
    changed = model_of_it(before.model) if model_of_it else before.model
    view = before.view.model_copy(update={"sun": before.view.sun.model_copy(update=sun), **more})
    shared, alone = Drawing(changed, view).sharing(before), Drawing(changed, view)
    shared.compute(names)
    alone.compute(names)
    assert [shared.key(n) for n in names] == [alone.key(n) for n in names] != [before.key(n) for n in names]
    for name in names:
        if not PASSES[name].stored:
            continue
        one, two = (PASSES[name].pack(drawing.result(name)) for drawing in (shared, alone))
        assert all(np.array_equal(one[k], two[k]) for k in one), name


def corner(*walls: str) -> Model:
    """A floor with large walls along x = 0 and y = 0."""
    bodies = {"x": box((-0.5, -0.5, -0.5), (0, 30, 30)), "y": box((-0.5, -0.5, -0.5), (30, 0, 30))}
    return model_of(("Floor", box((-0.5, -0.5, -0.5), (30, 30, 0)), 0), *((w, bodies[w], 0) for w in walls))


@pytest.mark.parametrize("walls", ["x", "xy"])
def test_corners_are_as_dark_as_geometry_says_and_without_grain(walls: str) -> None:
    """Of a hemisphere seen as a disc, a wall at distance d takes the segment beyond d / radius; two walls take two."""
    frame = Frame(width=200, height=200, scale=20)
    view = ViewSpecification(
        projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(2, 2, 0)),
        frame=frame,
        occlusion={"radius": 1.5, "samples": 32},
    )  # type: ignore[arg-type]
    found = Drawing(corner(*walls), view, (400, 400)).occlusion() / 255.0
    place = (np.arange(400) + 0.5) / 100
    x, y = np.meshgrid(place, 4 - place)
    h, k = np.minimum(x / 1.5, 1), np.minimum(y / 1.5, 1)

    def segment(h: np.ndarray) -> np.ndarray:
        return (np.arccos(h) - h * np.sqrt(1 - h * h)) / np.pi

    expected = segment(h)
    if walls == "xy":
        # What both take is counted once: the part of the disc beyond both chords.
        inside = h * h + k * k < 1
        h, k = np.where(inside, h, 0), np.where(inside, k, 0)
        both = (np.arccos(h) - h * np.sqrt(1 - h * h) - (np.arcsin(k) + k * np.sqrt(1 - k * k)) + 2 * h * k) / (
            2 * np.pi
        )
        expected = expected + segment(np.minimum(y / 1.5, 1)) - np.where(inside, both, 0)
    away = (x > 0.03) & (y > 0.03)
    assert np.abs(found - expected)[away].mean() < 0.012
    assert np.abs(found - expected)[away].max() < 0.06
    assert found[(x < 0.05) & (y > 2)].mean() == pytest.approx(0.5 - 0.01, abs=0.02)
    if walls == "xy":
        assert found[(x < 0.05) & (y < 0.05)].mean() == pytest.approx(0.75 - 0.03, abs=0.03)
    # Grain: neighbours along the wall have the same distance, and must have the same tone.
    assert np.abs(np.diff(found[20:120], axis=0))[:, 5:].mean() < 0.004
    # The frame's edge is no corner.
    assert found[:, -1] == pytest.approx(found[:, -3], abs=0.03)


def test_no_light_leaks_into_a_shut_room_and_a_cut_stays_clear() -> None:
    shell = [("A", box((0, 0, 0), (4, 4, 0.2)), 0), ("B", box((0, 0, 3), (4, 4, 3.2)), 0)]
    shell += [("C", box((0, 0, 0.2), (0.2, 4, 3)), 0), ("D", box((3.8, 0, 0.2), (4, 4, 3)), 0)]
    shell += [("E", box((0.2, 3.8, 0.2), (3.8, 4, 3)), 0), ("F", box((0.2, 0, 0.2), (3.8, 0.2, 3)), 0)]
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1.6)), cuts=(Cut(point=(0, 2, 0), normal=(0, -1, 0)),),
        frame=Frame(width=200, height=200, scale=25), occlusion={"radius": 50.0},
        sun=Sun(azimuth=135, altitude=40, cast_off=True),
    )  # type: ignore[arg-type]  # fmt: skip
    drawing = Drawing(model_of(*shell), view, (400, 400))
    seen, dark = drawing.surface(), drawing.occlusion()
    assert (dark[seen.cap == 255] == 0).all() and (dark[seen.cover == 0] == 0).all()
    # With the half that was cut off the sun finds no way in; without it, it does.
    room = (seen.cover == 255) & (seen.cap == 0)
    assert (drawing.light().shadow[room & (drawing.light().shade < 150)] == 255).all()
    opened = drawing.under(view.model_copy(update={"sun": Sun(azimuth=200, altitude=40)})).light().shadow[room]
    assert (opened == 0).any()


def test_a_penumbra_is_as_wide_as_the_suns_disc_makes_it_and_keeps_the_shadows_middle() -> None:
    """Behind an edge three metres up a disc of six degrees is divided over 3 m · 6° / sin² of the altitude."""
    roof = box((-9, -6, 3), (9, 0, 3.1))
    model = model_of(("Ground", box((-10, -10, -0.5), (10, 10, 0)), 0), ("Roof", roof, 0))
    frame = Frame(width=100, height=100, scale=100)
    shown = {"projection": Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 3, 0)), "frame": frame}
    rows = {}
    for softness in (0.0, 6.0):
        view = ViewSpecification(**shown, sun=Sun(azimuth=180, altitude=60, softness=softness))
        rows[softness] = Drawing(model, view, (500, 500)).light().shadow[:, 150:350] / 255.0
    profile = rows[6.0].mean(1)
    divided = ((profile > 0.02) & (profile < 0.98)).sum() / 50
    assert divided == pytest.approx(3 * np.radians(6) / np.sin(np.radians(60)) ** 2, rel=0.12)
    assert profile.sum() == pytest.approx(rows[0.0].mean(1).sum(), abs=2)
    assert rows[6.0].std(1).max() < 0.03, "grain"
    assert ((rows[0.0] > 0.02) & (rows[0.0] < 0.98)).mean() < 0.01


def test_light_that_is_thrown_back_lifts_what_the_sun_does_not_reach() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4)
    shown = {
        "projection": Parallel(direction=(0, 1, 0), centre=(0, 0, 0)),
        "frame": Frame(width=100, height=100, scale=25),
    }
    sun = Sun(azimuth=100, altitude=30)

    def tone(**words: object) -> np.ndarray:
        return (
            Drawing(model_of(("Ball", ball, 0)), ViewSpecification(**shown, **{"sun": sun, **words}), (200, 200))
            .light()
            .shade
        )

    plain, ground, ambient = tone(), tone(shade={"ground": 1.0}), tone(sun=sun.model_copy(update={"ambient": 0.5}))
    lower, upper = np.s_[130:150, 40:80], np.s_[50:70, 40:80]  # away from the sun, below and above
    assert (plain[lower].astype(int) - ground[lower]).mean() > 2 * (plain[upper].astype(int) - ground[upper]).mean() > 0
    assert ambient[lower].mean() == pytest.approx(plain[lower].mean() / 2, abs=1)


def test_a_part_set_alone_is_seen_whole_and_stands_in_the_shadow_of_the_rest() -> None:
    rows = [YARD, ("Screen", box((-3, -2, 0), (3, -1.9, 4)), 0), ("Subject", box((-1, 0, 0), (1, 1, 2)), 2)]
    model = model_of(*rows).said(sets={"Subject": (2,)})
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(0, 0, 1)), frame=Frame(width=200, height=200, scale=50),
        sun=Sun(azimuth=180, altitude=45),
    )  # fmt: skip
    whole = Drawing(model, view, (300, 300))
    alone = whole.alone("Subject")
    assert whole.result(Need("mask", Match(sets=("Subject",)))).max() == 0  # the screen stands before it
    seen, light = alone.surface(), alone.light()
    assert set(np.unique(seen.part)) == {-1, 2}
    front = (seen.part == 2) & (seen.cover == 255) & (light.shade < 150)
    assert light.shadow[front].mean() > 250
    cells = alone.region_map()
    assert ((cells.light == 1) == (cells.part == 2))[cells.part == 2].any()
    assert (alone.lines().part == 2).all()
    with pytest.raises(ViewError, match="Nobody"):
        whole.alone("Nobody")
    # What a plane has taken away whole is no part that is shown, either.
    sawn = view.model_copy(update={"cuts": (Cut(point=(0, -0.5, 0), normal=(0, 1, 0)),)})
    with pytest.raises(ViewError, match=r"Subject.*no part"):
        whole.under(sawn).alone("Subject")


@pytest.mark.parametrize("name", ["cover", "shadow", "colour", "occlusion", "normals", "mask"])
def test_half_a_pixel_of_shift_against_the_lines_is_noticed_in_every_pass(name: str) -> None:
    """The gradient of each pass lies on the lines; moved by half a pixel it does not any more."""
    model = model_of(
        ("Ground", box((-4, -4, -0.5), (4, 4, 0)), 0), ("Block", box((-1.3, -1.1, 0), (0.9, 1.2, 1.7)), 2),
        ("Drum", trimesh.creation.cylinder(0.7, 1.1, sections=64,
            transform=trimesh.transformations.translation_matrix([2, -2, 0.55])), 0),
    )  # fmt: skip
    view = ViewSpecification(
        projection=Parallel(direction=(0.5, 1, -0.7), centre=(0, 0, 0.4)), frame=Frame(width=200, height=160, scale=50),
        sun=Sun(azimuth=250, altitude=42), occlusion={"radius": 2.0},
    )  # type: ignore[arg-type]  # fmt: skip
    size = (400, 320)
    drawing = Drawing(model, view, size)
    cells = drawing.region_map()
    picture = {
        "cover": lambda: drawing.surface().cover,
        "shadow": lambda: drawing.light().shadow,
        "colour": lambda: drawing.colour()[..., 0],
        "occlusion": lambda: drawing.occlusion(),
        "normals": lambda: normals(drawing.scene, drawing.hiders, drawing.surface())[..., 1],
        "mask": lambda: cells.mask(cells.light == 1, size),
    }[name]().astype(float)  # fmt: skip
    lines, light = drawing.lines(), drawing.light_edges()
    # Corners are dark on both sides of the line in which faces meet: there only outlines tell.
    rows = lines.visible & ((name != "occlusion") | (lines.rank == RANKS.index("outline")))
    cast = np.full(len(light.kind), name != "occlusion")
    start = np.concatenate([lines.from_mm[rows], light.from_mm[cast]]) * 2
    end = np.concatenate([lines.to_mm[rows], light.to_mm[cast]]) * 2
    count = np.maximum(np.ceil(np.linalg.norm(end - start, axis=1) * 4), 1).astype(int)
    which = np.repeat(np.arange(len(count)), count)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[which]
    at = start[which] + t[:, None] * (end - start)[which]
    step = (end - start)[which] / np.maximum(np.linalg.norm(end - start, axis=1), 1e-9)[which, None]
    across = np.column_stack([-step[:, 1], step[:, 0]])

    def jump(shift: np.ndarray) -> float:
        """How much the pass changes from one side of each line to the other, close by; most where it is in register."""
        values = [
            map_coordinates(picture, (at + side * across + shift - 0.5).T[::-1], order=1, mode="nearest")
            for side in (-0.55, 0.55)
        ]
        return float(np.abs(values[1] - values[0]).sum())

    still = jump(np.zeros(2))
    moved = [jump(np.array(s)) for s in ((0.5, 0), (-0.5, 0), (0, 0.5), (0, -0.5))]
    assert max(moved) < 0.985 * still


def test_a_ray_that_slips_through_a_joint_leaves_no_speck_and_a_thin_shadow_stays() -> None:
    dark = np.ones((40, 60), np.float32)
    dark[20, 10] = dark[20, 11] = 0  # slipped through
    dark[:, 40] = 0  # a slit of light
    dark[5, 0:3] = 0  # short, and real
    faces, triangle, part = np.ones(dark.shape, bool), np.zeros(dark.shape, np.int32), np.zeros(1, np.int32)
    found = np.empty_like(dark)
    clear_specks(dark, faces, triangle, part, 0, 40, found)
    assert found[20, 10] == found[20, 11] == 1
    assert (found[:, 40] == 0).all() and (found[5, 0:3] == 0).all() and found.sum() == dark.sum() + 2


@pytest.mark.parametrize("cut", [False, True])
def test_a_model_of_nothing_but_glass_has_every_pass(cut: bool) -> None:
    panes = model_of(("Pane", box((0, 0, 0), (3, 0.02, 2)), 1), ("Second pane", box((0, 2, 0), (3, 2.02, 2)), 1))
    cuts = (Cut(point=(1, 0, 0), normal=(-1, 0, 0)),) if cut else ()
    frame = Frame(width=60, height=40, resolution=60)
    drawing = Drawing(panes, ViewSpecification(projection=Parallel(direction=(0.3, 1, -0.5)), cuts=cuts, frame=frame))
    drawing.compute(PLAIN)
    assert drawing.lines().visible.any() and drawing.region_map().shapes.size > 0
    assert not (drawing.light().shadow > 0).any()  # clear glass casts none
