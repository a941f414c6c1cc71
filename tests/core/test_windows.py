"""Discs and painted masks.
What is seen through them, in every output, against a general image library and exact geometry.
"""

from __future__ import annotations

import json
import re
import tracemalloc
import zlib
from pathlib import Path

import numpy as np
import pytest
import shapely
import skia
from PIL import Image, ImageDraw

from tests.conftest import box, model_of
from warmgraphite.collage.kinds.inverted import Inverted
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.errors import ViewError
from warmgraphite.ink.fills import Flat
from warmgraphite.ink.rules import Ink, PocheRule
from warmgraphite.ink.softly import thinned
from warmgraphite.regions.painted import PER_MM, TILE, BrushStroke, KeptMasks, _forget
from warmgraphite.regions.query import All, Any, Match, Not, Through
from warmgraphite.regions.soft import parted, reach_of
from warmgraphite.sheet.preview import LayerCache, compose
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification, moved_view
from warmgraphite.view.windows import Disc, OnModel, OnPaper, PaintedMask

QUIET = Sheet(title_on=False, scale_bar_on=False, north_on=False, margin=0)
MODEL = model_of(("Wall", box((0, 0, 0), (6, 1, 3)), 0), ("Plinth", box((-1, -1, 0), (7, 0, 0.5)), 2),
    ("Post", box((2, -0.5, 0.5), (2.3, -0.2, 4)), 0))  # fmt: skip
DISC = Disc(id="d", name="Round", middle=OnPaper(at=(-12, 4)), radius=22, softness=16)
VIEW = ViewSpecification(
    projection=Parallel(direction=(-0.3, 1, -0.2), centre=(3, 0, 1.5)), frame=Frame(width=160, height=112, scale=60),
    discs=(DISC,),
    cuts=(Cut(point=(4, 0, 0), normal=(1, 0, 0)),),
)  # fmt: skip
INK = Ink(poche=(PocheRule(fills=(Flat(colour="#302010"),)),))
ROUND = Through(name="Round")


def drawing_of(view: ViewSpecification = VIEW, pictures: KeptPictures | None = None) -> Drawing:
    return Drawing(MODEL, view, (640, 448), ink=INK, pictures=pictures)


def pixels(drawing: Drawing, *traces, size: tuple[int, int] = (640, 448)) -> np.ndarray:  # type: ignore[no-untyped-def]
    """(h, w, 3) what lies on white paper, as the desk shows it, which is what is written but for a level or two."""
    drawing.compute(needs_of(traces, drawing.ink))
    return compose(drawing.plate(), traces, QUIET, size, LayerCache()).toarray()[..., [2, 1, 0]].astype(float)


def round_share(width: int, height: int, frame: tuple[float, float] = (160, 112)) -> np.ndarray:
    """The disc's share, from its words: half at its edge, smooth across its softness."""
    x, y = (np.arange(n) + 0.5 for n in (width, height))
    away = np.hypot(x[None] * frame[0] / width - (80 - 12), y[:, None] * frame[1] / height - (56 + 4)) - 22
    t = np.clip(0.5 - away / 16, 0, 1)
    return t * t * (3 - 2 * t)


def by_hand(above: np.ndarray, below: np.ndarray, share: np.ndarray) -> np.ndarray:
    """One picture over another through a mask, by a general image library."""
    pictures = [Image.fromarray(np.round(p).astype(np.uint8)) for p in (above, below)]
    return np.asarray(Image.composite(*pictures, Image.fromarray(np.round(255 * share).astype(np.uint8)))).astype(float)


