"""The canvas.
Curves, pens, clips, masks, turns and gradients, the same on pixels, in SVG, in PDF and from a journal.
"""

from __future__ import annotations

import io

import numpy as np
import pikepdf
import pytest
import shapely
import skia
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import examples
from warmgraphite.canvas.bounds import Bounds
from warmgraphite.canvas.journal import Journal
from warmgraphite.canvas.pixels import SkiaCanvas, raster
from warmgraphite.canvas.protocol import Canvas, Gradient, Path, Stroke
from warmgraphite.canvas.svg import SvgCanvas

ROUND = (
    Path().move(20, 5).curve(28.284, 5, 35, 11.716, 35, 20).curve(35, 28.284, 28.284, 35, 20, 35).line(20, 20).close()
)
TURN = (float(np.cos(0.4)), float(np.sin(0.4)), -float(np.sin(0.4)), float(np.cos(0.4)), 12.0, 2.0)


def drawn(canvas: Canvas) -> None:
    """A page with one of everything."""
    canvas.path(ROUND, fill="#c04020", stroke=Stroke(0.8, "#202020"))
    canvas.path(
        Path.of([np.array([(2, 2), (12, 2), (12, 12), (2, 12)]), np.array([(5, 5), (9, 5), (9, 9), (5, 9)])]),
        fill="#2050a0",
    )
    canvas.path(
        Path.of([np.array([(40, 2), (58, 2), (58, 12), (40, 12)])]),
        fill=Gradient((40, 0), (58, 0), ((0, "#000000", 1), (1, "#ff0000", 0.2))),
    )
    canvas.path(Path().move(40, 18).line(58, 18), stroke=Stroke(2, "#107010", cap="butt"))
    canvas.path(Path().move(42, 24).line(56, 24), stroke=Stroke(2, "#107010", cap="square"))
    with canvas.clip_path(Path.of([np.array([(2, 24), (14, 24), (8, 38)])])):
        canvas.fill([np.array([(0, 20), (20, 20), (20, 40), (0, 40)])], "#808020")
    with canvas.mask(np.tile(np.linspace(0, 255, 64).astype(np.uint8), (16, 1)), 40, 28, 18, 5):
        canvas.fill([np.array([(38, 26), (60, 26), (60, 36), (38, 36)])], "#000000")
    with canvas.transform(TURN):
        canvas.fill([np.array([(14, 26), (24, 26), (24, 30), (14, 30)])], "#602080")
    wave = np.column_stack([np.linspace(40, 58, 60), 37 + np.sin(np.linspace(0, 9, 60))])
    canvas.ribbons(wave, np.linspace(0.1, 1.6, 60), np.array([0, 60]), "#203040")
    low = np.array([(20.0, 36.0), (36.0, 36.0), (20.0, 38.5), (36.0, 38.5)])
    canvas.lines(low, np.array([0, 2, 4]), Stroke(1, "#a03060", cap="butt"))


def pixels() -> np.ndarray:
    surface, canvas = raster(600, 400, 60, 40)
    drawn(canvas)
    return np.asarray(surface.toarray(colorType=skia.kRGBA_8888_ColorType)).astype(int)


def on_white(found: np.ndarray) -> np.ndarray:
    alpha = found[..., 3:] / 255
    return found[..., :3] * alpha + 255 * (1 - alpha)


def test_every_mark_is_where_it_should_be() -> None:
    found = on_white(pixels())
    at = lambda x, y: tuple(int(v) for v in np.round(found[round(y * 10), round(x * 10)]))
    assert at(30, 12) == (0xC0, 0x40, 0x20) and at(33.5, 8) == (255, 255, 255)  # a quarter of a circle bends
    assert at(3, 3) == (0x20, 0x50, 0xA0) and at(7, 7) == (255, 255, 255)
    assert at(40.2, 7)[0] < 12 and at(57.8, 7)[1] > 190
    assert (found[180, 390:600, 0] < 128).sum() == pytest.approx(180, abs=2)  # blunt: as long as said
    assert (found[240, 390:600, 0] < 128).sum() == pytest.approx(
        160, abs=2
    )  # square: half the weight farther at each end
    assert at(8, 30) == (0x80, 0x80, 0x20) and at(3, 36) == (255, 255, 255)
    shares = found[305, 400:580, 0]
    assert (np.diff(shares) <= 1).all() and shares[4] > 240 and shares[-4] < 15
    x, y = TURN[0] * 19 + TURN[2] * 28 + TURN[4], TURN[1] * 19 + TURN[3] * 28 + TURN[5]
    assert at(x, y) == (0x60, 0x20, 0x80)
    wide = (found[340:400, :, 0] < 128).sum(0) / 10
    assert wide[570] == pytest.approx(1.55, abs=0.35) and wide[405] < 0.4


