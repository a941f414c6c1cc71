"""Backdrops: behind everything, on the horizon, as large as they are said to be, the same in every window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import box, model_of
from warmgraphite.collage.backdrops import BACKDROPS
from warmgraphite.collage.kinds.backdrop import BackdropTrace
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.stock import shipped
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.ink.rules import Ink
from warmgraphite.view.specification import Frame, Parallel, Perspective, ViewSpecification

SIZE = (480, 336)
MODEL = model_of(
    ("House", box((-2, 8, -0.2), (3, 12, 3)), 0), ("Ground", box((-200, 4, -0.5), (200, 400, 0)), 2),
    ("Pane", box((4, 8, 0), (8, 8.02, 4)), 1)
)  # fmt: skip
VIEW = ViewSpecification(
    projection=Perspective(eye=(1, -6, 1.6), target=(1, 10, 1.6), field_of_view=60, upright=True),
    frame=Frame(width=160, height=112),
)
PLAIN = {"ends": "clean", "short": 0.0, "tone": "#202020", "second": "#202020", "third": "#202020"}


def drawing_of(
    view: ViewSpecification = VIEW, size: tuple[int, int] = SIZE, pictures: KeptPictures | None = None
) -> Drawing:
    return Drawing(MODEL, view, size, ink=Ink(), pictures=pictures)


def pixels(trace: BackdropTrace, drawing: Drawing) -> np.ndarray:
    drawing.compute(needs_of((trace,), drawing.ink))
    return trace.finished(drawing.plate())


def backdrop(scene: str, **said) -> BackdropTrace:  # type: ignore[no-untyped-def]
    return BackdropTrace(id="b", name="B", scene=scene, **(PLAIN | said))


@pytest.mark.parametrize("scene", BACKDROPS)
def test_it_stands_behind_everything_and_is_fainter_through_panes(scene: str) -> None:
    drawing = drawing_of()
    seen = drawing.surface()
    high = {"scale": 3.0} if not BACKDROPS[scene].above else {}
    free, through, blind = (pixels(backdrop(scene, through=t, **high), drawing) for t in (1.0, 0.4, 0.0))
    sky = (seen.part < 0) & (seen.cover == 0)
    open_, pane = sky & (seen.glass == 0), sky & (seen.glass == 255)
    assert not free[seen.cover == 255].any() and (free[open_][:, 3] > 20).mean() > 0.2
    assert np.array_equal(free[open_], through[open_])
    behind = free[pane][:, 3].astype(float)
    assert (behind > 40).sum() > 100
    assert np.abs(through[pane][:, 3] - 0.4 * behind).max() <= 1 and not blind[pane].any()


@pytest.mark.parametrize("scene", BACKDROPS)
def test_it_is_the_same_in_a_window_and_when_the_paper_is_drawn_out(scene: str) -> None:
    """Windows of a larger picture meet without a seam; paper added at one side moves nothing."""
    trace = backdrop(scene, ends="torn", ends_reach=3.0, scale=1.7)
    whole = pixels(trace, drawing_of()).astype(int)
    drawing = drawing_of()
    part = pixels(trace, drawing.windowed((128, 64, 256, 200))).astype(int)
    alike = lambda a, b: (
        np.abs(a - b).max() <= 24 and np.abs(a - b).mean() < 0.02
    )  # but for the last bit of an edge's share
    assert alike(part, whole[64:264, 128:384]) and np.ptp(whole[..., 3]) > 40
    frame = VIEW.frame.model_copy(update={"width": 200.0, "shift": (-20.0, 0.0)})
    # As wide an angle as before on what was there before.
    wider = VIEW.model_copy(update={"frame": frame,
        "projection": VIEW.projection.model_copy(update={"field_of_view": 2 * np.degrees(np.arctan(np.tan(np.radians(30)) * 200 / 160))})})  # fmt: skip
    out = pixels(trace.model_copy(update={"ends": "clean"}), drawing_of(wider, (600, 336))).astype(int)
    clean = pixels(trace.model_copy(update={"ends": "clean"}), drawing_of()).astype(int)
    assert alike(out[:, :480], clean)
    assert np.abs(pixels(trace.model_copy(update={"seed": 5}), drawing_of()).astype(int) - whole).mean() > 0.3


def test_it_stands_on_the_horizon_and_grows_with_its_scale() -> None:
    drawing = drawing_of()
    drawing.compute(("frame",))
    tops = []
    for scale in (1.0, 2.0):
        found = pixels(backdrop("town", scale=scale, seed=3, through=1.0), drawing)[..., 3] > 30
        tops.append(np.flatnonzero(found.any(1))[0])
    horizon = 56.0  # level sight at the middle of the frame
    trace = backdrop("town", raised=9.0, aside=20.0)
    places = trace.places(drawing.plate())
    assert places == pytest.approx({"horizon": horizon - 9, "middle": 80 + 20}, abs=1e-6)
    heights = horizon - np.array(tops) * (112 / 336)
    assert heights[0] > 8
    # Of a wider stretch of it, seen smaller, the highest is higher; but it is nothing like as high as at twice the
    # scale.
    assert 1.2 < heights[1] / heights[0] < 2.6
    sky = pixels(backdrop("clear"), drawing)[..., 3]
    assert sky[: int(0.45 * 336)].mean() > 100 and not sky[int(0.53 * 336) :, :60].any()
    raised = pixels(backdrop("clear", raised=15.0), drawing)[..., 3]
    assert not raised[int(0.42 * 336) : int(0.48 * 336)].any()


def test_one_who_looks_down_sees_no_horizon_and_an_elevation_has_one_at_the_foot_of_its_sky() -> None:
    down = VIEW.model_copy(update={"projection": Parallel(direction=(0, 0.4, -1), centre=(0, 8, 0))})
    assert (
        not pixels(backdrop("hills"), drawing_of(down)).any()
        and backdrop("hills").places(drawing_of(down).plate()) == {}
    )
    front = VIEW.model_copy(
        update={
            "projection": Parallel(direction=(0, 1, 0), centre=(0, 0, 2)),
            "frame": VIEW.frame.model_copy(update={"scale": 100}),
        }
    )
    drawing = drawing_of(front)
    drawing.compute(needs_of((backdrop("wood"),), drawing.ink))
    places = backdrop("wood").places(drawing.plate())
    assert places["horizon"] == pytest.approx(
        56 + 20, abs=0.4
    )  # the ground's edge, two metres below the middle at 1:100


def test_a_picture_stands_with_its_own_horizon_on_the_drawings(tmp_path: Path) -> None:
    picture = np.zeros((300, 600, 3), np.uint8)
    picture[:180], picture[180:] = (250, 40, 40), (40, 40, 250)
    Image.fromarray(picture).save(tmp_path / "p.png")
    pictures = KeptPictures(tmp_path / "stock")
    digest = pictures.take_in(tmp_path / "p.png", "p.png").digest
    drawing = drawing_of(pictures=pictures)
    found = pixels(backdrop("picture", picture=digest, line=0.6, scale=0.5, raised=10.0), drawing)
    column = found[:, 300]
    rows = np.flatnonzero(column[:, 3] > 250)
    red = column[rows][:, 0] > column[rows][:, 2]
    assert rows[red].max() * (112 / 336) == pytest.approx(56 - 10, abs=0.5) and red.any() and not red.all()
    grey = pixels(backdrop("picture", picture=digest, line=0.6, scale=0.5, grey=1.0), drawing)
    assert np.ptp(grey[..., :3].astype(int), axis=-1).max() <= 2 and grey.any()
    lost = drawing_of(pictures=KeptPictures(tmp_path / "none"))
    assert not pixels(backdrop("picture", picture=digest), lost).any()
    assert "not in the stock" in backdrop("picture", picture=digest).remarks(VIEW, lambda _: False)[0]


def test_all_of_them_lie_in_stock_and_one_that_is_not_there_is_refused() -> None:
    assert {i.trace.scene for i in shipped() if i.group == "backdrops"} == set(BACKDROPS) and len(BACKDROPS) >= 7  # type: ignore[attr-defined]
    with pytest.raises(ValueError, match="no backdrop"):
        BackdropTrace(id="b", name="B", scene="moon")
