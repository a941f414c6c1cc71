"""Shadow by sun rays, shade by orientation, and pixels that register with the lines."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.conftest import box, model_of
from tests.core.judge import Judge
from warmgraphite.drawing import Drawing
from warmgraphite.model import Model
from warmgraphite.passes.light import to_sun
from warmgraphite.view.specification import Frame, Parallel, Perspective, Sun, ViewSpecification

PLAN = {"projection": Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0))}
YARD = ("Yard", box((-10, -10, -0.5), (10, 10, 0)), 0)


def test_the_sun_stands_where_azimuth_and_altitude_say() -> None:
    assert to_sun(Sun(azimuth=90, altitude=0)) == pytest.approx([1, 0, 0])  # east
    assert to_sun(Sun(azimuth=180, altitude=45)) == pytest.approx([0, -(0.5**0.5), 0.5**0.5])  # south, half-way up


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


def test_glass_casts_nothing_and_no_sun_casts_nothing() -> None:
    pane = trimesh.Trimesh([[-2, 0, 0], [2, 0, 0], [2, 0, 3], [-2, 0, 3]], [[0, 1, 2], [0, 2, 3]])
    frame = Frame(width=200, height=200, scale=100, resolution=60)
    sheet = model_of(YARD, ("Sheet", pane, 0))
    south, night = Sun(azimuth=180, altitude=40), Sun(azimuth=180, altitude=-5)
    assert Drawing(sheet, ViewSpecification(**PLAN, sun=south, frame=frame)).light().shadow.sum() > 0
    assert Drawing(model_of(YARD, ("Pane", pane, 1)), ViewSpecification(**PLAN, sun=south, frame=frame)).light().shadow.sum() == 0
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
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0), centre=(0, 0, 0)), frame=Frame(scale=50, resolution=97))
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
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0), centre=(1, 0, 1.5)), frame=Frame(scale=50, resolution=50))
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
    assert turned.scene is first.scene and turned.hiders is first.hiders
    assert (turned.light().shadow == Drawing(model, evening).light().shadow).all()
    assert (turned.light().shadow != first.light().shadow).any()
    moved = first.under(morning.model_copy(update={"projection": Parallel(direction=(0, 1, 0))}))
    assert moved.scene is not first.scene
