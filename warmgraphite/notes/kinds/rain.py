"""Rain, and the path that it takes from the roof to where it is kept."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.forms import number, share
from warmgraphite.notes.curves import arrow_head, long_of, resampled, smooth, tapering
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["Rain"]


class Rain(Flow):
    """Strokes that fall along the stretch from its first point to its second.
    From there its path, with drops on it, to the last, where it gathers.
    """

    label: ClassVar[str] = "Rain and its path"
    sign: ClassVar[str] = "M5 2L4 6M10 2L9 6M15 2L14 6M3 9H12C15 9 15 14 17 14"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click the two ends of the roof that it falls on, then its path to the tank; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (2, 60)
    about: ClassVar[str] = "water"

    kind: Literal["rain"] = "rain"
    falls: float = number(14.0, "Falls from", low=1, high=300, unit="mm", most=60)
    slant: float = number(12.0, "Slanting", low=-60, high=60, unit="°")
    every: float = number(4.0, "A stroke every", low=0.8, high=60, unit="mm", most=20)
    strength: float = share(0.7, "Strength of tone")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = self.places(there, out)
        if places is None:
            return out
        colour = self.hue(there)
        draw = np.random.default_rng(7)
        roof = resampled(places[:2], max(2, int(long_of(places[:2]) / self.every) + 1))
        fall = np.array([np.sin(np.radians(self.slant)), np.cos(np.radians(self.slant))])
        for at in roof:
            start, long = self.falls * draw.uniform(0.35, 1.0), self.falls * draw.uniform(0.22, 0.4)
            tip = at - fall * start
            out.marks.append(tapering(np.array([tip, tip + fall * long]), 0.32, colour, self.strength, (0.1, 1.0)))
        if len(places) > 2:
            path = smooth(places[1:])
            out.marks.append(Line(path, there.stroke(colour, 1.6, (1.8, 1.1)), self.strength))
            out.marks.append(arrow_head(path[-1], path[-1] - path[-3], 2.2, colour, self.strength))
            for at, way in zip(resampled(path, max(2, int(long_of(path) / 14) + 1))[1:-1], range(99), strict=False):
                out.marks.append(Area([_drop(at, 0.9 + 0.15 * (way % 2))], colour, self.strength))
        self.write(there, (roof - fall * self.falls)[len(roof) // 2], np.array([0.0, 1.0]), out)
        return out


def _drop(at: np.ndarray, radius: float) -> np.ndarray:
    turn = np.linspace(np.pi * 1.2, -np.pi * 0.2, 15)
    round_ = at + radius * np.column_stack([np.cos(turn), -np.sin(turn) * -1])
    return np.vstack([at - [0, radius * 2.1], round_, at - [0, radius * 2.1]])
