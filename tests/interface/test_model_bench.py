"""A received IFC file made fit for drawing in the real interface, and its second version taken in."""

from __future__ import annotations

import json
import time
import urllib.request
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from bench.models import write_ifc_house
from tests.interface.desk import Desk
from warmgraphite.model.read import read_model


def parts(desk: Desk, slug: str) -> dict:
    with urllib.request.urlopen(f"{desk.address}/api/studies/{slug}/parts") as answer:
        return json.load(answer)


def study(desk: Desk, slug: str = "alder-weir-kiln-house") -> dict:
    with urllib.request.urlopen(f"{desk.address}/api/studies/{slug}") as answer:
        return json.load(answer)


def roles(found: dict, word: str) -> set[str]:
    return {found["roles"][r] for n, r in zip(found["name"], found["role"]) if word in n}


def test_from_a_received_ifc_to_a_set_that_a_view_shows_and_its_next_version(desk: Desk, tmp_path: Path) -> None:
    ids: dict[str, str] = {}
    first, second = tmp_path / "row-house.ifc", tmp_path / "row-house-2.ifc"
    write_ifc_house(first, storeys=1, bays=2, sides=8, gap=0.002, ids=ids)
    write_ifc_house(second, storeys=1, bays=2, sides=8, ids=ids, leave_out=("Stool 0.0.1",), moved={"Lamp 0.0": (0.5, 0, 0)})

    # Bring it: what it is is shown before anything is made of it.
    desk.open("/")
    desk.find("//input[@type='file']").send_keys(str(first))
    size = desk.find("//*[@data-testid='size']", 60).text
    assert "46" in size and "m high" in size
    desk.press("Make a study of it")
    desk.find("//h1[normalize-space()='row-house']", 60)
    slug = desk.driver.current_url.rsplit("/", 1)[1]
    desk.bench("Model")

    # The furniture, found by filter: a role for all of it.
    desk.find("//input[@type='search']").send_keys("furnishing")
    desk.wait(lambda: "6 found" in desk.find("//aside").text, "the filter does not find the stools")
    desk.press("Choose these")
    desk.find("//aside//h2[normalize-space()='6 parts']")
    desk.choose("Role", "people")
    desk.wait(lambda: roles(parts(desk, slug), "Stool") == {"people"}, "the role was not set")
    desk.press("Undo")
    desk.wait(lambda: roles(parts(desk, slug), "Stool") == {"furniture"}, "undo did not take the role back")

    # Context is hidden, and what is left kept as a set that the view goes by.
    search = desk.find("//input[@type='search']")
    search.clear()
    search.send_keys("barn")
    desk.press("Choose these")
    desk.press("Hide")
    desk.wait(lambda: len(parts(desk, slug)["hidden"]) == 1, "nothing was hidden")
    desk.press("Sets")
    desk.find("//input[@id='set-name']").send_keys("Without context")
    desk.find("//button[starts-with(normalize-space(), 'Keep the') and contains(., 'shown')]").click()
    desk.press("use in the view")
    desk.find("//button[contains(., 'in the view') and @aria-pressed='true']")
    assert len(parts(desk, slug)["sets"]["Without context"]) == len(parts(desk, slug)["name"]) - 1

    # What would spoil the drawing is found, flown to and mended.
    desk.press("Health")
    desk.find("//aside//button[contains(., 'Hairline gaps')]", 30).click()
    desk.find("//aside//ol//button[contains(., 'Garden wall')]").click()
    desk.find("//button[normalize-space()='Mend 4']").click()
    desk.wait(
        lambda: not desk.driver.find_elements(By.XPATH, "//aside//button[contains(., 'Hairline gaps')]"),
        "the gap is still there",
        40,
    )
    desk.find("//button[@title='Undo: Mend: hairline gaps  (Ctrl Z)']")
    assert desk.serious_findings() == []

    # The drawing shows what the set holds.
    desk.bench("View")
    desk.press("The drawing")
    desk.picture(120)

    # Version two: the report names what is new, gone and moved; what was said carries over.
    desk.bench("Model")
    desk.press("Versions")
    desk.find("//aside//input[@type='file']").send_keys(str(second))
    desk.press("Take it in", 60)
    report = desk.find("//*[@aria-label='What the newer version changed']//*[contains(., 'Stool 0.0.1')]", 60)
    said = desk.find("//*[@aria-label='What the newer version changed']").text
    assert "Gone" in said and "Moved" in said and "0.5 m" in said and report
    found = parts(desk, slug)
    assert len(found["absent"]) == 2 and len(found["sets"]["Without context"]) == len(found["name"]) - 3  # less stool, wall, barn
    desk.press("bring back")
    desk.wait(lambda: parts(desk, slug)["absent"] == [], "the first version did not come back")


