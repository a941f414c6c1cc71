"""Views set up, compared and kept in the real interface."""

from __future__ import annotations

import json
import time
import urllib.request

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk

SLUG = "alder-weir-kiln-house"


def study(desk: Desk) -> dict:
    with urllib.request.urlopen(f"{desk.address}/api/studies/{SLUG}") as answer:
        return json.load(answer)


def view(desk: Desk) -> dict:
    return study(desk)["document"]["desk"]["view"]


def more(desk: Desk, name: str, action: str) -> None:
    desk.press(f"More for {name}")
    desk.find(f"//*[@role='menuitem' and normalize-space()='{action}']").click()


def test_a_view_becomes_another_kind_with_a_few_settings_and_paper_that_grows(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Long section')]").click()
    before, began = desk.picture(), view(desk)
    desk.choose("Kind", "section perspective")
    section = desk.changed(before)
    found = view(desk)
    assert found["projection"]["scale_distance"] == 15 and found["cuts"][0]["point"][1] == pytest.approx(4)
    assert len(found["cuts"]) == 1  # the cut that was there is the one
    desk.choose("Scale at the cut", "¼″ = 1′-0″")
    larger = desk.changed(section)
    assert view(desk)["frame"]["scale"] == 48
    desk.press("right")
    desk.wait(lambda: view(desk)["frame"]["width"] == 440, "the paper did not grow")
    assert view(desk)["frame"]["shift"] == [-10, 0]
    desk.changed(larger)
    desk.choose("Kind", "isometric")
    desk.wait(lambda: study(desk)["kind"]["kind"] == "isometric", "no isometric")
    desk.picture()
    desk.choose("Looking", "to the north-west")
    desk.wait(lambda: study(desk)["kind"] == {"kind": "isometric", "corner": 315, "below": False}, "no isometric")
    assert view(desk)["cuts"] == []  # its cut went with the section
    desk.choose("Kind", "elevation")
    desk.wait(lambda: study(desk)["kind"] == {"kind": "elevation", "bearing": 0}, "no elevation")
    bearing = desk.find("//*[normalize-space()='Bearing of sight']/following::input[1]")
    bearing.send_keys(Keys.CONTROL, "a")
    bearing.send_keys("113.4", Keys.ENTER)
    desk.wait(lambda: study(desk)["kind"] == {"kind": "elevation", "bearing": 113.4}, "the bearing was not taken")
    assert desk.find("//button[@role='combobox' and contains(., '113.4° from north')]")
    desk.choose("Looking", "to the east")
    desk.wait(lambda: view(desk)["projection"]["direction"] == [1, 0, 0], "it does not look to the east")
    for _ in range(8):  # settings changed one after another may be one step
        if view(desk) == began:
            break
        revision = study(desk)["revision"]
        desk.press("Undo")
        desk.wait(lambda revision=revision: study(desk)["revision"] != revision, "nothing was undone")
    assert view(desk) == began and desk.shows(before)


def test_a_plane_is_dragged_in_the_model_and_caught_by_a_face_and_typed_exactly(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Cutaway axonometric')]").click()
    desk.picture()
    desk.press("Set up in the model")
    knob = desk.find("//button[starts-with(@aria-label, 'Cutting plane 1 at 4.00 m')]", 60)
    steps = ActionChains(desk.driver, duration=50).move_to_element(knob).click_and_hold()
    for _ in range(8):
        steps.move_by_offset(-4, -6)
    steps.perform()
    said = desk.find("//button[starts-with(@aria-label, 'Cutting plane 1')]/span").text
    ActionChains(desk.driver).release().perform()
    place = desk.wait(
        lambda: view(desk)["cuts"][0]["point"][1] > 5 and view(desk)["cuts"][0]["point"][1], "the plane did not move"
    )
    assert said.startswith(f"{place:.2f} m")
    desk.find("//button[starts-with(@aria-label, 'Cutting plane 1')]").send_keys(Keys.ARROW_DOWN)
    desk.wait(lambda: abs(view(desk)["cuts"][0]["point"][1] - place) == pytest.approx(0.05), "the arrow did not move it")
    desk.press("Add a step")
    desk.wait(lambda: view(desk)["cuts"][0]["jogs"] == [{"at": 0, "by": 1}], "no step")
    desk.press("Section box")
    desk.wait(lambda: [c["name"] for c in view(desk)["cuts"]].count("Section box") == 6, "no box")
    desk.press("The drawing")
    desk.picture()
    assert desk.faults() == []
    desk.find("//aside//button[contains(., 'Back to saved')]").click()
    desk.wait(lambda: len(view(desk)["cuts"]) == 1, "it is not as it was saved")


def test_saved_views_are_compared_doubled_locked_grouped_and_carried_over_as_text(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Long section')]").click()
    desk.wait(lambda: view(desk)["name"].startswith("Long section"), "the view does not open")
    desk.picture()
    more(desk, "Plan", "Compare with the desk")
    rows = desk.find("//*[@role='dialog']//table").text
    assert "kind plan one-point perspective" in rows and "sun 220°, 50° high 205°, 46° high" in rows
    ActionChains(desk.driver).send_keys(Keys.ESCAPE).perform()
    more(desk, "Plan", "Duplicate")
    more(desk, "Plan 2", "Lock")
    more(desk, "Plan 2", "Group …")
    desk.type_into("Group", "Plans")
    desk.find("//section[@aria-label='Plans']//button[contains(., 'Plan 2') and contains(., 'locked')]").click()
    desk.wait(lambda: not desk.find("//button[normalize-space()='Remove']").is_enabled(), "a locked view can be removed")
    text = json.dumps(view(desk) | {"name": "Carried over"})
    desk.press("Paste a view …")
    field = desk.find("//textarea")
    desk.driver.execute_script(
        "const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set;"
        "set.call(arguments[0], arguments[1]); arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        field, text,
    )  # fmt: skip
    desk.press("Keep view")
    desk.find("//aside//button[@aria-pressed='true' and contains(., 'Carried over')]")
    assert desk.serious_findings() == []


def test_a_cut_region_is_clicked_and_filled_otherwise(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Long section')]").click()
    desk.wait(lambda: view(desk)["name"].startswith("Long section"), "the view does not open")
    before = desk.picture()
    desk.click_drawing(0.2, 0.82)
    desk.find("//*[@role='dialog' and @aria-label='Slope, cut']", 40)
    desk.choose("Filled", "void")
    void = desk.changed(before)
    desk.bench("Ink")
    desk.find("//aside//button[contains(., 'Slope') and contains(., 'void')]").click()
    desk.press("Close")
    desk.choose("As the material", "Concrete")
    desk.choose("Filled", "solid poche")
    solid = desk.changed(void)
    assert solid != before
    time.sleep(0.3)
    for _ in range(3):
        desk.press("Undo")
    assert desk.shows(before)
