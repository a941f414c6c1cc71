"""The height of a picked point, written where it lies: in plans and everywhere else."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.forms import number
from warmgraphite.notes.kinds.levels import signed
from warmgraphite.notes.note import Drawn, Handle, OfPoints
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Line

__all__ = ["SpotHeight"]


class SpotHeight(OfPoints):
    """A cross at each of its points, with the height beside it."""

    label: ClassVar[str] = "Spot heights"
    sign: ClassVar[str] = "M5 9h6M8 6v6M13 5h4M13 8h4"
    hint: ClassVar[str] = "Click points on the model; Enter ends them."
    takes: ClassVar[tuple[int, int]] = (1, 200)
    rank: ClassVar[int] = 0

    kind: Literal["spot-height"] = "spot-height"
    zero: float = number(
        0.0, "Zero at", "The height of the model that is ±0.", low=-10_000, high=10_000, unit="m", most=20
    )

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        size, colour = there.capitals(self.size), there.colour(self.theme)
        for index, (point, (x, y)) in enumerate(zip(self.points, there.at(self.points).tolist(), strict=True)):
            if not np.isfinite([x, y]).all():
                continue
            arm = 0.55 * size
            out.marks += [
                Line(np.array([(x - arm, y), (x + arm, y)]), there.stroke(colour)),
                Line(np.array([(x, y - arm), (x, y + arm)]), there.stroke(colour)),
            ]
            text = there.block(signed(point[2] - self.zero, there.lettering.units, there.lettering.digits), self.size)
            spots = [
                (x + arm + 0.3 * size, y - arm - size),
                (x + arm + 0.3 * size, y + arm),
                (x - arm - 0.3 * size - text.wide, y - arm - size),
                (x - arm - 0.3 * size - text.wide, y + arm),
            ]
            left, top = next((s for s in spots if there.free(text.box(*s))), spots[0])
            out.marks += text.at(left, top, colour)
            out.boxes.append(text.box(left, top))
            there.taken.append(text.box(left, top))
            out.handles.append(Handle(index, (x, y)))
        return out
