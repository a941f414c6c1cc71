"""Pictures from elsewhere on the drawing: in register, as contours of their tones, traced in a few colours."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage

from tests.core.test_windows import MODEL, QUIET, VIEW, by_hand
from warmgraphite.collage.kinds.few_papers import FewPapers
from warmgraphite.collage.kinds.level_lines import LevelLines
from warmgraphite.collage.kinds.register import RegisterTrace
from warmgraphite.collage.pictures.following import contours_of, grey_of, traced_of
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.pictures.placing import framing_of
from warmgraphite.collage.pictures.specification import ContourSpec, TracedSpec
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.ink.rules import Ink
from warmgraphite.sheet.preview import LayerCache, compose
from warmgraphite.sheet.write import write_drawing

SIZE = (640, 448)


def kept(folder: Path, pixels: np.ndarray) -> tuple[KeptPictures, str]:
    Image.fromarray(pixels).save(folder / "given.png")
    pictures = KeptPictures(folder / "stock")
    return pictures, pictures.take_in(folder / "given.png", "given.png").digest


def shown(pictures: KeptPictures, *traces, size: tuple[int, int] = SIZE, view=VIEW) -> np.ndarray:  # type: ignore[no-untyped-def]
    drawing = Drawing(MODEL, view, size, ink=Ink(), pictures=pictures)
    drawing.compute(needs_of(traces, drawing.ink))
    return compose(drawing.plate(), traces, QUIET, size, LayerCache()).toarray()[..., [2, 1, 0]].astype(float)


def rendered(size: tuple[int, int]) -> np.ndarray:
    """A picture made of the model's own surface pass: each part in a colour, the sky clear."""
    part = Drawing(MODEL, VIEW, size).surface().part
    table = np.array([[200, 60, 40, 255], [40, 160, 60, 255], [30, 60, 200, 128], [0, 0, 0, 0]], np.uint8)
    return table[part]


def test_a_rendering_lies_to_the_pixel_on_the_passes_it_was_made_of(tmp_path: Path) -> None:
    """At its own size pixel by pixel, at another within one; its alpha kept.
    And it says when the camera is another one.
    """
    picture = rendered(SIZE)
    pictures, digest = kept(tmp_path, picture)
    trace = RegisterTrace(id="r", name="R", picture=digest, made_for=framing_of(VIEW))
    part = Drawing(MODEL, VIEW, SIZE).surface().part
    found = shown(pictures, trace)
    want = by_hand(picture[..., :3].astype(float), np.full((448, 640, 3), 255.0), picture[..., 3] / 255)
    assert np.abs(found - want).max() <= 2
    large = shown(pictures, trace, size=(1280, 896))
    fine = Drawing(MODEL, VIEW, (1280, 896)).surface().part
    edge = ndimage.maximum_filter(fine, 5) != ndimage.minimum_filter(fine, 5)
    flat = np.array([[200, 60, 40], [40, 160, 60], [142, 157, 227], [255, 255, 255]], float)[fine]
    assert np.abs(large - flat)[~edge].max() <= 2 and (part >= 0).sum() > 20_000
    assert trace.remarks(VIEW, pictures.has) == ()
    moved = VIEW.model_copy(update={"frame": VIEW.frame.model_copy(update={"width": 161})})
    assert "another one" in trace.remarks(moved, pictures.has)[0]
    assert trace.remarks(VIEW.model_copy(update={"name": "Other"}), pictures.has) == ()
    gone = KeptPictures(tmp_path / "none")
    assert (shown(gone, trace) == 255).all() and "not in the stock" in trace.remarks(VIEW, gone.has)[0]


def test_a_picture_is_fitted_by_two_of_its_points(tmp_path: Path) -> None:
    """Turned, moved and sized so that both lie where they are put, in a picture and as vectors."""
    picture = np.full((300, 400, 4), 255, np.uint8)
    for x, y in ((100, 90), (310, 220)):
        picture[y - 4 : y + 4, x - 4 : x + 4, :3] = 0
    pictures, digest = kept(tmp_path, picture)
    where = {
        "fit": "by two points",
        "shown": ((100 / 400, 90 / 300), (310 / 400, 220 / 300)),
        "onto": ((-50, -20), (35, -30)),
    }
    for trace in (
        RegisterTrace(id="r", name="R", picture=digest, blend="multiply", **where),
        LevelLines(
            id="c",
            name="C",
            picture=digest,
            levels=1,
            as_="areas",
            smooth=0.0,
            dark="#000000",
            light="#000000",
            **where,
        ),
        FewPapers(id="t", name="T", picture=digest, colours=2, smooth=0.0, blend="multiply", **where),
    ):
        dark = 255 - shown(pictures, trace)[..., 0]
        rows, count = ndimage.label(dark > 128)
        assert count == 2, trace.kind
        at = np.array(ndimage.center_of_mass(dark, rows, [1, 2]))[:, ::-1]
        at = (at + 0.5) * 0.25 - [80, 56]
        want = np.array(where["onto"])
        assert np.abs(at[np.argsort(at[:, 0])] - want[np.argsort(want[:, 0])]).max() < 0.3, trace.kind
    with pytest.raises(ValueError, match="must be apart"):
        RegisterTrace(id="r", name="R", shown=((0.1, 0.1), (0.1, 0.1)))


