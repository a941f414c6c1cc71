"""Cut: what the planes go through, part by part; the faces that close it; and what of it is not shut."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
import shapely

from warmgraphite.drawing.graph import Pass
from warmgraphite.passes.cut import CutRegion, cut_regions, lifted
from warmgraphite.passes.occluders import cap_triangles
from warmgraphite.passes.packing import from_wkb, to_wkb
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["CAPS", "CUT", "REMARKS", "Caps", "Remark"]


def _pack(rows: list[CutRegion]) -> Arrays:
    return {
        "plane": np.array([r.plane for r in rows], np.int32),
        "part": np.array([r.part for r in rows], np.int32),
        "region": to_wkb([r.region for r in rows]),
        "strokes": to_wkb([r.strokes for r in rows]),
        "gaps": to_wkb([r.gaps for r in rows]),
    }


def _unpack(a: Arrays) -> list[CutRegion]:
    shapes = (from_wkb(a[name]) for name in ("region", "strokes", "gaps"))
    return [CutRegion(int(plane), int(part), *row) for plane, part, *row in zip(a["plane"], a["part"], *shapes, strict=True)]


CUT = Pass(
    name="cut",
    stage="Cutting the model",
    weight=0.05,
    # What is cut of the model does not depend on how it is looked at.
    reads=lambda d, _: d.sight.sawn,
    compute=lambda d, _, progress: cut_regions(d.scene, progress),
    pack=_pack,
    unpack=_unpack,
)


@dataclass(frozen=True)
class Caps:
    """The triangles (C, 3, 3), in metres, that close the cuts, and the ``part`` (C,) of each."""

    corners: Any
    part: Any


CAPS = Pass(
    name="caps",
    stage="Closing the cuts",
    weight=0.02,
    reads=lambda d, _: d.sight.filled,
    compute=lambda d, _, _progress: Caps(*cap_triangles(d.scene, d.settled)),
    unpack=lambda a: Caps(**a),
    needs=lambda _d, _: ("cut",),
)


class Remark(NamedTuple):
    """What is not as a person expects: the part's number, the place in metres, and what it is."""

    part: int
    place: list[float]
    what: str


def _remarks(drawing: Drawing, _where: Query | None, _progress: Progress) -> list[Remark]:
    found: list[Remark] = []
    model = drawing.model
    for row in drawing.regions() if drawing.view.cuts else []:
        if model.parts.is_glass[row.part]:
            continue
        surface, part = drawing.scene.surfaces[row.plane], row.part
        for shape, frame in lifted(surface, row.gaps):
            what = "its cut outline has a gap here that is too wide to close: drawn as strokes"
            found += [Remark(part, place, what) for place in frame.lifted(shapely.get_coordinates(shape)).tolist()]
        if not row.strokes.is_empty and row.gaps.is_empty:
            shape, frame = lifted(surface, row.strokes)[0]
            place = frame.lifted(np.array(shape.centroid.coords[0])).tolist()
            found.append(Remark(part, place, "cut through an open surface: drawn as strokes"))
    return found


def _pack_remarks(rows: list[Remark]) -> Arrays:
    return {
        "part": np.array([r.part for r in rows], np.int64),
        "place": np.array([r.place for r in rows]).reshape(-1, 3),
        "what": np.array([r.what for r in rows], dtype=np.str_),
    }


REMARKS = Pass(
    name="remarks",
    stage="Looking for what is not shut",
    weight=0.01,
    reads=lambda d, _: d.sight.bodies,
    compute=_remarks,
    pack=_pack_remarks,
    unpack=lambda a: [Remark(int(p), at.tolist(), str(w)) for p, at, w in zip(a["part"], a["place"], a["what"], strict=True)],
    needs=lambda _d, _: ("cut",),
)
