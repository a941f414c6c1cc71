"""What a query means on the map: as a shape, as pixels, and the outline of parts that are meant."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Raster, held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.ink.confine import Confine
from warmgraphite.model.model import Model
from warmgraphite.passes.packing import from_wkb, to_wkb
from warmgraphite.passes.surface import shares
from warmgraphite.progress import Progress
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.outline import outline_of
from warmgraphite.regions.query import PartCells, Query, answer, depth_bounds
from warmgraphite.regions.reading import of_parts, read_of

__all__ = ["MASK", "OUTLINE", "ROOM"]


@dataclass(frozen=True)
class Meant:
    """What a query means of a model, which is asked for nothing else."""

    words: Any
    where: Query = held()
    model: Model = held()


def meant(spec: DrawingSpec, where: Query | None) -> Meant:
    """What a query means of what is drawn."""
    assert where is not None
    return Meant(read_of(where, spec.model), where, spec.model)


def _room(read: Meant, given: Given, _progress: Progress) -> Confine:
    cells: RegionMap = given["regions"]
    return Confine.of(cells.shape(cells.chosen(read.where, read.model)))


ROOM = Pass(
    name="room",
    of_where=True,
    stage="Finding the region",
    weight=0.02,
    reads=meant,
    compute=_room,
    pack=lambda found: {"shapes": to_wkb([found.shape, found.around])},
    unpack=lambda a: Confine(*from_wkb(a["shapes"])),
    needs=lambda _s, _: ("regions",),
)


@dataclass(frozen=True)
class _Masked:
    meant: Meant
    raster: Raster


def _mask(read: _Masked, given: Given, _progress: Progress) -> NDArray[np.uint8]:
    where, model = read.meant.where, read.meant.model
    if not of_parts(where):
        cells, cover = given["regions"], given["cover"]
        if depth_bounds(where):
            return cells.mask_by_depth(where, model, cover, given["surface"].distance)  # type: ignore[no-any-return]
        return cover.mask(cells.chosen(where, model))  # type: ignore[no-any-return]
    chosen = np.append(answer(where, PartCells.of(model), model), False)  # number −1 is nothing, and not chosen
    seen = given["surface"]
    mask = np.where(chosen[seen.part], np.uint8(255), np.uint8(0))
    shares(mask, seen.edge_pixel, chosen[seen.edge_part])
    return mask


def _mask_needs(_spec: DrawingSpec, where: Query) -> tuple[str, ...]:
    if of_parts(where):
        return ("surface",)
    return ("regions", "cover", *(("surface",) if depth_bounds(where) else ()))


MASK = Pass(
    name="mask",
    of_where=True,
    stage="Masking a region",
    weight=0.02,
    reads=lambda s, where: _Masked(meant(s, where), s.raster),
    compute=_mask,
    pack=lambda found: {"pixels": found},
    unpack=lambda a: a["pixels"],
    needs=_mask_needs,
    pixels=True,
)


@dataclass(frozen=True)
class _Round:
    meant: Meant
    paper: tuple[float, float]


def _outline(read: _Round, given: Given, _progress: Progress) -> shapely.MultiPolygon:
    model = read.meant.model
    chosen = answer(read.meant.where, PartCells.of(model), model)
    return outline_of(given["lines"], given["hiders"], chosen, *read.paper)


OUTLINE = Pass(
    name="outline",
    of_where=True,
    stage="Going round the subject",
    weight=0.05,
    reads=lambda s, where: _Round(meant(s, where), s.paper),
    compute=_outline,
    pack=lambda found: {"shape": to_wkb([found])},
    unpack=lambda a: from_wkb(a["shape"])[0],
    needs=lambda _s, _: ("lines", "hiders"),
)
