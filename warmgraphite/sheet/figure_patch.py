"""A figure alone, drawn into the window of the drawing that it stands in.
What is shown of one that was just put, until all passes know it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.stack import layers
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing.drawing import Drawing, needs_of
from warmgraphite.figures.cutouts import PictureSource
from warmgraphite.figures.figure import Figure
from warmgraphite.figures.floors import floors_of
from warmgraphite.figures.pointing import sight_lines
from warmgraphite.figures.spots import projection_without
from warmgraphite.figures.standing import peopled
from warmgraphite.ink.rules import Ink
from warmgraphite.model.model import Model
from warmgraphite.out.png import png_of
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import FigureChoice, Frame, ViewSpecification

__all__ = ["figure_patch"]

#: Millimetres round a figure, for its pens.
ROUND = 1.5


def figure_patch(
    model: Model, view: ViewSpecification, ink: Ink, figure: Figure, density: float, kept: PictureSource | None = None
) -> tuple[tuple[float, float, float, float], bytes] | None:
    """A figure of a view, as a picture and where it lies.
    It is made at ``density`` pixels to the millimetre, as x, y, width and height in frame millimetres and a PNG with
    transparency where it is not seen; ``None`` where nothing of it lies on the paper. What bears hides it; glass and
    other figures do not yet.
    """
    stood = peopled(model, view, (figure,), ink.entourage, FigureChoice(), kept).model
    rows = stood.parts.figure[stood.triangle_part] >= 0
    if not rows.any():
        return None
    paper = projection_without(model, view)
    points = stood.vertices[np.unique(stood.triangles[rows])]
    if paper.eye is not None and ((points - paper.eye) @ paper.sight < 0.05).any():
        return None
    flat = paper.project(points)[:, :2]
    low = np.maximum(np.floor(flat.min(0) - ROUND), 0.0)
    high = np.minimum(np.ceil(flat.max(0) + ROUND), [paper.width, paper.height])
    if (high - low < 1.0).any():
        return None
    width, height = (float(v) for v in high - low)
    size = (max(1, round(width * density)), max(1, round(height * density)))
    matrix = paper.matrix.copy()
    matrix[0] -= low[0] * matrix[3]
    matrix[1] -= low[1] * matrix[3]
    window = Projection(matrix, width, height, paper.eye, paper.sight, paper.scale)
    alone = view.model_copy(
        update={"cuts": (), "frame": Frame(width=max(width, 10.0), height=max(height, 10.0)), "figures": FigureChoice()}
    )
    shown: tuple[Trace, ...] = (Tint(id="tint", name="Tint", opacity=0.85), LinesTrace(id="lines", name="Lines"))
    drawing = Drawing(stood.only(rows), alone, size, ink=Ink(pens=ink.pens, hand=ink.hand), pinned=window)
    drawing.compute(needs_of(shown, drawing.ink))
    pixels, _ = laid_flat(drawing.plate(), list(layers(drawing.plate(), shown, 0.0)), size)
    pixels[_hidden(model, view, drawing, low, density)] = 0
    return (float(low[0]), float(low[1]), width, height), png_of(pixels)


def _hidden(
    model: Model, view: ViewSpecification, drawing: Drawing, low: NDArray[np.float64], density: float
) -> NDArray[np.bool_]:
    """(h, w) the pixels before which something stands."""
    distance = drawing.surface().distance
    spread = distance.copy()
    # A line runs half outside of what it bounds: there it is as far away as that.
    for axis, step in ((0, 1), (0, -1), (1, 1), (1, -1)):
        spread = np.fmin(spread, np.roll(distance, step, axis))
    rows, columns = np.nonzero(np.isfinite(spread))
    out = np.zeros(distance.shape, bool)
    if not len(rows):
        return out
    places = np.column_stack([(columns + 0.5) / density, (rows + 0.5) / density]) + low
    start, way = sight_lines(model, view, places)
    far, _ = floors_of(model).first(start, way)
    met = np.isfinite(far)
    paper = projection_without(model, view)
    at = np.full(len(rows), np.inf)
    at[met] = paper.distance(paper.project(start[met] + way[met] * far[met, None])[:, 2])
    out[rows, columns] = at < spread[rows, columns] - 0.03
    return out
