"""The areas that a level cut encloses: rooms, where the model says none.

What is cut parts the plane into what is free. Where a door stands open, two rooms are one by that: they are told apart
by an opening (erosion, then dilation) as wide as a door, and what that leaves over, such as a narrow closet, is a room
of its own where it is large enough.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from warmgraphite.geometry.tolerances import FINEST, HAIR, NEAR, ROUNDING

__all__ = ["DOOR", "LEAST_ROOM", "Enclosed", "enclosed_areas"]

#: Metres of the widest gap in a wall that parts two rooms, and square metres of the smallest room.
DOOR, LEAST_ROOM = 1.3, 0.9


class Enclosed(NamedTuple):
    """An enclosed area.
    Its ``shape`` in plan, x and y in metres, its ``area`` in m², the ``height`` of its floor, and a place (x, y) in its
    ``middle``.
    """

    shape: shapely.Geometry
    area: float
    height: float
    middle: tuple[float, float]


def enclosed_areas(cut: shapely.Geometry) -> list[shapely.Geometry]:
    """The areas, in the coordinates of what is ``cut``, the largest first."""
    if cut.is_empty:
        return []
    solid = shapely.make_valid(shapely.set_precision(cut, HAIR))
    x0, y0, x1, y1 = solid.bounds
    around = shapely.box(x0 - 3, y0 - 3, x1 + 3, y1 + 3)
    free = shapely.difference(around, solid)
    open_air = shapely.box(x0 - 2.9, y0 - 2.9, x0 - 2.8, y0 - 2.8)
    out: list[shapely.Geometry] = []
    for piece in shapely.get_parts(free):
        out += _parted(piece, open_air)
    found = [p for p in out if p.area >= LEAST_ROOM]
    return sorted(found, key=lambda p: -p.area)


def _parted(piece: shapely.Geometry, open_air: shapely.Geometry) -> list[shapely.Geometry]:
    """The rooms of one free piece, without the open air."""
    outside = shapely.intersects(piece, open_air)
    shrunk = piece.buffer(-DOOR / 2, join_style="mitre")
    cores = [p for p in shapely.get_parts(shrunk) if p.area > 0.01]
    if not outside and len(cores) <= 1:
        return [piece]
    grown = [shapely.intersection(c.buffer(DOOR / 2 + NEAR, join_style="mitre", mitre_limit=8), piece) for c in cores]
    air = [k for k, g in enumerate(grown) if shapely.intersects(g, open_air)]
    left = piece
    for g in grown:
        left = shapely.difference(left, g)
    rooms = [g for k, g in enumerate(grown) if k not in air]
    # What is left over is a doorway, which belongs to no room, a nook of the room that it lies widest open to, or a
    # narrow room.
    for rest in shapely.get_parts(left):
        if rest.area < NEAR:
            continue
        touch = [shapely.intersection(rest.boundary, g.buffer(HAIR)).length for g in grown]
        best = int(np.argmax(touch)) if touch else -1
        share = sum(touch) / max(rest.length, ROUNDING)
        if rest.area >= LEAST_ROOM and share < 0.45 and not any(touch[k] > 0.6 for k in air):
            rooms.append(rest)
        elif best >= 0 and best not in air and len([t for t in touch if t > FINEST]) == 1:
            rooms = [shapely.union(r, rest) if r is grown[best] else r for r in rooms]
            grown[best] = next((r for r in rooms if shapely.contains(r, shapely.point_on_surface(rest))), grown[best])
    return rooms
