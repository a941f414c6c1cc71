"""Renew docs/screenshots from the demo data: each main view once, at 1280×800."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from PIL import Image
from selenium.webdriver.common.keys import Keys

from bench.models import write_ifc_house
from tests.interface.desk import Desk
from tests.interface.serve import ROOT, application, browser

__all__ = ["main"]

FOLDER = ROOT / "docs" / "screenshots"


def _lay_panels(desk: Desk) -> None:
    """Three panels on the south roof, as marks."""
    rise = 2.14 / 4.72
    spot = lambda x, y: [x, y, round(3.88 + (y + 1.1) * rise, 4)]
    marks = [
        {"kind": "rectangle", "id": f"mark-{k + 1}", "name": f"Panel {k + 1}",
            "points": [spot(9.2 + 2.3 * k, 0.3), spot(11.3 + 2.3 * k, 2.6)],
         "plane": {"lies": "face", "part": "Hall/Roof/South roof", "normal": [0, -rise, 1]}, "lift": 0.12,
         "pen": {"weight": 0.25},
         "fills": [{"kind": "flat", "colour": "#5d6d76", "opacity": 0.75},
             {"kind": "hatch", "pattern": "crossed", "lies": "face", "spacing": 0.35, "weight": 0.08}]}
        for k in range(3)
    ]  # fmt: skip
    command = {
        "do": "marks",
        "label": "Draw panels",
        "changes": [{"path": ["marks", str(m["id"])], "value": m} for m in marks],
    }
    desk.tell("/edits", {"base": desk.study()["revision"], "commands": [command]})
    desk.open()
    desk.picture()


def _windows(desk: Desk) -> None:
    """The shell of the house alone, through a disc in the view from the pond."""
    desk.bench("View")
    desk.find("//aside//li//button[contains(., 'From the pond')]").click()
    desk.picture()
    desk.bench("Collage")
    desk.take("sheets", "Veil")
    desk.wait(lambda: any(t["kind"] == "veil" for t in desk.study()["look"]["traces"]), "no veil")
    desk.choose("Part set", "Shell only")
    desk.choose("Lines", "of the finish")
    desk.press("Through a disc")
    desk.picture()
    desk.pull(desk.find("//*[@data-testid='disc-middle']"), 70, 10)
    desk.picture()
    desk.pull(desk.find("//*[@data-testid='disc-rim']"), 26, 0)
    desk.picture()
    desk.find("//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='backdrops']").click()
    time.sleep(2.5)


def _photograph(desk: Desk) -> None:
    """A photograph of the street elevation by the stand-in, as the level lines of its greys are laid over it."""
    desk.bench("View")
    desk.find("//aside//li//button[contains(., 'Street')]").click()
    desk.picture()
    desk.bench("Collage")
    desk.find("//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='pictures']").click()
    desk.press("Photograph this drawing with the stand-in")
    desk.find("//*[@role='dialog' and contains(., 'Photograph of')]", 120)
    desk.press("a photographed sketch")
    desk.wait(lambda: any(t["kind"] == "sketch" for t in desk.study()["look"]["traces"]), "no sketch", 30)
    desk.picture()
    desk.press("Corners of the sheet")
    time.sleep(1)


def _figures(desk: Desk) -> None:
    """Somebody on the deck, and what there is to take."""
    desk.bench("View")
    desk.press("The drawing")
    desk.find("//aside//li//button[contains(., 'From the pond')]").click()
    desk.picture()
    desk.bench("Collage")
    desk.find("//section[@aria-label='Stock']//button[@role='radio' and normalize-space()='figures']").click()
    desk.find("//section[@aria-label='Figures in the study']//button[contains(., 'On the deck')]").click()
    desk.find("//section[@aria-label='Figures in the study']//ul//ul//button[@aria-pressed]").click()
    desk.driver.execute_script("document.querySelector('[aria-label=Stock]').scrollIntoView()")
    there = "const all = [...document.querySelectorAll('img[src*=\"/api/figures/\"]')]; return all.length && all.every((i) => i.naturalWidth)"
    desk.wait(lambda: desk.driver.execute_script(there), "no samples", 60)
    desk.find("//*[@data-testid='figure-foot']", 60)


def main() -> None:
    """Write every picture."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data, application(Path(data)) as app, browser() as driver:
        desk = Desk(driver, app.address)

        def shot(name: str) -> None:
            driver.execute_script("document.activeElement?.blur()")
            time.sleep(1.2)
            driver.save_screenshot(str(FOLDER / f".{name}.png"))
            with Image.open(FOLDER / f".{name}.png") as picture:
                picture.convert("RGB").save(FOLDER / f"{name}.png", optimize=True)
            (FOLDER / f".{name}.png").unlink()
            print(name)

        desk.open()
        desk.picture()
        desk.wait(
            lambda: len(driver.find_elements("xpath", "//aside//li//img")) >= 6, "the views have no pictures", 120
        )
        shot("view")
        desk.press("Set up in the model")
        time.sleep(3)
        shot("view-in-the-model")
        desk.bench("Model")
        time.sleep(3)
        desk.press("Open layer Hall")
        desk.press("Open layer Hall/Roof")
        desk.find("//aside//button[normalize-space()='Roof']").click()
        shot("model")
        desk.press("Choose none")
        desk.press("Health")
        desk.find("//aside//button[contains(., 'without thickness')]", 30).click()
        time.sleep(0.5)
        shot("model-health")
        desk.press("Parts")
        desk.bench("Ink")
        desk.picture()
        shot("ink")
        desk.bench("View")
        desk.press("The drawing")
        desk.find("//aside//li//button[contains(., 'Cutaway')]").click()
        desk.picture()
        desk.bench("Ink")
        desk.bench("View")
        desk.find("//aside//li//button[contains(., 'Cross section')]").click()
        desk.picture()
        desk.bench("Ink")
        desk.press("build-ups")
        wall = desk.find("//ul[@aria-label='Build-ups']//button[contains(., 'Boarded wall')]")
        driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", wall)
        desk.find("//aside//button[starts-with(@aria-label, 'Insulation, ')]").click()
        time.sleep(1.5)
        shot("ink-construction")
        _lay_panels(desk)
        desk.bench("View")
        desk.find("//aside//li//button[contains(., 'From the pond')]").click()
        desk.picture()
        desk.bench("Ink")
        panel = desk.find("//ul[starts-with(@aria-label, 'Marks')]//button[contains(., 'Panel 2')]")
        driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", panel)
        time.sleep(1)
        shot("ink-marks")
        for _ in range(2):  # the panels, and the view that was opened after them
            desk.press("Undo")
            time.sleep(0.5)
        desk.wait(lambda: not desk.study()["document"]["marks"], "the panels stayed")
        desk.bench("View")
        desk.find("//aside//li//button[contains(., 'Long section')]").click()
        desk.picture()
        desk.bench("Collage")
        desk.trace("Shadow")
        desk.press("Hang in a row")
        rows = "//*[@aria-label='This view in each finish']//img"
        desk.wait(lambda: len(driver.find_elements("xpath", rows)) == 7, "the finishes have no pictures", 180)
        desk.picture()
        shot("collage-variants")
        desk.press("Put away")
        desk.take("textures", "Brick")
        desk.picture()
        time.sleep(2)
        shot("collage")
        driver.find_element("tag name", "body").send_keys(Keys.ESCAPE)
        revision = desk.study()["revision"]
        _windows(desk)
        shot("collage-windows")
        _photograph(desk)
        shot("collage-pictures")
        desk.press("Done")
        while desk.study()["revision"] != revision:
            now = desk.study()["revision"]
            desk.press("Undo")
            desk.wait(lambda now=now: desk.study()["revision"] != now, "nothing was undone")
        desk.picture()
        _figures(desk)
        shot("collage-figures")
        desk.find("//*[@role='application']").send_keys(Keys.ESCAPE)
        desk.bench("View")
        for mark, name in (("Cross section", "sheet"),):
            desk.bench("View")
            desk.find(f"//aside//li//button[contains(., '{mark}')]").click()
            desk.picture()
            desk.bench("Sheet")
            label = desk.find("//ul[@aria-label='Notes']//button[contains(., 'insulation, 200')]", 60)
            driver.execute_script("arguments[0].click()", label)
            desk.find("//*[@data-testid='note-text']", 60)
            shot(name)
        desk.find("//nav[@aria-label='Pages']//button[contains(., 'Kiln house')]").click()
        fresh = "return document.querySelector('[data-testid=board]')?.dataset.fresh === 'true' && [...document.querySelectorAll('[data-testid=board] img')].length === 6"
        desk.wait(lambda: driver.execute_script(fresh), "the board is not drawn", 300)
        driver.execute_script(
            "[...document.querySelectorAll('ul[aria-label=\"On this page\"] button')].find((b) => "
            "b.textContent.includes('Cross')).click()"
        )
        time.sleep(2)
        shot("board")
        desk.find("//nav[@aria-label='Pages']//button[contains(., 'its sheet')]").click()
        desk.bench("View")
        desk.lay_out("Cross section 1:50")
        desk.picture()
        desk.bench("Sheet")
        desk.press("See the proof")
        desk.find("//button[@role='radio' and contains(., 'Newsprint')]").click()
        desk.find("//p[contains(., 'of this drawing closes up')]", 180)
        desk.wait(
            lambda: driver.execute_script(
                "return [...document.querySelectorAll('main img')].every((i) => i.naturalWidth)"
            ),
            "no print",
            60,
        )
        shot("proof")
        desk.press("To the desk")
        desk.bench("Sheet")
        desk.press("The whole set")
        desk.find("//span[.='Groups in the file']", 60)
        desk.find("//ul[@aria-label='Drawings of the set']/li", 60)
        time.sleep(1)
        desk.type_into("Resolution of tones", "72")
        desk.press("Draw the set")
        desk.find("//button[.='All is drawn']", 500)
        desk.wait(
            lambda: driver.execute_script(
                "return [...document.querySelectorAll('main img')].every((i) => i.naturalWidth)"
            ),
            "no set",
            60,
        )
        shot("set")
        desk.press("To the desk")
        desk.bench("View")
        desk.find("//aside//li//button[contains(., 'From the pond')]").click()
        desk.choose("Place", "Oslo")
        desk.press("Through the day")
        pictures = "//*[@aria-label='The sun through the day']//img"
        desk.wait(lambda: len(driver.find_elements("xpath", pictures)) == 9, "the suns have no pictures", 120)
        desk.picture()
        desk.click_drawing(0.86, 0.46)
        desk.find("//*[@role='dialog']", 60)
        desk.find("//*[@role='radio' and normalize-space()='behind glass']").click()
        desk.find("//*[@role='dialog' and @aria-label='All that lies behind glass']")
        shot("regions")
        # The next version of a model, on a house of its own.
        ids: dict[str, str] = {}
        first, second = Path(data) / "row-house.ifc", Path(data) / "row-house-2.ifc"
        write_ifc_house(first, storeys=2, bays=4, sides=16, ids=ids)
        write_ifc_house(
            second,
            storeys=2,
            bays=4,
            sides=16,
            ids=ids,
            leave_out=("Stool 0.1.1", "Column 1.2"),
            moved={"Lamp 0.0": (0.5, 0, 0)},
        )
        desk.open("/")
        desk.find("//input[@type='file']").send_keys(str(first))
        desk.press("Make a study of it", 60)
        desk.find("//h1[normalize-space()='row-house']", 60)
        desk.bench("Model")
        desk.press("Roles")
        desk.find("//aside//li//button[contains(., 'furniture')]").click()
        desk.press("Parts")
        desk.choose("Role", "subject")
        desk.wait(lambda: driver.find_elements("xpath", "//button[contains(@title, 'Undo: Role of')]"), "no role")
        desk.press("Versions")
        desk.find("//aside//input[@type='file']").send_keys(str(second))
        desk.press("Take it in", 60)
        desk.find("//*[@aria-label='What the newer version changed']//*[contains(., 'Stool')]", 60)
        time.sleep(3)
        shot("model-versions")
        desk.open("/")
        desk.wait(
            lambda: len(driver.find_elements("xpath", "//main//li//img")) == 3, "the studies have no pictures", 120
        )
        shot("studies")


if __name__ == "__main__":
    main()
