"""Wind: one to three strokes that taper."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.forms import number, setting, share
from warmgraphite.notes.curves import arrow_head, beside, long_of, resampled, tapering
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting

__all__ = ["Wind"]


class Wind(Flow):
    """Strokes side by side along its curve, each a little shorter than the one before."""

    label: ClassVar[str] = "Wind"
    sign: ClassVar[str] = "M2 6C6 3 9 9 17 5M17 5L14 4M17 5L15 8M2 11C6 8 9 13 14 10"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click where it comes from, and where it goes; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (2, 60)
    about: ClassVar[str] = "cool"

    kind: Literal["wind"] = "wind"
    strokes: int = number(3, "Strokes", low=1, high=3)
    width: float = number(0.9, "Wide", low=0.1, high=10, unit="mm", most=4)
    apart: float = number(2.6, "Apart", low=0.3, high=40, unit="mm", most=12)
    head: bool = setting(True, "An arrow")
    strength: float = share(0.75, "Strength of tone")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        curve = self.curve(there, out)
        if curve is None:
            return out
        colour, total = self.hue(there), long_of(curve)
        for k in range(self.strokes):
            by = (k - (self.strokes - 1) / 2) * self.apart
            line = resampled(beside(curve, by), 80)
            # The middle one leads; those beside it begin later and end sooner.
            late = 0.0 if k == (self.strokes - 1) // 2 else 0.1 + 0.05 * k
            line = line[int(80 * late) : 80 - int(80 * late * 0.8)]
            leads = k == (self.strokes - 1) // 2
            out.marks.append(tapering(line, self.width * (1.0 if leads else 0.72), colour, self.strength, (0.05, 0.3)))
            if self.head:
                size = min(4.2 * self.width * (1.0 if leads else 0.8) + 0.8, total / 3)
                out.marks.append(
                    arrow_head(line[-1] + (line[-1] - line[-4]) * 0.3, line[-1] - line[-4], size, colour, self.strength)
                )
        self.write(there, curve[0], curve[1] - curve[0], out)
        return out
