"""Light and regions in the real interface: the sun is dragged, a pass is stopped, glass is clicked and kept."""

from __future__ import annotations

import json
import urllib.parse
import urllib.request
from typing import Any

from selenium.webdriver.common.by import By

from tests.interface.desk import Desk

SLUG = "alder-weir-kiln-house"


def ask(desk: Desk, path: str = "", **query: object) -> Any:
    address = f"{desk.address}/api/studies/{SLUG}{path}?{urllib.parse.urlencode(query)}"
    with urllib.request.urlopen(address) as answer:
        return json.load(answer) if answer.status == 200 else None


def sun(desk: Desk) -> dict:
    return ask(desk)["document"]["desk"]["view"]["sun"]


def selected(desk: Desk) -> str:
    rows = desk.driver.find_elements(By.XPATH, "//*[@data-testid='selected']")
    return rows[0].get_attribute("d") or "" if rows else ""


def test_the_sun_is_dragged_set_by_place_and_chosen_from_a_row(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Cutaway axonometric')]").click()
    before = desk.picture()
    dial = desk.find("//*[@role='slider' and starts-with(@aria-label, 'Sun')]")
    desk.drag(dial, (-20, 15), (35, 20))
    # The sheets of light go stale, and come fresh again with another picture.
    desk.find("//main//*[@role='status'] | //*[contains(@class, 'walking')]", 5)
    turned = desk.changed(before)
    assert 90 < sun(desk)["azimuth"] < 150 and ask(desk, "/desk")["fresh"]

    desk.choose("Set it", "over the left shoulder, 45°")
    desk.changed(turned)
    assert round(sun(desk)["altitude"], 2) == 35.26
    desk.choose("Place", "Vienna")
    desk.wait(lambda: sun(desk)["moment"], "no place")
    desk.press("Through the day")
    pictures = "//*[@role='group' and @aria-label='The sun through the day']//img"
    desk.wait(lambda: len(desk.driver.find_elements(By.XPATH, pictures)) == 9, "the row is not drawn", 60)
    now = desk.picture()
    desk.find("(//*[@role='group' and @aria-label='The sun through the day']//li)[2]//button").click()
    desk.changed(now)
    assert sun(desk)["moment"]["hour"] < 10 and sun(desk)["azimuth"] < 120
    assert desk.serious_findings() == []
    desk.press("Put away")


def test_a_long_pass_is_stopped_midway_and_nothing_is_lost(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    before = desk.picture()
    desk.press("Shade and corners")
    desk.choose("Fineness of corners", "128 samples")
    desk.press("Stop")
    desk.find("//*[@role='status' and contains(., 'The work was stopped')]")
    assert not ask(desk, "/desk")["fresh"]
    assert ask(desk)["document"]["desk"]["view"]["occlusion"]["samples"] == 128  # what was asked for stays
    desk.press("Undo")
    assert desk.shows(before)


def test_glass_is_clicked_kept_under_its_name_and_survives_a_change_of_camera(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'From the pond')]").click()
    desk.wait(lambda: ask(desk)["document"]["desk"]["view"]["name"] == "From the pond", "the view does not open")
    desk.picture()
    places = [(x, y) for x in range(240, 400, 7) for y in range(120, 180, 9)]
    x, y = next(p for p in places if (found := ask(desk, "/probe", x=p[0], y=p[1])) and found["glass"])
    desk.click_drawing(x / 420, y / 297)
    desk.find("//*[@role='dialog']//*[@role='radio' and @aria-checked='true' and normalize-space()='this']", 40)
    assert selected(desk)
    desk.click_drawing(x / 420, y / 297)  # again: more of it
    desk.find("//*[@role='radio' and @aria-checked='true' and normalize-space()='face']")
    desk.find("//*[@role='radio' and normalize-space()='behind glass']").click()
    desk.find("//*[@role='dialog' and @aria-label='All that lies behind glass']")
    glass = selected(desk)
    card = desk.find("//*[@role='dialog']//input")
    card.send_keys("glass")
    desk.press("Keep")
    desk.wait(lambda: [r["name"] for r in ask(desk)["document"]["regions"]] == ["glass"], "it was not kept")
    assert ask(desk)["document"]["regions"][0]["query"]["glass"] is True

    desk.find("//aside//button[contains(., 'Street elevation')]").click()
    desk.wait(lambda: ask(desk)["document"]["desk"]["view"]["name"] == "Street elevation", "the view does not open")
    desk.picture()
    desk.bench("Collage")
    desk.find("//aside//button[normalize-space()='glass' and @aria-pressed='true']")
    other = desk.wait(lambda: selected(desk), "the kept region is not there", 40)
    assert other != glass and len(other) > 100
    assert desk.serious_findings() == []
    desk.press("Remove glass")
    desk.wait(lambda: ask(desk)["document"]["regions"] == [], "it was not removed")
    assert desk.faults() == []
