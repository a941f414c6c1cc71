"""Frame: where the model lies on the paper, or why nothing of it does."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from warmgraphite.drawing.graph import Pass
from warmgraphite.errors import ViewError
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.view.projection import Projection

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["FRAME", "Paper"]


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
        "matrix": p.matrix, "paper": np.array([p.width, p.height]), "pixels": np.array(p.pixels), "sight": p.sight,
        "eye": np.empty(0) if p.eye is None else p.eye, "scale": np.array([p.scale] if p.scale else []),
    }  # fmt: skip


def _unpack(a: Arrays) -> Paper:
    if "problem" in a:
        return Paper(None, str(a["problem"]))
    width, height = (float(v) for v in a["paper"])
    across, down = (int(v) for v in a["pixels"])
    eye, scale = a["eye"] if len(a["eye"]) else None, float(a["scale"][0]) if len(a["scale"]) else None
    return Paper(Projection(a["matrix"], width, height, (across, down), eye, a["sight"], scale))


def _compute(drawing: Drawing, _where: Query | None, _progress: Progress) -> Paper:
    try:
        return Paper(drawing.scene.projection)
    except ViewError as error:
        return Paper(None, str(error))


@dataclass(frozen=True)
class _Read:
    framed: object
    pixels: tuple[int, int]
    name: str


FRAME = Pass(
    name="frame",
    stage="Setting up the view",
    weight=0.01,
    # Its name stands in the sentence that says why there is nothing to see.
    reads=lambda d, _: _Read(d.sight.framed, d.view.frame.pixels, d.view.name),
    compute=_compute,
    pack=_pack,
    unpack=_unpack,
)
