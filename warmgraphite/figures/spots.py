"""Where figures are on the paper of a view, and which of them it sees."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.figures.figure import Figure, Seen
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.memory import remembered
from warmgraphite.model.model import Model
from warmgraphite.view.projection import Projection, projection_of
from warmgraphite.view.scene import build_scene
from warmgraphite.view.specification import Perspective, ViewSpecification

__all__ = [
    "SHADOW",
    "out_of_sight",
    "projection_without",
    "seen_from",
    "spot_of",
]

#: How far from its foot a figure's shadow is reckoned with, in heights of it.
SHADOW = 3.5


def projection_without(model: Model, view: ViewSpecification) -> Projection:
    """Where a model lies on the paper of a view. Raises :class:`ViewError` where nothing of it does."""
    return _projection(_Framed(model, view))


class _Framed:
    """A model and what of a view says where it lies on the paper."""

    def __init__(self, model: Model, view: ViewSpecification) -> None:
        self.model, self.view = model, view
        self._key = (model.version, view.model_dump_json(include={"projection", "frame", "cuts", "parts"}))

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Framed) and self._key == other._key


@remembered("projections of figures")
def _projection(framed: _Framed) -> Projection:
    view, model = framed.view, framed.model
    if isinstance(view.projection, Perspective) or (view.projection.centre is not None and view.frame.scale):
        return projection_of(view.projection, view.frame, model.bounds)
    return build_scene(model, view).projection


def spot_of(figure: Figure, paper: Projection, model: Model) -> tuple[NDArray[np.float64], float]:
    """Where a figure's foot is, in metres, and by how much more it is turned: on the paper it faces along it."""
    if figure.paper is None:
        return np.array(figure.at, float), 0.0
    on = figure.paper
    xy = np.array([[on.x + paper.width / 2, on.y + paper.height / 2]])
    right = paper.unproject(np.array([[0.0, 0.0, 0.5], [1.0, 0.0, 0.5]]))
    way = right[1] - right[0]
    extra = float(np.degrees(np.arctan2(-way[0], way[1])))
    if paper.eye is not None:
        start, ray = paper.rays(xy, 0.0)
        return start[0] + ray[0] * (on.distance / float(ray[0] @ paper.sight)), extra
    low, high = model.bounds
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    near = float(paper.project(corners)[:, 2].min())
    return paper.unproject(np.column_stack([xy, [near - 1.0]]))[0], extra


def seen_from(spot: NDArray[np.float64], tall: float, paper: Projection) -> tuple[float, Seen]:
    """How tall a figure is on paper in millimetres, and from where it is seen."""
    sight = paper.sight if paper.eye is None else np.add(spot, (0, 0, tall / 2)) - paper.eye
    far = float(np.linalg.norm(sight))
    way = sight / max(far, ROUNDING)
    bearing = float(np.degrees(np.arctan2(-way[0], -way[1]))) % 360
    if paper.scale and paper.eye is None:
        mm = 1000.0 / paper.scale * tall
    else:
        depth = float((spot - paper.eye) @ paper.sight) if paper.eye is not None else 1.0
        if depth <= 0.05:
            return 0.0, Seen(bearing=round(bearing, 1))
        focal = float(np.linalg.norm(paper.matrix[0, :3]))
        mm = focal / depth * tall
    steep = float(-way[2])
    return mm, Seen(bearing=round(bearing, 1), down=steep > 0.94, slanting=0.2 < steep <= 0.94)


def out_of_sight(
    figure: Figure, seen: Seen, spot: NDArray[np.float64], view: ViewSpecification, paper: Projection
) -> bool:
    """Whether nothing of a figure can be in a drawing, nor its shadow.
    It lies wholly where a plane takes all away, or well beside the frame. The sun is not asked: it is turned often, and
    no line may move for it.
    """
    box = _reach(figure, seen)
    low, high = spot + box[0], spot + box[1]
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    for cut in view.cuts:
        normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        deepest = max([0.0, *(jog.by for jog in cut.jogs)])
        if not view.sun.cast_off and float(((corners - np.array(cut.point, float)) @ normal).min()) > deepest + 0.01:
            return True
    away = SHADOW * figure.tall
    ground = np.array(
        [
            [x, y, low[2] - 0.3 * figure.tall]
            for x in (low[0] - away, high[0] + away)
            for y in (low[1] - away, high[1] + away)
        ]
    )
    corners = np.concatenate([corners, ground])
    if paper.eye is not None:
        ahead = (corners - paper.eye) @ paper.sight > 0.2
        if not ahead.all():
            return not ahead.any()
    flat = paper.project(corners)[:, :2]
    least, most = flat.min(0), flat.max(0)
    return bool(most[0] < 0 or most[1] < 0 or least[0] > paper.width or least[1] > paper.height)


def _reach(figure: Figure, seen: Seen) -> NDArray[np.float64]:
    """(2, 3) a box about a figure's foot that holds it however it is turned."""
    points = [p.points for p in figure.pieces(seen) if len(p.points)]
    if not points:
        return np.zeros((2, 3))
    wide = max(float(np.hypot(p[:, 0], p[:, 1]).max()) for p in points)
    low, high = min(float(p[:, 2].min()) for p in points), max(float(p[:, 2].max()) for p in points)
    return np.array([(-wide, -wide, low), (wide, wide, high)])
