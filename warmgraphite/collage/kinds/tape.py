"""Tape: strips that hold the sheet down at its corners."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas, Gradient, Path
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.forms import number, setting, share
from warmgraphite.specification import Colour


class Tape(Trace):
    label: ClassVar[str] = "Tape"
    about: ClassVar[str] = "Strips of paper tape that hold the sheet down at its corners, torn off by hand."
    confines: ClassVar[bool] = False
    stock_group: ClassVar[str] = "gestures"

    kind: Literal["tape"] = "tape"
    colour: Colour = Field(default="#e9d9ae", title="Colour")
    at: Literal["all corners", "two corners", "along the top"] = setting("all corners", "At")
    width: float = number(11.0, "Width", low=2, high=80, unit="mm", most=30)
    length: float = number(34.0, "Length", low=5, high=300, unit="mm", most=90)
    strength: float = share(0.85, "Strength", "How opaque it is.")
    seed: int = Field(default=1, ge=0, le=9999, title="Other strips")

    def lies_over(self) -> bool:
        return True

    def strips(self, frame: tuple[float, float]) -> list[NDArray[np.float64]]:
        """The outline of each strip: two straight sides, two torn ends."""
        chance = np.random.default_rng([self.seed, 13])
        width, height = frame
        inset = 0.22 * self.length
        places = {
            "all corners": [
                (inset, inset, -45),
                (width - inset, inset, 45),
                (inset, height - inset, 45),
                (width - inset, height - inset, -45),
            ],
            "two corners": [(inset, inset, -45), (width - inset, inset, 45)],
            "along the top": [(0.25 * width, 0.4 * self.width, 0), (0.75 * width, 0.4 * self.width, 0)],
        }[self.at]
        found = []
        for x, y, turn in places:
            angle = np.radians(turn + 4 * chance.standard_normal())
            teeth = 9
            end = np.linspace(-0.5, 0.5, teeth) * self.width
            torn = [
                0.05 * self.width * chance.standard_normal(teeth) + 0.09 * self.width * (np.arange(teeth) % 2)
                for _ in range(2)
            ]
            long = 0.5 * self.length * (1 + 0.1 * chance.standard_normal())
            outline = np.concatenate([np.stack([long + torn[0], end], 1), np.stack([-long - torn[1], end[::-1]], 1)])
            way = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
            found.append(outline @ way + [x, y])
        return found

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        """Nothing lies among the other sheets."""

    def draw_over(self, canvas: Canvas, plate: Plate) -> None:
        for strip in self.strips(plate.frame):
            with canvas.group("strip", self.strength):
                canvas.fill([strip], self.colour)
                # A little darker along both edges, where it is thicker than the sheet.
                a, b = strip[0], strip[8]
                for start, end in ((a, a + 0.16 * (b - a)), (b, b + 0.16 * (a - b))):
                    shade = Gradient(
                        tuple(start.tolist()), tuple(end.tolist()), ((0.0, "#8a7448", 0.22), (1.0, "#8a7448", 0.0))
                    )  # type: ignore[arg-type]
                    canvas.path(Path.of([strip]), shade)
