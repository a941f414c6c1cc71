"""Cut: what the planes go through, part by part; how that shares the room; the faces that close it.
And what of it is not shut.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Filled, Sawn, held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.passes.cut import CutRegion, cut_regions, lifted, masses, settled
from warmgraphite.passes.cut_faces import cap_triangles
from warmgraphite.passes.packing import digest, from_wkb, to_wkb
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.view.surfaces import CutSurface

__all__ = ["CAPS", "CUT", "MASSES", "REMARKS", "SETTLED", "Caps", "Remark"]


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
    return [
        CutRegion(int(plane), int(part), *row) for plane, part, *row in zip(a["plane"], a["part"], *shapes, strict=True)
    ]


def _cut(read: Sawn, _given: Given, progress: Progress) -> list[CutRegion]:
    return cut_regions(read.bodies, read.surfaces, read.chosen, progress)


CUT = Pass(
    name="cut",
    stage="Cutting the model",
    weight=0.05,
    # What is cut of the model does not depend on how it is looked at.
    reads=lambda s, _: s.sight.sawn,
    compute=_cut,
    pack=_pack,
    unpack=_unpack,
)

SETTLED = Pass(
    name="settled",
    stage="Settling what overlaps",
    weight=0.02,
    reads=lambda s, _: s.sight.filled,
    compute=lambda read, given, _: settled(read.bodies, given["cut"]),
    needs=lambda _s, _: ("cut",),
    tool=True,
)

MASSES = Pass(
    name="masses",
    stage="Making masses of one material",
    weight=0.01,
    reads=lambda s, _: s.sight.filled,
    compute=lambda read, given, _: masses(read.bodies, given["settled"]),
    needs=lambda _s, _: ("settled",),
    tool=True,
)


@dataclass(frozen=True)
class Caps:
    """The triangles (C, 3, 3), in metres, that close the cuts, and the ``part`` (C,) of each."""

    corners: NDArray[np.float64]
    part: NDArray[np.int32]


@dataclass(frozen=True)
class _Closed:
    filled: Filled
    surfaces: tuple[CutSurface, ...] = held()


def _caps(read: _Closed, given: Given, _progress: Progress) -> Caps:
    return Caps(*cap_triangles(read.surfaces, given["settled"]))


CAPS = Pass(
    name="caps",
    stage="Closing the cuts",
    weight=0.02,
    # The surfaces are those of what is cut.
    reads=lambda s, _: _Closed(s.sight.filled, s.sight.sawn.surfaces),
    compute=_caps,
    unpack=lambda a: Caps(**a),
    needs=lambda _s, _: ("cut", "settled"),
)


class Remark(NamedTuple):
    """What is not as a person expects: the part's number, the place in metres, and what it is."""

    part: int
    place: list[float]
    what: str


@dataclass(frozen=True)
class _Looked:
    """What is cut, and which of it is glass."""

    clear: str
    surfaces: tuple[CutSurface, ...] = held()
    is_glass: NDArray[np.bool_] = held()


def _looked(spec: DrawingSpec, _where: object) -> _Looked:
    sawn = spec.sight.sawn
    return _Looked(digest(sawn.bodies.is_glass[sawn.chosen]), sawn.surfaces, sawn.bodies.is_glass)


def _remarks(read: _Looked, given: Given, _progress: Progress) -> list[Remark]:
    found: list[Remark] = []
    for row in given["cut"]:
        if read.is_glass[row.part]:
            continue
        surface, part = read.surfaces[row.plane], row.part
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
    reads=_looked,
    compute=_remarks,
    pack=_pack_remarks,
    unpack=lambda a: [
        Remark(int(p), at.tolist(), str(w)) for p, at, w in zip(a["part"], a["place"], a["what"], strict=True)
    ],
    needs=lambda _s, _: ("cut",),
)
