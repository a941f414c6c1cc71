"""Figures as an illustrator puts them.
One on a deck, found again in every view, hidden in one, and modelled trees dressed.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk


def place_of(desk: Desk, point: tuple[float, float, float]) -> tuple[float, float]:
    """Where a point of the model lies on the drawing, in frame millimetres, by the matrix that the desk tells."""
    told = desk.wait(lambda: (lambda d: d if d["fresh"] else None)(desk.ask("/desk")), "the desk is not fresh", 60)
    x, y, _, w = np.array(told["world_to_frame"]) @ [*point, 1.0]
    return float(x / w), float(y / w)


def seen_at(desk: Desk, point: tuple[float, float, float]) -> dict[str, Any]:
    """What the drawing says of the place of a point."""
    x, y = place_of(desk, point)
    return desk.wait(lambda: desk.ask("/probe", x=x, y=y), "nothing is said", 30)


@pytest.mark.deep
@pytest.mark.parametrize("desk", ["garden"], indirect=True)
def test_a_person_is_put_once_and_is_right_in_every_view(desk: Desk) -> None:
    desk.open()
    desk.bench("Collage")
    desk.picture()
    figures = lambda: desk.study()["document"]["figures"]
    deck = (3.4, -1.5, 0.15)

    # Taken from the stock, it is put by a click on the deck, and is there before the passes know it.
    desk.take("figures", "Talking")
    x, y = place_of(desk, deck)
    desk.click_drawing(x / 210, y / 148)
    desk.wait(lambda: len(figures()) == 1, "nobody was put")
    person = figures()[0]
    assert person["at"] == pytest.approx(deck, abs=0.05) and person["at"][2] == pytest.approx(0.15, abs=1e-6)
    desk.wait(
        lambda: desk.driver.find_elements(By.CSS_SELECTOR, "[data-testid=figure-patch]") or desk.ask("/desk")["fresh"],
        "it does not show",
    )
    assert desk.find("//aside[@aria-label='Collage: settings']//h2").text == "Talking"
    desk.find("//*[@role='application']").send_keys(Keys.ESCAPE)
    breast = (*person["at"][:2], 1.25)
    assert seen_at(desk, breast)["figure"] == person["id"]
    desk.picture()
    assert desk.serious_findings() == []

    # In plan and in section it stands where it was put; nobody put it there again.
    for name, at in (("Plan", (*person["at"][:2], 1.7)), ("Section", breast)):
        desk.bench("View")
        desk.lay_out(name)
        assert seen_at(desk, at)["figure"] == person["id"], name

    # Hidden in the section it is still in plan.
    desk.bench("Collage")
    desk.find("//section[@aria-label='Figures in the study']//button[contains(., 'People')]").click()
    desk.find("//*[@aria-label='Talking in this view' or normalize-space()='Talking in this view']").click()
    desk.wait(lambda: desk.view()["figures"]["hidden"] == [person["id"]], "it is not hidden")
    assert seen_at(desk, breast)["figure"] == ""
    desk.bench("View")
    desk.lay_out("Plan")
    assert seen_at(desk, (*person["at"][:2], 1.7))["figure"] == person["id"]

    # The modelled trees give way to grown ones, of the same height, and come back.
    desk.lay_out("From the garden")
    desk.bench("Collage")
    desk.find("//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='figures']").click()
    crown = (11.0, 5.0, 4.4)
    assert seen_at(desk, crown)["name"] == "Birch crown 2"
    desk.press("Dress them with grown ones")
    desk.wait(lambda: len(figures()) == 3, "they are not dressed")
    birches = [f for f in figures() if f["kind"] == "plant"]
    assert {f["habit"] for f in birches} == {"birch"} and all(
        f["height"] == pytest.approx(4.5, abs=0.02) for f in birches
    )
    assert {seen_at(desk, (11.0 + d, 5.0, 3.0))["name"] for d in (-0.3, 0.0, 0.3)}.isdisjoint({"Birch crown 2"})
    desk.press("Undo")
    desk.wait(lambda: len(figures()) == 1, "it is not taken back")
    assert seen_at(desk, crown)["name"] == "Birch crown 2"
    assert desk.faults() == []
