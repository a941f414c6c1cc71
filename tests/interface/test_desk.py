"""The whole way in the real interface, as a newcomer goes it."""

from __future__ import annotations

import json
import time
import urllib.request
from pathlib import Path

import pikepdf
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.conftest import box, model_of
from tests.interface.desk import Desk
from warmgraphite.model.glb import write_glb

SLUG = "alder-weir-kiln-house"


def study(desk: Desk) -> dict:
    with urllib.request.urlopen(f"{desk.address}/api/studies/{SLUG}") as answer:
        return json.load(answer)


def test_from_the_sample_study_to_a_printed_section(desk: Desk, downloads: Path) -> None:
    desk.open("/")
    desk.find("//button[contains(., 'Alder Weir Kiln House')]").click()
    before = desk.picture()

    # Turn the sun, by hand on the dial.
    dial = desk.find("//*[@role='slider' and contains(@aria-label, 'Sun')]")
    desk.drag(dial, (-12, 24), (-40, -8))
    turned = desk.changed(before)
    sun = study(desk)["document"]["desk"]["view"]["sun"]
    assert sun["azimuth"] == pytest.approx(282, abs=4) and sun["altitude"] == pytest.approx(31, abs=4)

    # Keep the view under a name.
    desk.press("Keep as new …")
    desk.type_into("Name", "Evening section")
    desk.find("//aside//button[@aria-pressed='true' and contains(., 'Evening section')]")

    # Change a pen: the drawing follows.
    desk.bench("Ink")
    desk.type_into("Weight", "1.2")
    heavier = desk.changed(turned)
    assert study(desk)["document"]["pens"]["cut"]["weight"] == 1.2

    # Lower the shadow, by keyboard on the dimension line.
    desk.bench("Collage")
    desk.find("//aside//button[normalize-space()='Shadow']").click()
    thumb = desk.find("//*[@role='slider' and @aria-valuenow='48']")
    thumb.send_keys(Keys.HOME)
    lighter = desk.changed(heavier)

    # What was done is there after a reload, and can be taken back.
    desk.driver.refresh()
    assert desk.shows(lighter)
    desk.press("Undo")
    assert desk.shows(heavier)
    desk.press("Redo")
    assert desk.shows(lighter)

    # Print it.
    desk.press("Export…")
    desk.type_into("Resolution of tones", "60")
    desk.press("Export PDF")
    desk.find("//a[contains(., '.pdf')]", 90).click()
    file = desk.wait(lambda: next(iter(downloads.glob("*.pdf")), None), "no PDF came down")
    with pikepdf.open(file) as pdf:
        width, height = (float(v) / 72 * 25.4 for v in pdf.pages[0].mediabox[2:])
        bottom = float(pdf.pages[0].mediabox[1]) / 72 * 25.4
        assert (width, height - bottom) == pytest.approx((420, 297), abs=0.01)
        weights = {round(float(o["/LW"]), 2) for o in pdf.objects if isinstance(o, pikepdf.Dictionary) and "/LW" in o}
    assert file.name == "Alder Weir Kiln House - Evening section.pdf" and 1.2 in weights

    # Going back to a saved view restores it exactly.
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Cross section 1:50')]").click()
    state = desk.wait(lambda: (d := study(desk)["document"])["desk"]["view_id"] == "view-2" and d, "the view did not open")
    assert state["desk"]["view"] == state["views"][1]["view"]
    desk.changed(lighter)


def test_a_broken_file_is_refused_and_a_good_one_becomes_a_study(desk: Desk, tmp_path: Path) -> None:
    broken, good = tmp_path / "broken.glb", tmp_path / "tower.glb"
    write_glb(model_of(("Tower", box((0, 0, 0), (6, 6, 20)), 0), ("Shed", box((6, 0, 0), (10, 4, 3)), 2)), good)
    broken.write_bytes(good.read_bytes()[:300])
    desk.open("/")
    desk.find("//input[@type='file']").send_keys(str(broken))
    said = desk.find("//*[@role='alert']").text
    assert "broken.glb" in said and "Traceback" not in said
    with urllib.request.urlopen(f"{desk.address}/api/studies") as answer:
        assert [s["slug"] for s in json.load(answer)] == [SLUG]

    desk.find("//input[@type='file']").send_keys(str(good))
    assert desk.find("//*[@data-testid='size']").text == "10 × 6 m, 20 m high"
    assert desk.serious_findings() == []
    desk.press("Make a study of it")
    desk.picture()
    # Cut it open: a plane is added, flipped and turned, and each changes the drawing.
    seen = {desk.picture()}
    for words in ("Add one", "Flip", "Turn 90°"):
        before = desk.picture()
        desk.press(words)
        seen.add(desk.changed(before))
    assert len(seen) == 4
    desk.driver.find_element(By.TAG_NAME, "body").send_keys(".")
    desk.find("//input[@aria-label='Name of the action']").send_keys("model bench", Keys.ENTER)
    desk.find("//main[@aria-label='Model']//canvas")


