"""What a note is put on when a place of the drawing is pointed at.
A corner of a line, a pane, a layer of what is cut, a face, or the paper.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH
from warmgraphite.ink.marks.snapping import caught, under
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.notes.setting import filled_area
from warmgraphite.passes.line_set import KINDS
from warmgraphite.view.projection import Projection

if TYPE_CHECKING:
    from warmgraphite.drawing import Drawing

__all__ = ["Pointed", "pointed_at"]

#: Square of the length of a product of unit ways, below which two lines run alongside.
ALONG = 1e-18

Array = NDArray[np.float64]


class Pointed(NamedTuple):
    """A place that was pointed at.
    Its ``point`` in metres (or, where it ``lies`` on the paper, in millimetres from the middle of the drawing), where
    that is in frame millimetres, the path of its ``part``, the ``layer`` of what is cut there, with its ``thickness``
    in metres, and what it ``caught`` on.
    """

    point: Array
    xy: Array
    lies: str
    part: str = ""
    layer: str = ""
    thickness: float = 0.0
    caught: str = ""
    sign: str = "free"


def pointed_at(drawing: Drawing, xy: Array, reach: float, *, panes: bool = False, paper: bool = False) -> Pointed:
    """What is pointed at. ``panes`` asks for glass first; ``paper`` for nothing but the paper."""
    middle = np.array(drawing.middle)
    flat = Pointed(np.append(xy - middle, 0.0), xy, "paper")
    if paper:
        return flat
    projection, model = drawing.paper, drawing.model
    if panes:
        found = _pane(projection, model, xy)
        if found is not None:
            pane, at = found
            return Pointed(at, xy, "model", model.parts[pane].path, caught=model.parts[pane].name)
    lines = drawing.lines()
    hit = caught(lines, drawing.result("strokes").index, projection, xy, reach)
    if hit.line >= 0 and hit.sign in ("corner", "middle", "edge"):
        at = _on_line(projection, lines.start[hit.line], lines.end[hit.line], hit.xy)
        part = model.parts[int(lines.part[hit.line])]
        return Pointed(
            at,
            hit.xy,
            "model",
            part.path,
            caught=f"{hit.sign} · {KINDS[int(lines.kind[hit.line])]} of {part.name}",
            sign=hit.sign,
        )
    seen = under(projection, model, drawing.surface(), drawing.view.cuts, xy)
    if seen is None:
        return flat
    sheet, number, is_cut = seen
    part = model.parts[number]
    layer, thick = _layer(drawing, xy) if is_cut else ("", 0.0)
    return Pointed(sheet.point, xy, "model", part.path, layer, thick, layer or part.name)


def _on_line(projection: Projection, start: Array, end: Array, xy: Array) -> Array:
    """The point of a line in metres that is seen at a place of the paper.
    Exactly one of its ends, or its middle, where it is seen there.
    """
    places = projection.project(np.stack([start, end, (start + end) / 2]))[:, :2]
    near = np.linalg.norm(places - xy, axis=1)
    k = int(np.argmin(near))
    if near[k] < NEAR:
        return (start, end, (start + end) / 2)[k]
    origin, way = projection.rays(xy[None], 0.0)
    along, sight = end - start, way[0]
    # Where two lines in space come nearest to each other.
    cross = np.cross(along, sight)
    size = float(cross @ cross)
    if size < ALONG:
        return (start + end) / 2
    t = float(np.cross(origin[0] - start, sight) @ cross) / size
    return start + min(max(t, 0.0), 1.0) * along


def _pane(projection: Projection, model: Model, xy: Array) -> tuple[int, Array] | None:
    """The nearest pane under a place, and the point of it; its number."""
    rows = np.flatnonzero((model.parts.is_glazing & model.parts.present)[model.triangle_part])
    if not len(rows):
        return None
    origin, way = projection.rays(xy[None], 0.0)
    o, d = origin[0], way[0]
    a, b, c = (model.vertices[model.triangles[rows, k]] for k in range(3))
    e1, e2 = b - a, c - a
    p = np.cross(d, e2)
    det = (e1 * p).sum(1)
    with np.errstate(all="ignore"):
        s = o - a
        u = (s * p).sum(1) / det
        q = np.cross(s, e1)
        v = (q @ d) / det
        t = (e2 * q).sum(1) / det
    good = (np.abs(det) > NO_LENGTH) & (u >= 0) & (v >= 0) & (u + v <= 1)
    if projection.eye is not None:
        good &= t > 0
    if not good.any():
        return None
    k = int(np.argmin(np.where(good, t, np.inf)))
    return int(model.triangle_part[rows[k]]), o + t[k] * d


def _layer(drawing: Drawing, xy: Array) -> tuple[str, float]:
    """The layer of a build-up under a place in the cut, and its thickness."""
    if not drawing.ink.construction or not drawing.is_fresh(Need("built")):
        return "", 0.0
    spot = shapely.Point(xy)
    for row in drawing.result(Need("built")):
        if row.fills and row.group.startswith("poche ") and shapely.intersects(filled_area(row.shape.rings), spot):
            name = row.group.removeprefix("poche ")
            thick = next(
                (
                    lay.thickness
                    for b in drawing.ink.build_ups
                    for lay in b.layers
                    if lay.name == name and lay.thickness
                ),
                0.0,
            )
            return name, float(thick or 0.0)
    return "", 0.0
