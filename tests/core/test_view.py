"""The frame is true: to scale, upright, and the same for every pass."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import box, examples, model_of
from warmgraphite.errors import ViewError
from warmgraphite.view.projection import projection_of
from warmgraphite.view.scene import build_scene
from warmgraphite.view.specification import Frame, Oblique, Parallel, Perspective, ViewSpecification, read_view
from warmgraphite.view.surfaces import Plane, clip_triangles

BOX = model_of(("Box", box((0, 0, 0), (4, 6, 3)), 0))


def test_a_metre_at_1_to_50_is_twenty_millimetres() -> None:
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1)), frame=Frame(scale=50))
    frame = projection_of(view.projection, view.frame, BOX.vertices)
    a, b, up = frame.project(np.array([[2.0, 5, 1], [3.0, -1, 1], [2.0, 0, 2]]))
    assert (
        a[:2] == pytest.approx([210, 148.5]) and b[0] - a[0] == pytest.approx(20) and a[1] - up[1] == pytest.approx(20)
    )
    assert a[2] - b[2] == pytest.approx(6)  # depth is metres


def test_a_perspective_agrees_with_similar_triangles() -> None:
    view = ViewSpecification(projection=Perspective(eye=(0, -10, 2), target=(0, 0, 2), field_of_view=90))
    frame = projection_of(view.projection, view.frame, BOX.vertices)
    point = np.array([3.0, 5.0, 4.0])
    x, y, _ = frame.project(point)
    focal = 210.0  # half the width at 45 degrees
    assert (x, y) == (pytest.approx(210 + focal * 3 / 15), pytest.approx(148.5 - focal * 2 / 15))
    assert frame.unproject(frame.project(point)) == pytest.approx(point)


def test_verticals_stay_upright_and_the_target_stays_in_the_middle() -> None:
    view = ViewSpecification(projection=Perspective(eye=(0, -10, 1), target=(1, 0, 6), upright=True))
    frame = projection_of(view.projection, view.frame, BOX.vertices)
    column = frame.project(np.array([[4.0, 3, z] for z in (0.0, 5.0, 9.0)]))
    assert np.ptp(column[:, 0]) == pytest.approx(0, abs=1e-9)
    assert frame.project(np.array([1.0, 0, 6]))[:2] == pytest.approx([210, 148.5])


def test_a_plan_oblique_draws_the_plan_true_and_heights_up_the_paper() -> None:
    spec = Oblique(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0), receding_angle=-90, receding_ratio=0.5)
    frame = projection_of(spec, Frame(scale=100), BOX.vertices)
    origin, east, north, top = frame.project(np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 2]]))
    assert east[:2] - origin[:2] == pytest.approx([10, 0]) and north[:2] - origin[:2] == pytest.approx([0, -10])
    assert top[:2] - origin[:2] == pytest.approx([0, -10])  # two metres at half their height
    assert frame.project(np.array([1.0, 1, 1]) + 3 * frame.sight)[:2] == pytest.approx(
        frame.project(np.array([1.0, 1, 1]))[:2]
    )


def test_without_scale_the_largest_trade_scale_that_fits_is_taken() -> None:
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0)), frame=Frame(width=100, height=100))
    assert build_scene(BOX, view).projection.scale == 50  # 4 m is 80 mm; at 1:25 it would be 160
    assert build_scene(BOX, view).projection.project(np.array([2.0, 3, 1.5]))[:2] == pytest.approx([50, 50])


@settings(max_examples=examples(40, 14), deadline=None)
@given(st.tuples(*[st.floats(-1, 1)] * 3), st.floats(-2, 2))
def test_clipping_keeps_exactly_the_area_on_the_kept_side(normal: tuple[float, float, float], offset: float) -> None:
    n = np.array(normal)
    if np.linalg.norm(n) < 1e-3:
        return
    plane = Plane(n / np.linalg.norm(n), offset)
    rng = np.random.default_rng(3)
    corners = rng.normal(size=(30, 3, 3))
    source = np.arange(30, dtype=np.int32)

    def area(t: np.ndarray) -> float:
        return float(np.linalg.norm(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]), axis=1).sum() / 2)

    kept, _ = clip_triangles(corners, source, plane)
    gone, _ = clip_triangles(corners, source, Plane(-plane.normal, -plane.offset))
    assert area(kept) + area(gone) == pytest.approx(area(corners))
    assert (plane.side(kept) <= 1e-9).all()


@pytest.mark.parametrize(
    ("text", "named"),
    [
        ('{"projection": {"kind": "parallel", "direction": [0, 1, 0]}, "son": {}}', "son"),
        ('{"projection": {"kind": "parallel", "direction": [0, 1, 0], "zoom": 2}}', "zoom"),
        ('{"projection": {"kind": "parallel", "direction": [0, 0, 0]}}', "direction"),
        ('{"projection": {"kind": "parallel", "direction": [0, 0, 1]}}', "up"),
        ('{"projection": {"kind": "perspective", "eye": [0, 0, 0]}}', "target"),
        ('{"name": "X"}', "projection"),
        ('{"projection": ', "JSON"),
        ('{"projection": {"kind": "parallel", "direction": [0, 1, NaN]}}', "direction"),
    ],
)
def test_a_wrong_view_file_is_refused_with_the_field_named(scratch: Path, text: str, named: str) -> None:
    (scratch / "v.json").write_text(text)
    with pytest.raises(ViewError) as caught:
        read_view(scratch / "v.json")
    assert named in str(caught.value) and "\n" not in str(caught.value)


def test_the_example_of_the_contract_is_read() -> None:
    text = {
        "name": "Long section",
        "projection": {"kind": "perspective", "eye": [12, -18, 6], "target": [0, 0, 3], "up": [0, 0, 1],
            "field_of_view": 50, "upright": False},
        "cuts": [{"point": [0, 0, 0], "normal": [0, -1, 0], "role": "cut"},
            {"point": [0, 8, 0], "normal": [0, 1, 0], "role": "limit"}],
        "parts": {"hidden": ["Planting/*"], "uncut": ["Furniture/*"]},
        "sun": {"azimuth": 135, "altitude": 40},
        "frame": {"width": 420, "height": 297, "scale": 100, "resolution": 150},
    }  # fmt: skip
    assert read_view(json.dumps(text)).frame.pixels == (2480, 1754)
