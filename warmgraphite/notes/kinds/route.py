"""Routes of people, goods and vehicles."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.forms import number, setting
from warmgraphite.notes.curves import arrow_head, smooth
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["Route"]


class Route(Flow):
    """A line of dashes or dots from a round beginning to its head."""

    label: ClassVar[str] = "Route"
    sign: ClassVar[str] = (
        "M3 13m-1.3 0a1.3 1.3 0 1 0 2.6 0a1.3 1.3 0 1 0 -2.6 0M6 12L8 10.5M10 9L12 7.5M13.5 6.5L17 4M17 4L13.8 4.2M17 "
        "4L15.6 7"
    )
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click the way; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (2, 100)
    about: ClassVar[str] = "people"

    kind: Literal["route"] = "route"
    line: Literal["dashes", "dots", "whole"] = setting("dashes", "Line of")
    width: float = number(0.5, "Wide", low=0.05, high=6, unit="mm", most=2)
    rounded: bool = setting(True, "Rounded")
    back: bool = setting(False, "Both ways")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = self.places(there, out)
        if places is None or len(places) < 2:
            return out
        curve = smooth(places) if self.rounded else places
        colour, wide = self.hue(there), self.width
        dash = {"dashes": (wide * 5, wide * 3), "dots": (0.05, wide * 2.6), "whole": ()}[self.line]
        stroke = there.stroke(colour, wide / there.lettering.weight, dash)
        if self.line == "dots":
            stroke = type(stroke)(stroke.weight * 1.5, colour, dash, "round")
        out.marks.append(Line(curve, stroke))
        head = 3.2 * wide + 1.0
        out.marks.append(arrow_head(curve[-1], curve[-1] - curve[-2], head, colour))
        if self.back:
            out.marks.append(arrow_head(curve[0], curve[0] - curve[1], head, colour))
        else:
            turn = np.linspace(0, 2 * np.pi, 21)
            out.marks.append(
                Area([curve[0] + (wide * 1.3 + 0.2) * np.column_stack([np.cos(turn), np.sin(turn)])], colour)
            )
        self.write(there, curve[0], curve[1] - curve[0], out)
        return out
