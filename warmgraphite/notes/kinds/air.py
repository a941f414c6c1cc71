"""Warm and cool air: curved double arrows."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.forms import number, setting, share
from warmgraphite.notes.curves import arrow_head, beside, resampled, tapering
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting

__all__ = ["Air"]


class Air(Flow):
    """Two strokes side by side along its curve, each with a head: both the same way, or one back."""

    label: ClassVar[str] = "Air"
    sign: ClassVar[str] = "M4 14C4 8 9 10 9 3M9 3L7 6M9 3L11 6M9 14C9 9 14 10 14 4M14 4L12 7M14 4L16 7"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click the way that it takes; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (2, 60)

    kind: Literal["air"] = "air"
    sort: Literal["warm", "cool"] = setting("warm", "Is")
    back: bool = setting(False, "One of the two goes back")
    width: float = number(0.6, "Wide", low=0.1, high=8, unit="mm", most=3)
    apart: float = number(1.7, "Apart", low=0.3, high=30, unit="mm", most=8)
    strength: float = share(0.85, "Strength of tone")

    def hue(self, there: Setting) -> str:
        return there.colour(self.theme or self.sort)

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        curve = self.curve(there, out)
        if curve is None:
            return out
        colour = self.hue(there)
        for sign in (-1, 1):
            line = resampled(beside(curve, sign * self.apart / 2), 60)
            if self.back and sign > 0:
                line = line[::-1]
            out.marks.append(tapering(line[:-2], self.width, colour, self.strength, (0.2, 0.75)))
            out.marks.append(arrow_head(line[-1], line[-1] - line[-5], 4.2 * self.width + 0.7, colour, self.strength))
        self.write(there, curve[0], curve[1] - curve[0], out)
        return out
