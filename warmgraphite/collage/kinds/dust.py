"""Dust: specks and short fibres that a sheet gathers while it is copied."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas, Stroke
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.forms import number, share
from warmgraphite.specification import Colour


class Dust(Trace):
    label: ClassVar[str] = "Dust"
    about: ClassVar[str] = (
        "Specks and short fibres, as a sheet gathers them: pale ones on a dark drawing, dark ones on a pale."
    )
    confines: ClassVar[bool] = False
    stock_group: ClassVar[str] = "gestures"

    kind: Literal["dust"] = "dust"
    colour: Colour = Field(default="#6d655c", title="Colour")
    specks: float = number(6.0, "Specks", "In a square of 10 by 10 centimetres.", low=0, high=400, most=60)
    fibres: float = share(0.15, "Fibres", "How many of them are hairs.")
    size: float = number(0.16, "Size", low=0.02, high=2, unit="mm", most=0.8)
    seed: int = Field(default=1, ge=0, le=9999, title="Another one")

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        chance = np.random.default_rng([self.seed, 12])
        width, height = plate.frame
        count = round(self.specks * width * height / 1e4)
        at = chance.random((count, 2)) * [width, height]
        hair = chance.random(count) < self.fibres
        round_ = self.size * np.exp(0.5 * chance.standard_normal(count) - 0.3)
        turn = np.linspace(0, 2 * np.pi, 7, endpoint=False)
        ring = np.stack([np.cos(turn), np.sin(turn)], 1)
        with canvas.group("specks", 0.7):
            for (x, y), radius in zip(at[~hair], round_[~hair], strict=True):
                lively = ring * (1 + 0.25 * chance.standard_normal((len(turn), 1)))
                canvas.fill([np.array([x, y]) + 0.5 * radius * lively], self.colour)
        with canvas.group("fibres", 0.6):
            lines = []
            for x, y in at[hair]:
                way, bend = chance.random() * 6.28, 0.5 * chance.standard_normal()
                steps = np.arange(9) / 8
                angle = way + bend * 3 * steps
                long = 6 * self.size * (1 + 2 * chance.random()) / 8
                lines.append(np.array([x, y]) + np.cumsum(np.stack([np.cos(angle), np.sin(angle)], 1) * long, axis=0))
            if lines:
                canvas.stroke(lines, Stroke(max(0.04, 0.3 * self.size), self.colour))