def test_parts_are_chosen_in_the_model_and_in_the_lists_alike(desk: Desk) -> None:
    desk.open()
    desk.bench("Model")
    room = desk.find("//*[@role='application']")
    desk.wait(lambda: desk.driver.execute_script("return !!document.querySelector('[role=application]').stage"), "no model", 60)
    time.sleep(0.5)

    def chosen() -> int:
        return int(
            desk.find("//aside//span[contains(@class, 'sr-only') and contains(., 'chosen')]")
            .get_attribute("textContent")
            .split()[0]
        )

    for tool in ("Rectangle, touching", "Rectangle, inside"):
        desk.press(tool)
        desk.drag(room, (-140, -90), (120, 60))
        desk.wait(lambda: chosen() > 3, "the rectangle chose nothing")
        if tool.endswith("touching"):
            touching = chosen()
    assert 3 < chosen() < touching
    desk.press("Look")
    desk.press("all the others")
    others = chosen()
    assert others > 100
    # The schedule shows the same choice; a row chosen there stands alone, its settings at the right.
    desk.press("Schedule")
    desk.press("Order by Triangles")
    row = desk.find("//section[@aria-label='Schedule of parts']//button[@aria-pressed][1]")
    name = row.find_element(By.TAG_NAME, "span").text
    row.click()
    desk.wait(lambda: chosen() == 1, "the row was not chosen alone")
    assert desk.find("//aside[2]//h2").text == name
    for leaf in ("Sets", "Materials", "Roles", "Versions", "Parts"):
        desk.press(leaf)
        desk.wait(lambda: desk.find("//aside").text.strip() != "", f"{leaf} is empty")
        assert desk.serious_findings() == [], leaf


def test_materials_roles_rooms_and_what_is_written(desk: Desk, downloads: Path) -> None:
    slug = "alder-weir-kiln-house"
    desk.open()
    before = desk.picture(120)
    desk.bench("Model")
    desk.wait(lambda: desk.driver.execute_script("return !!document.querySelector('[role=application]')?.stage"), "no model", 60)

    # One white-card look for all, and back.
    desk.press("Materials")
    desk.find("//button[@role='switch']").click()
    desk.wait(lambda: parts(desk, slug)["white_card"], "no white card")
    assert {m["shown"] for m in parts(desk, slug)["materials"] if m["opacity"] >= 0.6} == {"#f4f1ea"}
    desk.bench("View")
    white = desk.changed(before, 120)
    desk.bench("Model")
    desk.press("Undo")
    desk.wait(lambda: not parts(desk, slug)["white_card"], "the white card stayed")

    # Two materials become one.
    count = len(parts(desk, slug)["materials"])
    rows = desk.driver.find_elements(By.XPATH, "//aside[1]//li//button")
    rows[0].click()
    ActionChains(desk.driver).key_down(Keys.SHIFT).click(rows[1]).key_up(Keys.SHIFT).perform()
    desk.find("//button[starts-with(normalize-space(), 'Merge 2 into')]").click()
    desk.wait(lambda: len(parts(desk, slug)["materials"]) == count - 1, "nothing was merged")
    desk.press("Undo")

    # A rule by name pattern, kept for other models, applied to all parts.
    desk.press("Roles")
    desk.find("//input[@aria-label='Pattern']").send_keys("*gutter*", Keys.ENTER)
    desk.find("//aside//ol/li[contains(., '*gutter*')]")
    desk.find("//input[@aria-label='Name of the rules']").send_keys("Timber")
    desk.press("Keep for others")
    desk.find("//aside//li[contains(., 'Timber')]//button[normalize-space()='take']")
    desk.press("Apply to all parts")
    desk.wait(lambda: roles(parts(desk, slug), "gutter") == {"furniture"}, "the rule was not applied")
    desk.press("Undo")
    desk.press("Undo")
    desk.wait(lambda: not desk.driver.find_elements(By.XPATH, "//aside//ol/li[contains(., '*gutter*')]"), "the rule stayed")

    # What is dropped is gone from the drawing, and comes back.
    desk.press("Parts")
    search = desk.find("//input[@type='search']")
    search.send_keys("roof seam")
    desk.press("Choose these")
    desk.press("Drop")
    desk.wait(lambda: len(parts(desk, slug)["absent"]) > 10, "nothing was dropped", 40)
    search.clear()
    search.send_keys(" ")
    desk.press("Bring back")
    desk.wait(lambda: parts(desk, slug)["absent"] == [], "the seams did not come back", 40)
    search.clear()
    search.send_keys(Keys.BACKSPACE)

    # Measured from corner to corner, and looked at within a box.
    room = desk.find("//*[@role='application']")
    desk.press("Measure")
    for at in ((-60, 10), (70, 30)):
        ActionChains(desk.driver).move_to_element_with_offset(room, *at).click().perform()
    said = desk.wait(lambda: (t := desk.find("//main//p[@role='status']").text) and " Z " in t and t, "nothing was measured")
    assert float(said.split()[0]) > 0.5
    desk.press("Section box")
    field = desk.find("//input[@aria-label='Height, to']")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2", Keys.ENTER)
    inside = "const s = document.querySelector('[role=application]').stage; return [s.shared.boxed.value, s.shared.boxHigh.value.z + s.head.origin[2]]"
    desk.wait(lambda: abs(desk.driver.execute_script(inside)[1] - 2) < 0.02, "the box did not close")
    assert desk.driver.execute_script(inside)[0] is True
    desk.press("Section box")

    # Written as GLB: the part set that was asked for, and it reads again.
    desk.press("Look")
    desk.choose("What", "Shell only")
    desk.press("Write GLB")
    desk.find("//a[contains(., '.glb')]", 60).click()
    file = desk.wait(lambda: next(iter(downloads.glob("*.glb")), None), "no GLB came down")
    again = read_model(file, "m", "y")
    assert file.name == "Alder Weir Kiln House - Shell only.glb"
    assert len(again.parts) == len(parts(desk, slug)["sets"]["Shell only"]) and not {"planting", "furniture"} & {
        p.role for p in again.parts
    }

    # The view goes by a set, and a trace is confined to one.
    desk.bench("View")
    shown = desk.shows(before, 120) and desk.picture()
    desk.choose("Shown", "Shell only")
    bare = desk.changed(shown, 120)
    desk.bench("Collage")
    desk.find("//aside//button[normalize-space()='Material tint']").click()
    desk.choose("Confined to", "Without planting")
    desk.wait(
        lambda: desk.driver.find_elements(By.XPATH, "//button[contains(@title, 'Undo: Material tint confined')]"),
        "the trace was not confined",
    )
    desk.press("Undo")
    desk.press("Undo")
    assert desk.shows(before, 120) and white != before and bare != before


