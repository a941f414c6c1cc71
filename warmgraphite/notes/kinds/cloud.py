"""A cloud."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import shapely

from warmgraphite.forms import number, share
from warmgraphite.notes.flow import Flow
from warmgraphite.notes.note import Drawn
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["Cloud"]


class Cloud(Flow):
    """A cloud between its two points: rounds on a level foot, in a wash and an open line."""

    label: ClassVar[str] = "Cloud"
    sign: ClassVar[str] = "M4 12H16A3 3 0 0 0 15 6.5A4.5 4.5 0 0 0 6.5 6A3.2 3.2 0 0 0 4 12"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click its left and its right end."
    takes: ClassVar[tuple[int, int]] = (2, 2)
    about: ClassVar[str] = "water"

    kind: Literal["cloud"] = "cloud"
    seed: int = number(3, "Another", low=0, high=9999, most=40)
    strength: float = share(0.22, "Strength of tone")

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = self.places(there, out)
        if places is None:
            return out
        (x0, y0), (x1, y1) = places.tolist()
        x0, x1, foot = min(x0, x1), max(x0, x1), max(y0, y1)
        wide = max(x1 - x0, 3.0)
        draw = np.random.default_rng(self.seed)
        rounds = []
        for t in np.linspace(0.12, 0.88, 6):
            radius = wide * (0.1 + 0.12 * np.sin(np.pi * t)) * draw.uniform(0.85, 1.15)
            rounds.append(
                shapely.Point(x0 + wide * t, foot - radius * draw.uniform(0.8, 1.15)).buffer(radius, quad_segs=10)
            )
        body = shapely.union_all([*rounds, shapely.box(x0 + wide * 0.1, foot - wide * 0.09, x1 - wide * 0.1, foot)])
        body = body.intersection(shapely.box(x0 - wide, foot - wide, x1 + wide, foot))
        ring = np.array(
            shapely.get_coordinates(shapely.get_exterior_ring(max(shapely.get_parts(body), key=shapely.area)))
        )
        colour = self.hue(there)
        out.marks.append(Area([ring], colour, self.strength, "multiply"))
        # Open below: a cloud has no hard foot.
        upper = ring[ring[:, 1] < foot - 0.15]
        cut = int(np.argmax(np.append(np.linalg.norm(np.diff(upper, axis=0), axis=1), 0)))
        upper = (
            np.roll(upper, -(cut + 1), axis=0)
            if cut + 1 < len(upper) and np.linalg.norm(upper[cut + 1] - upper[cut]) > wide * 0.2
            else upper
        )
        out.marks.append(Line(upper, there.stroke(colour, 1.6), 0.9))
        self.write(there, np.array([(x0 + x1) / 2, foot]), np.array([0.0, -1.0]), out)
        return out
