"""What washes and soft edges follow: the cells of every pixel, and how far from the borders of areas each place lies."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from warmgraphite.collage.fields import Field, field_of, grid_of
from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.regions.masks import Cover
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["BORDERS", "COVER", "FACE_BORDERS", "MATERIAL_BORDERS"]


def _cover(drawing: Drawing, _where: Query | None, _progress: Progress) -> Cover:
    return drawing.region_map().cover(drawing.size, drawing.window)


COVER = Pass(
    name="cover",
    stage="Laying regions into pixels",
    weight=0.05,
    reads=lambda d, _: d.seen.raster,
    compute=_cover,
    unpack=lambda a: Cover(**a),
    needs=lambda _d, _: ("regions",),
    pixels=True,
)


def _labelled(drawing: Drawing, where: Query | None, held: str) -> Field:
    """The field of what a query means, held together as one area, by material or by face."""
    cells, frame = drawing.region_map(), (drawing.view.frame.width, drawing.view.frame.height)
    label = cells.areas(where, drawing.model, held)
    found = np.append(label, -1)[cells.cover(grid_of(frame)).most]
    return field_of(found.astype(np.int32), frame)


def _pack(found: Field) -> Arrays:
    return {**as_arrays(found), "frame": np.array(found.frame)}


def _unpack(a: Arrays) -> Field:
    columns: dict[str, Any] = {**a, "frame": tuple(a["frame"].tolist())}
    return Field(**columns)


def _borders(name: str, held: str) -> Pass:
    return Pass(
        name=name,
        of_where=True,
        stage="Measuring from borders",
        weight=0.05,
        reads=lambda d, where: read_of(where, d.model),
        compute=lambda d, where, _progress: _labelled(d, where, held),
        pack=_pack,
        unpack=_unpack,
        needs=lambda _d, _: ("regions",),
    )


BORDERS = _borders("borders", "region")
MATERIAL_BORDERS = _borders("borders of materials", "materials")
FACE_BORDERS = _borders("borders of faces", "faces")
