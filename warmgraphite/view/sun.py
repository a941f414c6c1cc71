"""The sun of a view: where it stands, how it shines, and who stands in its light.

Its direction is always an azimuth and an altitude in the model. A :class:`Moment` is how they may have been found: a
place, a day and an hour.
"""

from __future__ import annotations

import datetime
import math
import re
from collections.abc import Sequence
from typing import Annotated, Literal, NamedTuple
from zoneinfo import ZoneInfo, available_timezones

import astral
import astral.sun
import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from warmgraphite.errors import ViewError
from warmgraphite.model.behaviour import Role
from warmgraphite.specification import Specification

__all__ = [
    "CITIES",
    "PRESETS",
    "City",
    "Exempt",
    "Moment",
    "Sun",
    "day_of_suns",
    "placed",
    "preset_sun",
    "sun_at",
    "sun_path",
    "to_sun",
    "year_of_suns",
]

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
#: Globs on ``layer/path/name``.
Patterns = Annotated[tuple[Annotated[str, Field(max_length=1000)], ...], Field(max_length=4000)]
Share = Annotated[float, Field(ge=0, le=1)]

#: Altitude of the trade's usual light, which falls at 45° in plan and in elevation: along a cube's diagonal.
DIAGONAL = math.degrees(math.atan(math.sqrt(0.5)))

_OFFSET = re.compile(r"^([+-])(\d{1,2}):?(\d{2})?$")


class Moment(Specification):
    """A place, a day and an hour. ``zone`` is a name of the time-zone database, or an offset such as ``+05:30``.

    ``north`` is the bearing of true north in the model, degrees clockwise from its +Y.
    """

    place: str = Field(default="", max_length=100)
    latitude: float = Field(ge=-90, le=90)
    longitude: float = Field(ge=-180, le=180)
    zone: str = Field(default="UTC", max_length=60)
    date: datetime.date
    hour: float = Field(ge=0, lt=24)
    north: Number = 0

    @field_validator("zone")
    @classmethod
    def _known(cls, zone: str) -> str:
        offset = _OFFSET.match(zone)
        if zone not in available_timezones() and not (offset and int(offset[2]) <= 15):
            raise ValueError("must be a time zone such as Europe/Oslo, or hours from UTC such as +01:00")
        return zone

    @field_validator("date")
    @classmethod
    def _in_reach(cls, date: datetime.date) -> datetime.date:
        if not 1900 <= date.year <= 2100:
            raise ValueError("must be a day between 1900 and 2100")
        return date

    @property
    def time(self) -> datetime.datetime:
        """The instant, in the zone's own time."""
        zone: datetime.tzinfo
        offset = _OFFSET.match(self.zone)
        if offset:
            minutes = int(offset[2]) * 60 + int(offset[3] or 0)
            zone = datetime.timezone(datetime.timedelta(minutes=-minutes if offset[1] == "-" else minutes))
        else:
            zone = ZoneInfo(self.zone)
        at = datetime.datetime.combine(self.date, datetime.time(), tzinfo=zone)
        return at + datetime.timedelta(hours=self.hour)


class Exempt(Specification):
    """Parts that are left out of something: by globs on ``layer/path/name``, and by whole roles."""

    parts: Patterns = ()
    roles: tuple[Role, ...] = ()


class Sun(Specification):
    """Where the sun stands, and its light.
    Below the horizon nothing is lit.

    ``strength`` 0–1 is how much of the light comes from the sun: how deep its shadow is. ``softness`` is the width of
    the sun's disc in degrees, 0 for a crisp shadow. ``ambient`` 0–1 lifts all that is not lit. ``cast_off`` lets the
    half that a plane has taken away cast its shadow all the same. ``glass`` 0–1 is the share of the light that a pane
    keeps off.
    """

    azimuth: Number = 135
    altitude: float = Field(default=38, ge=-90, le=90)
    strength: Share = 1.0
    softness: float = Field(default=0, ge=0, le=30)
    ambient: Share = 0.0
    cast_off: bool = False
    glass: Share = 0.0
    not_casting: Exempt = Exempt()
    not_receiving: Exempt = Exempt()
    moment: Moment | None = None


