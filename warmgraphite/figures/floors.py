"""What figures stand on, sit on and lean on: asked of a model by rays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import FINEST, NO_AREA, NO_LENGTH
from warmgraphite.geometry.triangles import normals
from warmgraphite.memory import remembered
from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.model import Model
from warmgraphite.passes.casters import Rays
from warmgraphite.passes.edges import GeometryKey

__all__ = ["Floors", "Seat", "floors_of"]

Array = NDArray[np.float64]

#: Metres above the floor between which something is sat on, and leant on.
SEATS, RAILS = (0.32, 0.58), (0.62, 1.32)
#: The steepest that something stands on: the cosine of the angle to the level.
STEEP = 0.35
#: Metres of bench for each who sits.
ROOM = 0.62


@dataclass(frozen=True)
class Seat:
    """A place to sit.
    The floor below it in metres, how high it is, and how one faces there, in degrees to the left of north.
    """

    at: tuple[float, float, float]
    height: float
    turn: float
    part: int


class Floors:
    """Rays against what of a model bears: all that is there but planting, people and panes."""

    def __init__(self, model: Model) -> None:
        self.model = model
        bearing = (
            model.parts.present
            & ~np.isin(model.parts.role, ("planting", "people"))
            & ~model.parts.is_glass
            & (model.parts.figure < 0)
        )
        self.source = np.flatnonzero(bearing[model.triangle_part])
        corners = model.vertices[model.triangles[self.source]]
        normal = normals(corners)
        size = np.linalg.norm(normal, axis=1)
        self.level = np.abs(normal[:, 2]) / np.maximum(size, NO_AREA)
        self.rays = Rays(corners)

    def first(self, start: Array, way: Array) -> tuple[Array, NDArray[np.int64]]:
        """Metres from points (N, 3) to what lies that way (N, 3), and the triangle of the model.
        They are infinite for nothing, and the triangle −1.
        """
        hit, far = self.rays.first((start - self.rays.middle).astype(np.float32), way.astype(np.float32))
        return np.where(hit >= 0, far, np.inf).astype(float), np.where(hit >= 0, self.source[np.maximum(hit, 0)], -1)

    def below(self, points: Array, tries: int = 12) -> tuple[Array, NDArray[np.int64]]:
        """(N,) the height of what bears below points (N, 3), NaN where nothing does, and its triangle.
        What is too steep to stand on is gone through.
        """
        start = np.array(points, float)
        height, source = np.full(len(points), np.nan), np.full(len(points), -1, np.int64)
        open_ = np.arange(len(points))
        for _ in range(tries):
            if not len(open_):
                break
            down = np.tile([0.0, 0.0, -1.0], (len(open_), 1))
            hit, far = self.rays.first((start[open_] - self.rays.middle).astype(np.float32), down.astype(np.float32))
            met = hit >= 0
            z = start[open_, 2] - far
            good = met & (self.level[np.maximum(hit, 0)] > STEEP)
            # In double precision, on the face itself: rays are in single.
            rows = open_[good]
            if len(rows):
                triangle = self.source[hit[good]]
                height[rows], source[rows] = self._on(triangle, points[rows, :2], z[good]), triangle
            start[open_, 2] = np.where(met, z - FINEST, -np.inf)
            open_ = open_[met & ~good]
        return height, source

    def _on(self, triangle: NDArray[np.int64], xy: Array, z: Array) -> Array:
        corners = self.model.vertices[self.model.triangles[triangle]]
        normal = normals(corners)
        flat = np.abs(normal[:, 2]) > NO_LENGTH
        up = np.where(flat, normal[:, 2], 1.0)
        found = corners[:, 0, 2] - ((xy - corners[:, 0, :2]) * normal[:, :2]).sum(1) / up
        return np.where(flat, found, z)

    def roles(self, source: NDArray[np.int64]) -> NDArray[np.str_]:
        """(N,) the roles of triangles; nothing for none."""
        return np.where(source >= 0, self.model.parts.role[self.model.triangle_part[np.maximum(source, 0)]], "")

    def rail(self, foot: Array, turn: float, heights: tuple[float, float] = RAILS) -> tuple[float, float] | None:
        """What stands ahead of one who faces so.
        How high its top is over the foot, and how far it is away, in metres.
        """
        way = np.array([-np.sin(np.radians(turn)), np.cos(np.radians(turn))])
        gaps = np.arange(0.12, 1.0, 0.02)
        over = np.column_stack([foot[:2] + gaps[:, None] * way, np.full(len(gaps), foot[2] + heights[1] + 0.1)])
        z, _ = self.below(over)
        tall = z - foot[2]
        rows = np.flatnonzero((tall >= heights[0]) & (tall <= heights[1]))
        if not len(rows):
            return None
        near = rows[tall[rows] > tall[rows].max() - 0.04][0]
        return float(tall[near]), float(gaps[near])

    def step(self, foot: Array, turn: float) -> float | None:
        """How much higher the next step ahead is, in metres."""
        way = np.array([-np.sin(np.radians(turn)), np.cos(np.radians(turn))])
        gaps = np.arange(0.1, 0.5, 0.02)
        over = np.column_stack([foot[:2] + gaps[:, None] * way, np.full(len(gaps), foot[2] + 0.6)])
        rise = self.below(over)[0] - foot[2]
        found = rise[(rise > 0.08) & (rise < 0.40)]
        return float(found[0]) if len(found) else None

    def seat_at(self, point: Array) -> tuple[float, float] | None:
        """The floor beside a surface that may be sat on, and how high that is over it; ``None`` where it is no seat."""
        ring = np.array([[np.cos(a), np.sin(a)] for a in np.linspace(0, 2 * np.pi, 16, endpoint=False)])
        around = np.concatenate([point[:2] + r * ring for r in (0.35, 0.6, 0.85)])
        z, _ = self.below(np.column_stack([around, np.full(len(around), point[2] + 0.05)]))
        drop = point[2] - z
        good = drop[(drop > SEATS[0]) & (drop < SEATS[1])]
        if len(good) < 3:
            return None
        high = float(np.median(good))
        return float(point[2] - high), high

    def seats(self) -> list[Seat]:
        """The places to sit that furniture of the model has.
        Level tops of a seat's height, with room for one or for several.
        """
        model, found = self.model, []
        furniture = np.flatnonzero(model.parts.present & (model.parts.role == "furniture"))
        for part in furniture:
            rows = np.flatnonzero(model.triangle_part == part)
            corners = model.vertices[model.triangles[rows]]
            normal = normals(corners)
            flat = normal[:, 2] > 0.98 * np.linalg.norm(normal, axis=1)
            if not flat.any():
                continue
            tops, area = corners[flat, :, 2].mean(1), normal[flat, 2] / 2
            for z in np.unique(np.round(tops, 2)):
                here = np.abs(tops - z) < 0.015
                if not 0.07 < area[here].sum() < 4.0:
                    continue
                shape = shapely.union_all(shapely.polygons(corners[flat][here][:, :, :2])).buffer(0.02)
                for piece in shapely.get_parts(shape):
                    found += self._seats_on(piece, float(z), int(part), corners)
        return found

    def _seats_on(self, shape: shapely.Polygon, z: float, part: int, corners: Array) -> list[Seat]:
        box = shapely.minimum_rotated_rectangle(shape)
        if box.geom_type != "Polygon":
            return []
        ring = np.array(box.exterior.coords)[:4]
        sides = np.roll(ring, -1, 0) - ring
        long = sides[0] if np.linalg.norm(sides[0]) >= np.linalg.norm(sides[1]) else sides[1]
        size, wide = float(np.linalg.norm(long)), float(min(np.linalg.norm(sides[0]), np.linalg.norm(sides[1])))
        if not (0.25 <= wide <= 0.75 and size >= 0.28):
            return []
        along = long / size
        middle = np.array(box.centroid.coords[0])
        floor = self.seat_at(np.array([*middle, z]))
        if floor is None:
            return []
        count = max(int(size / ROOM), 1) if size > 0.9 else 1
        # One faces away from a back, or to where there is more room.
        back = corners[corners[:, :, 2].max(1) > z + 0.15].reshape(-1, 3)
        across = np.array([-along[1], along[0]])
        if len(back):
            off = middle - back[:, :2].mean(0)
            face = across if abs(off @ across) >= abs(off @ along) or size > 0.9 else along
            face = face if off @ face > 0 else -face
        else:
            eye = np.tile([*middle, z + 0.45], (2, 1))
            far, _ = self.first(eye, np.array([[*across, 0.0], [*-across, 0.0]]))
            face = across if far[0] >= far[1] else -across
        turn = float(np.degrees(np.arctan2(-face[0], face[1])))
        out = []
        for k in range(count):
            spot = middle + along * ((k + 0.5) / count - 0.5) * size
            out.append(
                Seat(
                    (round(float(spot[0]), 4), round(float(spot[1]), 4), round(floor[0], 4)),
                    round(floor[1], 4),
                    round(turn, 1),
                    part,
                )
            )
        return out


class _Bearing(GeometryKey):
    """A model by its triangles and by what says which of them bear."""

    def __init__(self, model: Model) -> None:
        super().__init__(bodies_of(model))
        self.model = model

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, _Bearing) or not super().__eq__(other):
            return False
        mine, others = self.model.parts, other.model.parts
        same = bool((mine.role == others.role).all()) and np.array_equal(mine.is_glass, others.is_glass)
        return same and np.array_equal(mine.present, others.present)

    __hash__ = GeometryKey.__hash__


@remembered("floors")
def _floors(key: _Bearing) -> Floors:
    return Floors(key.model)


def floors_of(model: Model) -> Floors:
    """What bears in a model, made ready once for each state of it."""
    return _floors(_Bearing(model))
