"""Heat that a wall or a floor gives off."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.forms import number, setting, share
from warmgraphite.notes.curves import arrow_head, beside, resampled, tapering, wavy
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting

__all__ = ["Heat"]


class Heat(Flow):
    """Wavy arrows that leave a line at even distances, to its left as one goes along it; mirrored, to both sides."""

    label: ClassVar[str] = "Heat given off"
    sign: ClassVar[str] = "M3 2V14M6 4c2-1 2 1 4 0s2 1 4 0M6 9c2-1 2 1 4 0s2 1 4 0M6 13c2-1 2 1 4 0"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click along the wall or floor that is warm; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (2, 60)
    about: ClassVar[str] = "warm"

    kind: Literal["heat"] = "heat"
    every: float = number(5.0, "One every", low=1, high=100, unit="mm", most=20)
    reach: float = number(8.0, "Reach", low=1, high=200, unit="mm", most=30)
    mirrored: bool = setting(False, "To both sides")
    turned: bool = setting(False, "To the other side")
    strength: float = share(0.8, "Strength of tone")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        line = self.places(there, out)
        if line is None:
            return out
        colour = self.hue(there)
        total = float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())
        count = max(1, int(total / self.every))
        dense = resampled(line, count * 8 + 1)
        far = beside(dense, 1.0) - dense
        for k in range(count):
            at, out_way = dense[k * 8 + 4], far[k * 8 + 4]
            for side in (1, -1) if self.mirrored else ((-1,) if self.turned else (1,)):
                way = out_way * side
                ray = np.array([at + way * 0.8, at + way * self.reach])
                wave = wavy(ray, self.reach * 0.07, self.reach * 0.42)
                out.marks.append(tapering(wave[:-3], 0.34, colour, self.strength, (0.5, 0.9)))
                out.marks.append(arrow_head(ray[1], way, min(2.0, self.reach * 0.3), colour, self.strength))
        self.write(there, line[0], line[-1] - line[0], out)
        return out