class City(NamedTuple):
    """A place to choose by name."""

    name: str
    latitude: float
    longitude: float
    zone: str


#: Cities of every part of the world, north to south.
CITIES: tuple[City, ...] = (
    City("Reykjavík", 64.15, -21.94, "Atlantic/Reykjavik"),
    City("Helsinki", 60.17, 24.94, "Europe/Helsinki"),
    City("Oslo", 59.91, 10.75, "Europe/Oslo"),
    City("Stockholm", 59.33, 18.07, "Europe/Stockholm"),
    City("Edinburgh", 55.95, -3.19, "Europe/London"),
    City("Copenhagen", 55.68, 12.57, "Europe/Copenhagen"),
    City("Dublin", 53.35, -6.26, "Europe/Dublin"),
    City("Berlin", 52.52, 13.41, "Europe/Berlin"),
    City("Amsterdam", 52.37, 4.90, "Europe/Amsterdam"),
    City("Warsaw", 52.23, 21.01, "Europe/Warsaw"),
    City("London", 51.51, -0.13, "Europe/London"),
    City("Vancouver", 49.28, -123.12, "America/Vancouver"),
    City("Paris", 48.86, 2.35, "Europe/Paris"),
    City("Vienna", 48.21, 16.37, "Europe/Vienna"),
    City("Zürich", 47.37, 8.54, "Europe/Zurich"),
    City("Montréal", 45.50, -73.57, "America/Toronto"),
    City("Milan", 45.46, 9.19, "Europe/Rome"),
    City("Toronto", 43.65, -79.38, "America/Toronto"),
    City("Chicago", 41.88, -87.63, "America/Chicago"),
    City("Istanbul", 41.01, 28.98, "Europe/Istanbul"),
    City("New York", 40.71, -74.01, "America/New_York"),
    City("Madrid", 40.42, -3.70, "Europe/Madrid"),
    City("Beijing", 39.90, 116.41, "Asia/Shanghai"),
    City("Lisbon", 38.72, -9.14, "Europe/Lisbon"),
    City("Athens", 37.98, 23.73, "Europe/Athens"),
    City("San Francisco", 37.77, -122.42, "America/Los_Angeles"),
    City("Seoul", 37.57, 126.98, "Asia/Seoul"),
    City("Tehran", 35.69, 51.39, "Asia/Tehran"),
    City("Tokyo", 35.68, 139.69, "Asia/Tokyo"),
    City("Los Angeles", 34.05, -118.24, "America/Los_Angeles"),
    City("Cairo", 30.04, 31.24, "Africa/Cairo"),
    City("Delhi", 28.61, 77.21, "Asia/Kolkata"),
    City("Dubai", 25.20, 55.27, "Asia/Dubai"),
    City("Mexico City", 19.43, -99.13, "America/Mexico_City"),
    City("Mumbai", 19.08, 72.88, "Asia/Kolkata"),
    City("Bangkok", 13.76, 100.50, "Asia/Bangkok"),
    City("Lagos", 6.52, 3.38, "Africa/Lagos"),
    City("Bogotá", 4.71, -74.07, "America/Bogota"),
    City("Singapore", 1.35, 103.82, "Asia/Singapore"),
    City("Nairobi", -1.29, 36.82, "Africa/Nairobi"),
    City("Lima", -12.05, -77.04, "America/Lima"),
    City("São Paulo", -23.55, -46.63, "America/Sao_Paulo"),
    City("Johannesburg", -26.20, 28.05, "Africa/Johannesburg"),
    City("Santiago", -33.45, -70.67, "America/Santiago"),
    City("Sydney", -33.87, 151.21, "Australia/Sydney"),
    City("Cape Town", -33.92, 18.42, "Africa/Johannesburg"),
    City("Buenos Aires", -34.60, -58.38, "America/Argentina/Buenos_Aires"),
    City("Auckland", -36.85, 174.76, "Pacific/Auckland"),
    City("Melbourne", -37.81, 144.96, "Australia/Melbourne"),
)

