"""The planar map of the drawing."""

from __future__ import annotations

from typing import Any

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Lit
from warmgraphite.passes.cut import CutSet
from warmgraphite.passes.packing import as_arrays, from_wkb, to_wkb
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress, part_of
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.mapping import region_map

__all__ = ["REGIONS"]


def _map(read: Lit, given: Given, progress: Progress) -> RegionMap:
    cut = CutSet(given["cut"], given["settled"], given["masses"])
    whole = part_of(progress, 0.0, 1.0)
    return region_map(
        given["scene"], given["hiders"], given["lines"], given["shadow"], given["sunlight"], cut, read.day, whole
    )


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
    reads=lambda s, _: s.sight.lit,
    compute=_map,
    pack=_pack,
    unpack=_unpack,
    needs=lambda s, _: ("scene", "hiders", "cut", "settled", "masses", "lines", "shadow", *s.of_whole("sunlight")),
)
