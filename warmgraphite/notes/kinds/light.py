"""Light through openings, at the angle of the view's sun, as far as it falls."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
import shapely
from pydantic import Field

from warmgraphite.colour import is_light
from warmgraphite.forms import setting, share
from warmgraphite.needs import Need
from warmgraphite.notes.beams import Beams
from warmgraphite.notes.note import Drawn, Handle, Note, OfPoints
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["LightCones"]


NO_SUN = "No sun falls through it: it stands in shade, or the sun is behind it."


class LightCones(OfPoints):
    """A cone from each pane that was picked to where its rays end. It follows the sun."""

    label: ClassVar[str] = "Light through openings"
    sign: ClassVar[str] = "M4 2V6M4 2L15 13M4 6L11 13M9 13H17"
    group: ClassVar[str] = "Environment"
    hint: ClassVar[str] = "Click panes; Enter ends it."
    takes: ClassVar[tuple[int, int]] = (1, 60)
    about: ClassVar[str] = "sun"
    rank: ClassVar[int] = 0

    kind: Literal["light"] = "light"
    strength: float = share(0.28, "Strength of tone")
    edges: bool = setting(True, "Its edges")
    patch: bool = setting(True, "Where it falls")
    parts: tuple[str, ...] = Field(default=(), max_length=60, json_schema_extra={"hidden": True})

    def _wanted(self) -> Beams:
        return Beams(parts=tuple(sorted({p for p in self.parts if p})))

    def needs(self) -> tuple[Need, ...]:
        return (Need("beams", self._wanted()),) if any(self.parts) else ()

    def renamed(self, followed: Callable[[str], str]) -> Note:
        return self.model_copy(update={"parts": tuple(followed(p) for p in self.parts)})

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        places = there.at(self.points) if self.points else np.empty((0, 2))
        out.handles += [
            Handle(k, (float(x), float(y))) for k, (x, y) in enumerate(places.tolist()) if np.isfinite([x, y]).all()
        ]
        if not any(self.parts):
            out.told = "It lies on no part; click panes of the model."
            return out
        beams = there.plate.results[self.needs()[0]]
        if not beams:
            out.told = NO_SUN
            return out
        colour = there.colour(self.theme or self.about)
        blend = "screen" if not is_light(there.inks.paper) else "multiply"
        for beam in beams:
            start, end = there.at(beam.start), there.at(beam.end)
            good = beam.lit & np.isfinite(start).all(1) & np.isfinite(end).all(1)
            after = np.roll(np.arange(len(start)), -1)
            pairs = np.flatnonzero(good & good[after])
            if not len(pairs):
                continue
            quads = np.stack([start[pairs], start[after[pairs]], end[after[pairs]], end[pairs]], 1)
            shapes = shapely.make_valid(shapely.polygons(quads))
            lit = np.flatnonzero(good)
            faces = [shapely.make_valid(shapely.Polygon(row[lit])) for row in (start, end) if len(lit) > 2]
            body = shapely.union_all([*shapes, *faces])
            rings = [
                shapely.get_coordinates(r)
                for p in shapely.get_parts(body)
                if p.geom_type == "Polygon"
                for r in (p.exterior, *p.interiors)
            ]
            if rings:
                out.marks.append(Area(rings, colour, self.strength, blend))
            if self.patch and len(lit) > 2:
                out.marks.append(
                    Area([np.vstack([end[lit], end[lit[:1]]])], colour, min(1.0, self.strength * 1.3), blend)
                )
            if self.edges and body.geom_type in ("Polygon", "MultiPolygon"):
                # The outermost of the rays, as they are seen.
                way = (end - start)[lit].mean(0)
                side = np.array([-way[1], way[0]])
                off = (start[lit] - start[lit].mean(0)) @ side
                for k in {int(lit[np.argmin(off)]), int(lit[np.argmax(off)])}:
                    out.marks.append(Line(np.array([start[k], end[k]]), there.stroke(colour, 0.9), 0.9))
        if not out.marks:
            out.told = NO_SUN
        return out
