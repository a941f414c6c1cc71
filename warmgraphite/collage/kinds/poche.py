"""Poche: what is cut, filled per material."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, rgb
from warmgraphite.ink.hatch import EARTH_WEIGHT
from warmgraphite.sheet.canvas import Canvas, Stroke


class PocheTrace(Trace):
    label: ClassVar[str] = "Poche"
    about: ClassVar[str] = "What is cut, filled per material. Its colours are chosen at the Ink bench."
    passes: ClassVar[tuple[str, ...]] = ("cut", "poche")

    kind: Literal["poche"] = "poche"

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        own = plate.sets.get(self.part_set) if self.part_set else None
        for filled in own.poche if own else plate.poche:
            with canvas.group(f"poche {filled.shape.material}"):
                canvas.fill(filled.shape.rings, filled.colour)
                if filled.hatch:
                    canvas.stroke(filled.hatch, Stroke(EARTH_WEIGHT, _hatch_colour(filled.colour)))


def _hatch_colour(fill: str) -> str:
    """The ink of a hatch that is read on a fill: dark on light, light on dark."""
    return "#5d5145" if rgb(fill) @ np.array([0.3, 0.59, 0.11]) > 110 else "#8d857b"
