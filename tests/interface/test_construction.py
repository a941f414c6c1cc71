"""Construction and marks at the Ink bench.
A build-up poured and changed, the ground laid, a panel drawn on a roof and found elsewhere.
"""

from __future__ import annotations

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.core.judge import Camera
from tests.interface.desk import Desk
from warmgraphite.view.specification import ViewSpecification


def share_of(desk: Desk, *point: float) -> tuple[float, float]:
    """Where a place of the model, in metres, lies in the drawing on the desk, as shares of its width and height."""
    view = ViewSpecification.model_validate(desk.view())
    x, y = Camera(view).flat(np.array([point]))[0]
    return float(x) / view.frame.width, float(y) / view.frame.height


def show(desk: Desk, xpath: str) -> None:
    """Bring something of a list into sight and press it."""
    desk.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", desk.find(xpath))
    desk.find(xpath).click()


@pytest.mark.deep
def test_a_wall_is_built_the_ground_laid_and_a_panel_drawn_on_the_roof_and_all_undone(desk: Desk) -> None:
    desk.open()
    began, plain = desk.study(), desk.picture()
    desk.bench("Ink")
    look = lambda: desk.study()["look"]
    marks = lambda: desk.study()["document"]["marks"]

    # A build-up is taken into the hand and poured onto a wall.
    desk.press("build-ups")
    desk.press("Boarded wall on blocks")
    desk.click_drawing(*share_of(desk, 0.2, 2.6, 1.5))
    desk.wait(lambda: [r["build_up"] for r in look()["construction"]] == ["boarded-wall"], "the wall was not built")
    desk.changed(plain)
    ActionChains(desk.driver).send_keys(Keys.ESCAPE).perform()
    # It is drawn as a little section, and its insulation made thicker.
    show(desk, "//ul[@aria-label='Build-ups']//button[contains(., 'Boarded wall')]")
    sample = desk.find("//aside//img[contains(@src, '/build-ups/boarded-wall/sample')]")
    desk.wait(
        lambda: desk.driver.execute_script("return arguments[0].naturalWidth", sample) > 10,
        "the little section is not drawn",
    )
    desk.press("Insulation, 200")
    desk.type_into("Thickness", "260")
    thick = lambda: [row["thickness"] for row in look()["build_ups"][0]["layers"] if row["name"] == "Insulation"]
    desk.wait(lambda: thick() == [0.26], "the insulation is as it was")
    thicker = desk.picture()
    assert desk.serious_findings() == []

    # The line of the ground, by a level; the hand is faster than the answers.
    show(desk, "//button[@role='radio' and @aria-label='Ground']")
    desk.driver.set_network_conditions(offline=False, latency=400, throughput=10**9)
    desk.click_drawing(*share_of(desk, 12, 2.6, 0.6))
    ActionChains(desk.driver).send_keys(Keys.ENTER).perform()
    desk.driver.delete_network_conditions()
    desk.wait(lambda: [m["kind"] for m in marks()] == ["ground"], "no ground was laid")
    assert abs(marks()[0]["points"][0][2] - 0.6) < 0.12
    laid = desk.changed(thicker)
    desk.type_into("Level", "0.4")
    desk.wait(lambda: marks()[0]["points"][0][2] == 0.4, "the ground stayed")
    desk.changed(laid)
    show(desk, "//button[@role='radio' and @aria-label='Ground']")  # laid back

    # A panel on the roof: what its corners catch on is shown before the press, and the face that it lies on is named.
    desk.bench("View")
    desk.lay_out("Cutaway")
    desk.bench("Ink")
    cutaway = desk.picture()
    show(desk, "//button[@role='radio' and @aria-label='Rectangle']")
    desk.click_drawing(*share_of(desk, 2, 4, 3.3))
    desk.wait(
        lambda: desk.driver.find_elements(By.XPATH, "//*[@data-testid='snap']"),
        "nothing shows where the next point falls",
    )
    desk.click_drawing(*share_of(desk, 5, 5.5, 3.3))
    desk.wait(lambda: [m["kind"] for m in marks()] == ["ground", "rectangle"], "no panel was drawn")
    panel = marks()[1]
    assert panel["plane"]["lies"] == "face" and panel["plane"]["part"] == "House/Roof"
    assert all(abs(z - 3.3) < 0.01 for _, _, z in panel["points"])
    desk.find("//aside//p[contains(., 'on Roof')]")
    drawn = desk.changed(cutaway)
    desk.press("Add a flat")
    desk.type_into("Stands off", "0.6")
    desk.wait(lambda: marks()[1]["lift"] == 0.6 and marks()[1]["fills"], "the panel is as it was")
    desk.changed(drawn)

    # It is in another view, in its place there; and it is moved by its middle.
    desk.bench("View")
    desk.lay_out("Elevation")
    desk.bench("Ink")
    with_panel = desk.picture()
    show(desk, "//button[@role='switch' and contains(@aria-label, 'Rectangle')]")
    without = desk.changed(with_panel)
    show(desk, "//button[@role='switch' and contains(@aria-label, 'Rectangle')]")
    assert desk.shows(with_panel)
    desk.bench("View")
    desk.lay_out("Cutaway")
    desk.bench("Ink")
    before = marks()[1]["points"]
    show(desk, "//ul[starts-with(@aria-label, 'Marks')]//button[contains(., 'Rectangle')]")
    handle = desk.find("//*[@data-testid='mark-middle']")
    ActionChains(desk.driver, duration=60).move_to_element(handle).click_and_hold().move_by_offset(
        12, 3
    ).move_by_offset(12, 3).release().perform()
    desk.wait(lambda: marks()[1]["points"] != before, "it was not moved")
    moved = marks()[1]["points"]
    size = lambda p: np.array(p[1]) - np.array(p[0])
    assert np.allclose(size(moved), size(before), atol=0.01) and all(abs(z - 3.3) < 0.01 for _, _, z in moved)
    assert without != with_panel

    # Lines are drawn one after another, faster than the drawing follows.
    show(desk, "//button[@role='radio' and @aria-label='Line']")
    for x, y in ((1, 4), (2, 5), (3, 4), (4, 5), (5, 4), (6, 5)):
        desk.click_drawing(*share_of(desk, x, y, 3.3))
    desk.wait(lambda: [m["kind"] for m in marks()[2:]] == ["line"] * 3, "a line was lost")
    ends = [[round(at[0], 1) for at in m["points"]] for m in marks()[2:]]
    assert ends == [[1, 2], [3, 4], [5, 6]] and len({m["id"] for m in marks()}) == 5
    desk.picture()

    # All of it is undone.
    for _ in range(30):
        if not desk.study()["document"]["marks"] and not look()["construction"]:
            break
        revision = desk.study()["revision"]
        desk.press("Undo")
        desk.wait(lambda r=revision: desk.study()["revision"] != r, "nothing was undone")
    desk.wait(
        lambda: look() == began["look"] and desk.study()["document"]["finishes"] == began["document"]["finishes"],
        "something stayed",
    )
