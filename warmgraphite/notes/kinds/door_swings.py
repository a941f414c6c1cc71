"""Door swings, where the model tells how doors open."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.forms import number
from warmgraphite.notes.note import Drawn, Note
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Line

__all__ = ["DoorSwings"]

#: Metres below a level cut within which the foot of a door stands that it shows.
STOREY = 3.0


class DoorSwings(Note):
    """In plans: each leaf as it stands open, and the arc that it takes."""

    label: ClassVar[str] = "Door swings"
    sign: ClassVar[str] = "M3 14V3M3 3A11 11 0 0 1 14 14M3 14H14"
    rank: ClassVar[int] = 0

    kind: Literal["door-swings"] = "door-swings"
    open: float = number(90.0, "Open by", low=10, high=180, unit="°")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if not there.looks_down:
            out.told = "Door swings stand in plans."
            return out
        doors = (there.model.bare or there.model).doors
        if not doors:
            out.told = "The model does not say how its doors open; files in IFC can."
            return out
        cut = next((c for c in there.view.cuts if c.role == "cut" and c.normal[2] > 0.99), None)
        colour = there.colour(self.theme)
        turn = np.radians(np.linspace(0, self.open, 25))
        for door in doors:
            hinge = np.array(door.hinge)
            if cut is not None and not cut.point[2] - STOREY < hinge[2] <= cut.point[2]:
                continue
            shut, into = np.array([*door.shut, 0.0]), np.array([*door.open, 0.0])
            arc = hinge + door.width * (np.cos(turn)[:, None] * shut + np.sin(turn)[:, None] * into)
            line = there.at(np.vstack([hinge, arc]))
            if not np.isfinite(line).all() or (line < -50).any() or (line > np.array(there.frame) + 50).any():
                continue
            out.marks.append(Line(line[1:], there.stroke(colour, 0.8)))
            out.marks.append(Line(line[[0, -1]], there.stroke(colour, 1.9)))
        return out
