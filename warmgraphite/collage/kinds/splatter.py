"""Splatter: drops flung from a brush, a few large, many small."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.canvas.protocol import BlendMode, Canvas, Ring
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.forms import number, share
from warmgraphite.specification import Colour

#: How opaque drops are, in groups of alike ones.
_OPAQUE = (0.85, 0.55, 0.3)


class Splatter(Trace):
    label: ClassVar[str] = "Splatter"
    about: ClassVar[str] = "Drops flung from a brush: a few large ones, many small, most of them about one place."
    confines: ClassVar[bool] = False
    stock_group: ClassVar[str] = "gestures"

    kind: Literal["splatter"] = "splatter"
    blend: BlendMode = "multiply"
    colour: Colour = Field(default="#7d6656", title="Colour")
    drops: int = Field(default=110, ge=1, le=2000, title="Drops", json_schema_extra={"most": 400})
    size: float = number(2.6, "Size", "Of the larger ones.", low=0.1, high=12, unit="mm", most=4)
    across: float = number(72.0, "Across", "Of the drawing's width.", low=-20, high=120, unit="%", most=100)
    down: float = number(30.0, "Down", "Of the drawing's height.", low=-20, high=120, unit="%", most=100)
    spread: float = number(60.0, "Spread", low=2, high=1000, unit="mm", most=200)
    flung: float = share(0.3, "Flung", "How much drops are drawn out away from the place.")
    seed: int = Field(default=1, ge=0, le=9999, title="Another one")

    def blots(self, plate: Plate) -> list[tuple[Ring, float]]:
        """Outlines of drops in frame millimetres, and how opaque each is."""
        chance = np.random.default_rng([self.seed, 11])
        centre = np.array([plate.frame[0] * self.across, plate.frame[1] * self.down]) / 100
        turn = np.linspace(0, 2 * np.pi, 18, endpoint=False)
        found: list[tuple[Ring, float]] = []
        for _ in range(self.drops):
            angle, far = chance.random() * 2 * np.pi, self.spread * abs(chance.standard_normal()) * 0.7
            way = np.array([np.cos(angle), np.sin(angle)])
            radius = self.size * 0.5 * float(np.exp(0.75 * chance.standard_normal() - 1.15))
            lively = 1 + 0.1 * np.cos(3 * turn + 6.28 * chance.random()) + 0.05 * chance.standard_normal(len(turn))
            long = 1 + self.flung * 2.2 * chance.random() * min(far / self.spread, 1.5)
            along, aside = np.cos(turn) * long * lively, np.sin(turn) * lively / np.sqrt(long)
            outline = (
                centre + way * far + radius * (along[:, None] * way + aside[:, None] * np.array([-way[1], way[0]]))
            )
            found.append((outline, float(chance.choice(_OPAQUE))))
        return found

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        blots = self.blots(plate)
        for opaque in _OPAQUE:
            with canvas.group("drops", opaque):
                for outline, own in blots:
                    if own == opaque:
                        canvas.fill([outline], self.colour)
