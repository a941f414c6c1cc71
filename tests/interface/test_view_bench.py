"""Views set up, compared and kept in the real interface."""

from __future__ import annotations

import json

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk


def more(desk: Desk, name: str, action: str) -> None:
    desk.press(f"More for {name}")
    desk.find(f"//*[@role='menuitem' and normalize-space()='{action}']").click()


@pytest.mark.deep
def test_a_view_becomes_another_kind_with_a_few_settings_and_paper_that_grows(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    before, began = desk.picture(), desk.view()
    desk.choose("Kind", "section perspective")
    section = desk.changed(before)
    found = desk.view()
    assert found["projection"]["scale_distance"] == 15 and found["cuts"][0]["point"][1] == pytest.approx(2.6)
    assert len(found["cuts"]) == 1  # the cut that was there is the one
    desk.choose("Scale at the cut", "¼″ = 1′-0″")
    larger = desk.changed(section)
    assert desk.view()["frame"]["scale"] == 48
    desk.press("right")
    desk.wait(lambda: desk.view()["frame"]["width"] == 230, "the paper did not grow")
    assert desk.view()["frame"]["shift"] == [-10, 0]
    desk.changed(larger)
    kind = lambda: desk.study()["kind"]
    desk.choose("Kind", "isometric")
    desk.wait(lambda: kind()["kind"] == "isometric", "no isometric")
    desk.choose("Looking", "to the north-west")
    desk.wait(lambda: kind() == {"kind": "isometric", "corner": 315, "below": False}, "no isometric")
    assert desk.view()["cuts"] == []  # its cut went with the section
    desk.choose("Kind", "elevation")
    desk.wait(lambda: kind() == {"kind": "elevation", "bearing": 0}, "no elevation")
    bearing = desk.find("//*[normalize-space()='Bearing of sight']/following::input[1]")
    bearing.send_keys(Keys.CONTROL, "a")
    bearing.send_keys("113.4", Keys.ENTER)
    desk.wait(lambda: kind() == {"kind": "elevation", "bearing": 113.4}, "the bearing was not taken")
    assert desk.find("//button[@role='combobox' and contains(., '113.4° from north')]")
    desk.choose("Looking", "to the east")
    desk.wait(lambda: desk.view()["projection"]["direction"] == [1, 0, 0], "it does not look to the east")
    for _ in range(8):  # settings changed one after another may be one step
        if desk.view() == began:
            break
        revision = desk.study()["revision"]
        desk.press("Undo")
        desk.wait(lambda revision=revision: desk.study()["revision"] != revision, "nothing was undone")
    assert desk.view() == began and desk.shows(before)


@pytest.mark.deep
def test_a_plane_is_dragged_in_the_model_caught_by_a_face_and_closed_by_a_face_of_its_own(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.lay_out("Cutaway")
    desk.press("Set up in the model")
    desk.room()
    caps = lambda: desk.driver.execute_script(
        "const c = document.querySelector('[role=application]').stage.caps; return c.visible && [...new "
        "Set(c.geometry.attributes.fill.array)].map((v) => Math.round(255 * v))"
    )
    # The cut is closed in graphite, and in the tone of earth.
    wanted = {0x2E, 0x2A, 0x27, 0xC9, 0xB9, 0xA1}
    desk.wait(lambda: caps() and set(caps()) == wanted, "the cut is not closed", 40)
    gone = lambda: desk.driver.execute_script(
        "return [...document.querySelector('[role=application]').stage.goneParts].length"
    )
    assert gone() == 0  # the table reaches through the plane
    knob = desk.find("//button[starts-with(@aria-label, 'Cutting plane 1 at 2.60 m')]", 60)
    steps = ActionChains(desk.driver, duration=50).move_to_element(knob).click_and_hold()
    for _ in range(8):
        steps.move_by_offset(-5, -8)
    steps.perform()
    said = desk.find("//button[starts-with(@aria-label, 'Cutting plane 1')]/span").text
    assert not caps()  # while it moves, what stood there does not stand in for it
    ActionChains(desk.driver).release().perform()
    place = desk.wait(
        lambda: desk.view()["cuts"][0]["point"][1] > 4.2 and desk.view()["cuts"][0]["point"][1],
        "the plane did not move",
    )
    assert said.startswith(f"{place:.2f} m")
    desk.wait(lambda: gone() == 4, "table and chairs stay in the air")
    desk.wait(caps, "the cut is not closed again", 40)
    desk.find("//button[starts-with(@aria-label, 'Cutting plane 1')]").send_keys(Keys.ARROW_DOWN)
    desk.wait(
        lambda: abs(desk.view()["cuts"][0]["point"][1] - place) == pytest.approx(0.05), "the arrow did not move it"
    )
    desk.press("Add a step")
    desk.wait(lambda: desk.view()["cuts"][0]["jogs"] == [{"at": 0, "by": 1}], "no step")
    desk.press("Cutting box")
    desk.wait(lambda: [c["name"] for c in desk.view()["cuts"]].count("Cutting box") == 6, "no box")
    desk.press("The drawing")
    desk.picture()
    desk.find("//aside//button[contains(., 'Back to saved')]").click()
    desk.wait(lambda: len(desk.view()["cuts"]) == 1, "it is not as it was saved")


@pytest.mark.deep
def test_the_model_is_orbited_in_the_frame_and_picked(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.lay_out("Cutaway")
    desk.press("Set up in the model")
    room = desk.room()
    before = desk.view()["projection"]["direction"]
    desk.drag(room, (-180, 140), (-90, 160))  # beside the knob of the cutting plane
    direction = lambda: desk.view()["projection"]["direction"]
    desk.wait(lambda: direction()[2] != before[2], "the view did not turn")
    desk.find("//*[contains(., 'changed, not saved')]")
    desk.press("The drawing")
    desk.press("Back to saved")
    desk.wait(lambda: direction() == before, "it did not come back")
    desk.bench("Model")
    desk.room().click()
    desk.find("//aside//h2[normalize-space()='Behaviour']")


@pytest.mark.deep
def test_saved_views_are_compared_doubled_locked_grouped_and_carried_over_as_text(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.picture()
    more(desk, "Plan", "Compare with the desk")
    rows = desk.find("//*[@role='dialog']//table").text
    assert "kind plan section" in rows
    ActionChains(desk.driver).send_keys(Keys.ESCAPE).perform()
    more(desk, "Plan", "Duplicate")
    more(desk, "Plan 2", "Lock")
    more(desk, "Plan 2", "Group …")
    desk.type_into("Group", "Plans")
    desk.find("//section[@aria-label='Plans']//button[contains(., 'Plan 2') and contains(., 'locked')]").click()
    desk.wait(
        lambda: not desk.find("//button[normalize-space()='Remove']").is_enabled(), "a locked view can be removed"
    )
    text = json.dumps(desk.view() | {"name": "Carried over"})
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


@pytest.mark.deep
def test_a_cut_region_is_clicked_and_filled_otherwise(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    before = desk.picture()
    desk.click_drawing(0.3, 0.72)
    desk.find("//*[@role='dialog' and @aria-label='Slope, cut']", 40)
    desk.choose("Filled", "void")
    void = desk.changed(before)
    desk.bench("Ink")
    desk.find("//aside//button[contains(., 'Slope') and contains(., 'void')]").click()
    desk.press("Close")
    desk.choose("As the material", "Brick")
    desk.choose("Filled", "solid poche")
    desk.changed(void)
    for _ in range(3):
        desk.press("Undo")
    assert desk.shows(before)
