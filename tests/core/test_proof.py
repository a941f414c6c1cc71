"""The simulated printer against its own published curve.
What fills in against gaps of known width, and the lift that opens it.
"""

from __future__ import annotations

import re

import numpy as np
import pytest

from tests.conftest import box, model_of
from warmgraphite.collage.adjusting import AdjustingTrace
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.shade import Shade
from warmgraphite.drawing import Drawing
from warmgraphite.errors import Cancelled, ViewError
from warmgraphite.proof import filling
from warmgraphite.proof.filling import filled_in
from warmgraphite.proof.printer import PAPERS, PrintPaper, printed
from warmgraphite.proof.proof import NOTHING, lifted_pixels, proof_of
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study import Look, fresh_document
from warmgraphite.study.commands import apply_commands
from warmgraphite.study.commands.look import LiftForPrint
from warmgraphite.study.lifting import lifted_by
from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification

PER_MM = 10.0


def ramp() -> np.ndarray:
    """(1, 256, 3) all greys of sRGB."""
    return np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, 2)


def light(coded: np.ndarray) -> np.ndarray:
    """Linear light, by the standard (IEC 61966-2-1)."""
    c = coded / 255
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def published(paper: PrintPaper) -> np.ndarray:
    """(256,) lightness on paper of all greys, of the paper's own.
    As the curve is written down, reckoned here once more.
    """
    dots = 1 - light(np.arange(256.0))
    dots = np.minimum(dots + 4 * paper.gain * dots * (1 - dots), 1)
    return 1 - dots * (1 - paper.black)


@pytest.mark.parametrize("name", sorted(PAPERS))
@pytest.mark.parametrize("black_only", [False, True])
def test_a_grey_ramp_comes_out_by_the_published_curve(name: str, black_only: bool) -> None:
    paper = PAPERS[name]
    white = light(np.array([int(paper.white[i : i + 2], 16) for i in (1, 3, 5)], float))
    found = light(printed(ramp(), paper, black_only)[0].astype(float)) / white
    # A step of the eight bits is as much as half of 1/255 of the coded value.
    assert np.abs(found - published(paper)[:, None]).max() < 0.006
    assert (np.diff(found[:, 0]) >= -1e-9).all() and found[255] == pytest.approx(1, abs=0.005)
    assert found[0] == pytest.approx(paper.black, abs=0.004)


def test_ink_is_limited_black_is_grey_and_dots_grow_darker() -> None:
    colours = np.array([[(40, 20, 160), (128, 128, 128), (150, 30, 30)]], np.uint8)
    on = {n: printed(colours, p)[0].astype(int) for n, p in PAPERS.items()}
    # Where a paper bears less ink, a dark blue is paler in the inks that make it blue.
    assert on["newsprint"][0].max() - on["newsprint"][0].min() < on["coated"][0].max() - on["coated"][0].min()
    grey = printed(colours, PAPERS["uncoated"], black_only=True)[0].astype(int)
    white = np.array([int(PAPERS["uncoated"].white[i : i + 2], 16) for i in (1, 3, 5)])
    assert np.abs(grey / white - (grey / white).mean(1, keepdims=True)).max() < 0.05
    more = PrintPaper("More", "", "#ffffff", 0.3, 0.02, 3.0, 0.1)
    less = PrintPaper("Less", "", "#ffffff", 0.0, 0.02, 3.0, 0.1)
    assert (printed(ramp(), more)[0, 20:235] < printed(ramp(), less)[0, 20:235]).all()


def stripes(gap_mm: float, dark: int = 30) -> np.ndarray:
    """(h, w, 3) bars of 1 mm with gaps of so many millimetres between them, at 40 pixels to the millimetre."""
    found = np.full((200, 400, 3), 255, np.uint8)
    at, step = 20, round((1 + gap_mm) * 40)
    while at + 40 < 380:
        found[40:160, at : at + 40] = dark
        at += step
    return found


@pytest.mark.parametrize("name", sorted(PAPERS))
def test_gaps_below_the_papers_close_and_wider_ones_stay_open(name: str) -> None:
    paper = PAPERS[name]
    closed, open_ = (filled_in(stripes(paper.gap + more), paper, 40.0) for more in (-0.04, 0.08))
    bars = stripes(paper.gap - 0.04)[100, :, 0] == 30
    inside = np.flatnonzero(bars)
    gaps = ~bars & (np.arange(400) > inside[0]) & (np.arange(400) < inside[-1])
    # All along the bars each gap is marked from one to the other, and nothing of the ground beside.
    assert (
        gaps.any()
        and closed[60:140, gaps].all()
        and not closed[60:140, ~gaps & ~bars].any()
        and not open_[60:140].any()
    )
    # Pale bars close nothing.
    assert not filled_in(stripes(paper.gap - 0.04, 215), paper, 40.0).any()