@settings(max_examples=examples(80, 27), deadline=None)
@given(st.integers(0, 10**6))
def test_a_ribbon_covers_just_its_area_of_each_pixel_also_beside_the_picture_and_in_a_window(seed: int) -> None:
    rng = np.random.default_rng(seed)
    xy, width = rng.uniform([-6, -4], [26, 19], (2, 2)), rng.uniform(0.02, 3.0, 2)
    if seed % 5 == 0:
        xy[1, seed % 2] = xy[0, seed % 2]  # upright or level

    def drawn_in(window: tuple[int, int, int, int]) -> np.ndarray:
        surface, canvas = raster(40, 30, 20, 15)
        with canvas.window(*window):
            canvas.ribbons(xy, width, np.array([0, 2]), "#c08040")
        return np.asarray(surface.toarray(colorType=skia.kRGBA_8888_ColorType)).astype(int)

    whole = drawn_in((0, 0, 40, 30))
    along = (xy[1] - xy[0]) / np.linalg.norm(xy[1] - xy[0])
    across = np.array([-along[1], along[0]]) * width[:, None] / 2
    shape = shapely.Polygon(np.concatenate([xy + across, (xy - across)[::-1]]) * 2)
    columns, rows = np.meshgrid(np.arange(40), np.arange(30))
    share = shapely.area(shapely.intersection(shapely.box(columns, rows, columns + 1, rows + 1), shape))
    assert np.abs(whole[..., 3] - 255 * share).max() < 1.5
    strong = share > 0.3
    assert np.abs(whole[..., :3] - [0xC0, 0x80, 0x40])[strong].max(initial=0) <= 4, (
        "its colour, which is kept times its share"
    )
    part = drawn_in((7, 5, 11, 9))
    assert np.abs(part[5:14, 7:18, 3] - whole[5:14, 7:18, 3]).max() <= 1
    part[5:14, 7:18] = 0
    assert not part.any()


def test_svg_and_a_journal_show_what_the_pixels_show() -> None:
    taken, svg = Journal(), SvgCanvas(60, 40, "A")
    drawn(taken)
    taken.play(svg)
    surface, canvas = raster(600, 400, 60, 40)
    taken.play(canvas)
    assert np.array_equal(np.asarray(surface.toarray(colorType=skia.kRGBA_8888_ColorType)), pixels())
    text = svg.document()
    for words in (
        'fill-rule="evenodd"',
        "C28.284 5",
        'stroke-linecap="square"',
        "<linearGradient",
        'clip-rule="evenodd"',
        "<mask",
        "matrix(",
    ):
        assert words in text, words
    page = skia.Surface(600, 400)
    page.getCanvas().clear(skia.ColorWHITE)
    page.getCanvas().scale(
        600 / (60 * 90 / 25.4), 600 / (60 * 90 / 25.4)
    )  # which takes a millimetre for so many of its own units
    data = text.encode()  # which the stream does not hold
    dom = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    dom.setContainerSize(skia.Size(60, 40))
    dom.render(page.getCanvas())
    other = np.asarray(page.toarray(colorType=skia.kRGBA_8888_ColorType)).astype(int)[..., :3]
    apart = np.abs(other - on_white(pixels())).max(-1) > 40
    apart[270:340, 380:] = False  # this reader knows no pictures in masks
    assert apart.mean() < 0.01


def test_a_pdf_keeps_curves_clips_and_gradients_as_such() -> None:
    stream = skia.DynamicMemoryWStream()
    document = skia.PDF.MakeDocument(stream)
    drawn(SkiaCanvas(document.beginPage(60, 40), is_document=True))
    document.endPage()
    document.close()
    pdf = pikepdf.open(io.BytesIO(bytes(stream.detachAsData())))
    operators = [str(o) for _, o in pikepdf.parse_content_stream(pdf.pages[0])]
    assert {"c", "W*", "cm"} <= set(operators) or {"c", "W", "cm"} <= set(operators)
    assert "/Pattern" in pdf.pages[0].Resources
    assert any(isinstance(o, pikepdf.Dictionary) and "/SMask" in o for o in pdf.objects)


def test_bounds_are_those_of_the_marks() -> None:
    for draw, box in (
        (lambda c: c.path(Path().move(3, 4).line(9, 4), stroke=Stroke(2, "#000000")), (2, 3, 10, 5)),
        (lambda c: c.path(ROUND, fill="#000000"), (20, 5, 35, 35)),
    ):
        bounds = Bounds()
        draw(bounds)
        assert bounds.box == pytest.approx(box, abs=1e-9)
    bounds = Bounds()
    drawn(bounds)
    rows, columns = (np.flatnonzero((pixels()[..., 3] > 8).any(axis)) / 10 for axis in (1, 0))
    assert bounds.box is not None and bounds.box == pytest.approx(
        (columns[0], rows[0], columns[-1] + 0.1, rows[-1] + 0.1), abs=0.7
    )
    clipped = Bounds()
    with clipped.transform((2, 0, 0, 2, 10, 0)), clipped.clip_path(ROUND):
        clipped.fill([np.array([(0, 0), (30, 0), (30, 50)])], "#000000")
    assert clipped.box == pytest.approx((50, 10, 70, 70))