def test_the_model_is_orbited_in_the_frame_and_picked(desk: Desk) -> None:
    desk.open()
    desk.bench("View")
    desk.find("//aside//button[contains(., 'Cutaway axonometric')]").click()
    desk.picture()
    desk.press("Set up in the model")
    room = desk.find("//*[@role='application' and .//canvas]")
    time.sleep(1)
    before = study(desk)["document"]["desk"]["view"]["projection"]["direction"]
    desk.drag(room, (-180, 140), (-90, 160))  # beside the knob of the cutting plane
    after = desk.wait(
        lambda: (d := study(desk)["document"]["desk"]["view"]["projection"]["direction"]) != before and d, "the view did not turn"
    )
    assert after[2] != before[2] and "changed, not saved" in desk.driver.page_source
    desk.press("The drawing")
    desk.picture()
    desk.press("Back to saved")
    desk.wait(lambda: study(desk)["document"]["desk"]["view"]["projection"]["direction"] == before, "it did not come back")
    desk.bench("Model")
    room = desk.find("//main//*[@role='application' and .//canvas]")
    time.sleep(2)
    room.click()
    desk.find("//aside//h2[normalize-space()='Behaviour']")


def test_traces_move_by_keyboard_and_are_held_away(desk: Desk) -> None:
    desk.open()
    shown = desk.picture()
    desk.bench("Collage")
    names = lambda: [b.text for b in desk.driver.find_elements(By.XPATH, "//section[@aria-label='Trace shelf']//button")]
    order = names()
    desk.press("Lay Shadow lower")
    desk.wait(lambda: names() != order, "the shelf kept its order")
    assert names().index("Shadow") == order.index("Shadow") - 1
    sheet = desk.find("//section[@aria-label='Trace shelf']//button[contains(., 'Poche')]")
    sheet.click()
    with_poche = desk.picture()
    desk.driver.execute_script("arguments[0].dispatchEvent(new KeyboardEvent('keydown', {key: 'w', bubbles: true}))", sheet)
    desk.wait(
        lambda: (
            "without=poche"
            in desk.driver.execute_script("return performance.getEntriesByType('resource').map(e => e.name).join()")
        ),
        "it was not held away",
    )
    desk.changed(with_poche)
    desk.driver.execute_script("arguments[0].dispatchEvent(new KeyboardEvent('keyup', {key: 'w', bubbles: true}))", sheet)
    assert desk.shows(with_poche)
    desk.press("Undo")
    desk.wait(lambda: names() == order, "undo did not restore the order")
    assert desk.shows(shown)


def test_a_second_window_is_told_and_nothing_is_overwritten(desk: Desk) -> None:
    desk.open()
    desk.picture()
    desk.bench("Collage")
    desk.find("//aside//button[normalize-space()='Shade']").click()
    state = study(desk)
    body = {"base": state["revision"], "label": "Elsewhere", "changes": [{"path": ["pens", "edge", "weight"], "value": 0.33}]}
    request = urllib.request.Request(
        f"{desk.address}/api/studies/{SLUG}/edits", json.dumps(body).encode(), {"Content-Type": "application/json"}
    )
    urllib.request.urlopen(request)
    desk.type_into("Opacity", "77")
    desk.find("//*[contains(text(), 'another window')]")
    document = study(desk)["document"]
    assert document["pens"]["edge"]["weight"] == 0.33
    assert all(t["opacity"] != 0.77 for v in document["views"] for t in v["traces"])
    desk.press("Undo")


@pytest.mark.parametrize("size", [(1024, 720), (1280, 800), (1920, 1080)])
def test_every_bench_is_free_of_serious_findings_and_holds_its_width(desk: Desk, size: tuple[int, int]) -> None:
    desk.driver.set_window_size(*size)
    desk.open("/")
    desk.find("//button[contains(., 'Alder Weir Kiln House')]")
    assert desk.serious_findings() == []
    desk.open()
    desk.picture()
    for name in ("Model", "View", "Ink", "Collage", "Sheet"):
        desk.bench(name)
        desk.find(f"//aside[@aria-label='{name}: settings']//h2")
        if size[0] == 1280:
            assert desk.serious_findings() == [], name
        wide = desk.driver.execute_script("return [document.documentElement.scrollWidth, innerWidth]")
        assert wide[0] <= wide[1], name


def test_the_frame_in_the_browser_is_the_frame_of_the_drawing(desk: Desk) -> None:
    """The 3D view shows the model through a matrix of its own; it must be the server's, for every saved view."""
    desk.open()
    desk.bench("View")
    desk.press("Set up in the model")
    for i, saved in enumerate(study(desk)["document"]["views"][:6]):
        desk.find(f"(//aside//li//button[@aria-pressed])[{i + 1}]").click()
        desk.wait(lambda saved=saved: study(desk)["document"]["desk"]["view_id"] == saved["id"], "the view did not open")
        with urllib.request.urlopen(f"{desk.address}/api/studies/{SLUG}/desk") as answer:
            wanted = json.load(answer)["world_to_frame"]
        shown = desk.wait(
            lambda: desk.driver.execute_script("return document.querySelector('[data-frame]')?.dataset.frame"),
            "no frame is shown",
        )
        for _ in range(40):
            shown = json.loads(desk.driver.execute_script("return document.querySelector('[data-frame]').dataset.frame"))
            if all(a == pytest.approx(b, abs=1e-6) for a, b in zip(shown, wanted)):
                break
            time.sleep(0.1)
        for a, b in zip(shown, wanted):
            assert a == pytest.approx(b, abs=1e-6), saved["view"]["name"]
