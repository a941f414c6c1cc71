"""Three whole ways through the real interface, as people go them."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from bench.models import write_ifc_house
from tests.interface.desk import Desk
from warmgraphite.model.read import read_model

SAMPLE = pytest.mark.parametrize("desk", ["sample"], indirect=True)


def roles(found: dict, word: str) -> set[str]:
    return {found["roles"][r] for n, r in zip(found["name"], found["role"]) if word in n}


@SAMPLE
def test_from_the_sample_study_to_a_printed_section(desk: Desk, downloads: Path) -> None:
    desk.open("/")
    desk.find(f"//button[contains(., '{desk.study()['document']['name']}')]").click()
    before = desk.picture()

    # Turn the sun, by hand on the dial.
    dial = desk.find("//*[@role='slider' and contains(@aria-label, 'Sun')]")
    desk.drag(dial, (-12, 24), (-40, -8))
    turned = desk.changed(before)
    sun = desk.view()["sun"]
    assert sun["azimuth"] == pytest.approx(282, abs=4) and sun["altitude"] == pytest.approx(31, abs=4)

    # Keep the view under a name.
    desk.press("Keep as new …")
    desk.type_into("Name", "Evening section")
    desk.find("//aside//button[@aria-pressed='true' and contains(., 'Evening section')]")

    # Change a pen: the drawing follows.
    desk.bench("Ink")
    desk.type_into("Weight", "1.2")
    heavier = desk.changed(turned)
    assert desk.study()["look"]["pens"][0]["pen"]["weight"] == 1.2

    # Lower the shadow, by keyboard on the dimension line.
    desk.bench("Collage")
    desk.trace("Shadow")
    desk.find("//*[@role='slider' and @aria-valuenow='48']").send_keys(Keys.HOME)
    lighter = desk.changed(heavier)

    # What was done is there after a reload, and can be taken back.
    desk.driver.refresh()
    assert desk.shows(lighter)
    desk.press("Undo")
    assert desk.shows(heavier)
    desk.press("Redo")
    assert desk.shows(lighter)

    # Print it: the page, the pens, the tones and the words are in the file.
    desk.press("Export…")
    desk.type_into("Resolution of tones", "60")
    desk.press("Export PDF")
    desk.find("//a[contains(., '.pdf')]", 90).click()
    file = desk.wait(lambda: next(iter(downloads.glob("*.pdf")), None), "no PDF came down")
    with pikepdf.open(file) as pdf:
        box = [float(v) / 72 * 25.4 for v in pdf.pages[0].mediabox]
        assert (box[2], box[3] - box[1]) == pytest.approx((420, 297), abs=0.01)
        dictionaries = [o for o in pdf.objects if isinstance(o, pikepdf.Dictionary)]
        weights = {round(float(o["/LW"]), 2) for o in dictionaries if "/LW" in o}
        tones = [
            o
            for o in pdf.objects
            if isinstance(o, pikepdf.Stream) and o.get("/Subtype") == "/Image" and o.get("/Width", 0) > 900
        ]
        assert "Evening section" in str(pdf.docinfo["/Title"]) and len(tones) >= 4
    assert file.name.endswith(" - Evening section.pdf") and 1.2 in weights

    # Going back to a saved view restores it exactly.
    desk.bench("View")
    desk.lay_out("Cross section 1:50")
    state = desk.study()["document"]
    assert state["desk"]["view"] == state["views"][1]["view"]
    desk.changed(lighter)


@pytest.mark.deep
def test_from_a_received_ifc_to_a_set_that_a_view_shows_and_its_next_version(desk: Desk, tmp_path: Path) -> None:
    ids: dict[str, str] = {}
    first, second = tmp_path / "row-house.ifc", tmp_path / "row-house-2.ifc"
    write_ifc_house(first, storeys=1, bays=2, sides=8, gap=0.002, ids=ids)
    write_ifc_house(
        second, storeys=1, bays=2, sides=8, ids=ids, leave_out=("Stool 0.0.1",), moved={"Lamp 0.0": (0.5, 0, 0)}
    )

    # Bring it: what it is is shown before anything is made of it.
    desk.open("/")
    desk.find("//input[@type='file']").send_keys(str(first))
    size = desk.find("//*[@data-testid='size']", 60).text
    assert "46" in size and "m high" in size
    desk.press("Make a study of it")
    desk.find("//h1[normalize-space()='row-house']", 60)
    desk.slug = desk.driver.current_url.rsplit("/", 1)[1]
    desk.bench("Model")

    # The furniture, found by filter: a role for all of it.
    desk.find("//input[@type='search']").send_keys("furnishing")
    desk.wait(lambda: "6 found" in desk.find("//aside").text, "the filter does not find the stools")
    desk.press("Choose these")
    desk.find("//aside//h2[normalize-space()='6 parts']")
    desk.choose("Role", "people")
    desk.wait(lambda: roles(desk.parts(), "Stool") == {"people"}, "the role was not set")
    desk.press("Undo")
    desk.wait(lambda: roles(desk.parts(), "Stool") == {"furniture"}, "undo did not take the role back")

    # Context is hidden, and what is left kept as a set that the view goes by.
    search = desk.find("//input[@type='search']")
    search.clear()
    search.send_keys("barn")
    desk.press("Choose these")
    desk.press("Hide")
    desk.wait(lambda: len(desk.parts()["hidden"]) == 1, "nothing was hidden")
    desk.press("Sets")
    desk.find("//input[@id='set-name']").send_keys("Without context")
    desk.find("//button[starts-with(normalize-space(), 'Keep the') and contains(., 'shown')]").click()
    desk.press("use in the view")
    desk.find("//button[contains(., 'in the view') and @aria-pressed='true']")
    assert len(desk.parts()["sets"]["Without context"]) == len(desk.parts()["name"]) - 1

    # What would spoil the drawing is found, flown to and mended.
    desk.press("Health")
    desk.find("//aside//button[contains(., 'Hairline gaps')]", 30).click()
    desk.find("//aside//ol//button[contains(., 'Garden wall')]").click()
    desk.find("//button[normalize-space()='Mend 4']").click()
    gaps = "//aside//button[contains(., 'Hairline gaps')]"
    desk.wait(lambda: not desk.driver.find_elements(By.XPATH, gaps), "the gap is still there", 40)
    desk.find("//button[@title='Undo: Mend: hairline gaps  (Ctrl Z)']")
    assert desk.serious_findings() == []

    # The drawing shows what the set holds.
    desk.bench("View")
    desk.press("The drawing")
    desk.picture()

    # Version two: the report names what is new, gone and moved; what was said carries over.
    desk.bench("Model")
    desk.press("Versions")
    desk.find("//aside//input[@type='file']").send_keys(str(second))
    desk.press("Take it in", 60)
    report = desk.find("//*[@aria-label='What the newer version changed']//*[contains(., 'Stool 0.0.1')]", 60)
    said = desk.find("//*[@aria-label='What the newer version changed']").text
    assert "Gone" in said and "Moved" in said and "0.5 m" in said and report
    found = desk.parts()
    assert (
        len(found["absent"]) == 2 and len(found["sets"]["Without context"]) == len(found["name"]) - 3
    )  # less stool, wall, barn
    desk.press("bring back")
    desk.wait(lambda: desk.parts()["absent"] == [], "the first version did not come back")


@pytest.mark.deep
@SAMPLE
def test_materials_roles_and_what_is_written(desk: Desk, downloads: Path) -> None:
    desk.open()
    before = desk.picture()
    desk.bench("Model")
    desk.room()

    # One white-card look for all, and back.
    desk.press("Materials")
    desk.find("//button[@role='switch']").click()
    desk.wait(lambda: desk.parts()["white_card"], "no white card")
    assert {m["shown"] for m in desk.parts()["materials"] if not m["clear"]} == {"#f4f1ea"}
    desk.bench("View")
    white = desk.changed(before)
    desk.bench("Model")
    desk.press("Undo")
    desk.wait(lambda: not desk.parts()["white_card"], "the white card stayed")

    # Two materials become one.
    count = len(desk.parts()["materials"])
    rows = desk.driver.find_elements(By.XPATH, "//aside[1]//li//button")
    rows[0].click()
    ActionChains(desk.driver).key_down(Keys.SHIFT).click(rows[1]).key_up(Keys.SHIFT).perform()
    desk.find("//button[starts-with(normalize-space(), 'Count 2 as')]").click()
    desk.wait(lambda: len(desk.parts()["materials"]) == count - 1, "nothing was merged")
    desk.press("Undo")

    # A rule by name pattern, kept for other models, applied to all parts.
    desk.press("Roles")
    desk.find("//input[@aria-label='Pattern']").send_keys("*gutter*", Keys.ENTER)
    desk.find("//aside//ol/li[contains(., '*gutter*')]")
    desk.find("//input[@aria-label='Name of the rules']").send_keys("Timber")
    desk.press("Keep for others")
    desk.find("//aside//li[contains(., 'Timber')]//button[normalize-space()='take']")
    desk.press("Apply to all parts")
    desk.wait(lambda: roles(desk.parts(), "gutter") == {"furniture"}, "the rule was not applied")
    desk.press("Undo")
    desk.press("Undo")
    desk.wait(
        lambda: not desk.driver.find_elements(By.XPATH, "//aside//ol/li[contains(., '*gutter*')]"), "the rule stayed"
    )

    # What is dropped is gone from the drawing, and comes back.
    desk.press("Parts")
    search = desk.find("//input[@type='search']")
    search.send_keys("roof seam")
    desk.press("Choose these")
    desk.press("Drop")
    desk.wait(lambda: len(desk.parts()["absent"]) > 10, "nothing was dropped", 40)
    search.clear()
    search.send_keys(" ")
    desk.press("Bring back")
    desk.wait(lambda: desk.parts()["absent"] == [], "the seams did not come back", 40)
    search.clear()
    search.send_keys(Keys.BACKSPACE)

    # Measured from corner to corner, and looked at within a box.
    room = desk.room()
    desk.press("Measure")
    for at in ((-60, 10), (70, 30)):
        ActionChains(desk.driver).move_to_element_with_offset(room, *at).click().perform()
    said = desk.wait(
        lambda: (t := desk.find("//main//p[@role='status']").text) and " Z " in t and t, "nothing was measured"
    )
    assert float(re.split(r"\s", said)[0]) > 0.5
    desk.press("Look within")
    field = desk.find("//input[@aria-label='Height, to']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2", Keys.ENTER)
    inside = "const s = document.querySelector('[role=application]').stage; return [s.shared.boxed.value, s.shared.boxHigh.value.z + s.head.origin[2]]"
    desk.wait(lambda: abs(desk.driver.execute_script(inside)[1] - 2) < 0.02, "the box did not close")
    assert desk.driver.execute_script(inside)[0] is True
    desk.press("Look within")

    # Written as GLB: the part set that was asked for, and it reads again.
    desk.press("Look")
    desk.choose("What", "Shell only")
    desk.press("Write GLB")
    desk.find("//a[contains(., '.glb')]", 60).click()
    file = desk.wait(lambda: next(iter(downloads.glob("*.glb")), None), "no GLB came down")
    again, found = read_model(file, "m", "y"), desk.parts()
    kept = found["sets"]["Shell only"]
    assert len(again.parts) == len(kept) and not {"planting", "furniture"} & {p.role for p in again.parts}
    assert {p.name for p in again.parts} == {found["name"][n] for n in kept}
    assert np.ptp(again.vertices[:, 2]) > 5

    # The view goes by a set, and a trace is confined to one.
    desk.bench("View")
    shown = desk.shows(before) and desk.picture()
    desk.choose("Shown", "Shell only")
    bare = desk.changed(shown)
    desk.bench("Collage")
    desk.trace("Material tint")
    desk.choose("Confined to", "set House and site")
    undo = "//button[contains(@title, 'Undo: Material tint confined')]"
    desk.wait(lambda: desk.driver.find_elements(By.XPATH, undo), "the trace was not confined")
    desk.press("Undo")
    desk.press("Undo")
    assert desk.shows(before) and white != before and bare != before
