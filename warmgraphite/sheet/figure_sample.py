"""A figure of the stock as a small picture: as a pen draws it, in one light."""

from __future__ import annotations

from functools import cache

import numpy as np

from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.stack import layers
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing.drawing import Drawing, needs_of
from warmgraphite.figures.choosing import Marked
from warmgraphite.figures.cutouts import PictureSource
from warmgraphite.figures.figure import Figure, Seen
from warmgraphite.model.model import Model, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.model.solids import box
from warmgraphite.out.png import png_of
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.view.specification import Frame, Parallel, Sun, ViewSpecification

__all__ = ["figure_sample"]

#: Millimetres of paper that a sample is drawn on, so that pens are as heavy as on a drawing.
PAPER = 30.0
#: Degrees by which figures are turned, so that one sees how they stand.
TURN = 148.0


@cache
def _nothing() -> Model:
    """A model of which nothing is seen: a crumb far below the figure."""
    return build_model(
        "Nothing", [(Part("Crumb", "", 0, "ground"), *box((0, 0, -90.0), (0.1, 0.1, -89.9)))], [Material("Crumb")]
    )


def figure_sample(figure: Figure, pixels: int, kept: PictureSource | None = None) -> bytes:
    """A figure as PNG, ``pixels`` a side, as large as fits; what is one's own is where it is ``kept``."""
    turn = 0.0 if figure.any_way else TURN
    alone = figure.model_copy(update={"at": (0.0, 0.0, 0.0), "turn": turn, "id": "sample", "paper": None})
    points = np.concatenate([p.points for p in alone.pieces(Seen(kept=kept))])
    low, high = points.min(0), points.max(0)
    across = float(np.hypot(*np.abs(points[:, :2]).max(0)))
    paper = figure.sample * PAPER
    size = max(float(high[2] - low[2]), 1.7 * across, 0.12) * 1.12
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, -0.16), centre=(0, 0, float(low[2] + high[2]) / 2)),
        sun=Sun(azimuth=215, altitude=42),
        frame=Frame(width=paper, height=paper, scale=1000 * size / paper),
    )  # fmt: skip
    shown: list[Trace] = [
        Paper(id="paper", name="Paper", grain=0.3),
        Tint(id="tint", name="Tint", opacity=0.9),
        LinesTrace(id="lines", name="Lines"),
    ]
    ink = Marked(figures=(alone,))
    drawing = Drawing(_nothing(), view, (pixels, pixels), ink=ink, pictures=kept)  # type: ignore[arg-type]
    drawing.compute(needs_of(shown, drawing.ink))
    return png_of(laid_flat(drawing.plate(), list(layers(drawing.plate(), shown, 0.0)), (pixels, pixels))[0])