@pytest.mark.parametrize("written", [False, True])
def test_pixels_through_a_disc_are_those_laid_together_by_hand(written: bool, tmp_path: Path) -> None:
    tint = Tint(id="tint", name="Tint")
    only = lambda where: tint.model_copy(update={"where": where})

    def shown(*traces):  # type: ignore[no-untyped-def]
        drawing = drawing_of()
        if not written:
            return pixels(drawing, *traces)
        drawing.compute(needs_of(traces, drawing.ink))
        resolution = 640 / 160 * 25.4
        write_drawing(drawing.plate(), traces, QUIET, tmp_path / "a.png", resolution=resolution)
        found = Image.open(tmp_path / "a.png").convert("RGBA")
        return np.asarray(Image.alpha_composite(Image.new("RGBA", found.size, "white"), found).convert("RGB")).astype(
            float
        )

    white, whole, share = np.full((448, 640, 3), 255.0), shown(tint), round_share(640, 448)
    assert whole.min() < 200
    for where, part in (
        (ROUND, share),
        (Not(of=ROUND), 1 - share),
    ):
        assert np.abs(shown(only(where)) - by_hand(whole, white, part)).max() <= 2
    # With a region: the region's own pixels, seen through the disc; or the region, and beside it what the disc shows.
    wall = Match(parts=("Wall",))
    walls = shown(only(wall))
    assert np.abs(shown(only(All(of=(wall, ROUND)))) - by_hand(walls, white, share)).max() <= 2
    either = shown(only(Any(of=(wall, ROUND))))
    is_wall = drawing_of().surface().part == 0
    inner = (
        is_wall & np.roll(is_wall, 2, 0) & np.roll(is_wall, -2, 0) & np.roll(is_wall, 2, 1) & np.roll(is_wall, -2, 1)
    )
    assert inner.sum() > 5000 and np.abs(either - whole)[inner].max() <= 2
    beside = share < 0.01
    assert np.abs(either - walls)[beside & ~is_wall].mean() < 1
    # A sheet that changes what lies beneath does so through the disc.
    turned = shown(tint, Inverted(id="i", name="I"))
    assert np.abs(shown(tint, Inverted(id="i", name="I", where=ROUND)) - by_hand(turned, whole, share)).max() <= 3
    assert np.abs(shown(tint, Inverted(id="i", name="I", where=ROUND, acts_on="the sheet beneath")) - whole).max() > 30


def test_lines_through_a_disc_stay_vectors_are_cut_and_thinned(tmp_path: Path) -> None:
    lines = LinesTrace(id="lines", name="Lines", where=ROUND)
    drawing = drawing_of()
    drawing.compute(needs_of((lines,), drawing.ink))
    write_drawing(drawing.plate(), (lines,), QUIET, tmp_path / "a.svg")
    text = (tmp_path / "a.svg").read_text()
    assert "<image" not in text and "<mask" not in text
    data = text.encode()
    own = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    assert own is not None
    found = np.zeros((448, 640, 4), np.uint8)
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(640, 448), found)
    surface.getCanvas().scale(640 / own.containerSize().width(), 448 / own.containerSize().height())
    own.render(surface.getCanvas())
    inked, there = found[..., 3] > 40, round_share(640, 448) > 0
    assert (inked & there).sum() > 300 and not (inked & ~there).any()
    assert not re.search(r"<g [^>]*lines[^>]*>\s*</g>", text)  # nothing of what lies beyond is left
    # One straight line through the middle: as wide at each place as its share of the disc.
    reach = drawing.result(next(n for n in lines.all_needs() if n.name == "reach"))
    whole, points, width, first = thinned(np.array([[0.0, 60], [160, 60]]), np.full(2, 0.5), np.array([0, 2]), reach)
    assert not whole.any() and len(first) == 2
    away = np.abs(points[:, 0] - 68) - 22
    t = np.clip(0.5 - away / 16, 0, 1)
    assert np.abs(width - 0.5 * t * t * (3 - 2 * t)).max() < 1e-3
    assert points[0, 0] == pytest.approx(68 - 22 - 8, abs=2.5) and points[-1, 0] == pytest.approx(68 + 22 + 8, abs=2.5)
    # What is cut is filled through it as areas, and outside of it nothing is.
    poche = PocheTrace(id="poche", name="Poche", where=ROUND)
    found, all_of_it = pixels(drawing_of(), poche), pixels(drawing_of(), poche.model_copy(update={"where": None}))
    share = round_share(640, 448)
    assert (all_of_it < 200).any() and np.abs(found - by_hand(all_of_it, np.full_like(found, 255), share)).mean() < 0.5
    assert (found[share == 0] == 255).all()


def test_a_disc_on_the_model_goes_with_it_and_one_of_any_shape_is_its_shape() -> None:
    point = (2.0, -0.5, 0.5)
    view = VIEW.model_copy(update={"discs": (DISC.model_copy(update={"middle": OnModel(at=point)}),)})
    drawing = drawing_of(view)
    drawing.compute(("frame",))
    at = drawing.paper.project(np.array(point))[:2]
    reach = lambda d, where=ROUND: d.result(
        next(n for n in Tint(id="t", name="T", where=where).all_needs() if n.name == "reach")
    )
    edge = at + 22 * np.array([[np.cos(a), np.sin(a)] for a in np.linspace(0, 6, 9)])
    assert np.abs(reach(drawing).at(edge) - 0.5).max() < 1e-6
    moved = moved_view(view, np.array([[1, 0, 0, 5.0], [0, 1, 0, -3], [0, 0, 1, 2], [0, 0, 0, 1]]))
    assert moved.discs[0].middle.at == pytest.approx((7.0, -3.5, 2.5))
    shape = ((-20.0, -10.0), (25, -4), (8, 3), (15, 20), (-18, 12))
    drawn = drawing_of(
        VIEW.model_copy(update={"discs": (DISC.model_copy(update={"outline": shape, "softness": 5.0}),)})
    )
    own = shapely.Polygon(np.add(shape, (68, 60)))
    places = np.random.default_rng(3).uniform([30, 30], [110, 90], (4000, 2))
    points = shapely.points(places)
    away = np.where(shapely.contains(own, points), -1, 1) * shapely.distance(own.exterior, points)
    t = np.clip(0.5 - away / 5, 0, 1)
    assert np.abs(reach(drawn).at(places) - t * t * (3 - 2 * t)).max() < 1e-5
    assert reach(drawn, Through(name="Elsewhere")).at(places).max() == 0
    assert (
        "no disc or mask “Elsewhere”"
        in Tint(id="t", name="T", where=Through(name="Elsewhere")).remarks(VIEW, lambda _: True)[0]
    )