def test_the_model_bench_works_from_the_keyboard(desk: Desk) -> None:
    slug = "alder-weir-kiln-house"
    desk.open()
    desk.find("//h1[normalize-space()='Alder Weir Kiln House']", 60)
    desk.find("//body").send_keys("1")
    desk.find("//aside//*[normalize-space()='518 parts']")
    desk.find("//body").send_keys(";")
    rows = desk.find("//*[@aria-label='Rows; arrows move the choice']")
    for key in (Keys.ARROW_DOWN, Keys.ARROW_DOWN):
        rows.send_keys(key)
    first = desk.find("//aside[2]//h2").text
    rows.send_keys(Keys.SHIFT + Keys.ARROW_DOWN)
    desk.find("//aside[2]//h2[normalize-space()='2 parts']")
    desk.find("//body").send_keys("[")
    desk.wait(lambda: len(parts(desk, slug)["hidden"]) == 2, "nothing was hidden")
    assert first in {parts(desk, slug)["name"][n] for n in parts(desk, slug)["hidden"]}
    desk.find("//body").send_keys("\\")
    desk.wait(lambda: parts(desk, slug)["hidden"] == [], "they did not come back")
    desk.find("//body").send_keys("'")
    desk.find("//aside[2]//h2[normalize-space()='516 parts']")
    # One of them is left out of the view on the desk, and taken into it again.
    rows.send_keys(Keys.ARROW_DOWN)
    desk.press("Leave out of the view on the desk")
    hidden = lambda: study(desk)["document"]["desk"]["view"]["parts"]["hidden"]
    before = len(study(desk)["document"]["views"][0]["view"]["parts"]["hidden"])
    desk.wait(lambda: len(hidden()) == before + 1, "it was not left out")
    desk.press("Show in the view on the desk")
    desk.wait(lambda: len(hidden()) == before, "it did not come back into the view")
    # Every action is found by name.
    desk.find("//body").send_keys(".")
    desk.find("//input[@role='combobox']").send_keys("same shape")
    desk.find("//*[@role='option' and contains(., 'same shape')]")
    desk.find("//input[@role='combobox']").send_keys(Keys.ESCAPE)
    for _ in range(4):
        desk.press("Undo")
