"""Washes, textures, pictures and adjusting sheets.
Where they lie, how large they are, and that they are the same in any window.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import shapely
import skia
import trimesh
from PIL import Image
from scipy import ndimage

from tests.conftest import DEEP, box, deeper, model_of
from tests.core.cases import FEWEST, drawing_of, judge_of, judged
from tests.core.judge import Camera
from tests.core.test_regions import edges_of, grid
from warmgraphite.canvas.pixels import skia_blend, skia_image
from warmgraphite.canvas.protocol import BLEND_MODES
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.collage.adjusting import adjust
from warmgraphite.collage.edges import Edge
from warmgraphite.collage.fields import field_of, grid_of
from warmgraphite.collage.kinds import KINDS
from warmgraphite.collage.kinds.texture import TextureTrace
from warmgraphite.collage.kinds.wash import Wash
from warmgraphite.collage.palettes import PALETTES, moved
from warmgraphite.collage.pictures.example import made_of
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.pictures.specification import ExampleSpec
from warmgraphite.collage.stock import shipped
from warmgraphite.collage.textures import TEXTURES
from warmgraphite.collage.tones.specification import TonesSpec
from warmgraphite.colour import from_oklab, to_oklab
from warmgraphite.drawing import Drawing, Need, needs_of
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.model import Model
from warmgraphite.passes.surface import Raster
from warmgraphite.regions.query import Any, Match, Not
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, ViewSpecification
from warmgraphite.view.sun import to_sun

RED = "#ff0000"
FLAT = {"flow": 0.0, "rim": 0.0, "bloom": 0.0, "granulation": 0.0, "wet": 0.0, "colour": RED, "second": RED}


def pixels_of(trace, drawing: Drawing) -> np.ndarray:  # type: ignore[no-untyped-def]
    drawing.compute(needs_of((trace,), drawing.ink))
    return trace.finished(drawing.plate())


# Confinement, before rays.


@pytest.mark.parametrize(("model", "view"), judged(FEWEST))
def test_red_lies_only_where_rays_say_that_it_belongs(model: Callable[[], Model], view: ViewSpecification) -> None:
    """For parts, materials, glass, what is lit, what is near.
    A wash and a texture in pure red, against another library's rays through a camera of its own. A pixel next to a
    border is nobody's.
    """
    judge, camera, found = judge_of(model, view), Camera(view), model()
    size = (420, round(420 * view.frame.height / view.frame.width))
    drawing = drawing_of(model, view).sized(size)
    origins, directions = camera.rays(grid(view, size), judge.reach)
    distance, part = judge.first(origins, directions)
    light = judge.light(view, origins, directions, to_sun(view.sun)).reshape(size[::-1])
    shape = lambda column: column.reshape(size[::-1])
    part = shape(part)
    seen, cut = part >= 0, (part >= 0) & (light == 3)
    twice = np.array(
        [p.name.startswith("Floor ") and p.name[6:].isdigit() for p in found.parts]
    )  # given twice, one in the other
    common = int(np.bincount(part[seen & ~cut & ~twice[part]]).argmax())
    material = found.materials[found.parts[common].material].name
    made_of_it = seen & (found.parts.material[part] == found.parts.material[common])
    path = found.parts[common].path
    cases = {
        "part": (Match(parts=(path,)), seen & np.isin(part, [k for k, p in enumerate(found.parts) if p.path == path])),
        "material": (Match(materials=(material,)), made_of_it),
        "lit": (Match(materials=(material,), light=("lit",)), made_of_it & (light == 0)),
        "in shadow": (Match(light=("shadow",), cut=False), light == 1),
    }
    depth = shape(distance * (directions @ camera.forward))
    # The nearest thing may lie at the very edge of the frame, past the middles of its pixels.
    across, down = np.linspace(0, view.frame.width, 2000), np.linspace(0, view.frame.height, 2000)
    rim = np.concatenate(
        [np.column_stack([across, np.full(2000, y)]) for y in (1e-3, view.frame.height - 1e-3)]
        + [np.column_stack([np.full(2000, x), down]) for x in (1e-3, view.frame.width - 1e-3)]
    )
    at_rim = camera.rays(rim, judge.reach)
    near = min(float(depth[seen].min()), float((judge.first(*at_rim)[0] * (at_rim[1] @ camera.forward)).min()))
    middle = float(np.median(depth[seen]))
    cases["near"] = (Match(materials=(material,), depth=(None, middle - near)), made_of_it & (depth < middle))
    if not view.cuts and found.parts.is_glass.any():
        rows = found.parts.is_glass[found.triangle_part]
        panes = trimesh.Trimesh(found.vertices - judge.origin, found.triangles[rows], process=False)
        hit = panes.ray.intersects_first(origins - judge.origin, directions)
        normal = panes.face_normals[hit]
        gap = ((panes.triangles[hit, 0] - (origins - judge.origin)) * normal).sum(1) / np.where(
            np.abs((normal * directions).sum(1)) < 1e-9, 1e-9, (normal * directions).sum(1)
        )
        cases["glass"] = (Match(glass=True), shape((hit >= 0) & (gap < distance)))
    for called, (where, belongs) in cases.items():
        border = edges_of(belongs) | edges_of(cut) | (edges_of(part) if called == "glass" else False)
        belongs = belongs & ~cut
        washed = Wash(id="a", name="a", where=where, **FLAT)  # type: ignore[arg-type]
        laid = TextureTrace(
            id="a", name="a", where=where, texture="render", colours="one tone", colour=RED, variation=0.0
        )
        for trace in (washed, laid) if called != "near" else (washed,):
            found_red = pixels_of(trace, drawing)[..., 3] > 127
            sky = (
                ~seen if called == "glass" and trace.kind == "texture" else np.zeros_like(seen)
            )  # on nothing no texture lies
            agree = (found_red == belongs)[~border & ~sky]
            assert agree.mean() > 0.997, (called, trace.kind, float(agree.mean()))


def test_neighbouring_washes_leave_no_hairline_at_any_size() -> None:
    """Each material with a wash of its own: together they cover every pixel that is of a material, to the last."""
    model = model_of(
        ("A", box((0, 0, 0), (3, 1, 2)), 0), ("B", box((3, 0, 0), (5, 1, 3)), 2), ("C", box((5, 0, 0), (6, 1, 1)), 0)
    )
    view = ViewSpecification(projection=Parallel(direction=(0.3, 1, -0.2)), frame=Frame(width=90, height=60, scale=100))
    stone, wood = Match(materials=("Stone",)), Match(materials=("Wood",))
    for width in (173, 641):
        drawing = Drawing(model, view, (width, round(width * 2 / 3)))
        queries = (stone, wood, Not(of=Any(of=(stone, wood))))
        rows = np.stack(
            [pixels_of(Wash(id="a", name="a", where=q, **FLAT), drawing)[..., 3].astype(int) for q in queries]
        )  # type: ignore[arg-type]
        assert np.abs(rows.sum(0) - 255).max() <= 1 and rows.min() == 0
        assert ((rows > 0).sum(0) > 1).sum() > width / 4  # pixels that two of them share


# True size.


def wall(width: float = 12.0, height: float = 6.0) -> Model:
    return model_of(("Wall", box((0, 0, 0), (width, 0.3, height)), 0))


def courses(profile: np.ndarray, step: float) -> float:
    """The strongest period of a profile sampled every ``step`` metres, between 5 and 50 cm.
    Of what repeats it, or of a part of that.
    """
    profile = profile - ndimage.gaussian_filter1d(profile, 0.4 / step)
    size = 1 << 16
    spectrum = np.abs(np.fft.rfft(profile * np.hanning(len(profile)), size))
    frequency = np.fft.rfftfreq(size, step)
    good = (frequency > 2.0) & (frequency < 20.0)
    return float(1 / frequency[good][np.argmax(spectrum[good])])


def whole(found: float, told: float) -> float:
    """A period of which the found one may be a half, a third or a quarter, as where joints are narrow."""
    return found * min((1, 2, 3, 4), key=lambda n: abs(found * n - told))


@pytest.mark.parametrize(
    ("name", "height"), deeper([("brick", 0.075), ("shingles", 0.16)], [("blocks", 0.225), ("slates", 0.20)])
)
def test_courses_are_as_high_as_they_are(name: str, height: float) -> None:
    """Measured straight on, and in a perspective picture brought back to the wall by the judge's camera.
    Within a hundredth.
    """
    trace = TextureTrace(id="a", name="a", texture=name, weather=0.0)
    straight = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(6, 0, 3)), frame=Frame(width=200, height=120, scale=50)
    )
    drawing = Drawing(wall(), straight, (1600, 960))
    tone = pixels_of(trace, drawing)[..., 1].astype(float)
    rows = tone[40:920, 200:1400].mean(1)
    assert whole(courses(rows, 0.05 * 120 / 960), height) == pytest.approx(height, rel=0.01)
    seen = ViewSpecification(
        projection=Perspective(eye=(-1.5, -4.5, 1.7), target=(3.5, 0, 2.2), field_of_view=60),
        frame=Frame(width=200, height=150),
    )
    drawing, camera = Drawing(wall(), seen, (2000, 1500)), Camera(seen)
    tone = pixels_of(trace, drawing)[..., 1].astype(float)
    z = np.arange(0.3, 3.6, 0.004)
    profile = np.zeros(len(z))
    for x in np.arange(1.5, 4.5, 0.013):
        flat = camera.flat(np.column_stack([np.full(len(z), x), np.zeros(len(z)), z])) * 10 - 0.5
        profile += ndimage.map_coordinates(tone, flat[:, ::-1].T, order=1, mode="nearest")
    assert whole(courses(profile, 0.004), height) == pytest.approx(height, rel=0.01)


def test_a_picture_of_material_keeps_its_real_width(tmp_path: Path) -> None:
    """Stripes of which ten make the picture.
    They lie as far apart as the width that was said, strewn, in rows and in patches.
    """
    stripes = np.where((np.arange(400) // 20) % 2 == 0, 60, 220).astype(np.uint8)
    picture = np.repeat(np.broadcast_to(stripes, (400, 400))[..., None], 3, -1)
    kept = KeptPictures(tmp_path)
    Image.fromarray(np.ascontiguousarray(picture)).save(kept.path("ab"))
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(6, 0, 3)), frame=Frame(width=200, height=120, scale=50)
    )
    for endless in ("in rows", "patches"):
        drawing = Drawing(wall(), view, (800, 480), pictures=kept)
        trace = KINDS["picture"](id="a", name="a", picture="ab", real_width=1.5, endless=endless, evened=0.0)  # type: ignore[call-arg]
        tone = pixels_of(trace, drawing)[..., 1].astype(float)
        assert courses(tone[150:165, 50:750].mean(0), 0.05 * 200 / 800) == pytest.approx(0.15, rel=0.02), endless


def test_a_large_wall_repeats_nothing_but_its_courses() -> None:
    """The autocorrelation of sixty metres of wall has no peak beyond those of the bond itself."""
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(30, 0, 3)), frame=Frame(width=610, height=70, scale=100)
    )
    for name in ("render", "rubble", "lawn", "brick")[:: 1 if DEEP else 3]:
        drawing = Drawing(wall(60, 6), view, (3050, 350))
        tone = pixels_of(TextureTrace(id="a", name="a", texture=name, joints=0.0), drawing)[40:310, 40:3010, 1].astype(
            float
        )
        tone -= ndimage.gaussian_filter(tone, 20)
        tone -= tone.mean(1, keepdims=True)  # courses lie level, all along
        power = np.abs(np.fft.fft2(tone, (512, 8192))) ** 2
        found = np.fft.ifft2(power).real
        found /= found[0, 0]
        assert found[:40, 60:2000].max() < 0.12, name


def test_textures_are_the_same_in_any_window_and_quieter_from_afar(tmp_path: Path) -> None:
    """Windows fit, to a level; a picture made smaller is what is drawn small.
    And what is finer than pixels does not glitter.
    """
    seen = Perspective(eye=(-6, -10, 3), target=(5, 0, 2), field_of_view=60)
    view = ViewSpecification(projection=seen, frame=Frame(width=120, height=80))
    for name in TEXTURES if DEEP else ("brick", "gravel", "mesh", "render"):
        trace = TextureTrace(id="a", name="a", texture=name)
        whole = Drawing(wall(), view, (480, 320))
        one = pixels_of(trace, whole).astype(int)
        if name in ("brick", "gravel", "meadow"):
            tiled = TiledDrawing(
                Drawing(wall(), view, (480, 320)), tmp_path / name, [(0, 0, 250, 320), (250, 0, 230, 320)]
            )
            tiled.compute(needs_of((trace,), whole.ink))
            two = tiled.plate().painted(trace.finished).astype(int)
            assert np.abs(one - two).max() <= 2, name
        if name == "mesh":  # one sees through it
            assert 0.005 < one[..., 3].mean() / 255 < 0.5
            continue
        large = pixels_of(trace, Drawing(wall(), view, (1440, 960))).astype(float)
        smaller = large.reshape(320, 3, 480, 3, 4).mean((1, 3))
        inside = ndimage.binary_erosion(one[..., 3] == 255, iterations=3)
        gap = np.abs(smaller - one)[inside]
        spread = np.std(large.reshape(-1, 4)[large.reshape(-1, 4)[:, 3] == 255][:, :3])
        assert gap.mean() < 0.45 * spread + 2.0, (name, gap.mean(), spread)
        far = Drawing(wall(), view.model_copy(update={"frame": Frame(width=120, height=80, resolution=20)}), (30, 20))
        tiny = pixels_of(trace, far)
        assert np.std(tiny[tiny[..., 3] == 255][:, 1]) < max(0.6 * spread, 6.0), name


# Edges and fields.


def test_distances_are_those_of_geometry_and_edges_take_what_they_are_told() -> None:
    size = grid_of((100, 80))
    x, y = np.meshgrid((np.arange(size[0]) + 0.5) * 100 / size[0], (np.arange(size[1]) + 0.5) * 80 / size[1])
    inside = np.hypot(x - 50, y - 40) < 25
    field = field_of(np.where(inside, 0, -1).astype(np.int32), (100.0, 80.0))
    away = field.away / 128
    assert np.abs(away - np.abs(np.hypot(x - 50, y - 40) - 25)).max() < 0.3
    model = wall(4, 4)
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 2)), frame=Frame(width=100, height=100, scale=50)
    )
    drawing = Drawing(model, view, (500, 500))
    plain = pixels_of(Wash(id="a", name="a", where=Match(parts=("Wall",)), **FLAT), drawing)[..., 3].astype(int)  # type: ignore[arg-type]
    assert plain[250, 52:448].min() == 255 and plain[250, :48].max() == 0
    for edge in Edge.__args__[1:]:  # type: ignore[attr-defined]
        for outward in (False, True):
            trace = Wash(
                id="a", name="a", where=Match(parts=("Wall",)), edge=edge, edge_reach=5, outward=outward, **FLAT
            )  # type: ignore[arg-type]
            found = pixels_of(trace, drawing)[..., 3].astype(int)
            assert found[200:300, 200:300].min() == 255, edge
            changed = np.argwhere(np.abs(found - plain) > 3)
            gap = np.minimum(np.abs(changed - 50), np.abs(changed - 450)).min(1) / 5  # millimetres from the border
            assert len(changed) > 500 and gap.max() < 7.5, (edge, outward)
            assert (found[plain == 0].max() > 0) == outward, edge
    feathered = pixels_of(
        Wash(id="a", name="a", where=Match(parts=("Wall",)), edge="feathered", edge_reach=8, **FLAT),
        drawing,  # type: ignore[arg-type]
    )[250, 50:100, 3].astype(int)
    assert (np.diff(feathered) >= -1).all() and feathered[20] == pytest.approx(127, abs=8)


# Washes.


def test_a_wash_thins_out_leaves_white_and_carries_its_pigment_to_the_rim() -> None:
    model = model_of(("A", box((0, 0, 0), (4, 1, 4)), 0), ("B", box((4, 0, 0), (8, 1, 4)), 2))
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(4, 0, 2)), frame=Frame(width=180, height=100, scale=50)
    )
    drawing = Drawing(model, view, (900, 500))
    bare = {
        "flow": 0.0,
        "bloom": 0.0,
        "granulation": 0.0,
        "wet": 0.0,
        "colour": "#a0b0c0",
        "where": Match(parts=("A", "B")),
    }

    def tone(**said: object) -> np.ndarray:
        return pixels_of(Wash(id="a", name="a", **{**bare, "rim": 0.0, **said}), drawing).astype(float)  # type: ignore[arg-type]

    even = tone()
    assert even[250, 200, :3].tolist() == pytest.approx(
        [0xA0, 0xB0, 0xC0], abs=1
    )  # density 1 is the pigment's own colour
    twice = tone(density=2.0)
    assert twice[250, 200, 0] == pytest.approx(
        255 * (0xA0 / 255) ** 2, abs=1
    )  # its transmittance to the power of its density
    rim = tone(rim=1.0, rim_width=0.6)
    assert rim[250, 51:54, 0].min() < even[250, 52, 0] - 9 and rim[250, 250, 0] == pytest.approx(
        even[250, 250, 0], abs=1
    )
    white = tone(white=1.0, holds="materials")
    assert white[250, 446:454, 3].min() < 60 and white[250, 250, 3] == 255  # paper between the two, where they meet
    graded = tone(graded="down each face", fade=1.0)
    assert graded[60, 200, 0] < 170 and graded[440, 200, 0] > 240
    lost = tone(rim=0.5, lost=1.0)
    assert lost[250, 60:440, 0].max() > even[250, 200, 0] + 5


def test_colours_of_materials_are_moved_into_a_palette_and_never_out_of_it() -> None:
    own = np.random.default_rng(2).uniform(0, 1, (200, 3))
    assert np.abs(from_oklab(to_oklab(own)) - own).max() < 1e-6
    for name in PALETTES:
        whole = moved(own, name, 1.0, lightest=0.0)
        pigments = to_oklab(np.array([[int(p[i : i + 2], 16) for i in (1, 3, 5)] for p in PALETTES[name]]) / 255)
        gap = np.linalg.norm((to_oklab(whole)[:, None] - pigments[None])[..., 1:], axis=-1).min(1)
        assert np.quantile(gap, 0.9) < 0.02, (
            name
        )  # hue and strength are a pigment's, but where no screen could show that
        assert np.allclose(moved(own, name, 0.0, lightest=0.0), own, atol=1e-6)
    assert to_oklab(moved(own, "kiln", 0.75))[:, 0].min() > 0.4


# Adjusting sheets, against the formulas they stand on.


def test_adjusting_sheets_do_what_is_published() -> None:
    rng = np.random.default_rng(4)
    c = rng.uniform(0, 1, (500, 3)).astype(np.float32)
    sheet = lambda kind, **said: KINDS[kind](id="a", name="a", **said)  # type: ignore[attr-defined]
    luminance = c @ np.array([0.2126, 0.7152, 0.0722])
    # Filter Effects Module Level 1: brightness is a slope, contrast a slope about the middle.
    assert np.allclose(sheet("light-and-contrast", light=1.4).change(c), np.clip(c * 1.4, 0, 1), atol=1e-5)
    assert np.allclose(sheet("light-and-contrast", contrast=0.5).change(c), (c - 0.5) * 0.5 + 0.5, atol=1e-5)
    grey = sheet("hue-and-strength", strength=0.0).change(c)
    assert np.allclose(grey, (c @ np.array([0.213, 0.715, 0.072]))[:, None], atol=2e-3)
    assert np.allclose(sheet("hue-and-strength", turn=0.0, strength=1.0).change(c), c, atol=1e-4)
    turned = c.astype(float)
    for _ in range(3):
        turned = (
            sheet("hue-and-strength", turn=120.0).change(turned.astype(np.float32) * 0.4 + 0.3).astype(float) / 0.4
            - 0.75
        )
    assert np.abs(turned - c).mean() < 0.08  # three thirds of a turn
    levels = sheet("black-and-white", black=0.2, white=0.8, middle=2.0).change(c)
    assert np.allclose(levels, np.clip((c - 0.2) / 0.6, 0, 1) ** 0.5, atol=1e-4)
    curve = sheet("tone-curve", darks=0.1, middles=0.5, lights=0.9)
    assert np.allclose(curve.change(np.array([[0.25, 0.5, 0.75]], np.float32)), [[0.1, 0.5, 0.9]], atol=2e-3)
    ramp = curve.change(np.repeat(np.linspace(0, 1, 400, dtype=np.float32)[:, None], 3, 1))[:, 0]
    assert (np.diff(ramp) >= 0).all() and np.allclose(sheet("tone-curve").change(c), c, atol=1e-3)
    one = sheet("single-hue", dark="#000000", light="#ff8000").change(c)
    assert np.allclose(one, luminance[:, None] * [1, 128 / 255, 0], atol=1e-4)
    white = sheet("inverted", paper="#204060", lines="#ffffff").change(np.array([[0, 0, 0], [1, 1, 1]], np.float32))
    assert np.allclose(white, [[1, 1, 1], [32 / 255, 64 / 255, 96 / 255]], atol=1e-4)
    lifted = sheet("for-print").change(c)
    assert lifted.min() >= 0.06 and (lifted >= c - 1e-3).all()
    warm = sheet("warmth", warmth=0.6).change(c)
    assert (warm[:, 0] > c[:, 0]).all() and (warm[:, 2] < c[:, 2]).all()
    assert np.allclose(warm @ [0.2126, 0.7152, 0.0722], luminance, atol=0.06)
    # Half as opaque, half of it; never a colour where nothing lies.
    pixels = np.zeros((2, 2, 4), np.uint8)
    pixels[0] = [100, 50, 20, 200]
    adjust(pixels, None, sheet("light-and-contrast", light=2.0), 0.5)
    assert pixels[0, 0].tolist() == [150, 75, 30, 200] and not pixels[1].any()


def test_blend_modes_are_those_of_the_compositing_standard() -> None:
    """Each of the sixteen over an opaque backdrop, against the formulas of Compositing and Blending Level 1."""
    rng = np.random.default_rng(8)
    below, above = (rng.integers(0, 256, (40, 40, 4), np.uint8) for _ in range(2))
    below[..., 3], above[..., 3] = 255, 255
    b, s = below[..., :3] / 255, above[..., :3] / 255
    lum = lambda c: (c @ [0.3, 0.59, 0.11])[..., None]
    sat = lambda c: (c.max(-1) - c.min(-1))[..., None]

    def clipped(c: np.ndarray) -> np.ndarray:
        level, low, high = lum(c), c.min(-1, keepdims=True), c.max(-1, keepdims=True)
        c = np.where(low < 0, level + (c - level) * level / np.where(level - low == 0, 1, level - low), c)
        return np.where(high > 1, level + (c - level) * (1 - level) / np.where(high - level == 0, 1, high - level), c)

    with_lum = lambda c, level: clipped(c + level - lum(c))

    def with_sat(c: np.ndarray, amount: np.ndarray) -> np.ndarray:
        low, high = c.min(-1, keepdims=True), c.max(-1, keepdims=True)
        return np.where(high > low, (c - low) / np.where(high > low, high - low, 1) * amount, 0)

    hard = lambda one, two: np.where(two <= 0.5, one * 2 * two, one + (2 * two - 1) - one * (2 * two - 1))
    soft = np.where(
        s <= 0.5,
        b - (1 - 2 * s) * b * (1 - b),
        b + (2 * s - 1) * (np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b)) - b),
    )
    formula = {
        "normal": s, "multiply": b * s, "screen": b + s - b * s, "overlay": hard(s, b), "darken": np.minimum(b, s),
        "lighten": np.maximum(b, s),
        "color-dodge": np.where(b == 0, 0, np.where(s == 1, 1, np.minimum(1, b / np.where(s == 1, 1, 1 - s)))),
        "color-burn": np.where(b == 1, 1, np.where(s == 0, 0, 1 - np.minimum(1, (1 - b) / np.where(s == 0, 1, s)))),
        "hard-light": hard(b, s), "soft-light": soft, "difference": np.abs(b - s), "exclusion": b + s - 2 * b * s,
        "hue": with_lum(with_sat(s, sat(b)), lum(b)), "saturation": with_lum(with_sat(b, sat(s)), lum(b)),
        "color": with_lum(s, lum(b)), "luminosity": with_lum(b, lum(s)),
    }  # fmt: skip
    assert set(formula) == set(BLEND_MODES)
    for name, wanted in formula.items():
        surface = skia.Surface(40, 40)
        surface.getCanvas().drawImage(skia_image(below), 0, 0)
        surface.getCanvas().drawImage(
            skia_image(above), 0, 0, skia.SamplingOptions(), skia.Paint(BlendMode=skia_blend(name))
        )
        found = surface.toarray(colorType=skia.kRGBA_8888_ColorType)[..., :3] / 255
        assert np.abs(found - wanted).max() < 0.02, name


def test_a_sheet_changes_all_beneath_it_or_the_one_beneath_and_no_more() -> None:
    model = wall(4, 4)
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 2)), frame=Frame(width=100, height=100, scale=50)
    )
    drawing = Drawing(model, view, (200, 200))
    part = Match(parts=("Wall",))
    first = Wash(id="one", name="One", where=part, **{**FLAT, "colour": "#804020"}, blend="normal")  # type: ignore[arg-type]
    second = Wash(id="two", name="Two", where=None, **{**FLAT, "colour": "#c0c0c0"}, blend="multiply")  # type: ignore[arg-type]
    paper = KINDS["paper"](id="paper", name="Paper", grain=0.0, colour="#ffffff")  # type: ignore[call-arg]
    grey = lambda on: KINDS["hue-and-strength"](id="hue", name="Hue", strength=0.0, acts_on=on, where=part)  # type: ignore[call-arg]

    def shown(*traces) -> np.ndarray:  # type: ignore[no-untyped-def]
        from warmgraphite.collage.stack import layers

        drawing.compute(needs_of(traces, drawing.ink))
        plate = drawing.plate()
        return laid_flat(plate, list(layers(plate, traces, 0.0)), (200, 200))[0][..., [2, 1, 0, 3]].astype(int)

    plain, one, all_of_it = (
        shown(paper, first, second), shown(paper, first, grey("the sheet beneath"), second),
        shown(paper, first, second, grey("all beneath"))
    )  # fmt: skip
    middle, beside = (100, 100), (5, 5)
    assert np.ptp(plain[middle][:3]) > 40 and np.ptp(one[middle][:3]) <= 2 and np.ptp(all_of_it[middle][:3]) <= 2
    assert (plain[beside] == one[beside]).all() and (plain[beside] == all_of_it[beside]).all()
    off = shown(paper, first.model_copy(update={"on": False}), grey("the sheet beneath"), second)
    assert (off == shown(paper, second)).all()  # with its sheet it goes


def test_tone_steps_are_shapes_one_within_the_other(yard: Model) -> None:
    """Each step is all that is at least so dark, as the passes say it pixel by pixel; in documents they are shapes."""
    view = ViewSpecification(
        projection=Perspective(eye=(-6, -12, 7), target=(2, 0, 1), field_of_view=50), frame=Frame(width=160, height=110)
    )
    drawing, spec = Drawing(yard, view, (480, 330)), TonesSpec(steps=4)
    shapes = drawing.result(Need("tones", spec))
    assert len(shapes) == 3 and all(s.is_valid for s in shapes)
    assert all(inner.difference(outer.buffer(0.03)).area < 0.01 * inner.area for outer, inner in pairwise(shapes))
    fine = drawing.sized((640, 440))
    seen, light, corners = fine.surface(), fine.light(), fine.result("corners") / 255
    lit = np.minimum(1 - 0.55 * (light.shadow / 255), 1 - 0.45 * (light.shade / 255))
    level = (1 - lit * (1 - 0.5 * ndimage.gaussian_filter(corners, 0.72))) / (1 - 0.45 * 0.5) * 3 + 0.5
    level[seen.cover < 128] = 0
    rng = np.random.default_rng(1)
    rows, columns = rng.integers(2, 438, 4000), rng.integers(2, 638, 4000)
    points = shapely.points((columns + 0.5) / 4, (rows + 0.5) / 4)
    told = sum(shapely.contains(s, points).astype(int) for s in shapes)
    clear = np.abs(level[rows, columns] - np.round(level[rows, columns])) > 0.03
    assert (told == np.clip(np.floor(level[rows, columns]), 0, 3))[clear].mean() > 0.98
    trace = KINDS["tone-steps"](id="tones", name="Tones", steps=4)  # type: ignore[call-arg]
    canvas = SvgCanvas(160, 110, title="Tones")
    trace.draw(canvas, drawing.plate())
    assert canvas.document().count("<path") == 3 and "<image" not in canvas.document()


# Pictures.


def test_what_is_strewn_has_the_examples_colours_and_no_tile() -> None:
    rng = np.random.default_rng(3)
    grain = ndimage.gaussian_filter(rng.normal(size=(256, 256)), 1.5, mode="wrap")
    tone = np.clip(128 + 60 * np.sign(grain) * np.abs(grain / grain.std()) ** 0.5, 0, 255)
    example = np.stack([tone, tone * 0.8, 255 - tone, np.full_like(tone, 255)], -1).astype(np.uint8)
    found = made_of(example, ExampleSpec(endless="strewn"))
    from warmgraphite.collage.kernels.picturing import Example, Repeat, picture_rows
    from warmgraphite.collage.kernels.records import Faces, Window
    from warmgraphite.collage.lying import on_paper

    size = (1024, 1024)
    lies = on_paper(1000.0, (0.0, 0.0))  # a millimetre is a metre
    out = np.empty((*size, 4), np.uint8)
    faces = Faces(np.zeros(size, np.int32), lies.rows(), lies.table, lies.usual, lies.lying)
    held = Example(found.texels, found.start, found.shape, found.table, np.ascontiguousarray(found.axes), found.mean)
    repeat = Repeat(int(found.kind), 1.0, float(found.aspect), 1.0, 0.0, 3)
    picture_rows(0, 1024, Window(0.0, 0.0, 1 / 256, 1 / 256), faces, np.full(size, 255, np.uint8), held, repeat, out)
    for channel in range(3):  # the histogram is kept, not flattened towards grey
        told = np.quantile(example[..., channel], (0.1, 0.5, 0.9)), np.quantile(out[..., channel], (0.1, 0.5, 0.9))
        assert np.abs(told[0] - told[1]).max() < 22, channel
        assert out[..., channel].std() == pytest.approx(example[..., channel].std(), rel=0.15)
    level = out[..., 0].astype(float) - out[..., 0].mean()
    power = np.fft.ifft2(np.abs(np.fft.fft2(level)) ** 2).real
    assert (power / power[0, 0])[12:512, 12:512].max() < 0.1  # nothing comes again, at 256 pixels or anywhere


def test_a_photograph_is_straightened_and_evened() -> None:
    y, x = np.mgrid[0:300, 0:300] / 300
    checks = (
        (((x * 6).astype(int) + (y * 6).astype(int)) % 2 * 100 + 60 + 80 * x)[..., None].repeat(4, -1).astype(np.uint8)
    )
    checks[..., 3] = 255
    corners = ((0.1, 0.05), (0.9, 0.2), (0.8, 0.95), (0.05, 0.7))
    image = Image.fromarray(checks, "RGBA")
    # The same seen aslant: what PIL makes of it is brought back by the four corners.
    from warmgraphite.collage.pictures.example import _straightened

    places = np.array(corners) * 300
    rows, told = [], []
    for (u, v), (px, py) in zip([(0, 0), (300, 0), (300, 300), (0, 300)], places, strict=True):
        rows += [[px, py, 1, 0, 0, 0, -u * px, -u * py], [0, 0, 0, px, py, 1, -v * px, -v * py]]
        told += [u, v]
    aslant = image.transform(
        (300, 300),
        Image.Transform.PERSPECTIVE,
        np.linalg.solve(np.array(rows), np.array(told)).tolist(),
        Image.Resampling.BICUBIC,
    )
    back = _straightened(np.asarray(aslant), corners)
    again = np.asarray(image.resize(back.shape[1::-1]), np.float32) / 255
    assert np.abs(back[8:-8, 8:-8, 0] - again[8:-8, 8:-8, 0]).mean() < 0.06
    even = made_of(checks, ExampleSpec(endless="in rows", evened=1.0))
    first = even.texels[: even.shape[0, 0] * even.shape[0, 1]].reshape(*even.shape[0], 4)[..., 0]
    assert (
        abs(first[:, :60].mean() - first[:, -60:].mean())
        < 0.1
        < abs(checks[:, :60, 0].mean() - checks[:, -60:, 0].mean()) / 255
    )


def test_all_of_the_stock_can_be_laid_over_any_drawing() -> None:
    model = model_of(("A", box((0, 0, 0), (3, 2, 2)), 0), ("Pane", box((3, 0, 0), (3.1, 2, 2)), 1))
    cut = (Cut(point=(0, 1, 0), normal=(0, -1, 0)),)
    view = ViewSpecification(
        projection=Parallel(direction=(0.4, 1, -0.3)), cuts=cut, frame=Frame(width=60, height=40, scale=100)
    )
    drawing = Drawing(model, view, (120, 80))
    assert len(shipped()) > 60 and len({i.id for i in shipped()}) == len(shipped())
    for item in shipped():
        assert item.trace.model_dump() == type(item.trace).model_validate(item.trace.model_dump()).model_dump()
        drawing.compute(needs_of((item.trace,), drawing.ink))
    assert Raster.of((120, 80)) == drawing.plate().raster
