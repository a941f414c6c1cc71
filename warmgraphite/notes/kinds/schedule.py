"""A schedule of the views of a study."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import setting
from warmgraphite.notes.note import Companion, Drawn, Handle, Note, Offset, Spot
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Line
from warmgraphite.specification import Specification, Words
from warmgraphite.view.scales import scale_label

__all__ = ["ListedView", "ViewSchedule"]


class ListedView(Specification):
    """A view in the schedule: its letter, name, and scale 1:n."""

    mark: Words = Field(max_length=3)
    name: Words = Field(default="", max_length=200)
    scale: float | None = None


class ViewSchedule(Note):
    """The letter, name and scale of each other view, in rows. It stands where it was ``put``, or in a free corner."""

    label: ClassVar[str] = "Schedule of views"
    sign: ClassVar[str] = "M3 4H17M3 8H17M3 12H17M7 2V14"
    rank: ClassVar[int] = 5
    patched: ClassVar[bool] = False

    kind: Literal["schedule"] = "schedule"
    scales: bool = setting(True, "With scales")
    views: tuple[ListedView, ...] = Field(default=(), max_length=200, json_schema_extra={"hidden": True})
    put: Offset | None = Field(default=None, json_schema_extra={"hidden": True})

    def settled(self, others: Sequence[Companion]) -> Note:
        rows = tuple(ListedView(mark=o.mark, name=o.view.name, scale=o.view.frame.scale) for o in others)
        return self.model_copy(update={"views": rows}) if others else self

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        return self.model_copy(update={"put": spot.flat})

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if not self.views:
            out.told = "There is no other view to list."
            return out
        size, colour, soft = there.capitals(self.size), there.colour(self.theme), there.soft(self.theme)
        cells = [(v.mark, v.name, scale_label(v.scale) if v.scale and self.scales else "") for v in self.views]
        wide = [
            max(there.block(row[k], self.size).wide for row in cells) + size * (1.4 if k < 2 else 0.0) for k in range(3)
        ]
        step = size * 2.2
        total, tall = sum(wide), step * len(cells)
        if self.put is None:
            x, y = there.corner(total, tall)
        else:
            x, y = self.put[0] + there.plate.middle[0], self.put[1] + there.plate.middle[1]
        for number, row in enumerate(cells):
            top = y + number * step
            for k, words in enumerate(row):
                out.marks += there.block(words, self.size).at(x + sum(wide[:k]), top, colour if k < 2 else soft)
            foot = top + size * 1.62
            out.marks.append(Line(np.array([(x, foot), (x + total, foot)]), Stroke(0.09, soft)))
        out.boxes.append((x, y, x + total, y + tall))
        out.handles.append(Handle(-1, (x, y)))
        return out
