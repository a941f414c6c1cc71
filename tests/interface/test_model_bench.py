"""The model bench in the real interface: parts chosen in 3D, in lists and by keyboard."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk

STREET = pytest.mark.parametrize("desk", ["street"], indirect=True)


@pytest.mark.deep
@STREET
def test_parts_are_chosen_in_the_model_and_in_the_lists_alike(desk: Desk) -> None:
    desk.open()
    desk.bench("Model")
    room = desk.room()
    desk.wait(
        lambda: (
            desk.driver.execute_script("return document.querySelector('[role=application]').stage.state.length") > 0
        ),
        "no look",
    )
    told = "//aside//span[contains(@class, 'sr-only') and contains(., 'chosen')]"
    chosen = lambda: int((desk.find(told).get_attribute("textContent") or "0").split()[0])
    counts = {}
    for tool in ("Rectangle, touching", "Rectangle, inside"):
        desk.press(tool)
        desk.drag(room, (-140, -90), (120, 60))
        desk.wait(lambda: chosen() > 3, "the rectangle chose nothing")
        counts[tool] = chosen()
    assert 3 < counts["Rectangle, inside"] < counts["Rectangle, touching"]
    desk.press("Look")
    inside = chosen()
    desk.press("all the others")
    desk.wait(lambda: chosen() == 61 - inside, "the choice was not turned round")
    # The schedule shows the same choice; a row chosen there stands alone, its settings at the right.
    desk.press("List of parts")
    desk.press("Order by Triangles")
    row = desk.find("//section[@aria-label='List of parts']//button[@aria-pressed][1]")
    name = row.find_element(By.TAG_NAME, "span").text
    row.click()
    desk.wait(lambda: chosen() == 1, "the row was not chosen alone")
    assert desk.find("//aside[2]//h2").text == name
    for leaf in ("Sets", "Materials", "Roles", "Versions", "Parts"):
        desk.press(leaf)
        desk.wait(lambda: desk.find("//aside").text.strip() != "", f"{leaf} is empty")
        assert desk.serious_findings() == [], leaf


@pytest.mark.deep
@STREET
def test_the_model_bench_works_from_the_keyboard(desk: Desk) -> None:
    desk.open()
    desk.find("//h1[starts-with(normalize-space(), 'Street')]", 60)
    desk.find("//body").send_keys("1")
    desk.find("//aside//*[normalize-space()='61 parts']")
    desk.find("//body").send_keys("l")
    rows = desk.find("//*[@aria-label='Rows; arrows move the choice']")
    for key in (Keys.ARROW_DOWN, Keys.ARROW_DOWN):
        rows.send_keys(key)
    first = desk.find("//aside[2]//h2").text
    rows.send_keys(Keys.SHIFT + Keys.ARROW_DOWN)
    desk.find("//aside[2]//h2[normalize-space()='2 parts']")
    desk.find("//body").send_keys("x")
    desk.wait(lambda: len(desk.parts()["hidden"]) == 2, "nothing was hidden")
    assert first in {desk.parts()["name"][n] for n in desk.parts()["hidden"]}
    desk.find("//body").send_keys("a")
    desk.wait(lambda: desk.parts()["hidden"] == [], "they did not come back")
    desk.find("//body").send_keys("i")
    desk.find("//aside[2]//h2[normalize-space()='59 parts']")
    # One of them is left out of the view on the desk, and taken into it again.
    rows.send_keys(Keys.ARROW_DOWN)
    desk.press("Leave out of the view on the desk")
    desk.wait(lambda: len(desk.view()["parts"]["hidden"]) == 1, "it was not left out")
    assert len(desk.ask("/shown")["hidden"]) == 1
    desk.press("Show in the view on the desk")
    desk.wait(lambda: desk.view()["parts"]["hidden"] == [], "it did not come back into the view")
    # Every action is found by name.
    desk.find("//body").send_keys(".")
    desk.find("//input[@role='combobox']").send_keys("same shape")
    desk.find("//*[@role='option' and contains(., 'same shape')]")
    desk.find("//input[@role='combobox']").send_keys(Keys.ESCAPE)
