"""What is said of the file as a whole: contours, mending, units and axis."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from pydantic import Field

from warmgraphite.model.edits._edit import Edit, Name
from warmgraphite.model.health import GAP
from warmgraphite.model.joining import joined_points, place_joined
from warmgraphite.model.mending import mend
from warmgraphite.model.model import Contours, Model, far_origin, localised
from warmgraphite.model.units import to_metres


class DrawContours(Edit):
    """Level lines on the ground every ``interval`` metres, every ``index``-th stronger; ``None`` takes them away."""

    do: Literal["contours"] = "contours"
    interval: float | None = Field(default=None, gt=0.001, le=1000)
    index: int = Field(default=5, ge=1, le=100)

    def apply(self, model: Model) -> Model:
        return model.said(contours=Contours(self.interval, self.index) if self.interval else None)

    def called(self, _what: str) -> str:
        return "Contours"


class Mend(Edit):
    """Mend one kind of finding; ``tolerance`` in metres is for gaps."""

    do: Literal["mend"] = "mend"
    kind: Name
    tolerance: float = Field(default=GAP, gt=0, le=0.1)

    def apply(self, model: Model) -> Model:
        return mend(model, self.kind, self.tolerance)[0]

    def called(self, _what: str) -> str:
        return "Mend the model"


class Remeasure(Edit):
    """Read the file's numbers in other units, or with another axis up."""

    do: Literal["remeasure"] = "remeasure"
    units: Literal["m", "cm", "mm", "ft", "in"]
    up: Literal["z", "y"]

    def matrix(self, model: Model) -> np.ndarray:
        """4×4 from the model's coordinates as they are, its origin included, to the new ones."""
        return to_metres(self.units, self.up) @ np.linalg.inv(to_metres(model.units, model.up))

    def apply(self, model: Model) -> Model:
        home = np.eye(4)
        home[:3, 3] = model.origin
        moved = replace(
            model.transformed(self.matrix(model) @ home), origin=(0.0, 0.0, 0.0), units=self.units, up=self.up
        )
        if model.joined:
            # What is joined has units of its own, and stays where it lies.
            points, lines = joined_points(model)
            vertices, ends = moved.vertices.copy(), moved.mesh.line_ends.copy()
            vertices[points], ends[lines] = (
                model.vertices[points] + model.origin,
                model.mesh.line_ends[lines] + model.origin,
            )
            moved = moved.reshaped(vertices=vertices, line_ends=ends)
        return localised(moved)

    def called(self, _what: str) -> str:
        return "Units of the file"


def in_step(base: Model, model: Model) -> Model:
    """The model as its file was read, in the units, the axis and about the origin of the state that was made of it."""
    if (base.units, base.up) != (model.units, model.up):
        base = Remeasure(units=model.units, up=model.up).apply(base)  # type: ignore[arg-type]
    base = far_origin(base, model.origin)
    lies = {j.id: (j.by, j.turn) for j in base.joined}
    for own in model.joined:
        if own.id in lies and lies[own.id] != (own.by, own.turn):
            base = place_joined(base, own.id, own.by, own.turn)
    return base