def test_what_is_looked_through_in_strips_is_the_whole_and_can_be_stopped(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(8)
    picture = rng.integers(0, 120, (120, 90, 3), np.uint8).repeat(3, 0).repeat(2, 1)
    picture[200:] = 250
    paper = PAPERS["newsprint"]
    whole = {per_mm: filled_in(picture, paper, per_mm) for per_mm in (4.0, 11.0, 33.0)}
    assert all(0.002 < m.mean() < 0.9 for m in whole.values())
    monkeypatch.setattr(filling, "STRETCH", 7)
    assert all((filled_in(picture, paper, per_mm) == marks).all() for per_mm, marks in whole.items())

    # A picture may be smaller than what is looked at round each of its pixels.
    for shape in ((1, 1), (2, 90), (120, 1)):
        tiny = proof_of(picture[: shape[0], : shape[1]], paper, 33.0, black_only=True)
        assert tiny.marks.shape == tiny.looks.shape[:2] == shape

    def watch(share: float) -> None:
        if share > 0.5:
            raise Cancelled

    with pytest.raises(Cancelled):
        proof_of(picture, paper, 11.0, watch=watch)


def test_what_is_drawn_in_darks_is_lost_and_a_lift_brings_it_back() -> None:
    paper = PAPERS["uncoated"]
    rng = np.random.default_rng(3)
    dark = np.full((300, 300, 3), 255, np.uint8)
    dark[50:250, 50:250] = (30 + 25 * rng.random((200, 200, 1))).astype(np.uint8)
    assert filled_in(dark, paper, PER_MM)[100:200, 100:200].mean() > 0.5
    found = proof_of(dark, paper, PER_MM)
    assert found.share > NOTHING and found.lifting.lift > 0 and found.lifting.after < found.share
    again = filled_in(lifted_pixels(dark, found.lifting.lift, found.lifting.black), paper, PER_MM).mean()
    assert again == pytest.approx(found.lifting.after, rel=0.02, abs=1e-4)
    # A black that nothing is drawn in is meant to be black.
    plain = np.full((300, 300, 3), 255, np.uint8)
    plain[50:250, 50:250] = 25
    assert proof_of(plain, paper, PER_MM).share <= NOTHING and proof_of(plain, paper, PER_MM).lifting.lift == 0


VIEW = ViewSpecification(
    name="Section", projection=Parallel(direction=(0.3, 1, -0.4), centre=(2, 0, 1)),
    cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),),
    frame=Frame(width=100, height=80, scale=50),
)  # fmt: skip


def test_a_lift_changes_tones_and_ink_leaves_vectors_and_goes_away_again(tmp_path) -> None:  # type: ignore[no-untyped-def]
    look = Look(
        traces=(
            Paper(id="paper", name="Paper"), Shade(id="shade", name="Shade"), PocheTrace(id="poche", name="Poche"),
            LinesTrace(id="lines", name="Lines"),
        )
    )  # fmt: skip
    study = fresh_document("House", [VIEW], {"Plain": look}, {"Section": "Plain"})
    lifted = apply_commands(study, [LiftForPrint(lift=0.6, black=0.1)])
    traces = lifted.look.traces
    assert [t.kind for t in traces] == ["paper", "shade", "for-print", "poche", "for-print", "lines", "for-print"]
    assert [t.acts_on for t in traces if isinstance(t, AdjustingTrace)] == [
        "all beneath",
        "the sheet beneath",
        "the sheet beneath",
    ]
    assert (
        lifted_by(traces) == (0.6, 0.1)
        and lifted.look.weight == pytest.approx(0.85)
        and lifted_by(study.look.traces) is None
    )
    # Once more replaces it, weights and all; 0 takes it away.
    more = apply_commands(lifted, [LiftForPrint(lift=1.0, black=0.17)])
    assert len(more.look.traces) == 7 and more.look.weight == pytest.approx(0.75, abs=1e-3)
    bare = apply_commands(more, [LiftForPrint(lift=0)])
    assert bare.look.traces == study.look.traces and bare.look.weight == pytest.approx(1, abs=2e-3)
    with pytest.raises(ViewError, match="not lifted"):
        apply_commands(study, [LiftForPrint(lift=0)])
    model = model_of(("Wall", box((0, 0, 0), (4, 1, 2)), 0))
    darkest = {}
    for name, document in (("plain", study), ("lifted", lifted)):
        drawing = Drawing(model, VIEW, ink=document.drawn_look(document.on_desk))
        path = tmp_path / f"{name}.svg"
        write_drawing(
            drawing.plate(),
            document.look.traces,
            Sheet(title_on=False, north_on=False, scale_bar_on=False),
            path,
            resolution=60,
        )
        text = path.read_text()
        assert 'data-name="Lines"' in text and 'data-name="lines cut"' in text  # ink is ink still
        colours = set(re.findall(r'stroke="#([0-9a-f]{6})"', text))
        darkest[name] = min(sum(int(c[i : i + 2], 16) for i in (0, 2, 4)) for c in colours)
    assert darkest["lifted"] > darkest["plain"] + 60
