"""Pencil rub: the side of a pencil drawn to and fro, which leaves the hollows of the paper white."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import BlendMode
from warmgraphite.collage.grain import value_noise
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb, tone
from warmgraphite.forms import number, share
from warmgraphite.specification import Colour


class PencilRub(PixelTrace):
    label: ClassVar[str] = "Pencil rub"
    about: ClassVar[str] = (
        "The side of a pencil drawn to and fro: soft strokes at one angle, and white where the paper is hollow."
    )
    stock_group: ClassVar[str] = "gestures"

    kind: Literal["rub"] = "rub"
    blend: BlendMode = "multiply"
    colour: Colour = Field(default="#4b4641", title="Lead")
    strength: float = share(0.4, "Strength", "How hard it is pressed.")
    angle: float = number(38.0, "Angle", "Of the strokes.", low=-180, high=180, unit="°")
    width: float = number(3.2, "Strokes", "How wide one is.", low=0.5, high=80, unit="mm", most=30)
    tooth: float = share(0.6, "Tooth", "How much of the paper's hollows stays white.")
    loose: float = share(0.35, "Loose", "How far strokes lie apart.")
    seed: int = Field(default=1, ge=0, le=9999, title="Another hand")

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        ground = plate.ground
        x, y = (np.asarray(ground.along(axis), np.float32) for axis in (0, 1))
        turn = np.radians(self.angle)
        uneven = value_noise(ground, 14.0 * self.width, 3, 71 + self.seed)
        patch = value_noise(ground, 30.0, 3, 74 + self.seed)
        across = (x[None] * np.float32(np.sin(turn)) + y[:, None] * np.float32(np.cos(turn))) / np.float32(self.width)
        along = (x[None] * np.float32(np.cos(turn)) - y[:, None] * np.float32(np.sin(turn))) / np.float32(self.width)
        # Strokes wander a little, and each begins and ends where it will.
        place = across + 1.3 * uneven
        stroke = 0.5 + 0.5 * np.cos(2 * np.pi * place) * (0.55 + 0.45 * patch)
        own = np.sin(12.9898 * np.floor(place)) * 43758.547
        lift = 0.5 + 0.5 * np.sin(along * 0.21 + 6.283 * (own - np.floor(own)))
        pressed = np.clip(1 - self.loose * (1 - stroke) * 1.15 - 0.55 * self.loose * lift + 0.18 * patch, 0, 1)
        hollow = value_noise(ground, 0.62, 2, 72) * 0.65 + value_noise(ground, 2.3, 2, 73) * 0.35
        left = np.clip(
            (pressed * (0.35 + 0.9 * self.strength) - self.tooth * (0.38 + 0.8 * hollow)) * 1.25 + 0.16, 0, 1
        )
        return tone(rgb(self.colour), np.asarray(np.clip(left * (0.25 + 0.75 * self.strength), 0, 1), np.float32))