def test_queries_are_parted_into_edges_and_shares() -> None:
    wall, post = Match(parts=("Wall",)), Match(parts=("Post",))
    assert parted(None) == (None, None) and parted(wall) == (wall, None) and parted(ROUND) == (None, ROUND)
    assert parted(All(of=(wall, ROUND, post))) == (All(of=(wall, post)), ROUND)
    both = Any(of=(wall, ROUND))
    assert parted(both) == (None, both) and parted(All(of=(post, both))) == (post, both)
    shares = [0.25, 0.8]
    one = lambda share: type("One", (), {"at": lambda _, xy: np.full(len(xy), share, np.float32)})()
    reach = reach_of(
        Not(of=Any(of=(All(of=(Through(name="a"), Through(name="b"))), Through(name="none")))),
        lambda name: [] if name == "none" else [one(shares["ab".index(name)])],
        lambda _: shapely.Polygon(),
    )
    assert reach.at(np.zeros((1, 2)))[0] == pytest.approx(1 - 0.2)


def test_a_mask_is_painted_stroke_by_stroke_and_each_can_be_taken_back(tmp_path: Path) -> None:
    kept = KeptMasks(tmp_path)
    line = ((-30.0, -10.0), (0, 12), (34, -6))
    hard = kept.stroke("", BrushStroke(points=line, size=12, softness=0))
    x, y = (np.arange(-50, 50, 1 / PER_MM) + 0.5 / PER_MM, np.arange(-30, 30, 1 / PER_MM) + 0.5 / PER_MM)
    found = kept.painted(hard).grid(x, y)
    # Against a general library's own wide line, with round ends and joins.
    size = (len(x), len(y))
    image = Image.new("L", size)
    pen, to = ImageDraw.Draw(image), [((px + 50) * PER_MM, (py + 30) * PER_MM) for px, py in line]
    pen.line(to, 255, round(12 * PER_MM))
    for px, py in to:
        pen.ellipse([px - 6 * PER_MM, py - 6 * PER_MM, px + 6 * PER_MM, py + 6 * PER_MM], 255)
    there = np.asarray(image) > 127
    assert ((found > 0.5) != there).sum() < 0.01 * there.sum()
    exact = shapely.LineString(line).buffer(6, quad_segs=64).area
    assert found.sum() / PER_MM**2 == pytest.approx(exact, rel=0.003)
    # A soft one fades outwards and is weaker; the rest of the paper keeps its tiles; erasing takes off.
    soft = kept.stroke(hard, BrushStroke(points=((100.0, 60.0),), size=40, softness=1, strength=0.5))
    middle, edge = kept.painted(soft).at(np.array([[100.0, 60.0], [119.0, 60.0]]))
    assert middle == pytest.approx(0.5, abs=0.01) and 0 < edge < 0.02
    before, after = kept.painted(hard), kept.painted(soft)
    assert before.places and all(np.array_equal(before.tile(k, 0), after.tile(k, 0)) for k in before.places)
    gone = kept.stroke(soft, BrushStroke(points=((100.0, 60.0),), size=120, softness=0, erases=True))
    assert gone == hard  # what is as it was has the name that it had
    assert kept.stroke(hard, BrushStroke(points=line, size=40, softness=0, erases=True)) == ""
    assert np.array_equal(kept.painted(hard).grid(x, y), found)
    coarse = kept.painted(hard).grid(x[4::9], y[4::9])
    assert (
        coarse.sum() * (9 / PER_MM) ** 2 == pytest.approx(exact, rel=0.01) and ((coarse > 0.05) & (coarse < 0.95)).any()
    )
    # It is packed, and taken in elsewhere, under the same name; what is damaged is refused.
    tiles = {
        tuple(p): (tmp_path / f"{t}.tile").read_bytes() for *p, t in json.loads((tmp_path / f"{hard}.json").read_text())
    }
    assert KeptMasks(tmp_path / "other").take_in(tiles) == hard  # type: ignore[arg-type]
    for bad in (b"x", tiles[next(iter(tiles))][:20], zlib.compress(b"0" * (TILE * TILE + 5))):
        with pytest.raises(ViewError, match="damaged"):
            KeptMasks(tmp_path / "other").take_in({(0, 0): bad})


