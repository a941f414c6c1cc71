"""Dimensions: chains, single measures and heights between points of the model, with what the model measures there."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import number, setting
from warmgraphite.geometry.tolerances import FINEST, NO_LENGTH, ROUNDING
from warmgraphite.model.model import Model
from warmgraphite.notes.following import in_newer
from warmgraphite.notes.note import Drawn, Handle, Note, OfPoints
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Box, Line, line_width, set_line

__all__ = ["Dimension"]


class Dimension(OfPoints):
    """A line of measures between points, one behind another.
    It measures ``straight`` from point to point, ``level`` what lies between their uprights, or ``height``. In parallel
    drawings the line runs square to what it measures from, ``away`` millimetres from the outermost point; to the other
    side below zero.
    """

    label: ClassVar[str] = "Dimensions"
    sign: ClassVar[str] = "M2 9H18M2 11.5L6 6.5M14 11.5L18 6.5M4 4V13M16 4V13"
    hint: ClassVar[str] = "Click corners of the model, one after another; Enter ends the chain."
    takes: ClassVar[tuple[int, int]] = (2, 100)
    rank: ClassVar[int] = 0

    kind: Literal["dimension"] = "dimension"
    measures: Literal["straight", "level", "height"] = setting("straight", "Measures")
    away: float = number(10.0, "Away", low=-400, high=400, unit="mm", most=60)
    total: bool = setting(False, "And all of it")
    parts: tuple[str, ...] = Field(default=(), max_length=400, json_schema_extra={"hidden": True})

    def lengths(self) -> list[float]:
        """What the model measures from each point to the next, in metres."""
        steps = np.diff(self._ordered(), axis=0)
        if self.measures == "height":
            return [float(v) for v in np.abs(steps[:, 2])]
        if self.measures == "level":
            return [float(v) for v in np.abs(steps[:, :2] @ self._level())]
        return [float(v) for v in np.linalg.norm(steps, axis=1)]

    def _level(self) -> NDArray[np.float64]:
        """(2,) the level way along which it measures: that from its first point to the farthest."""
        points = np.array(self.points, float)[:, :2]
        away = points - points[0]
        far = away[int(np.argmax((away**2).sum(1)))]
        return far / max(float(np.linalg.norm(far)), NO_LENGTH)

    def _ordered(self) -> NDArray[np.float64]:
        """(N, 3) the points in order along what is measured."""
        points = np.array(self.points, float)
        if self.measures == "height":
            return points[np.argsort(points[:, 2], kind="stable")]
        if self.measures == "level":
            return points[np.argsort(points[:, :2] @ self._level(), kind="stable")]
        return points

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if not self.enough():
            return out
        if self.lies == "paper":
            out.told = "A measure needs points of the model; set it anew on the model."
            return out
        given = there.at(self.points)
        if not np.isfinite(given).all():
            out.told = "It lies behind the viewer."
            return out
        out.handles += [Handle(k, (float(x), float(y))) for k, (x, y) in enumerate(given.tolist())]
        places = there.at(self._ordered())
        way = self._way(there, places)
        if way is None:
            out.told = "One looks along what it measures here."
            return out
        side = np.array([way[1], -way[0]])  # up from a line that runs to the right
        off = (places - places[0]) @ side
        base = float(off.max() if self.away >= 0 else off.min()) + self.away
        feet = places[0] + np.outer((places - places[0]) @ way, way) + side * base
        lengths = self.lengths()
        self._chain(there, places, feet, lengths, side, way, out)
        if self.total and len(lengths) > 1:
            far = feet[[0, -1]] + side * np.sign(self.away or 1.0) * there.capitals(self.size) * 3.6
            whole = (
                float(np.sum(lengths))
                if self.measures != "straight"
                else float(np.linalg.norm(self._ordered()[-1] - self._ordered()[0]))
            )
            self._chain(there, feet[[0, -1]], far, [whole], side, way, out)
        return out

    def _way(self, there: Setting, places: NDArray[np.float64]) -> NDArray[np.float64] | None:
        """(2,) the direction of the line on the paper, to the right or up."""
        if self.measures == "height":
            at = np.array(self.points[0], float)
            ends = there.at(np.array([at, at + np.array([0, 0, 1.0])]))
        elif self.measures == "level" and there.plate.projection.eye is None:
            at, level = np.array(self.points[0], float), self._level()
            ends = there.at(np.array([at, at + np.append(level, 0.0)]))
        else:
            ends = places[[0, -1]]
        step = ends[1] - ends[0]
        long = float(np.linalg.norm(step))
        if not np.isfinite(step).all() or long < FINEST:
            return None
        way = step / long
        return -way if way[0] < -ROUNDING or (abs(way[0]) <= ROUNDING and way[1] > 0) else way

    def _chain(
        self, there: Setting, places: NDArray[np.float64], feet: NDArray[np.float64], lengths: list[float],
        side: NDArray[np.float64],
        way: NDArray[np.float64], out: Drawn,
    ) -> None:  # fmt: skip
        size, colour, soft = there.capitals(self.size), there.colour(self.theme), there.soft(self.theme)
        order = np.argsort(feet @ way)
        ends = feet[order[[0, -1]]]
        over = 0.9 * size
        out.marks.append(Line(np.array([ends[0] - way * over, ends[1] + way * over]), there.stroke(colour)))
        slant = (way + side) / np.sqrt(2) * size * 0.62
        for place, foot in zip(places, feet, strict=True):
            out.marks.append(
                Line(np.array([foot - slant, foot + slant]), Stroke(round(there.lettering.weight * 2.2, 3), colour))
            )
            gap, reach = foot - place, float(np.linalg.norm(foot - place))
            if reach > 1.5:
                to = gap / reach
                out.marks.append(Line(np.array([place + to * 1.2, foot + to * 0.8 * size]), there.stroke(soft, 0.7)))
        turn = float(np.degrees(np.arctan2(-way[1], way[0])))
        taken: list[Box] = []
        for k, metres in enumerate(lengths):
            words = there.measure(metres)
            a, b = feet[k] @ way, feet[k + 1] @ way
            room, wide = abs(b - a) - size * 0.7, line_width(words, there.face, size)
            middle = (feet[k] + feet[k + 1]) / 2
            half = np.abs(way) * wide / 2 + np.abs(side) * size / 2
            # What has no room between its ticks is written above its neighbours, as low as it covers none of them.
            for raised in range(0 if wide <= room else 1, len(lengths) + 2):
                at = middle + side * size * (0.5 + 1.7 * raised)
                centre = at + side * size / 2
                box = (
                    float(centre[0] - half[0]),
                    float(centre[1] - half[1]),
                    float(centre[0] + half[0]),
                    float(centre[1] + half[1]),
                )
                if not any(_meet(box, other) for other in (*taken, *there.taken)):
                    break
            taken.append(box)
            out.marks += set_line(words, float(at[0]), float(at[1]), there.face, size, colour, "middle", turn)
            if raised:
                out.marks.append(Line(np.array([middle, at - side * size * 0.25]), there.stroke(soft, 0.6)))
        out.boxes += taken

    def renamed(self, followed: Callable[[str], str]) -> Note:
        return self.model_copy(update={"parts": tuple(followed(p) for p in self.parts)}) if self.parts else self

    def following(self, old: Model, new: Model) -> Note:
        if not self.parts or self.lies == "paper":
            return self
        rows = [
            in_newer(p, path, old, new) if path else p
            for p, path in zip(self.points, (*self.parts, *[""] * len(self.points)), strict=False)
        ]
        return self.model_copy(update={"points": tuple(rows)})


def _meet(a: Box, b: Box, gap: float = 0.3) -> bool:
    """Whether two rooms of text come as near to each other as that."""
    return a[0] < b[2] + gap and b[0] < a[2] + gap and a[1] < b[3] + gap and b[1] < a[3] + gap
