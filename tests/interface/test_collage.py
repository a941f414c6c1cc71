"""The collage bench in the browser: what lies in stock is poured, torn, compared, bundled, and all of it undone."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk


def three_regions(desk: Desk) -> list[tuple[float, float]]:
    """Places of the drawing, as shares of it, that show three regions of parts, none of them cut."""
    frame = desk.view()["frame"]
    found: dict[str, tuple[float, float]] = {}
    for y in np.arange(0.15, 0.9, 0.06):
        for x in np.arange(0.12, 0.9, 0.05):
            asked = {"x": x * frame["width"], "y": y * frame["height"], "wide": 0}
            told = desk.wait(lambda asked=asked: (t := desk.tell("/pointed", asked)) and not t["job"] and t, "no map")
            if told["part"] is not None and not told["cut"] and told["share"] > 0.004:
                found.setdefault(json.dumps(told["query"]), (float(x), float(y)))
            if len(found) == 3:
                return list(found.values())
    raise AssertionError("the drawing has not three regions")


@pytest.mark.deep
def test_a_picture_is_dropped_in_poured_on_three_regions_torn_under_another_finish_and_undone(
    desk: Desk, tmp_path: Path
) -> None:
    noise = np.random.default_rng(2).integers(60, 200, (90, 120, 3), np.uint8)
    Image.fromarray(noise).save(tmp_path / "bark.png")
    (tmp_path / "bad.png").write_bytes(b"\x89PNG\r\n\x1a\n nothing")
    desk.open()
    desk.bench("View")
    desk.lay_out("Cutaway")
    plain = desk.picture()
    traces = lambda: desk.study()["look"]["traces"]
    before, revision = traces(), desk.study()["revision"]
    desk.bench("Collage")
    desk.find("//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='pictures']").click()
    drop = desk.find("//input[@aria-label='Picture file']")
    drop.send_keys(str(tmp_path / "bad.png"))
    desk.find("//*[@role='alert' and contains(., 'bad.png')]", 90)
    drop.send_keys(str(tmp_path / "bark.png"))
    desk.find("//*[@role='dialog' and contains(., 'bark')]")
    desk.type_into("Real width of that", "1.5")
    desk.choose("Goes on", "in patches, with its order")
    assert desk.serious_findings() == []
    desk.press("Done")
    desk.press("bark from stock")
    desk.find("//*[@aria-label='In the hand' and contains(., 'bark is in the hand')]")
    desk.find("//*[@aria-label='In the hand']//button[@role='radio' and normalize-space()='this']").click()
    # Three places of the drawing that are three regions, found by asking as a tap asks.
    places = three_regions(desk)
    held = lambda: next((t["where"] for t in traces() if t["kind"] == "picture"), None)
    for count, (x, y) in enumerate(places, 1):
        desk.picture()
        desk.click_drawing(x, y)
        desk.wait(
            lambda count=count: held() and (len(held()["of"]) if held()["kind"] == "any" else 1) == count,
            "it was not poured",
        )
    poured = desk.changed(plain)
    assert len(traces()) == len(before) + 1
    trace = next(t for t in traces() if t["kind"] == "picture")
    assert (trace["real_width"], trace["endless"]) == (1.5, "patches")
    # Tapped again, a region is let out, and taken in again.
    desk.click_drawing(*places[2])
    desk.wait(lambda: len(held()["of"]) == 2, "it was not taken out")
    desk.picture()
    desk.click_drawing(*places[2])
    desk.wait(lambda: len(held()["of"]) == 3, "it was not poured again")
    assert desk.shows(poured)
    desk.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    # Its edge torn.
    desk.choose("Edge", "torn")
    torn = desk.changed(poured)
    # Seen alone, and the drawing without it beside the drawing with it.
    desk.press("See it alone")
    alone = desk.changed(torn)
    desk.press("Seen alone")
    assert desk.shows(torn)
    desk.press("Compare without it")
    slider = desk.find("//*[@role='slider' and @aria-label='Where the drawing is divided']")
    slider.send_keys(Keys.ARROW_LEFT)
    desk.wait(lambda: slider.get_attribute("aria-valuenow") == "48", "the line does not move")
    assert desk.serious_findings() == []
    desk.press("Comparing")
    # Into a bundle with another: one sheet on the shelf, until it is opened.
    desk.type_into("Bundle", "Walls")
    desk.find(
        "//section[@aria-label='Trace shelf']//button[contains(@aria-label, 'Walls') and contains(@aria-label, 'a "
        "bundle of 1')]"
    )
    # Another finish over it.
    desk.press("Keep as …")
    desk.find("//input[@aria-label='Name of the new finish']").send_keys("Bark", Keys.ENTER)
    desk.find("//section[@aria-label='Finishes']//li[contains(., 'Bark') and contains(., 'here')]")
    desk.press("Hang in a row")
    desk.wait(
        lambda: len(desk.driver.find_elements(By.XPATH, "//*[@aria-label='This view in each finish']//img")) >= 2,
        "no row",
        90,
    )
    desk.press("Lay “Graphite and wash” over")
    desk.press("Put away")
    assert desk.shows(plain) and alone != torn
    # All of it undone, and nothing lost by opening it anew.
    while desk.study()["revision"] != revision:
        now = desk.study()["revision"]
        desk.press("Undo")
        desk.wait(lambda now=now: desk.study()["revision"] != now, "nothing was undone")
    assert desk.shows(plain) and traces() == before
    desk.driver.refresh()
    assert desk.shows(plain)
    desk.bench("Collage")
    while desk.study()["redo"]:
        now = desk.study()["revision"]
        desk.press("Redo")
        desk.wait(lambda now=now: desk.study()["revision"] != now, "nothing was done again")
    assert desk.shows(plain)  # the first finish lies over it again
    desk.press("Bark")
    desk.press("Lay over")
    assert desk.shows(torn)
