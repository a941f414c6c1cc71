"""Fold: the creases of a sheet that was sent folded."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas, Gradient, Path, Stroke
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.forms import number, share
from warmgraphite.specification import Colour


class Fold(Trace):
    label: ClassVar[str] = "Fold"
    about: ClassVar[str] = (
        "Creases of a sheet that was folded: one side of each in shade, and a fine line where ink came off."
    )
    confines: ClassVar[bool] = False
    stock_group: ClassVar[str] = "gestures"

    kind: Literal["fold"] = "fold"
    colour: Colour = Field(default="#5a4f45", title="Shade")
    across: int = Field(default=2, ge=1, le=12, title="Panels across")
    down: int = Field(default=2, ge=1, le=12, title="Panels down")
    strength: float = share(0.35, "Strength")
    reach: float = number(9.0, "Reach", "How far its shade reaches.", low=0.5, high=100, unit="mm", most=30)

    def lies_over(self) -> bool:
        return True

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        """Nothing lies among the other sheets."""

    def draw_over(self, canvas: Canvas, plate: Plate) -> None:
        width, height = plate.frame
        folds = [
            (np.array([width * k / self.across, 0.0]), np.array([1.0, 0.0]), height, k) for k in range(1, self.across)
        ]
        folds += [
            (np.array([0.0, height * k / self.down]), np.array([0.0, 1.0]), width, k) for k in range(1, self.down)
        ]
        with canvas.group("folds", self.strength):
            for at, out, long, number_of in folds:
                along = np.array([out[1], out[0]])
                side = 1 if number_of % 2 else -1  # a fold to the front, then one to the back
                end = at + side * self.reach * out
                stops = ((0.0, self.colour, 0.55), (0.25, self.colour, 0.22), (1.0, self.colour, 0.0))
                box = np.array([at, at + long * along, end + long * along, end])
                canvas.path(Path.of([box]), Gradient(tuple(at.tolist()), tuple(end.tolist()), stops))  # type: ignore[arg-type]
                canvas.stroke([np.array([at, at + long * along])], Stroke(0.12, self.colour))
