"""Noise that spreads from a source."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.forms import number, share
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["Noise"]


class Noise(Flow):
    """Arcs round its first point, fainter outwards, as far as its second."""

    label: ClassVar[str] = "Noise"
    sign: ClassVar[str] = (
        "M4 8m-1 0a1 1 0 1 0 2 0a1 1 0 1 0 -2 0M8 4A6 6 0 0 1 8 12M12 2A9 9 0 0 1 12 14M16 1A12 12 0 0 1 16 15"
    )
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click the source, then how far it is heard."
    takes: ClassVar[tuple[int, int]] = (2, 2)

    kind: Literal["noise"] = "noise"
    arcs: int = number(6, "Arcs", low=2, high=20, most=12)
    spread: float = number(70.0, "Spread", low=10, high=360, unit="°")
    strength: float = share(0.9, "Strength of tone")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = self.places(there, out)
        if places is None:
            return out
        source, far = places[0], places[1] - places[0]
        colour, reach = self.hue(there), float(np.linalg.norm(far))
        middle = np.arctan2(far[1], far[0])
        turn = middle + np.radians(np.linspace(-self.spread / 2, self.spread / 2, 40))
        for k in range(self.arcs):
            t = (k + 1) / self.arcs
            line = source + reach * t * np.column_stack([np.cos(turn), np.sin(turn)])
            out.marks.append(Line(line, there.stroke(colour, 2.4 - 1.6 * t), self.strength * (1.05 - 0.75 * t)))
        ring = np.linspace(0, 2 * np.pi, 17)
        out.marks.append(Area([source + 0.8 * np.column_stack([np.cos(ring), np.sin(ring)])], colour, self.strength))
        self.write(there, source, far, out)
        return out