def cloud(height: int = 700, width: int = 1000) -> np.ndarray:
    """A photograph without a building: soft tones and some noise."""
    chance = np.random.default_rng(5)
    grey = ndimage.gaussian_filter(chance.standard_normal((height, width)), 40)
    grey = (grey - grey.min()) / np.ptp(grey) * 230 + 12
    noisy = np.clip(grey + 5 * chance.standard_normal(grey.shape), 0, 255)
    return np.dstack([noisy, noisy * 0.97, noisy * 0.93, np.full_like(noisy, 255)]).astype(np.uint8)


def test_contours_run_where_the_greys_are_theirs_and_bound_what_is_darker(tmp_path: Path) -> None:
    picture = cloud()
    spec = ContourSpec(levels=4, smooth=0.002)
    found = contours_of(picture, spec)
    grey = ndimage.gaussian_filter(grey_of(picture), 2.0)
    low, high = np.percentile(grey, [0.05, 99.95])
    assert found.tones == pytest.approx(high - (high - low) * np.arange(1, 5) / 5, abs=0.01)
    for level, tone in enumerate(found.tones):
        points = np.concatenate(found.rings(level)) * [1000, 700] - 0.5
        there = ndimage.map_coordinates(grey, points.T[::-1], order=1, mode="nearest")
        assert np.abs(there - tone).max() < 0.02 and len(points) > 50
    # As areas: painted, each level covers what is darker than its tone, and no more.
    pictures, digest = kept(tmp_path, picture)
    areas = LevelLines(
        id="c", name="C", picture=digest, levels=4, smooth=0.2, as_="areas", dark="#000000", light="#cccccc"
    )
    drawn = shown(pictures, areas, size=(1000, 700))[..., 0]
    steps = np.searchsorted(-found.tones, -grey, side="left")  # how many contours are above
    want = np.array([255, 204, 136, 68, 0])[steps]
    near = np.abs(grey[..., None] - found.tones).min(-1) < 0.012
    assert (np.abs(drawn - want) <= 3)[~near].mean() > 0.995 and near.mean() < 0.3
    # And as lines they go out as vectors.
    drawing = Drawing(MODEL, VIEW, SIZE, ink=Ink(), pictures=pictures)
    lines = areas.model_copy(update={"as_": "lines"})
    drawing.compute(needs_of((lines,), drawing.ink))
    write_drawing(drawing.plate(), (lines,), QUIET, tmp_path / "a.svg")
    text = (tmp_path / "a.svg").read_text()
    assert "<image" not in text and len(re.findall(r'id="tone-\d', text)) == 4


def test_a_picture_is_traced_in_a_few_colours_without_gaps(tmp_path: Path) -> None:
    chance = np.random.default_rng(7)
    seeds, colours = chance.random((14, 2)) * [1000, 700], [(230, 220, 200), (180, 90, 60), (60, 90, 120), (40, 50, 40)]
    y, x = np.mgrid[:700, :1000]
    nearest = np.argmin((x[..., None] - seeds[:, 0]) ** 2 + (y[..., None] - seeds[:, 1]) ** 2, axis=-1)
    flat = np.array(colours, np.uint8)[nearest % 4]
    noisy = np.clip(flat + 9 * chance.standard_normal(flat.shape), 0, 255)
    picture = np.dstack([noisy, np.full(nearest.shape, 255)]).astype(np.uint8)
    picture[:, :200, 3] = 0
    found = traced_of(picture, TracedSpec(colours=4))
    assert np.abs(np.sort(found.colours.astype(int), axis=0) - np.sort(colours, axis=0)).max() < 8
    pictures, digest = kept(tmp_path, picture)
    drawn = shown(pictures, FewPapers(id="t", name="T", picture=digest, colours=4), size=(1000, 700))
    want = flat.astype(float)
    want[:, :200] = 255
    good = np.abs(drawn - want).max(-1) < 12
    edge = ndimage.maximum_filter(nearest, 9) != ndimage.minimum_filter(nearest, 9)
    edge[:, 192:208] = True
    assert good[~edge].mean() > 0.999 and good.mean() > 0.97