def test_a_mask_costs_what_is_looked_at_of_it_and_a_stroke_is_bounded(tmp_path: Path) -> None:
    kept = KeptMasks(tmp_path)
    far = kept.stroke(
        kept.stroke("", BrushStroke(points=((-2900.0, -2900.0),), size=5)),
        BrushStroke(points=((2900.0, 2900.0),), size=5),
    )
    sheet = np.linspace(-594, 594, 900), np.linspace(-420, 420, 640)
    tracemalloc.start()
    assert not kept.painted(far).grid(*sheet).any() and kept.painted(far).grid(*(v + 2900 for v in sheet)).max() > 0
    assert (kept.painted(far).at(np.array([[2900.0, 2900], [0, 0], [-2900, -2900]])) > [0.9, -1, 0.9]).all()
    assert tracemalloc.get_traced_memory()[1] < 40e6
    tracemalloc.stop()
    files = len(list(tmp_path.iterdir()))
    with pytest.raises(ViewError, match="shorter strokes"):
        kept.stroke(far, BrushStroke(points=((-3000.0, -3000), (3000, 3000)), size=400))
    assert len(list(tmp_path.iterdir())) == files


def test_a_tile_that_is_harmed_shows_nothing_and_is_made_anew(tmp_path: Path) -> None:
    kept, dab = KeptMasks(tmp_path), BrushStroke(points=((5.0, 5.0),), size=6)
    name = kept.stroke("", dab)
    (tile,) = tmp_path.glob("*.tile")
    for harm in (b"", tile.read_bytes()[:9], zlib.compress(bytes(TILE * TILE))):
        tile.write_bytes(harm)
        again = KeptMasks(tmp_path)
        _forget()
        assert again.is_damaged(name) and not again.painted(name).at(np.array([[5.0, 5.0]])).any()
        assert again.stroke("", dab) == name and not again.is_damaged(name)
    (tmp_path / f"{name}.json").write_bytes(b"[[1")
    _forget()
    assert (
        kept.is_damaged(name) and kept.stroke("", dab) == name and kept.painted(name).at(np.array([[5.0, 5.0]]))[0] == 1
    )


def test_what_lies_under_a_painted_mask_is_what_was_painted(tmp_path: Path) -> None:
    pictures = KeptPictures(tmp_path)
    name = pictures.masks.stroke("", BrushStroke(points=((-20.0, 0), (30, 10)), size=30, softness=0.6))
    view = VIEW.model_copy(update={"masks": (PaintedMask(id="m", name="Brushed", tiles=name),)})
    tint = Tint(id="tint", name="Tint", where=Through(name="Brushed"))
    found = pixels(drawing_of(view, pictures), tint)
    whole = pixels(drawing_of(), tint.model_copy(update={"where": None}))
    x, y = (np.arange(n) + 0.5 for n in (640, 448))
    share = pictures.masks.painted(name).grid(x * 0.25 - 80, y * 0.25 - 56)
    assert 0.05 < share.mean() < 0.5 and np.abs(found - by_hand(whole, np.full_like(found, 255), share)).max() <= 2
    # A window of a larger drawing, and the paper drawn out on one side: the same paint in the same place.
    out = view.model_copy(update={"frame": view.frame.model_copy(update={"width": 200, "shift": (-20, 0)})})
    wider = Drawing(MODEL, out, (800, 448), ink=Ink(), pictures=pictures)
    assert np.abs(pixels(wider, tint, size=(800, 448))[:, :640] - found).max() <= 2
    lost = pixels(drawing_of(view, KeptPictures(tmp_path / "none")), tint)
    assert (lost == 255).all()
    line = LinesTrace(id="l", name="L", where=Through(name="Brushed"))
    drawing = drawing_of(view, pictures)
    drawing.compute(needs_of((line,), drawing.ink))
    write_drawing(drawing.plate(), (line,), QUIET, tmp_path / "l.pdf")
    assert b"/Subtype /Image" not in (tmp_path / "l.pdf").read_bytes()
