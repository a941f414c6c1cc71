"""What goes out, as an illustrator sends it.
A PDF with layers, a proof that is lifted, the set that is stopped and goes on, a site beside.
"""

from __future__ import annotations

import time
from pathlib import Path

import pikepdf
import pytest
from selenium.webdriver.common.by import By

from tests.core.test_joined import ifc_file
from tests.interface.desk import Desk
from tests.interface.serve import Application


@pytest.mark.deep
@pytest.mark.parametrize("desk", ["house"], indirect=True)
def test_a_pdf_with_layers_a_proof_that_is_lifted_and_a_set_that_goes_on(
    app: Application, desk: Desk, downloads: Path, tmp_path: Path
) -> None:
    desk.open()
    desk.picture()
    desk.bench("Sheet")
    desk.choose("Groups in the file", "by trace and rank")
    desk.type_into("Resolution of tones", "60")
    # What is written, and how, is there for whoever comes back, also where the page was closed meanwhile.
    with app.resting():
        desk.press("Export PDF")
        desk.find("//section[@aria-label='Export']//button[.='Stop']")
        desk.bench("Ink")
        desk.open()
        desk.bench("Sheet")
        desk.find("//section[@aria-label='Export']//button[.='Stop']")
        desk.find("//section[@aria-label='Export']//button[@role='combobox' and contains(., 'by trace and rank')]")
        # A while without an answer does not end the waiting.
        desk.driver.execute_script(
            """const usual = window.fetch;
            window.fetch = (asked) => (/api.jobs/.test(asked.url ?? asked) ? Promise.reject(new TypeError('no answer')) : usual(asked));
            setTimeout(() => { window.fetch = usual; window.answered = true; }, 1500);"""
        )
        desk.wait(lambda: desk.driver.execute_script("return window.answered"), "the connection does not come back")
    desk.find("//section[@aria-label='Export']//a[contains(., '.pdf')]", 90).click()
    file = desk.wait(lambda: next(iter(downloads.glob("*.pdf")), None), "no PDF came down")
    with pikepdf.open(file) as pdf:
        layers = [str(o.Name) for o in pdf.Root.OCProperties.OCGs]
    assert {"Lines", "Notes"} <= set(layers) and any(n.startswith("Lines ") for n in layers), layers
    # A picture has no layers, and says what it is good for.
    desk.choose("As", "WebP")
    desk.find("//section[@aria-label='Export']//button[.='Export WebP']")
    assert not desk.driver.find_elements(By.XPATH, "//section[@aria-label='Export']//span[.='Groups in the file']")
    assert desk.serious_findings() == []

    # A proof that is stopped stays so until it is asked for; one that nobody waits for any more stops by itself.
    jobs = lambda: desk.driver.execute_script(
        "return performance.getEntriesByType('resource').map((e) => (/jobs.(\\d+)$/.exec(e.name) ?? "
        "[])[1]).filter(Boolean)"
    )
    with app.resting():
        desk.press("See the proof")
        desk.press("Stop")
        desk.find("//p[contains(., 'It was stopped')]")
        time.sleep(1)
        desk.press("Print it again")
        desk.find("//button[.='Stop']")
        number = jobs()[-1]
        assert desk.job(number)["state"] == "waiting"
        desk.press("To the desk")
        desk.wait(lambda: desk.job(number)["state"] == "cancelled", "the print that was left is still waited for")
    desk.bench("Sheet")

    # The proof on newsprint: what fills in is marked, one press lifts it, and it is less.
    desk.press("See the proof")
    looks = "//img[@alt='The drawing as it will look on paper']"
    desk.find(looks, 120)
    first = desk.find(looks).get_attribute("src")
    desk.find("//button[@role='radio' and contains(., 'Newsprint')]").click()
    desk.wait(lambda: desk.find(looks, 120).get_attribute("src") != first, "no other print", 120)
    share = lambda: float(
        desk.find("//p[contains(., 'of this drawing closes up')]", 60).text.split(" %")[0].replace("less than ", "")
    )
    before = share()
    desk.find("//img[@alt='What fills in, marked']")
    assert desk.serious_findings() == []
    printed = desk.find(looks).get_attribute("src")
    weight = desk.study()["look"]["weight"]
    desk.press("Lift it")
    desk.wait(lambda: any(t["kind"] == "for-print" for t in desk.study()["look"]["traces"]), "nothing was lifted")
    desk.wait(lambda: desk.find(looks, 120).get_attribute("src") != printed, "no print of the lifted drawing", 120)
    assert desk.study()["look"]["weight"] < weight and (not desk.driver.find_elements(By.XPATH,
        "//p[contains(., 'of this drawing closes up')]") or share() <= before)  # fmt: skip
    # The screen is measured once with a card; then a millimetre of the drawing is one on the screen.
    desk.find("//span[.='At its own size']/following::button[@role='switch'][1]").click()
    desk.press("Measure it")
    desk.press("It is as large")
    frame = desk.view()["frame"]
    per = float(desk.driver.execute_script("return localStorage.getItem('pixels-per-mm')"))
    wide = desk.driver.execute_script("return arguments[0].getBoundingClientRect().width", desk.find(looks))
    assert wide == pytest.approx(frame["width"] * per, rel=0.01)
    desk.press("Take the lift away")
    desk.wait(lambda: not any(t["kind"] == "for-print" for t in desk.study()["look"]["traces"]), "the lift stays")

    # The set is drawn in the background, stopped, and gone on with: nothing is drawn twice.
    desk.press("To the desk")
    desk.picture()
    desk.bench("Sheet")
    desk.press("The whole set")
    rows = lambda: desk.driver.find_elements(By.XPATH, "//ul[@aria-label='Drawings of the set']/li")
    there = lambda: desk.driver.find_elements(By.XPATH, "//ul[@aria-label='Drawings of the set']//img")
    count = desk.wait(lambda: len(rows()), "nothing belongs to the set", 60)
    desk.press("Draw the set")
    desk.wait(lambda: len(there()) >= 1, "nothing is drawn", 120)
    desk.press("Stop")
    desk.find("//p[contains(., 'It was stopped')]", 60)
    kept = {i.get_attribute("src") for i in there()}
    assert 1 <= len(kept) < count
    assert desk.serious_findings() == []
    desk.find("//button[starts-with(., 'Go on')]", 60).click()
    desk.wait(lambda: len(there()) == count, "the set does not go on", 240)
    assert kept <= {i.get_attribute("src") for i in there()}
    desk.find("//a[.='Contact sheet']", 60).click()
    desk.wait(lambda: next(iter(downloads.glob("Contact*.pdf")), None), "no contact sheet came down")
    desk.find("//button[.='All is drawn']", 60)
    assert desk.faults() == []

    # A site is joined beside the house, moved, and taken out.
    site = ifc_file(tmp_path / "yard.ifc", {"Shed": (14, 0, 0, 4, 4, 2)})
    desk.press("To the desk")
    desk.bench("Model")
    desk.press("Versions")
    desk.find("//input[@id='model-file']").send_keys(str(site))
    desk.find("//*[@data-testid='size']", 60)
    desk.choose("It is", "a site or context beside it")
    desk.press("Join it")
    desk.wait(lambda: [j["name"] for j in desk.parts()["joined"]] == ["yard"], "it was not joined", 60)
    desk.type_into("North", "6")
    desk.wait(lambda: desk.parts()["joined"][0]["by"] == [0, 6, 0], "it was not moved", 60)
    assert desk.serious_findings() == []
    desk.press("Take it out")
    desk.wait(lambda: desk.parts()["joined"] == [], "it was not taken out", 60)
