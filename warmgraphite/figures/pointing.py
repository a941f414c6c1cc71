"""Where a place of a drawing lies in the model, and where a figure lies on the drawing.
Asked while one is put there.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.figures.cutouts import PictureSource
from warmgraphite.figures.figure import Figure, turn_matrix
from warmgraphite.figures.floors import floors_of
from warmgraphite.figures.spots import projection_without, seen_from, spot_of
from warmgraphite.geometry.tolerances import HAIR, ROUNDING
from warmgraphite.model.model import Model
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import ViewSpecification

__all__ = ["foot_on_paper", "outline_of", "pointed_at", "sight_lines"]

#: Square millimetres of paper below which a face is seen from its edge.
SEEN = 1e-7

Array = NDArray[np.float64]


def pointed_at(model: Model, view: ViewSpecification, places: Array) -> Array:
    """(N, 3) what bears under places (N, 2) of a drawing, in metres.
    Where sight lines meet it first, past what cuts take away. Raises :class:`ViewError` where one meets nothing.
    """
    start, way = sight_lines(model, view, places)
    far, _ = floors_of(model).first(start + way * HAIR, way)
    if not np.isfinite(far).all():
        raise ViewError("Nothing of the model is there; point at a floor, at the ground or at a seat.")
    return start + way * far[:, None]


def sight_lines(model: Model, view: ViewSpecification, places: Array) -> tuple[Array, Array]:
    """Where sight lines through places (N, 2) of a drawing begin, and their unit ways (N, 3).
    They begin past what cuts take away; in metres.
    """
    paper = projection_without(model, view)
    low, high = model.bounds
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    near = 0.0 if paper.eye is not None else float(paper.project(corners)[:, 2].min()) - 1.0
    start, way = (np.array(a, float) for a in paper.rays(places, near))
    for cut in view.cuts:
        normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        side, steep = (start - np.array(cut.point, float)) @ normal, way @ normal
        ahead = (side > 0) & (steep < -ROUNDING)
        start[ahead] += way[ahead] * (side[ahead] / -steep[ahead])[:, None]
    return start, way


def _paper_points(
    figure: Figure, model: Model, view: ViewSpecification, kept: PictureSource | None
) -> tuple[Array, NDArray[np.int32], Projection]:
    paper = projection_without(model, view)
    spot, extra = spot_of(figure, paper, model)
    _, seen = seen_from(spot, figure.tall, paper)
    seen = replace(seen, detail=2, coarsely=True, kept=kept)
    pieces = figure.pieces(seen)
    matrix, count, points, triangles = turn_matrix(figure.turned(seen) + extra), 0, [], []
    for piece in pieces:
        points.append(piece.points @ matrix.T + spot)
        triangles.append(piece.triangles + count)
        count += len(piece.points)
    return np.concatenate(points), np.concatenate(triangles), paper


def outline_of(
    figure: Figure, model: Model, view: ViewSpecification, kept: PictureSource | None = None
) -> shapely.Geometry:
    """The outline of a figure on the paper of a view, in frame millimetres, as if nothing stood before it.
    Empty behind the viewer.
    """
    points, triangles, paper = _paper_points(figure, model, view, kept)
    if paper.eye is not None and ((points - paper.eye) @ paper.sight <= 0.05).any():
        return shapely.Polygon()
    flat = paper.project(points)[:, :2]
    faces = shapely.polygons(flat[triangles])
    faces = faces[shapely.area(faces) > SEEN]
    return shapely.union_all(shapely.set_precision(faces, 0.005))


def foot_on_paper(figure: Figure, model: Model, view: ViewSpecification) -> tuple[float, float] | None:
    """Where a figure's foot is on the paper, in frame millimetres; ``None`` behind the viewer."""
    paper = projection_without(model, view)
    spot, _ = spot_of(figure, paper, model)
    if paper.eye is not None and float((spot - paper.eye) @ paper.sight) <= 0.05:
        return None
    x, y, _ = paper.project(spot[None])[0]
    return float(x), float(y)
