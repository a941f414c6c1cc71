"""View lines: what is seen from where someone stands."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import share
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.notes.curves import arrow_head
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["ViewLines"]


class ViewLines(Flow):
    """Lines from an eye at its first point to each of the others, with the field between them."""

    label: ClassVar[str] = "View lines"
    sign: ClassVar[str] = "M2 8A5 5 0 0 1 8 8A5 5 0 0 1 2 8M8 8L18 3M8 8L18 13"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click the eye, then what is seen; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (2, 20)
    about: ClassVar[str] = "people"

    kind: Literal["sight"] = "sight"
    field: float = share(0.12, "Field between them")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = self.places(there, out)
        if places is None:
            return out
        colour, eye = self.hue(there), places[0]
        if len(places) > 2 and self.field > 0:
            out.marks.append(Area([np.vstack([places, places[:1]])], colour, self.field, "multiply"))
        for to in places[1:]:
            out.marks.append(Line(np.array([eye, to]), there.stroke(colour, 1.2, (2.6, 1.0))))
            out.marks.append(arrow_head(to, to - eye, 2.2, colour))
        looks = places[1:].mean(0) - eye
        out.marks += _eye(eye, looks, there.capitals(self.size), colour)
        self.write(there, eye - looks / max(float(np.linalg.norm(looks)), ROUNDING) * 2.0, looks, out)
        return out


def _eye(at: np.ndarray, looks: np.ndarray, size: float, colour: str) -> list:  # type: ignore[type-arg]
    way = looks / max(float(np.linalg.norm(looks)), ROUNDING)
    side = np.array([-way[1], way[0]])
    lid = lambda s: (
        at
        + np.outer(np.linspace(-0.9, 0.45, 12), way) * size
        + np.outer(np.sin(np.linspace(0, np.pi, 12)), side) * s * size * 0.42
    )
    turn = np.linspace(0, 2 * np.pi, 15)
    pupil = at - way * size * 0.1 + size * 0.2 * np.column_stack([np.cos(turn), np.sin(turn)])
    return [Line(lid(1), Stroke(0.2, colour)), Line(lid(-1), Stroke(0.2, colour)), Area([pupil], colour)]
