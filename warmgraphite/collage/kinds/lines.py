"""Lines: all of them, with the pens of the finish."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.sheet.canvas import Canvas, Stroke


class LinesTrace(Trace):
    label: ClassVar[str] = "Lines"
    about: ClassVar[str] = "All lines with their pens. They are chosen at the Ink bench."
    passes: ClassVar[tuple[str, ...]] = ("lines",)

    kind: Literal["lines"] = "lines"

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        own = plate.sets.get(self.part_set) if self.part_set else None
        for strokes in own.strokes if own else plate.strokes:
            with canvas.group(f"lines {strokes.group}"):
                canvas.stroke(strokes.lines, Stroke(strokes.pen.weight, strokes.pen.colour, strokes.pen.dash))
