"""Regions: the edges of light, the planar map of the drawing, and what a query means on it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Pass
from warmgraphite.drawing.inputs import Nothing
from warmgraphite.ink.confine import Room
from warmgraphite.passes.packing import as_arrays, from_wkb, to_wkb
from warmgraphite.passes.shadow import LightEdges, light_edges
from warmgraphite.passes.store import Arrays
from warmgraphite.passes.surface import shares
from warmgraphite.progress import Progress, part_of
from warmgraphite.regions.map import RegionMap, region_map
from warmgraphite.regions.outline import outline_of
from warmgraphite.regions.query import PartCells, Query, answer, depth_bounds
from warmgraphite.regions.reading import of_parts, read_of

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["MASK", "OUTLINE", "REGIONS", "ROOM", "SHADOW"]


def _edges(drawing: Drawing, _where: Query | None, progress: Progress) -> LightEdges:
    whole = drawing.whole
    cut = (whole.regions(), whole.settled, whole.masses)
    return light_edges(drawing.scene, drawing.hiders, drawing.sunlight, drawing.casters, whole.scene, cut, progress)


SHADOW = Pass(
    name="shadow",
    stage="Following the edges of shadow",
    weight=0.1,
    reads=lambda d, _: (d.sight.lit, d.view.lines.crease_angle),
    compute=_edges,
    unpack=lambda a: LightEdges(**a),
    needs=lambda _d, _: ("cut",),
)


def _map(drawing: Drawing, _where: Query | None, progress: Progress) -> RegionMap:
    cut = (drawing.settled, drawing.masses)
    edges, bounds = drawing.light_edges(), drawing.bounds()
    return region_map(drawing.scene, drawing.hiders, bounds, edges, drawing.sunlight, cut, part_of(progress, 0.0, 1.0))


def _pack(found: RegionMap) -> Arrays:
    return {
        **as_arrays(found),
        "shapes": to_wkb(list(found.shapes)),
        "frame": np.array(found.frame),
        "start": np.array(found.start),
    }


def _unpack(a: Arrays) -> RegionMap:
    shapes = np.array(from_wkb(a["shapes"]), dtype=object)
    columns: dict[str, Any] = {**a, "shapes": shapes, "frame": tuple(a["frame"].tolist()), "start": float(a["start"])}
    return RegionMap(**columns)


REGIONS = Pass(
    name="regions",
    stage="Mapping the regions",
    weight=0.5,
    reads=lambda _d, _: Nothing(),
    compute=_map,
    pack=_pack,
    unpack=_unpack,
    needs=lambda _d, _: ("cut", "lines", "shadow"),
)


def _room(drawing: Drawing, where: Query | None, _progress: Progress) -> Room:
    cells = drawing.region_map()
    assert where is not None
    return Room.of(cells.shape(cells.chosen(where, drawing.model)))


ROOM = Pass(
    name="room",
    of_where=True,
    stage="Finding the region",
    weight=0.02,
    reads=lambda d, where: read_of(where, d.model),
    compute=_room,
    pack=lambda found: {"shapes": to_wkb([found.shape, found.around])},
    unpack=lambda a: Room(*from_wkb(a["shapes"])),
    needs=lambda _d, _: ("regions",),
)


def _mask(drawing: Drawing, where: Query | None, _progress: Progress) -> NDArray[np.uint8]:
    model = drawing.model
    assert where is not None
    if not of_parts(where):
        cells, cover = drawing.region_map(), drawing.result("cover")
        if depth_bounds(where):
            return cells.mask_by_depth(where, model, cover, drawing.surface().distance)
        return cover.mask(cells.chosen(where, model))  # type: ignore[no-any-return]
    chosen = np.append(answer(where, PartCells.of(model), model), False)  # number −1 is nothing, and not chosen
    seen = drawing.surface()
    mask = np.where(chosen[seen.part], np.uint8(255), np.uint8(0))
    shares(mask, seen.edge_pixel, chosen[seen.edge_part])
    return mask


MASK = Pass(
    name="mask",
    of_where=True,
    stage="Masking a region",
    weight=0.02,
    reads=lambda d, where: (read_of(where, d.model), d.seen.raster),
    compute=_mask,
    pack=lambda found: {"pixels": found},
    unpack=lambda a: a["pixels"],
    needs=lambda _d, where: (
        ("surface",) if of_parts(where) else ("regions", "cover", *(("surface",) if depth_bounds(where) else ()))
    ),
    pixels=True,
)


def _outline(drawing: Drawing, where: Query | None, _progress: Progress) -> shapely.MultiPolygon:
    assert where is not None
    chosen = answer(where, PartCells.of(drawing.model), drawing.model)
    frame = drawing.view.frame
    return outline_of(drawing.bounds(), drawing.hiders, chosen, frame.width, frame.height)


OUTLINE = Pass(
    name="outline",
    of_where=True,
    stage="Going round the subject",
    weight=0.05,
    reads=lambda d, where: read_of(where, d.model),
    compute=_outline,
    pack=lambda found: {"shape": to_wkb([found])},
    unpack=lambda a: from_wkb(a["shape"])[0],
    needs=lambda _d, _: ("cut", "lines"),
)
