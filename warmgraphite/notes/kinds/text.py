"""Free text, where it was put."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.forms import number, setting
from warmgraphite.notes.note import Drawn, Handle, OfPoints
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import set_line

__all__ = ["FreeText"]


class FreeText(OfPoints):
    """Text with its first line's beginning, middle or end at its point."""

    label: ClassVar[str] = "Text"
    sign: ClassVar[str] = "M5 3h10M10 3v11M8 14h4"
    group: ClassVar[str] = "Written"
    hint: ClassVar[str] = "Click where it begins."
    takes: ClassVar[tuple[int, int]] = (1, 1)
    rank: ClassVar[int] = 0

    kind: Literal["text"] = "text"
    text: str = Field(default="", max_length=4000, json_schema_extra={"hidden": True})
    aligned: Literal["start", "middle", "end"] = setting(
        "start",
        "Aligned",
        json_schema_extra={"options": [["start", "at the left"], ["middle", "in the middle"], ["end", "at the right"]]},
    )
    turn: float = number(0.0, "Turned", "Counter-clockwise.", low=-180, high=180, unit="°")
    wide: float = Field(
        default=0.0,
        ge=0,
        le=1000,
        title="Broken at",
        description="0 leaves lines as they are.",
        json_schema_extra={"unit": "mm", "most": 200},
    )

    @property
    def called(self) -> str:
        return self.name or self.text.split("\n")[0][:60] or self.label

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if not self.enough():
            return out
        x, y = there.at(self.points[:1], self.lies)[0].tolist()
        if not np.isfinite([x, y]).all():
            return out
        block, colour = there.block(self.text or "…", self.size, self.wide or None), there.colour(self.theme)
        top = y - block.capitals
        if not self.turn:
            out.marks += block.at(x, top, colour, self.aligned)
            out.boxes.append(block.box(x, top, self.aligned))
        else:
            down = np.array([np.sin(np.radians(self.turn)), np.cos(np.radians(self.turn))])
            for k, line in enumerate(block.lines):
                at = np.array([x, y]) + down * block.capitals * 1.9 * k
                out.marks += set_line(
                    line, float(at[0]), float(at[1]), block.face, block.capitals, colour, self.aligned, self.turn
                )
        out.handles.append(Handle(0, (x, y)))
        return out
