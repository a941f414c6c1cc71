"""What stands behind, shines through, is revealed and comes from outside, as an illustrator lays it."""

from __future__ import annotations

from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk


@pytest.mark.deep
@pytest.mark.parametrize("desk", ["sample"], indirect=True)
def test_a_backdrop_a_disc_a_mask_and_a_photograph_are_laid_and_undone(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.lay_out("From the pond")
    plain = desk.picture()
    revision = desk.study()["revision"]
    traces = lambda kind: [t for t in desk.study()["look"]["traces"] if t["kind"] == kind]
    handle = lambda name: desk.find(f"//*[@data-testid='{name}']")
    desk.bench("Collage")

    # A backdrop behind everything: its horizon drawn up, made larger, fainter through glass.
    desk.take("backdrops", "Town")
    town = lambda: [t for t in traces("backdrop") if t["scene"] == "town"][0]  # noqa: RUF015 - one that is not there yet is waited for
    desk.wait(lambda: town()["scale"] == 2.0, "it was not laid")
    order = [t["kind"] for t in desk.study()["look"]["traces"]]
    assert order.index("backdrop") <= 3 and order[0] == "paper"
    laid = desk.changed(plain)
    desk.pull(handle("backdrop-horizon"), -60, -24)
    desk.wait(lambda: town()["raised"] > 5 and town()["aside"] < -10, "the horizon does not move")
    raised = desk.changed(laid)
    desk.pull(handle("backdrop-scale"), 0, -40)
    desk.wait(lambda: town()["scale"] > 2.2, "it does not grow")
    grown = desk.changed(raised)
    raised_by = town()["raised"]
    handle("backdrop-horizon").send_keys(Keys.ARROW_UP)
    desk.wait(lambda: town()["raised"] == pytest.approx(raised_by + 1), "the keys do not move it")
    desk.picture()
    before_glass = desk.picture()
    desk.type_into("Through glass", "0")
    desk.wait(lambda: town()["through"] == 0, "it is not fainter")
    assert desk.changed(before_glass) != grown

    # Another part set through a disc, which is moved, made larger and softer where it lies.
    desk.take("sheets", "Veil")
    desk.wait(lambda: len(traces("veil")) == 1, "no veil")
    desk.find("//*[@role='status' and contains(., 'Choose which part set')]")
    desk.choose("Part set", "Shell only")
    veiled = desk.changed(desk.picture()) if traces("veil")[0]["set"] == "" else desk.picture()
    desk.press("Through a disc")
    disc = lambda: desk.view()["discs"][0]
    desk.wait(lambda: traces("veil")[0]["where"] == {"kind": "through", "name": disc()["name"]}, "it is not confined")
    through = desk.changed(veiled)
    was = disc()
    desk.pull(handle("disc-middle"), 70, -30)
    desk.wait(lambda: disc()["middle"]["at"] != was["middle"]["at"], "the disc does not move")
    moved = desk.changed(through)
    desk.pull(handle("disc-rim"), 40, 0)
    desk.wait(lambda: disc()["radius"] > was["radius"] + 5, "the disc does not grow")
    larger = desk.changed(moved)
    handle("disc-soft").send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    desk.wait(lambda: disc()["softness"] != was["softness"], "the disc is not softer")
    desk.choose(disc()["name"], "is tied to the model")
    desk.wait(lambda: disc()["middle"]["kind"] == "model", "it is not tied")
    assert larger != through and desk.serious_findings() == []

    # A mask painted for the shadows: two strokes, of which one is taken back.
    desk.picture()
    desk.trace("Shadow")
    desk.press("Through a painted mask")
    tiles = lambda: desk.view()["masks"][0]["tiles"]
    desk.find("//*[@aria-label='Brush']")
    bare = desk.picture()
    brush = handle("brush")
    width, height = brush.size["width"], brush.size["height"]
    desk.drag(brush, (-width // 5, height // 9), (width // 6, height // 8))
    desk.wait(lambda: tiles() != "", "nothing was painted")
    first, once = tiles(), desk.changed(bare)
    desk.drag(brush, (0, 0), (width // 4, height // 5))
    desk.wait(lambda: tiles() != first, "the second stroke is lost")
    desk.picture()
    desk.press("Undo")
    desk.wait(lambda: tiles() == first, "the stroke was not taken back")
    assert desk.shows(once)
    desk.press("Lay the brush down")

    # A photograph by the stand-in, through the door that all pictures come in by, made clean.
    desk.find("//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='pictures']").click()
    desk.press("Photograph this drawing with the stand-in")
    desk.find("//*[@role='dialog' and contains(., 'Photograph of')]", 120)
    assert desk.serious_findings() == []
    desk.press("a photographed sketch")
    desk.wait(lambda: len(traces("sketch")) == 1, "no sketch was laid", 30)
    sketch: dict[str, Any] = traces("sketch")[0]
    assert 0.02 < sketch["corners"][0][0] < 0.3 and sketch["made_for"] == desk.ask("/desk")["framing"]
    desk.changed(once)
    desk.press("Corners of the sheet")
    corner = desk.find("//*[@role='slider' and @aria-label='Corner of the sheet, top left']")
    corner.send_keys(Keys.ARROW_RIGHT)
    desk.wait(lambda: traces("sketch")[0]["corners"][0][0] > sketch["corners"][0][0], "the corner is not corrected")
    desk.press("Done")
    desk.picture()

    # All of it undone, and nothing lost by opening it anew.
    while desk.study()["revision"] != revision:
        now = desk.study()["revision"]
        desk.press("Undo")
        desk.wait(lambda now=now: desk.study()["revision"] != now, "nothing was undone")
    assert desk.shows(plain)
    desk.press("Redo")
    desk.wait(lambda: any(t["scene"] == "town" for t in traces("backdrop")), "it does not come back")
    desk.open()
    desk.picture()
    assert any(t["scene"] == "town" for t in traces("backdrop"))
    assert (
        len(
            desk.driver.find_elements(
                By.XPATH, "//section[@aria-label='Trace shelf']//button[starts-with(@aria-label, 'Town')]"
            )
        )
        == 1
    )
