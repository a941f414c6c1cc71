"""Frame: where the model lies on the paper, or why nothing of it does."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Nothing
from warmgraphite.errors import NothingShown, ViewError
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.view.projection import Projection

__all__ = ["FRAME", "PAPER", "Paper"]


@dataclass(frozen=True)
class Paper:
    """The frame of a view, or the sentence that says why there is none."""

    projection: Projection | None
    problem: str = ""


def _pack(found: Paper) -> Arrays:
    p = found.projection
    if p is None:
        return {"problem": np.array(found.problem)}
    return {
        "matrix": p.matrix, "paper": np.array([p.width, p.height]), "sight": p.sight,
        "eye": np.empty(0) if p.eye is None else p.eye, "scale": np.array([p.scale] if p.scale else []),
    }  # fmt: skip


def _unpack(a: Arrays) -> Paper:
    if "problem" in a:
        return Paper(None, str(a["problem"]))
    width, height = (float(v) for v in a["paper"])
    eye, scale = a["eye"] if len(a["eye"]) else None, float(a["scale"][0]) if len(a["scale"]) else None
    return Paper(Projection(a["matrix"], width, height, eye, a["sight"], scale))


def _paper(_read: Nothing, given: Given, _progress: Progress) -> Paper:
    try:
        return Paper(given["scene"].projection)
    except ViewError as error:
        return Paper(None, str(error))


PAPER = Pass(
    name="paper",
    stage="Setting up the view",
    weight=0.01,
    reads=lambda _s, _: Nothing(),
    compute=_paper,
    pack=_pack,
    unpack=_unpack,
    needs=lambda _s, _: ("scene",),
)


@dataclass(frozen=True)
class _Named:
    """What the view is called: it stands in the sentence that says why there is nothing to see."""

    view: str


def _frame(read: _Named, given: Given, _progress: Progress) -> Paper:
    found: Paper = given["paper"]
    return Paper(None, str(NothingShown(read.view))) if found.problem == str(NothingShown()) else found


FRAME = Pass(
    name="frame",
    stage="Setting up the view",
    weight=0.01,
    reads=lambda s, _: _Named(s.view.name),
    compute=_frame,
    needs=lambda _s, _: ("paper",),
    light=True,
)
