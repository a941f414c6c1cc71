"""Poche: what is cut, filled by the rules of the finish."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.canvas.protocol import Canvas, Ring, Stroke
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, rgb
from warmgraphite.ink.hatch import EARTH_WEIGHT
from warmgraphite.ink.poche import confined_shape
from warmgraphite.needs import Need
from warmgraphite.regions.reading import of_parts


class PocheTrace(Trace):
    label: ClassVar[str] = "Poche"
    about: ClassVar[str] = "What is cut, with its fills. They are chosen at the Ink bench."

    kind: Literal["poche"] = "poche"

    def needs(self) -> tuple[Need, ...]:
        if self.where is None or of_parts(self.where):
            return (Need("poche", self.where),)
        return (Need("poche"), Need("room", self.where))

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        room = plate.room(self.where)
        for filled in plate.of("poche", self.where if room is None else None):
            shape = filled.shape if room is None else confined_shape(filled.shape, room.shape)
            with canvas.group(f"poche {shape.material}"):
                for fill in filled.fills:
                    _fill(canvas, shape.rings, fill.colour, fill.opacity)
                if shape.hatch and filled.fills:
                    canvas.stroke(shape.hatch, Stroke(EARTH_WEIGHT, _hatch_colour(filled.fills[-1].colour)))


def _fill(canvas: Canvas, rings: list[Ring], colour: str, opacity: float) -> None:
    if opacity == 1:
        canvas.fill(rings, colour)
        return
    with canvas.group("fill", opacity):
        canvas.fill(rings, colour)


def _hatch_colour(fill: str) -> str:
    """The ink of a hatch that is read on a fill: dark on light, light on dark."""
    return "#5d5145" if rgb(fill) @ np.array([0.3, 0.59, 0.11]) > 110 else "#8d857b"
