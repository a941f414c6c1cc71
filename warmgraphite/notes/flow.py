"""What notes of the environment share.
A curve through points, in the colour of what it is about, and a word at its beginning.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.notes.curves import smooth
from warmgraphite.notes.note import Drawn, Handle, OfPoints
from warmgraphite.notes.setting import Setting

__all__ = ["Flow"]


class Flow(OfPoints):
    """A curve through its points; ``text`` stands at its beginning."""

    rank = 0

    text: str = Field(default="", max_length=200, json_schema_extra={"hidden": True})

    @property
    def called(self) -> str:
        return self.name or self.text.split("\n")[0][:60] or self.label

    def hue(self, there: Setting) -> str:
        """Its colour: that of its theme, or of what it is about."""
        return there.colour(self.theme or self.about)

    def places(self, there: Setting, out: Drawn) -> NDArray[np.float64] | None:
        """(N, 2) its points on the paper, which are what it is taken hold of by.
        ``None`` where they cannot be drawn.
        """
        if not self.enough():
            return None
        found = there.at(self.points, self.lies)
        if not np.isfinite(found).all():
            out.told = "It lies behind the viewer."
            return None
        out.handles += [Handle(k, (float(x), float(y))) for k, (x, y) in enumerate(found.tolist())]
        return found

    def curve(self, there: Setting, out: Drawn) -> NDArray[np.float64] | None:
        """(M, 2) the smooth curve."""
        found = self.places(there, out)
        return None if found is None or len(found) < 2 else smooth(found)

    def write(self, there: Setting, at: NDArray[np.float64], way: NDArray[np.float64], out: Drawn) -> None:
        """Write its text beside a place, on the side that it does not go to."""
        if not self.text:
            return
        block = there.block(self.text, self.size)
        gap = 1.2
        if abs(way[0]) > 0.35 * float(np.linalg.norm(way)):
            anchor, x, top = (
                ("end", at[0] - gap, at[1] - block.high / 2)
                if way[0] > 0
                else ("start", at[0] + gap, at[1] - block.high / 2)
            )
        else:
            anchor, x, top = "middle", at[0], at[1] - block.high - gap if way[1] > 0 else at[1] + gap
        x0, y0, x1, y1 = block.box(float(x), float(top), anchor)  # type: ignore[arg-type]
        a, b, c, d = there.inside
        dx, dy = max(a - x0, 0.0) + min(c - x1, 0.0), max(b - y0, 0.0) + min(d - y1, 0.0)
        out.marks += block.at(float(x) + dx, float(top) + dy, self.hue(there), anchor)  # type: ignore[arg-type]
        out.boxes.append((x0 + dx, y0 + dy, x1 + dx, y1 + dy))
