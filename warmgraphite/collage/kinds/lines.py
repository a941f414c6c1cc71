"""Lines: all of them, with the pens of the finish."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, grained
from warmgraphite.ink.along import along_needs
from warmgraphite.ink.work import draw_rows
from warmgraphite.needs import Need
from warmgraphite.regions.reading import of_parts


class LinesTrace(Trace):
    label: ClassVar[str] = "Lines"
    about: ClassVar[str] = "All lines with their pens. They are chosen at the Ink bench."

    kind: Literal["lines"] = "lines"

    def needs(self) -> tuple[Need, ...]:
        if self.where is None or of_parts(self.where):
            return (Need("penned", self.where),)
        return (Need("strokes"), Need("room", self.where))

    def needs_on(self, plate: Plate) -> tuple[Need, ...]:
        of_all = self.where is None or of_parts(self.where)
        apart = [Need("penned", where) for _, where in plate.apart(self.where)] if plate.by_layers and of_all else []
        round_it = [n for r in plate.ink.pens if r.on for n in along_needs(r)] if apart or not of_all else []
        return (*apart, *round_it)

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        with grained(canvas, plate):
            if not (plate.by_layers and of_parts(self.where)):
                draw_rows(canvas, plate.penned(self.where), "lines ")
                return
            for name, where in plate.apart(self.where):
                with canvas.group(f"layer {name}"):
                    draw_rows(canvas, plate.penned(where), "lines ")
            if self.where is None:  # what goes round them belongs to no layer
                draw_rows(canvas, (*plate.by_hand(plate.rounds()), *plate.run_on()), "lines ")
