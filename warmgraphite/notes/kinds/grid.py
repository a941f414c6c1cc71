"""Grid axes: chain lines with bubbles, from the model or set along walls."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import number, setting
from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH, ROUNDING
from warmgraphite.model.axes import Axis
from warmgraphite.notes.note import Drawn, Note, Point, by_matrix
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Line
from warmgraphite.specification import Specification, Words

__all__ = ["GridAxes", "OwnAxis"]

CHAIN = (5.0, 1.2, 0.6, 1.2)


class OwnAxis(Specification):
    """An axis that was set: its letter or number, and two points of it."""

    name: Words = Field(max_length=8)
    start: Point
    end: Point


class GridAxes(Note):
    """The axes of the building: across plans, and as uprights in sections and elevations that look along them.
    Those that were ``set`` stand for the model's own.
    """

    label: ClassVar[str] = "Grid axes"
    sign: ClassVar[str] = "M10 7V15M10 3m-3 0a3 3 0 1 0 6 0a3 3 0 1 0 -6 0M3 11H17"
    rank: ClassVar[int] = 0
    patched: ClassVar[bool] = False

    kind: Literal["grid"] = "grid"
    ends: Literal["first", "last", "both"] = setting(
        "first",
        "Bubbles at the",
        json_schema_extra={"options": [["first", "left and top"], ["last", "right and foot"], ["both", "both ends"]]},
    )
    bubble: float = number(7.0, "Bubbles", low=2, high=40, unit="mm", most=16)
    beyond: float = number(12.0, "Beyond the building", low=0, high=300, unit="mm", most=60)
    through: bool = setting(True, "Lines through the drawing")
    axes: tuple[OwnAxis, ...] = Field(default=(), max_length=200, json_schema_extra={"hidden": True})

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        model = there.model.bare or there.model
        rows = [Axis(a.name, a.start, a.end) for a in self.axes] or list(model.axes)
        if not rows:
            out.told = "The model has no grid; set axes along its walls."
            return out
        low, high = there.model.focus
        for axis in rows:
            if there.looks_down:
                ends = there.at([axis.start, axis.end])
                self._across(there, axis.name, ends, out)
                continue
            start, end = np.array(axis.start), np.array(axis.end)
            way = (end - start)[:2]
            sight = there.plate.projection.sight[:2]
            across = abs(way[0] * sight[1] - way[1] * sight[0]) / max(
                np.linalg.norm(way) * np.linalg.norm(sight), NO_LENGTH
            )
            if there.shows_heights and there.plate.projection.eye is None and across < 0.02:
                place = (start + end) / 2
                foot_and_top = there.at([(place[0], place[1], low[2]), (place[0], place[1], high[2])])
                self._across(there, axis.name, foot_and_top, out)
        if not out.marks:
            out.told = "No axis is seen here as a line: they stand in plans, and in sections and elevations along them."
        return out

    def _across(self, there: Setting, name: str, ends: NDArray[np.float64], out: Drawn) -> None:
        """One axis on the paper, run on beyond the building, with its bubbles."""
        if not np.isfinite(ends).all() or np.linalg.norm(ends[1] - ends[0]) < NEAR:
            return
        way = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
        # From the left, or from above: so every axis begins at the same side.
        if (way[0] < -0.7072) or (abs(way[0]) <= 0.7072 and way[1] < 0):
            ends, way = ends[::-1], -way
        x0, y0, x1, y1 = there.extent
        corners = np.array([(x0, y0), (x0, y1), (x1, y0), (x1, y1)])
        along = (corners - ends[0]) @ way
        first, last = (
            min(float(along.min()), 0.0) - self.beyond,
            max(float(along.max()), float((ends[1] - ends[0]) @ way)) + self.beyond,
        )
        radius, colour = self.bubble / 2, there.colour(self.theme)
        # Bubbles stay on the sheet.
        a, b, c, d = there.inside
        inner = np.array([a + radius, b + radius, c - radius, d - radius])
        first, last = _within(ends[0], way, first, last, inner)
        stroke = there.stroke(colour, 1.0, CHAIN)
        turn = np.linspace(0, 2 * np.pi, 49)
        span = [ends[0] + way * (first + radius), ends[0] + way * (last - radius)]
        if self.ends == "first":
            span[1] = ends[0] + way * last
        elif self.ends == "last":
            span[0] = ends[0] + way * first
        if self.through:
            out.marks.append(Line(np.array(span), stroke))
        for at, on in ((first, self.ends != "last"), (last, self.ends != "first")):
            if not on:
                continue
            middle = ends[0] + way * at
            if not self.through:
                inward = 1 if at == first else -1
                out.marks.append(
                    Line(
                        np.array([middle + way * inward * radius, middle + way * inward * (radius + self.beyond)]),
                        there.stroke(colour),
                    )
                )
            out.marks.append(
                Line(
                    middle + radius * np.column_stack([np.cos(turn), np.sin(turn)]),
                    Stroke(there.lettering.weight * 1.4, colour),
                )
            )
            text = there.block(name, min(self.bubble * 0.42, 6.0) if self.size is None else self.size)
            top = float(middle[1]) - text.capitals / 2
            out.marks += text.at(float(middle[0]), top, colour, "middle")
            out.boxes.append(
                (
                    float(middle[0]) - radius,
                    float(middle[1]) - radius,
                    float(middle[0]) + radius,
                    float(middle[1]) + radius,
                )
            )

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        rows = tuple(
            a.model_copy(update={"start": by_matrix(a.start, matrix), "end": by_matrix(a.end, matrix)})
            for a in self.axes
        )
        return self.model_copy(update={"axes": rows})


def _within(
    base: NDArray[np.float64], way: NDArray[np.float64], first: float, last: float, inner: NDArray[np.float64]
) -> tuple[float, float]:
    """The stretch of a line between two places along it, as far as it lies in a rectangle.
    As it was where none of it does.
    """
    low, high = first, last
    for k in (0, 1):
        if abs(way[k]) > ROUNDING:
            a, b = sorted(((inner[k] - base[k]) / way[k], (inner[k + 2] - base[k]) / way[k]))
            low, high = max(low, a), min(high, b)
    return (low, high) if low < high else (first, last)
