"""Where the sun stands, by place and time, and how the trade sets it."""

from __future__ import annotations

import datetime

import numpy as np
import pytest
import shapely
from pydantic import ValidationError

from tests.conftest import box, model_of
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.view.specification import Frame, Parallel, ViewSpecification
from warmgraphite.view.sun import CITIES, Moment, Sun, day_of_suns, placed, preset_sun, sun_at, to_sun, year_of_suns

DAY = datetime.date


def test_the_sun_stands_where_azimuth_and_altitude_say() -> None:
    assert to_sun(Sun(azimuth=90, altitude=0)) == pytest.approx([1, 0, 0])  # east
    assert to_sun(Sun(azimuth=180, altitude=45)) == pytest.approx([0, -(0.5**0.5), 0.5**0.5])  # south, half-way up


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone", "date", "hour", "azimuth", "altitude"),
    [
        # The worked example of NREL's solar position algorithm (Reda and Andreas, 2003): zenith 50.11162°, azimuth
        # 194.34024°.
        (39.742476, -105.1786, "-07:00", DAY(2003, 10, 17), 12 + 30.5 / 60, 194.340, 39.888),
        # At noon of an equinox the sun stands over the equator; of the June solstice 23.44° north of it.
        (0.0, 0.0, "UTC", DAY(2025, 6, 21), 12.03, 0.0, 90 - 23.44),
        (51.4779, 0.0, "UTC", DAY(2025, 12, 21), 11.97, 180.0, 90 - 51.4779 - 23.44),
        # Midnight sun at the North Cape.
        (71.17, 25.78, "+02:00", DAY(2025, 6, 21), 0.31, 0.0, 71.17 + 23.44 - 90),
    ],
)
def test_published_solar_positions(latitude, longitude, zone, date, hour, azimuth, altitude) -> None:  # type: ignore[no-untyped-def]
    found = sun_at(Moment(latitude=latitude, longitude=longitude, zone=zone, date=date, hour=hour))
    assert (found[0] - azimuth + 180) % 360 - 180 == pytest.approx(0, abs=0.25)
    assert found[1] == pytest.approx(altitude, abs=0.03)


def test_summer_time_and_the_models_north_count() -> None:
    oslo = next(c for c in CITIES if c.name == "Oslo")
    moment = Moment(latitude=oslo.latitude, longitude=oslo.longitude, zone=oslo.zone, date=DAY(2026, 7, 1), hour=13)
    plain = moment.model_copy(update={"zone": "UTC", "hour": 11.0})
    assert sun_at(moment) == pytest.approx(sun_at(plain))
    turned = sun_at(moment.model_copy(update={"north": 30.0}))
    assert turned == pytest.approx(((sun_at(moment)[0] + 30) % 360, sun_at(moment)[1]))


def test_a_gnomon_casts_as_long_and_where_its_place_day_and_hour_say() -> None:
    """A rod of one metre on level ground, in the vector shadow: length is 1 / tan(altitude), away from the sun."""
    moment = Moment(latitude=39.742476, longitude=-105.1786, zone="-07:00", date=DAY(2003, 10, 17), hour=12 + 30.5 / 60)
    rod = box((-0.002, -0.002, 0), (0.002, 0.002, 1))
    model = model_of(("Ground", box((-5, -5, -0.2), (5, 5, 0)), 0), ("Rod", rod, 2))
    plan = Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(0, 0, 0))
    view = ViewSpecification(projection=plan, sun=placed(Sun(), moment), frame=Frame(width=200, height=200, scale=20))
    cells = Drawing(model, view).region_map()
    dark = cells.shape((cells.light == 1) & (cells.part == 0))
    xy = (shapely.get_coordinates(dark) - 100) * [0.02, -0.02]
    tip = xy[np.argmax(np.linalg.norm(xy, axis=1))]
    assert np.linalg.norm(tip) == pytest.approx(1 / np.tan(np.radians(39.888)), abs=0.006)
    assert np.degrees(np.arctan2(*tip)) % 360 == pytest.approx(194.34 - 180, abs=0.25)


def test_presets_follow_the_direction_of_sight() -> None:
    left = preset_sun(Sun(softness=2), "left shoulder", 0)  # looking north, from the south-west
    assert (left.azimuth, left.softness) == (225, 2)
    ray = to_sun(left)
    assert abs(ray[0]) == pytest.approx(abs(ray[1]), abs=1e-3) and abs(ray[2]) == pytest.approx(
        abs(ray[0]), abs=1e-3
    )  # 45° in plan and elevation
    assert preset_sun(Sun(), "right shoulder", 90).azimuth == 225
    with pytest.raises(ViewError, match="left shoulder"):
        preset_sun(Sun(), "moonlight", 0)


def test_a_day_and_a_year_of_suns() -> None:
    moment = Moment(latitude=48.2, longitude=16.4, zone="Europe/Vienna", date=DAY(2026, 3, 21), hour=15)
    day, year = day_of_suns(Sun(), moment), year_of_suns(Sun(), moment)
    assert len(day) == 9 and all(s.altitude > 0 for s in day)
    assert np.all(np.diff([s.azimuth for s in day]) > 0)
    assert [s.moment.date.month for s in year if s.moment] == list(range(1, 13))
    assert np.argmax([s.altitude for s in year]) == 5
    assert day_of_suns(Sun(), moment.model_copy(update={"latitude": 80.0, "date": DAY(2026, 12, 21)})) == []


@pytest.mark.parametrize("wrong", [{"zone": "Mars/Olympus"}, {"latitude": 91}, {"hour": 24}, {"date": "1066-10-14"}])
def test_a_moment_that_cannot_be_says_what_is_wrong(wrong: dict) -> None:
    with pytest.raises(ValidationError, match=next(iter(wrong))):
        Moment(**{"latitude": 50, "longitude": 10, "date": "2026-06-21", "hour": 12, **wrong})