Preset = Literal["left shoulder", "right shoulder", "raking", "high", "from behind it"]
#: The trade's habits: degrees clockwise from the bearing of sight, and the sun's altitude.
PRESETS: dict[Preset, tuple[float, float]] = {
    "left shoulder": (225.0, DIAGONAL),
    "right shoulder": (135.0, DIAGONAL),
    "raking": (262.0, 22.0),
    "high": (200.0, 68.0),
    "from behind it": (35.0, 40.0),
}


def to_sun(sun: Sun) -> NDArray[np.float64]:
    """Unit vector towards the sun: azimuth clockwise from north (+Y), altitude above the horizon."""
    azimuth, altitude = np.radians(sun.azimuth), np.radians(sun.altitude)
    return np.array([np.sin(azimuth) * np.cos(altitude), np.cos(azimuth) * np.cos(altitude), np.sin(altitude)])


def sun_at(moment: Moment) -> tuple[float, float]:
    """Azimuth and altitude, in degrees and in the model, of the sun's middle without refraction, below the horizon too.

    From astral, which follows J. Meeus, "Astronomical Algorithms", 1991.
    """
    observer = astral.Observer(moment.latitude, moment.longitude)
    zenith, azimuth = astral.sun.zenith_and_azimuth(observer, moment.time, with_refraction=False)
    return (azimuth + moment.north) % 360.0, 90.0 - zenith


def placed(sun: Sun, moment: Moment) -> Sun:
    """The sun as it stands at a moment, to a hundredth of a degree."""
    azimuth, altitude = sun_at(moment)
    return sun.model_copy(update={"azimuth": round(azimuth, 2) % 360, "altitude": round(altitude, 2), "moment": moment})


def preset_sun(sun: Sun, name: str, bearing: float) -> Sun:
    """The sun set as the trade does.
    For one who looks along ``bearing`` (degrees from north; on a plan, of its top).
    """
    if name not in PRESETS:
        raise ViewError(f"There is no light called “{name}”; choose one of {', '.join(PRESETS)}.")
    turn, altitude = PRESETS[name]  # type: ignore[index]
    return sun.model_copy(
        update={"azimuth": round((bearing + turn) % 360, 2) % 360, "altitude": round(altitude, 2), "moment": None}
    )


def day_of_suns(sun: Sun, moment: Moment, count: int = 9) -> list[Sun]:
    """``count`` suns of the day of a moment, evenly from an hour-eighth after it rises until it sets.
    None in polar night.
    """
    up = [h / 8 for h in range(192) if sun_at(moment.model_copy(update={"hour": h / 8}))[1] > 2.0]
    if not up:
        return []
    hours = np.round(np.linspace(up[0], up[-1], count) * 4) / 4
    return [placed(sun, moment.model_copy(update={"hour": float(h)})) for h in dict.fromkeys(hours.tolist()) if h < 24]


def sun_path(moment: Moment) -> list[tuple[float, float, float]]:
    """Azimuth, altitude and hour every quarter of an hour of a moment's day, while the sun is up."""
    hours = [h / 4 for h in range(96)]
    found = [(*sun_at(moment.model_copy(update={"hour": h})), h) for h in hours]
    return [(round(a, 2), round(z, 2), h) for a, z, h in found if z > 0]


def year_of_suns(sun: Sun, moment: Moment) -> list[Sun]:
    """Twelve suns, at the moment's hour on the 21st of each month."""
    days: Sequence[datetime.date] = [moment.date.replace(month=month, day=21) for month in range(1, 13)]
    return [placed(sun, moment.model_copy(update={"date": day})) for day in days]
