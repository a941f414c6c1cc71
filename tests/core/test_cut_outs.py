"""Pictures of one's own as figures: their ground taken away, standing as cards that turn to whoever looks."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy import ndimage

from tests.conftest import examples
from tests.core.judge import Camera
from tests.core.test_figures import ELEVATION, EYE, RAIL, SLANT, WALL, figures_lines, view_of, yard
from warmgraphite.collage.kinds.cut_outs import CutOutsTrace
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.figures.choosing import Marked
from warmgraphite.figures.cutouts import cleared
from warmgraphite.figures.kinds.cut_out import CutOut
from warmgraphite.study.changes import Change
from warmgraphite.study.commands import apply_commands
from warmgraphite.study.commands.finishes import TakeFinish
from warmgraphite.study.commands.look import ChangeFigures, ChangeLook
from warmgraphite.study.document import fresh_document
from warmgraphite.study.finish import write_finish
from warmgraphite.view.specification import Parallel, ViewSpecification


def composite(
    seed: int, soft: float, ground: tuple[int, int, int] = (255, 255, 255), noise: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """A made-up figure of one hue with fine strands at its rim and gaps in it, laid on a ground; and its true alpha."""
    chance = np.random.default_rng(seed)
    y, x = np.mgrid[0:300, 0:220]
    body = (((x - 110) / 60.0) ** 2 + ((y - 160) / 115.0) ** 2 < 1).astype(float)
    for _ in range(26):
        a, long = chance.uniform(0, 2 * np.pi), chance.uniform(10, 34)
        t = np.linspace(0, 1, 60)
        px = (110 + (60 + long * t) * np.cos(a)).round().astype(int).clip(1, 218)
        py = (160 + (113 + long * t) * np.sin(a)).round().astype(int).clip(1, 298)
        body[py, px] = 1
    for _ in range(5):
        cx, cy, r = chance.uniform(80, 140), chance.uniform(90, 230), chance.uniform(4, 9)
        body[(x - cx) ** 2 + (y - cy) ** 2 < r * r] = 0
    alpha = np.clip(ndimage.gaussian_filter(body, soft), 0, 1)
    alpha[alpha < 0.01] = 0
    hue = chance.uniform(20, 150, 3)
    colour = hue + 10 * ndimage.gaussian_filter(chance.normal(size=(300, 220)), 12)[..., None] * 12
    found = (
        alpha[..., None] * colour + (1 - alpha[..., None]) * np.array(ground) + chance.normal(0, noise, (300, 220, 1))
    )
    return np.dstack([np.clip(found, 0, 255).round(), np.full((300, 220), 255)]).astype(np.uint8), alpha


@settings(max_examples=examples(12, 4), deadline=None)
@given(st.integers(0, 1000), st.floats(0.5, 1.8))
def test_a_ground_is_taken_away_by_as_much_as_shows_through(seed: int, soft: float) -> None:
    for ground, how in (((255, 255, 255), "white"), ((212, 226, 232), "even")):
        picture, alpha = composite(seed, soft, ground)
        found = cleared(picture, how)  # type: ignore[arg-type]
        assert np.abs(found[..., 3] / 255 - alpha).mean() < 0.02
        # Laid on something dark no rim of the ground is left about it.
        over = found[..., :3] * (found[..., 3:] / 255.0)
        assert np.percentile(over, 99.5) < 215
    kept = np.dstack([picture[..., :3], (alpha * 255).round().astype(np.uint8)])
    assert all(np.array_equal(cleared(kept, how), kept) for how in ("kept", "white", "even"))  # type: ignore[arg-type]


def test_what_is_white_all_over_or_has_no_ground_is_left_or_gone() -> None:
    white = np.full((40, 30, 4), 255, np.uint8)
    assert not cleared(white)[..., 3].any()
    dark = white.copy()
    dark[..., :3] = 60
    assert (cleared(dark)[..., 3] == 255).all()


@pytest.fixture(scope="module")
def stock(tmp_path_factory: pytest.TempPathFactory) -> tuple[KeptPictures, str]:
    folder: Path = tmp_path_factory.mktemp("stock")
    picture, _ = composite(3, 0.8)
    picture[:150, :110, :3] = np.where(
        picture[:150, :110, :3] < 200, [200, 30, 30], picture[:150, :110, :3]
    )  # its upper left is red
    Image.fromarray(picture).save(folder / "figure.png")
    kept = KeptPictures(folder / "kept")
    return kept, kept.take_in(folder / "figure.png", "figure.png").digest


def drawn(stock: tuple[KeptPictures, str], view: ViewSpecification, figure: CutOut, *more) -> Drawing:  # type: ignore[no-untyped-def]
    return Drawing(
        yard(*more),
        view,
        (480, 320),
        ink=Marked(figures=(figure.model_copy(update={"id": "card"}),)),
        pictures=stock[0],
    )


@pytest.mark.parametrize(
    "projection",
    [ELEVATION, SLANT, EYE, Parallel(direction=(-1, 0.2, -0.18), centre=(0, 0, 1.5))],
    ids=["north", "slant", "eye", "west"],
)
def test_it_faces_whoever_looks_at_its_true_height_hides_and_is_hidden(
    stock: tuple[KeptPictures, str], projection
) -> None:  # type: ignore[no-untyped-def]
    view, card = view_of(projection), CutOut(picture=stock[1], height=1.8, at=(0.3, 0.0, 0.0), turn=77)
    drawing = drawn(stock, view, card)
    rows = figures_lines(drawing)
    lines = drawing.bounds()
    at = np.concatenate([lines.from_mm[rows], lines.to_mm[rows]])
    foot, top = Camera(view).flat(np.array([(0.3, 0.0, 0.0), (0.3, 0.0, 1.8)]))
    assert abs(at[:, 1].max() - foot[1]) < 0.4 and abs(at[:, 1].min() - top[1]) < 0.4
    # Its left is on the left: it is seen from its front wherever one stands, and in its own colours.
    trace = CutOutsTrace(id="c", name="C")
    drawing.compute(needs_of((trace,), drawing.ink))
    pixels = trace.pixels(drawing.plate()).astype(int)
    red = (pixels[..., 0] > 150) & (pixels[..., 1] < 90) & (pixels[..., 3] > 200)
    assert red.sum() > 100 and np.nonzero(red)[1].mean() < (at[:, 0].mean() * 2)
    dark = drawn(stock, view, card.model_copy(update={"at": (0.3, -2.0, 0.0)}))
    assert (dark.light().shadow > 127).sum() > (50 if projection is not ELEVATION else -1)
    if projection is ELEVATION:
        assert not len(figures_lines(drawn(stock, view, card, WALL))) and len(
            figures_lines(drawn(stock, view, card, RAIL))
        )
        # Through a gap in it one sees what stands behind.
        assert len(np.unique(lines.part[rows])) == 1 and drawing.region_map() is not None


def test_in_a_plan_it_lies_as_its_own_picture_has_it_and_a_missing_one_is_a_grey_card(
    stock: tuple[KeptPictures, str],
) -> None:
    view = view_of(Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0)))
    card = CutOut(picture=stock[1], above=stock[1], height=2.0, at=(0, 0, 0))
    lines = drawn(stock, view, card)
    rows = figures_lines(lines)
    y = np.concatenate([lines.bounds().from_mm[rows, 1], lines.bounds().to_mm[rows, 1]])
    assert abs(np.ptp(y) - 40) < 0.6 and abs((y.min() + y.max()) / 2 - 80) < 0.5
    gone = drawn(stock, view_of(ELEVATION), CutOut(picture="nowhere", height=1.5))
    assert len(figures_lines(gone)) >= 3


def test_a_finish_gets_a_sheet_for_their_pictures_under_its_lines(stock: tuple[KeptPictures, str]) -> None:
    put = lambda d, *changes: apply_commands(d, [ChangeFigures(label="Put", changes=changes)])
    document = fresh_document("Study")
    value = {"kind": "cut-out", "id": "card", "picture": stock[1]}
    changed = put(document, Change(path=("figures", "card"), value=value))
    kinds = [t.kind for t in changed.finishes[0].traces]
    assert kinds.index("cut-outs") < kinds.index("lines")
    assert put(changed, Change(path=("figures", "card", "height"), value=1.6)).finishes == changed.finishes
    # A finish that comes later has one, too; where it was taken out it stays out.
    taken = apply_commands(changed, [TakeFinish(text=write_finish(document.finishes[0]))])
    assert [t.kind for t in taken.look.traces].count("cut-outs") == 1 and len(taken.finishes) == len(
        changed.finishes
    ) + 1
    out = apply_commands(
        changed, [ChangeLook(label="Out", changes=[Change(path=("traces", "cut-outs"), do="drop")], everywhere=True)]
    )
    assert "cut-outs" not in {
        t.kind for t in put(out, Change(path=("figures", "card", "height"), value=1.5)).look.traces
    }
    # One in wash brings a sheet that lays it, and one in outline none.
    tree = {"kind": "plant", "id": "tree", "drawn": "outline"}
    outlined = put(document, Change(path=("figures", "tree"), value=tree))
    washed = put(outlined, Change(path=("figures", "tree", "drawn"), value="wash"))
    assert outlined.finishes == document.finishes and "figure-washes" in {t.id for t in washed.look.traces}
