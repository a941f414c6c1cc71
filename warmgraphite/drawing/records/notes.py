"""What notes read of a drawing: the areas that a level cut encloses, and where the light ends that comes through openings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely

from warmgraphite.drawing.graph import Pass
from warmgraphite.notes.beams import Beam, Beams, beam_of
from warmgraphite.passes.enclosed import Enclosed, enclosed_areas
from warmgraphite.passes.packing import from_wkb, to_wkb
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.view.sun import to_sun

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["BEAMS", "ROOMS"]


@dataclass(frozen=True)
class _Rooms:
    #: With their roles: what stands in a room parts it from nothing; and what floors lie below.
    bodies: Any
    filled: Any


def _level(drawing: Drawing) -> list[int]:
    """The cuts of a view that are level and looked down on."""
    return [
        k for k, c in enumerate(drawing.view.cuts) if c.role == "cut" and c.normal[2] > 0.999 * float(np.linalg.norm(c.normal))
    ]


def _rooms(drawing: Drawing, _where: Query | None, _progress: Progress) -> list[Enclosed]:
    out: list[Enclosed] = []
    for number, surface in enumerate(drawing.scene.surfaces):
        if surface.cut not in _level(drawing) or surface.role != "cut":
            continue
        roles = drawing.model.parts.role
        rows = [
            r.region for r in drawing.settled if r.plane == number and roles[r.part] not in ("furniture", "people", "planting")
        ]
        frame, flat = surface.slabs[0].frame, shapely.union_all(rows) if rows else shapely.Polygon()
        shapes = enclosed_areas(flat)
        if not shapes:
            continue
        inner = [shapely.get_coordinates(shapely.maximum_inscribed_circle(s, tolerance=0.05))[0] for s in shapes]
        middles = frame.lifted(np.array(inner))
        solid = drawing.solid
        down = np.tile(np.array([0, 0, -1.0], np.float32), (len(middles), 1))
        start = (middles - [0, 0, 0.01] - solid.middle).astype(np.float32)
        hit, far = solid.first(start, down)
        floors = np.where(hit >= 0, middles[:, 2] - 0.01 - far, middles[:, 2])
        for shape, middle, floor in zip(shapes, middles, floors, strict=True):
            world = shapely.transform(shape, lambda xy, frame=frame: frame.lifted(xy)[:, :2])  # type: ignore[misc]
            out.append(Enclosed(world, round(float(shape.area), 4), round(float(floor), 4), (float(middle[0]), float(middle[1]))))
    return out


def _packed(rows: list[Enclosed]) -> Arrays:
    return {
        "shape": to_wkb([r.shape for r in rows]),
        "said": np.array([(r.area, r.height, *r.middle) for r in rows]).reshape(-1, 4),
    }


ROOMS = Pass(
    name="rooms",
    stage="Finding the rooms",
    weight=0.02,
    reads=lambda d, _: _Rooms(d.sight.bodies, d.sight.filled) if _level(d) else None,
    compute=_rooms,
    pack=_packed,
    unpack=lambda a: [
        Enclosed(s, float(m[0]), float(m[1]), (float(m[2]), float(m[3])))
        for s, m in zip(from_wkb(a["shape"]), a["said"], strict=True)
    ],
    needs=lambda d, _: ("cut",) if _level(d) else (),
)


@dataclass(frozen=True)
class _Light:
    bodies: Any
    lit: Any


def _light(drawing: Drawing, where: Any) -> _Light | None:
    asked = set(where.parts) if where else set()
    if not asked:
        return None
    return _Light(drawing.sight.bodies, (drawing.sight.lit, tuple(p.path for p in drawing.model.parts if p.path in asked)))


def _beams(drawing: Drawing, where: Any, progress: Progress) -> list[Beam]:
    assert where is None or isinstance(where, Beams)
    asked = set(where.parts) if where else set()
    model, out = drawing.model, []
    chosen = [k for k, p in enumerate(model.parts) if p.path in asked and not p.absent]
    for done, part in enumerate(chosen):
        progress(done / len(chosen))
        found = beam_of(model, part, drawing.solid, to_sun(drawing.view.sun), drawing.view.cuts)
        if found is not None:
            out.append(found)
    return out


def _packed_beams(rows: list[Beam]) -> Arrays:
    return {
        "part": np.array([r.part for r in rows], np.int64), "count": np.array([len(r.start) for r in rows], np.int64),
        "start": np.concatenate([np.empty((0, 3)), *(r.start for r in rows)]), "end": np.concatenate([np.empty((0, 3)), *(r.end for r in rows)]),
        "lit": np.concatenate([np.empty(0, bool), *(r.lit for r in rows)]),
    }  # fmt: skip


def _unpacked_beams(a: Arrays) -> list[Beam]:
    at = np.concatenate([[0], np.cumsum(a["count"])])
    return [
        Beam(int(p), a["start"][i:j], a["end"][i:j], a["lit"][i:j]) for p, i, j in zip(a["part"], at[:-1], at[1:], strict=True)
    ]


BEAMS = Pass(
    name="beams",
    stage="Following the light",
    weight=0.05,
    reads=_light,
    compute=_beams,
    pack=_packed_beams,
    unpack=_unpacked_beams,
    needs=lambda _d, where: ("cut",) if where and where.parts else (),
)
