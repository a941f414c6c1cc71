"""The sun of the view: its disc where it stands, its path over days of the year, and its ray."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.forms import number, setting, share
from warmgraphite.geometry.frames import looking
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.memory import remembered
from warmgraphite.notes.curves import arrow_head
from warmgraphite.notes.note import Drawn, Handle, Note, Offset, Spot
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line
from warmgraphite.view.sun import Moment, Sun, sun_path, to_sun

__all__ = ["SunSign", "turned_on_paper"]


class SunSign(Note):
    """A dome of sky with the horizon, the view's sun on it, and the paths of days where the sun has a place on earth.
    Drawn as the view looks, so that every direction on it is that of the drawing. Where a perspective sees the sun
    itself, its disc stands there. The dome stands where it was ``put``, in millimetres from the middle of the drawing,
    or in a corner.
    """

    label: ClassVar[str] = "Sun and its path"
    sign: ClassVar[str] = "M10 8m-3 0a3 3 0 1 0 6 0a3 3 0 1 0 -6 0M2 13A9 9 0 0 1 18 13"
    group: ClassVar[str] = "Environment"
    about: ClassVar[str] = "sun"
    rank: ClassVar[int] = 3
    patched: ClassVar[bool] = False

    kind: Literal["sun"] = "sun"
    size_of: float = number(17.0, "Dome", low=4, high=200, unit="mm", most=60)
    disc: float = number(4.2, "Disc", low=0.8, high=60, unit="mm", most=16)
    path: bool = setting(True, "Path of the day")
    seasons: bool = setting(True, "Paths of the longest and shortest day")
    words: bool = setting(True, "With dates and height")
    ray: bool = setting(True, "Its ray")
    strength: float = share(0.9, "Strength of tone")
    put: Offset | None = Field(default=None, json_schema_extra={"hidden": True})

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        return self.model_copy(update={"put": spot.flat})

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        colour, sun = there.colour(self.theme or self.about), there.view.sun
        turn = np.linspace(0, 2 * np.pi, 65)
        circle = np.column_stack([np.cos(turn), np.sin(turn)])
        seen = self._seen(there, sun)
        if seen is not None:
            # One looks at the sun itself.
            out.marks.append(Area([seen + circle * self.disc / 2], colour, self.strength))
            out.handles.append(Handle(-1, (float(seen[0]), float(seen[1]))))
            return out
        radius = self.size_of
        centre = self._centre(there, radius)
        out.handles.append(Handle(-1, (float(centre[0]), float(centre[1]))))
        onto = _onto(there)
        place = lambda ways: centre + radius * (ways @ onto.T)
        horizon = place(np.column_stack([np.cos(turn), np.sin(turn), np.zeros(65)]))
        flat = np.linalg.norm(np.ptp(horizon, axis=0)) < NEAR
        if not flat:
            out.marks.append(Line(horizon, there.stroke(colour, 0.9), self.strength))
        if self.path or self.seasons:
            self._paths(there, sun, place, colour, out)
        at = place(to_sun(sun)[None])[0]
        if self.ray and np.linalg.norm(at - centre) > NEAR:
            way = centre - at
            long = float(np.linalg.norm(way))
            start = at + way / long * (self.disc / 2 + 0.5)
            if long > self.disc:
                out.marks.append(Line(np.array([start, centre]), there.stroke(colour), self.strength))
                out.marks.append(arrow_head(centre, way, 2.0, colour, self.strength))
        out.marks.append(Area([at + circle * self.disc / 2], colour, self.strength if sun.altitude > 0 else 0.3))
        if self.words:
            text = there.block(self._said(sun), self.size)
            low = float(max(horizon[:, 1].max(), at[1] + self.disc / 2, centre[1]))
            x, y = float(centre[0]), low + text.capitals * 0.8
            out.marks += text.at(x, y, colour, "middle")
            out.boxes.append(text.box(x, y, "middle"))
        high = float(min(horizon[:, 1].min(), at[1] - self.disc / 2, centre[1] - radius * abs(onto[1, 2])))
        out.boxes.append(
            (float(centre[0] - radius), high, float(centre[0] + radius), float(max(horizon[:, 1].max(), centre[1])))
        )
        return out

    def _said(self, sun: Sun) -> list[str]:
        if sun.moment is not None:
            when = sun.moment.time
            return [
                f"{when.day} {when.strftime('%B')}, {when.strftime('%H:%M')}",
                f"{sun.altitude:.0f}° above the horizon",
            ]
        return [f"{sun.altitude:.0f}° high, from {sun.azimuth % 360:.0f}°"]

    def _paths(
        self,
        there: Setting,
        sun: Sun,
        place: Callable[[NDArray[np.float64]], NDArray[np.float64]],
        colour: str,
        out: Drawn,
    ) -> None:
        if sun.moment is None:
            if self.path:
                # Without a place on earth: how it stands above the horizon.
                heights = np.radians(np.linspace(0, max(sun.altitude, 0.0), 24))
                level = np.radians(sun.azimuth)
                arc = np.column_stack(
                    [np.sin(level) * np.cos(heights), np.cos(level) * np.cos(heights), np.sin(heights)]
                )
                out.marks.append(Line(place(arc), there.stroke(colour, 0.8, (1.2, 0.8)), self.strength))
            return
        days: list[tuple[datetime.date, float, tuple[float, ...]]] = [(sun.moment.date, 1.6, ())] if self.path else []
        year = sun.moment.date.year
        if self.seasons:
            days += [(datetime.date(year, month, 21), 0.8, (1.2, 0.8)) for month in (6, 12)]
        for date, weight, dash in days:
            rows = _path(sun.moment.model_copy(update={"date": date, "hour": 12.0}))
            if len(rows) < 2:
                continue
            azimuth, height = np.radians(rows).T
            ways = np.column_stack([np.sin(azimuth) * np.cos(height), np.cos(azimuth) * np.cos(height), np.sin(height)])
            out.marks.append(Line(place(ways), there.stroke(colour, weight, dash), self.strength))

    def _seen(self, there: Setting, sun: Sun) -> NDArray[np.float64] | None:
        """(2,) where a perspective sees the sun, within its frame."""
        paper = there.plate.projection
        if paper.eye is None:
            return None
        way = to_sun(sun)
        if float(way @ paper.sight) <= 0.05:
            return None
        at = there.at((paper.eye + way * 1e6)[None])[0]
        width, height = there.frame
        inside = bool(np.isfinite(at).all()) and 0 < at[0] < width and 0 < at[1] < height
        return at if inside else None

    def _centre(self, there: Setting, radius: float) -> NDArray[np.float64]:
        if self.put is not None:
            return np.array(self.put) + np.array(there.plate.middle)
        x, y = there.corner(2 * radius, 2 * radius + 6)
        return np.array([x + radius, y + radius + (0 if there.looks_down else radius * 0.4)])


def _onto(there: Setting) -> NDArray[np.float64]:
    """(2, 3) what takes directions in the model to the paper, as the view looks, at a radius of 1."""
    paper = there.plate.projection
    if paper.eye is None:
        linear = paper.matrix[:2, :3]
        return np.array(linear / np.linalg.norm(linear, 2))
    right, above, _ = looking(paper.sight)
    return np.array([right, -above])


def turned_on_paper(there: Setting) -> float:
    """The direction on the paper in which the sun stands, in degrees counter-clockwise from the right."""
    x, y = (_onto(there) @ to_sun(there.view.sun)).tolist()
    return float(np.degrees(np.arctan2(-y, x)))


@remembered("paths of the sun")
def _path(moment: Moment) -> tuple[tuple[float, float], ...]:
    return tuple((a, z) for a, z, _ in sun_path(moment))
