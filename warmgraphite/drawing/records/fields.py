"""What washes and soft edges follow.
The cells of every pixel, and how far from the borders of areas each place lies.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from warmgraphite.collage.fields import BorderField, field_of, grid_of
from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Raster, held
from warmgraphite.model.model import Model
from warmgraphite.passes.packing import as_arrays
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.masks import Cover
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of

__all__ = ["BORDERS", "COVER", "FACE_BORDERS", "MATERIAL_BORDERS"]


def _cover(read: Raster, given: Given, _progress: Progress) -> Cover:
    cells: RegionMap = given["regions"]
    return cells.cover(read.size, read.window)


COVER = Pass(
    name="cover",
    stage="Laying regions into pixels",
    weight=0.05,
    reads=lambda s, _: s.raster,
    compute=_cover,
    unpack=lambda a: Cover(**a),
    needs=lambda _s, _: ("regions",),
    pixels=True,
)


@dataclass(frozen=True)
class _Bordered:
    words: Any
    paper: tuple[float, float]
    where: Query | None = held()
    model: Model = held()


def _labelled(read: _Bordered, cells: RegionMap, together: str) -> BorderField:
    """The field of what a query means, held together as one area, by material or by face."""
    frame, label = read.paper, cells.areas(read.where, read.model, together)
    found = np.append(label, -1)[cells.cover(grid_of(frame)).most]
    return field_of(found.astype(np.int32), frame)


def _pack(found: BorderField) -> Arrays:
    return {**as_arrays(found), "frame": np.array(found.frame)}


def _unpack(a: Arrays) -> BorderField:
    columns: dict[str, Any] = {**a, "frame": tuple(a["frame"].tolist())}
    return BorderField(**columns)


def _borders(name: str, together: str) -> Pass[_Bordered, BorderField]:
    return Pass(
        name=name,
        of_where=True,
        stage="Measuring from borders",
        weight=0.05,
        reads=lambda s, where: _Bordered(read_of(where, s.model), s.paper, where, s.model),
        compute=lambda read, given, _: _labelled(read, given["regions"], together),
        pack=_pack,
        unpack=_unpack,
        needs=lambda _s, _: ("regions",),
    )


BORDERS = _borders("borders", "region")
MATERIAL_BORDERS = _borders("borders of materials", "materials")
FACE_BORDERS = _borders("borders of faces", "faces")
