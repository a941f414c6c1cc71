"""Where there is shade: a quiet hatch in an outline."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import shapely

from warmgraphite.forms import number, share
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["Shade"]


class Shade(Flow):
    """An area of its corners, with parallel strokes that stop at its edge."""

    label: ClassVar[str] = "Shady place"
    sign: ClassVar[str] = "M3 13V5L10 2L17 6V13zM5 13L12 4M9 13L16 6"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click its corners; Enter closes it."
    takes: ClassVar[tuple[int, int]] = (3, 60)

    kind: Literal["shade"] = "shade"
    every: float = number(1.6, "A stroke every", low=0.3, high=40, unit="mm", most=8)
    angle: float = number(45.0, "At", low=-90, high=90, unit="°")
    strength: float = share(0.55, "Strength of tone")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = self.places(there, out)
        if places is None:
            return out
        colour = self.hue(there)
        shape = shapely.make_valid(shapely.Polygon(places))
        out.marks.append(Area([np.vstack([places, places[:1]])], colour, 0.1 * self.strength, "multiply"))
        x0, y0, x1, y1 = shape.bounds
        middle, reach = np.array([(x0 + x1) / 2, (y0 + y1) / 2]), np.hypot(x1 - x0, y1 - y0) / 2
        way = np.array([np.cos(np.radians(self.angle)), -np.sin(np.radians(self.angle))])
        side = np.array([-way[1], way[0]])
        places_of = np.arange(-reach, reach, self.every)
        ends = middle + side * places_of[:, None, None] + way * np.array([-reach, reach])[None, :, None]
        for piece in shapely.get_parts(shapely.intersection(shapely.linestrings(ends), shape)):
            if piece.length > 0.3:
                out.marks.append(Line(shapely.get_coordinates(piece), there.stroke(colour, 0.9), self.strength))
        self.write(there, middle - [reach * 0.2, 0], np.array([1.0, 0.0]), out)
        return out
