"""What notes read of a drawing.
The areas that a level cut encloses, and where the light ends that comes through openings.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Direction, Filled, Sawn, Shown, held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.geometry.ragged import firsts
from warmgraphite.notes.beams import Beam, Beams, beam_of
from warmgraphite.passes.enclosed import Enclosed, enclosed_areas
from warmgraphite.passes.packing import from_wkb, to_wkb
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress
from warmgraphite.view.specification import Cut
from warmgraphite.view.sun import to_sun

__all__ = ["BEAMS", "ROOMS"]


@dataclass(frozen=True)
class _Rooms:
    """With their roles: what stands in a room parts it from nothing; and what floors lie below."""

    shown: Shown
    filled: Filled
    sawn: Sawn = held()
    level: tuple[int, ...] = held()


def _level(spec: DrawingSpec) -> tuple[int, ...]:
    """The cuts of a view that are level and looked down on."""
    cuts = enumerate(spec.view.cuts)
    return tuple(k for k, c in cuts if c.role == "cut" and c.normal[2] > 0.999 * float(np.linalg.norm(c.normal)))


def _rooms_read(spec: DrawingSpec, _where: Any) -> _Rooms | None:
    sight, level = spec.sight, _level(spec)
    return _Rooms(sight.shown, sight.filled, sight.sawn, level) if level else None


def _rooms(read: _Rooms | None, given: Given, _progress: Progress) -> list[Enclosed]:
    out: list[Enclosed] = []
    if read is None:
        return out
    roles = read.shown.bodies.role
    for number, surface in enumerate(read.sawn.surfaces):
        if surface.cut not in read.level or surface.role != "cut":
            continue
        rows = [
            r.region
            for r in given["settled"]
            if r.plane == number and roles[r.part] not in ("furniture", "people", "planting")
        ]
        frame, flat = surface.slabs[0].frame, shapely.union_all(rows) if rows else shapely.Polygon()
        shapes = enclosed_areas(flat)
        if not shapes:
            continue
        inner = [shapely.get_coordinates(shapely.maximum_inscribed_circle(s, tolerance=0.05))[0] for s in shapes]
        middles = frame.lifted(np.array(inner))
        solid = given["solid"]
        down = np.tile(np.array([0, 0, -1.0], np.float32), (len(middles), 1))
        start = (middles - [0, 0, 0.01] - solid.middle).astype(np.float32)
        hit, far = solid.first(start, down)
        floors = np.where(hit >= 0, middles[:, 2] - 0.01 - far, middles[:, 2])
        for shape, middle, floor in zip(shapes, middles, floors, strict=True):
            world = shapely.transform(shape, lambda xy, frame=frame: frame.lifted(xy)[:, :2])  # type: ignore[misc]
            out.append(
                Enclosed(
                    world, round(float(shape.area), 4), round(float(floor), 4), (float(middle[0]), float(middle[1]))
                )
            )
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
    reads=_rooms_read,
    compute=_rooms,
    pack=_packed,
    unpack=lambda a: [
        Enclosed(s, float(m[0]), float(m[1]), (float(m[2]), float(m[3])))
        for s, m in zip(from_wkb(a["shape"]), a["said"], strict=True)
    ],
    needs=lambda s, _: ("cut", "settled", *s.of_whole("solid")) if _level(s) else (),
)


@dataclass(frozen=True)
class _Light:
    shown: Shown
    direction: Direction
    paths: tuple[str, ...]
    parts: tuple[int, ...]
    cuts: tuple[Cut, ...] = held()


def _light(spec: DrawingSpec, where: Beams | None) -> _Light | None:
    asked = set(where.parts) if where else set()
    if not asked:
        return None
    rows = [(p.path, k) for k, p in enumerate(spec.model.parts) if p.path in asked and not p.absent]
    sight = spec.sight
    return _Light(sight.shown, sight.direction, tuple(p for p, _ in rows), tuple(k for _, k in rows), spec.view.cuts)


def _beams(read: _Light | None, given: Given, progress: Progress) -> list[Beam]:
    out: list[Beam] = []
    for done, part in enumerate(read.parts if read else ()):
        assert read is not None
        progress(done / len(read.parts))
        mesh = read.shown.bodies.mesh
        found = beam_of(mesh, part, given["solid"], to_sun(read.direction.sun), read.cuts)
        if found is not None:
            out.append(found)
    return out


def _packed_beams(rows: list[Beam]) -> Arrays:
    return {
        "part": np.array([r.part for r in rows], np.int64), "count": np.array([len(r.start) for r in rows], np.int64),
        "start": np.concatenate([np.empty((0, 3)), *(r.start for r in rows)]),
        "end": np.concatenate([np.empty((0, 3)), *(r.end for r in rows)]),
        "lit": np.concatenate([np.empty(0, bool), *(r.lit for r in rows)]),
    }  # fmt: skip


def _unpacked_beams(a: Arrays) -> list[Beam]:
    at = firsts(a["count"])
    return [
        Beam(int(p), a["start"][i:j], a["end"][i:j], a["lit"][i:j])
        for p, i, j in zip(a["part"], at[:-1], at[1:], strict=True)
    ]


BEAMS = Pass(
    name="beams",
    stage="Following the light",
    weight=0.05,
    reads=_light,
    compute=_beams,
    pack=_packed_beams,
    unpack=_unpacked_beams,
    needs=lambda s, where: s.of_whole("solid") if where and where.parts else (),
)
