"""Reading flat drawings, PDF and SVG: their closed areas become flat parts that can be poured into.

A drawing at 1:n is as large in nature as n times the paper. Its lines part the page into areas; what is filled has the
colour of its fill.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.colour import written
from warmgraphite.errors import ModelFileError, PictureError
from warmgraphite.model.gathering import Gathering
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.model.polygons import triangles_of
from warmgraphite.progress import Stages
from warmgraphite.vectors import Vectors, read_vectors, said_scale

__all__ = ["USUAL", "areas_of", "read_flat"]

#: The scale that is taken where none is written on the drawing or in its name.
USUAL = 100.0
#: Millimetres of paper within which ends of lines meet, and the area below which one is none.
MEET, LEAST = 0.02, 0.05
#: Areas of one drawing.
MOST = 20_000


def areas_of(found: Vectors) -> tuple[list[shapely.Polygon], NDArray[np.int64]]:
    """The closed areas of a drawing in millimetres of its page, the largest first.
    With the line (n,) that fills each, −1 for none.
    """
    lines = shapely.linestrings(found.points, indices=np.repeat(np.arange(len(found.weight)), np.diff(found.first)))
    whole = shapely.set_precision(shapely.union_all(shapely.set_precision(lines, MEET / 4)), MEET / 4)
    parts = np.array(shapely.get_parts(whole))
    shapes = [p for p in shapely.get_parts(shapely.polygonize(parts)) if p.area > LEAST] if len(parts) else []
    shapes.sort(key=lambda p: -p.area)
    by = np.full(len(shapes), -1, np.int64)
    if not shapes:
        return [], by
    inner = np.array([p.representative_point() for p in shapes], dtype=object)
    tree = shapely.STRtree(inner)
    for path in np.unique(found.path[found.filled]):  # what is filled later lies over what was before
        rows = np.flatnonzero(found.path == path)
        rings = [found.line(int(r)) for r in rows if len(found.line(int(r))) > 3]
        if not rings:
            continue
        shape = shapely.Polygon(rings[0])
        for ring in rings[1:]:
            shape = shape.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
        shape = shapely.make_valid(shape)
        by[tree.query(shape, predicate="contains")] = rows[0]
    return shapes, by


def read_flat(path: Path, watch: Stages) -> tuple[Model, tuple[str, ...], str]:
    """A flat drawing in metres at its scale, lying at height 0 with its middle at the origin.
    Notes, and why it has that scale. Raises :class:`ModelFileError` with one sentence.
    """
    watch("Following its lines", 0.2)
    try:
        found = read_vectors(path.read_bytes(), path.name)
    except PictureError as error:
        raise ModelFileError(str(error)) from None
    if not len(found.weight):
        raise ModelFileError(
            f"{path.name} has no lines, only pictures or words; export it as a vector drawing and bring that."
        )
    named, written_on = said_scale(path.stem), float(found.scale[0])
    scale = named or written_on or USUAL
    why = (
        f"its name says 1:{scale:g}" if named else f"1:{scale:g} is written on it" if written_on else
        f"it says no scale, and is taken to be at 1:{scale:g}; measure it anew where it is not"
    )  # fmt: skip
    watch("Finding its closed areas", 0.5)
    shapes, by = areas_of(found)
    if not shapes:
        raise ModelFileError(
            f"{path.name} has no closed area; lay it as a trace at the Collage bench instead, where its lines take "
            f"pens."
        )
    if len(shapes) > MOST:
        raise ModelFileError(
            f"{path.name} has {len(shapes):,} closed areas, more than {MOST:,}; leave out hatches and try it again."
        )
    gathered, middle, per = Gathering(path.name), found.page / 2, scale / 1000
    for number, (shape, line) in enumerate(zip(shapes, by, strict=True), 1):
        rings = [shapely.get_coordinates(r)[:-1] for r in (shape.exterior, *shape.interiors)]
        flat = [
            np.column_stack([(r[:, 0] - middle[0]) * per, (middle[1] - r[:, 1]) * per, np.zeros(len(r))]) for r in rings
        ]
        triangles = triangles_of(flat)
        colour = "#f6f3ec" if line < 0 else written(found.fill[line])
        corners = np.concatenate(flat)
        # Seen from above, whichever way it was drawn.
        faces = np.array(triangles, np.int64).reshape(-1, 3)
        if len(faces):
            a, b, c = (corners[faces[:, k]] for k in range(3))
            down = np.cross(b - a, c - a)[:, 2] < 0
            faces[down] = faces[down][:, ::-1]
        gathered.add(
            f"Area {number}",
            "Areas",
            Material("Open area" if line < 0 else f"Filled {colour}", colour),
            corners,
            faces,
            role="structure",
        )
    parted = shapely.get_parts(shapely.union_all([s.boundary for s in shapes]))
    bounded = shapely.buffer(shapely.union_all(parted), 2 * MEET)
    lines = shapely.linestrings(found.points, indices=np.repeat(np.arange(len(found.weight)), np.diff(found.first)))
    loose = int((shapely.length(shapely.difference(lines, bounded)) > 0.5).sum())
    notes = (f"{loose:,} of its lines bound no area; lay the drawing as a trace, too, to have them.",) if loose else ()
    return gathered.model(path.stem), notes, why
