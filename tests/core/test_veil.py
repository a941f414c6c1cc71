"""Veils: another part set through the same frame, against drawings of it and composition by a general image library."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.conftest import box, model_of
from tests.core.test_windows import QUIET, by_hand
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.kinds.veil import VeilTrace
from warmgraphite.collage.veils import VeilSpec
from warmgraphite.drawing import Drawing, Looked, Need, needs_of
from warmgraphite.ink.rules import Ink
from warmgraphite.needs import packed_need, unpacked_need
from warmgraphite.regions.query import Match, Through
from warmgraphite.sheet.preview import LayerCache, compose
from warmgraphite.view.specification import Cut, Frame, Parallel, PartChoice, Perspective, ViewSpecification
from warmgraphite.view.windows import Disc

_PLAIN = model_of(
    ("Lower", box((0, 0, 0), (8, 6, 3)), 0),
    ("Upper", box((1, 1, 3), (6, 5, 6)), 2),
    ("Deep", box((2, 2, -3), (3, 3, 0)), 0),
)
MODEL = replace(_PLAIN, sets={"Above": (1,), "Below": (0, 2), "Gone": ()})
FRAME = Frame(width=160, height=112)
VIEWS = [
    ViewSpecification(projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)), frame=FRAME,
        parts=PartChoice(set="Below")),
    ViewSpecification(projection=Parallel(direction=(-0.5, 1, -0.6), centre=(4, 3, 2)),
        frame=FRAME.model_copy(update={"scale": 100}), cuts=(Cut(point=(0, 3, 0), normal=(0, -1, 0)),)),
    ViewSpecification(projection=Perspective(eye=(-4, -12, 6), target=(4, 3, 2), field_of_view=50), frame=FRAME,
        parts=PartChoice(set="Below")),
]  # fmt: skip
SIZE = (480, 336)


def picture(view: ViewSpecification, *traces) -> np.ndarray:  # type: ignore[no-untyped-def]
    drawing = Drawing(MODEL, view, SIZE, ink=Ink())
    drawing.compute(needs_of(traces, drawing.ink))
    return compose(drawing.plate(), traces, QUIET, SIZE, LayerCache()).toarray()[..., [2, 1, 0]].astype(float)


@pytest.mark.parametrize("view", VIEWS)
def test_a_veil_is_the_drawing_of_its_set_in_this_frame_laid_over(view: ViewSpecification) -> None:
    """The same as the set drawn by itself in a frame that is written out, laid over by hand."""
    paper = Drawing(MODEL, view, SIZE).paper
    spec = view.projection
    if isinstance(spec, Parallel) and spec.centre is None:
        middle = paper.unproject(np.array([80.0, 56.0, 0.0]))
        spec = spec.model_copy(update={"centre": tuple(middle.tolist())})
    frame = view.frame if paper.is_perspective else view.frame.model_copy(update={"scale": paper.scale})
    for sawn in (True, False):
        alone = ViewSpecification(
            projection=spec, frame=frame, parts=PartChoice(set="Above"), cuts=view.cuts if sawn else ()
        )
        tint, lines = Tint(id="t", name="T"), LinesTrace(id="l", name="L")
        veil = VeilTrace(
            id="v", name="V", set="Above", sawn=sawn, fill="of materials", strength=1.0, pens="of the finish"
        )
        below, above = picture(view, tint), picture(alone, tint, lines)
        found = picture(view, tint, veil)
        seen = Drawing(MODEL, alone, SIZE).surface().cover
        inked = (above < 250).any(-1) & (seen == 0)
        assert (np.abs(found - above)[seen == 255] <= 5).all() and (seen == 255).sum() > 5000
        assert (np.abs(found - below)[(seen == 0) & ~inked] <= 3).mean() > 0.995
    # Through a disc it is laid together by hand.
    disc = Disc(id="d", name="Round", radius=25, softness=12)
    whole = veil.model_copy(update={"pens": "none"})
    through = picture(
        view.model_copy(update={"discs": (disc,)}), tint, whole.model_copy(update={"where": Through(name="Round")})
    )
    x, y = (np.arange(n) + 0.5 for n in SIZE)
    away = np.hypot(x[None] / 3 - 80, y[:, None] / 3 - 56) - 25
    t = np.clip(0.5 - away / 12, 0, 1)
    assert np.abs(through - by_hand(picture(view, tint, whole), below, t * t * (3 - 2 * t))).max() <= 3


def test_a_veil_of_nothing_is_nothing_and_its_passes_are_its_own() -> None:
    view = VIEWS[0]
    bare = picture(view, Tint(id="t", name="T"))
    for name in ("Gone", "Never said", ""):
        assert np.array_equal(picture(view, Tint(id="t", name="T"), VeilTrace(id="v", name="V", set=name)), bare)
    assert "part set" in VeilTrace(id="v", name="V").remarks(view, lambda _: True)[0]
    confined = picture(view, VeilTrace(id="v", name="V", set="Above", where=Match(parts=("Deep",))))
    assert (confined == 255).all()  # from above the deep one is not seen
    one, other = (Need("lines", None, VeilSpec(set=name)) for name in ("Above", "Below"))
    drawing = Drawing(MODEL, view, SIZE)
    assert len({drawing.key(one), drawing.key(other), drawing.key("lines")}) == 3
    cut = Drawing(MODEL, VIEWS[1], SIZE)
    assert cut.key(one) != cut.key(Need("lines", None, VeilSpec(set="Above", sawn=False)))
    looked = Looked(MODEL, view, SIZE)
    assert not looked.is_fresh(one) and looked.is_fresh(Need("lines", None, VeilSpec(set="Gone")))
    for need in (one, Need("mask", Match(parts=("Deep",))), Need("lines")):
        assert unpacked_need(packed_need(need)) == need
