"""Names, numbers and areas of rooms: those of the model, or the areas that a level cut encloses."""

from __future__ import annotations

from typing import ClassVar, Literal, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.forms import number, setting
from warmgraphite.needs import Need
from warmgraphite.notes.note import Drawn, Handle, Keyed, Note, Offset, Point, Spot, by_matrix
from warmgraphite.notes.setting import Setting
from warmgraphite.specification import Specification, Words

__all__ = ["RoomName", "Rooms"]

#: Metres below a level cut within which a room's floor lies that it shows.
STOREY = 3.4


class RoomName(Specification):
    """What the room is called that a point lies in, and by how many millimetres its name was moved."""

    at: Point
    name: Words = Field(default="", max_length=60)
    number: Words = Field(default="", max_length=12)
    shift: Offset = (0.0, 0.0)


class _Space(NamedTuple):
    name: str
    number: str
    area: float
    place: tuple[float, float, float]
    #: What it takes of the paper, where that is known.
    shape: shapely.Geometry | None
    shift: tuple[float, float] = (0.0, 0.0)


class Rooms(Note):
    """The rooms that a view shows, each named in its middle; where that does not fit, by its number, and in the key.
    ``named`` says what rooms are called, by a point in each.
    """

    label: ClassVar[str] = "Rooms"
    sign: ClassVar[str] = "M3 3H17V13H12M3 3V13H7M7 8h6"
    rank: ClassVar[int] = 1

    kind: Literal["rooms"] = "rooms"
    names: bool = setting(True, "Names")
    numbers: bool = setting(False, "Numbers")
    areas: bool = setting(True, "Areas")
    least: float = number(1.0, "None smaller than", low=0, high=1000, unit="m²", most=20)
    named: tuple[RoomName, ...] = Field(default=(), max_length=500, json_schema_extra={"hidden": True})

    def needs(self) -> tuple[Need, ...]:
        return (Need("rooms"),)

    def spaces(self, there: Setting) -> list[_Space]:
        """The rooms that are shown, as they are called."""
        cut = next(
            (c for c in there.view.cuts if c.role == "cut" and c.normal[2] > 0.99 * float(np.linalg.norm(c.normal))),
            None,
        )
        enclosed = there.plate.results[Need("rooms")]
        model = there.model.bare or there.model
        found: list[_Space] = []
        for room in model.rooms:
            z = room.place[2]
            if cut is not None and not cut.point[2] - STOREY < z <= cut.point[2]:
                continue
            if cut is None and not there.looks_down and not _crossed(room.place, room.area, there):
                continue
            shape = next((e for e in enclosed if shapely.contains_xy(e.shape, *room.place[:2])), None)
            found.append(
                _Space(
                    room.name, room.number, room.area, room.place, _on_paper(shape.shape, z, there) if shape else None
                )
            )
        if not model.rooms:
            for row in enclosed:
                inner = row.middle
                found.append(
                    _Space("", "", row.area, (inner[0], inner[1], row.height), _on_paper(row.shape, row.height, there))
                )
        named = [_named(s, self.named, e) for s, e in ((s, _of(s, enclosed)) for s in found)]
        return [s for s in named if s.area >= self.least or s.area == 0]

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        spaces = self.spaces(there)
        if not spaces:
            out.told = "No room is shown here: rooms come from the model, or from a level cut that encloses them."
            return out
        colour, per = there.colour(self.theme), 1000 / there.scale if there.scale else 0.0
        places = there.at([s.place for s in spaces])
        for index, (space, (x, y)) in enumerate(zip(spaces, places.tolist(), strict=True)):
            if not np.isfinite([x, y]).all() or not (0 <= x <= there.frame[0] and 0 <= y <= there.frame[1]):
                continue
            area = f"{space.area:.1f} m^2" if self.areas and space.area > 0 else ""
            number = space.number or str(index + 1)
            head = (
                [f"{number}  {space.name}".strip() if self.numbers else space.name]
                if self.names or self.numbers
                else []
            )
            lines = [row for row in (*head, area) if row]
            if not lines:
                continue
            block = there.block(lines, self.size)
            wide = np.sqrt(space.area) * per * 0.92 if space.area and per else np.inf
            x, y = x + space.shift[0], y + space.shift[1]
            box = block.box(x, y - block.high / 2, "middle")
            fits = (
                shapely.contains(space.shape.buffer(0.3), shapely.box(*box))
                if space.shape is not None
                else block.wide <= wide
            )
            if not (fits and there.free(box)):
                sign = there.block(number, self.size)
                out.keyed.append(
                    Keyed(number, "  ".join([space.name, area]).strip().replace("^2", "²"), colour, self.theme)
                )
                block, box = sign, sign.box(x, y - sign.high / 2, "middle")
            out.marks += block.at(x, box[1], colour, "middle")
            out.handles.append(Handle(index, (x, y)))
            out.boxes.append(box)
            there.taken.append(box)
        return out

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        spaces = self.spaces(there)
        if not 0 <= index < len(spaces):
            return self
        space = spaces[index]
        home = there.at([space.place])[0] - np.array(there.plate.middle)
        shift = (round(spot.flat[0] - float(home[0]), 3), round(spot.flat[1] - float(home[1]), 3))
        rest = tuple(n for n in self.named if n.at != space.place)
        return self.model_copy(
            update={"named": (*rest, RoomName(at=space.place, name=space.name, number=space.number, shift=shift))}
        )

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        return self.model_copy(
            update={"named": tuple(n.model_copy(update={"at": by_matrix(n.at, matrix)}) for n in self.named)}
        )


def _crossed(place: tuple[float, float, float], area: float, there: Setting) -> bool:
    """Whether a cutting plane goes through a room.
    Or there is none and it may be seen from outside, which it is not.
    """
    for cut in there.view.cuts:
        if cut.role == "cut":
            normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
            return bool(abs((np.array(place) - np.array(cut.point)) @ normal) < max(np.sqrt(max(area, 1.0)) / 2, 1.0))
    return False


def _on_paper(shape: shapely.Geometry, z: float, there: Setting) -> shapely.Geometry:
    def laid(xy: NDArray[np.float64]) -> NDArray[np.float64]:
        return there.at(np.column_stack([xy, np.full(len(xy), z)]))

    found = shapely.transform(shape, laid)
    return shapely.make_valid(found)


def _of(space: _Space, enclosed: list) -> shapely.Geometry | None:  # type: ignore[type-arg]
    row = next((e for e in enclosed if shapely.contains_xy(e.shape, *space.place[:2])), None)
    return row.shape if row is not None else None


def _named(space: _Space, named: tuple[RoomName, ...], shape: shapely.Geometry | None) -> _Space:
    reach = max(np.sqrt(max(space.area, 1.0)) / 2, 0.8)
    for row in reversed(named):
        near = np.hypot(row.at[0] - space.place[0], row.at[1] - space.place[1]) <= reach
        level = abs(row.at[2] - space.place[2]) < STOREY
        if level and (shapely.contains_xy(shape, row.at[0], row.at[1]) if shape is not None else near):
            return space._replace(name=row.name or space.name, number=row.number or space.number, shift=row.shift)
    return space
