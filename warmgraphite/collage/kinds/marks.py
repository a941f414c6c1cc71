"""Marks: what was drawn by hand on planes of the model and on the paper."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, grained
from warmgraphite.ink.filled import draw_filled
from warmgraphite.needs import Need


class MarksTrace(Trace):
    label: ClassVar[str] = "Marks"
    about: ClassVar[str] = (
        "What was drawn on the drawing: it lies on the model, and is in every view. Marks are made at the Ink bench."
    )
    passes: ClassVar[tuple[str, ...]] = ("marks",)

    kind: Literal["marks"] = "marks"

    def needs(self) -> tuple[Need, ...]:
        return (*super().needs(), *((Need("room", self.where),) if self.where is not None else ()))

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        with grained(canvas, plate):
            for filled in plate.of("marks"):
                if self.where is not None:
                    filled = filled.within(
                        plate.of("room", self.where).shape, plate.projection, plate.ink.hand, plate.middle
                    )
                draw_filled(canvas, filled)
