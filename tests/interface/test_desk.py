"""The desk: traces, windows, errors, widths; what it says while it works."""

from __future__ import annotations

from itertools import combinations
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.conftest import box, model_of
from tests.interface.desk import Desk
from tests.interface.serve import Application, window
from warmgraphite.model.glb import write_glb

SHELF = "//section[@aria-label='Trace shelf']//button"


def shelf(desk: Desk) -> list[str]:
    """What the sheets on the shelf are called to those who cannot see them, from the lowest up."""
    return [b.get_attribute("aria-label") or "" for b in desk.driver.find_elements(By.XPATH, SHELF)]


@pytest.mark.deep
def test_a_broken_file_is_refused_and_a_good_one_becomes_a_study(desk: Desk, tmp_path: Path) -> None:
    broken, good = tmp_path / "broken.glb", tmp_path / "tower.glb"
    write_glb(model_of(("Tower", box((0, 0, 0), (6, 6, 20)), 0), ("Shed", box((6, 0, 0), (10, 4, 3)), 2)), good)
    broken.write_bytes(good.read_bytes()[:300])
    desk.open("/")
    desk.find("//input[@type='file']").send_keys(str(broken))
    said = desk.find("//*[@role='alert' and contains(., 'broken.glb')]").text
    assert "Traceback" not in said and "breaks off" in said

    desk.find("//input[@type='file']").send_keys(str(good))
    assert desk.find("//*[@data-testid='size']").text == "10 × 6 m, 20 m high"
    assert desk.serious_findings() == []
    desk.press("Make a study of it")
    desk.find("//h1[normalize-space()='tower']", 30)
    desk.slug = desk.driver.current_url.rsplit("/", 1)[1]
    # Cut it open: a plane is added, flipped and turned, and each changes the drawing.
    seen = [desk.picture()]
    for words in ("Add one", "Flip", "Turn 90°"):
        desk.press(words)
        seen.append(desk.changed(seen[-1]))
    assert all(one != other for one, other in combinations(seen, 2))
    desk.driver.find_element(By.TAG_NAME, "body").send_keys(".")
    desk.find("//input[@aria-label='Name of the action']").send_keys("model bench", Keys.ENTER)
    desk.find("//main[@aria-label='Model']//canvas")


def test_traces_move_by_keyboard_are_held_away_and_switched_on_again(desk: Desk) -> None:
    desk.open()
    shown = desk.picture()
    desk.bench("Collage")
    order = shelf(desk)
    desk.trace("Shadow")
    desk.press("Lay Shadow lower")
    desk.wait(lambda: shelf(desk) != order, "the shelf kept its order")
    assert [n.split(",")[0] for n in shelf(desk)].index("Shadow") == [n.split(",")[0] for n in order].index(
        "Shadow"
    ) - 1
    sheet = desk.find(f"{SHELF}[contains(@aria-label, 'Poche')]")
    sheet.click()
    with_poche = desk.picture()
    press = "arguments[0].dispatchEvent(new KeyboardEvent(arguments[1], {key: 'w', bubbles: true}))"
    desk.driver.execute_script(press, sheet, "keydown")
    desk.changed(with_poche)
    desk.driver.execute_script(press, sheet, "keyup")
    assert desk.shows(with_poche)
    desk.press("Undo")
    desk.wait(
        lambda: [n.split(",")[0] for n in shelf(desk)] == [n.split(",")[0] for n in order],
        "undo did not restore the order",
    )
    assert desk.shows(shown)
    # A trace that was off when the picture was laid shows what it has when it comes on.
    switch = "//button[@role='switch']"
    desk.trace("Corners")
    desk.find(switch).click()
    without = desk.changed(shown)
    desk.driver.refresh()
    assert desk.shows(without)
    desk.bench("Collage")
    desk.trace("Corners")
    desk.find(switch).click()
    assert desk.shows(shown)


@pytest.mark.deep
def test_the_shelf_says_what_is_stale_while_a_view_is_set_up_in_the_model(desk: Desk) -> None:
    desk.open()
    desk.picture()
    desk.wait(lambda: all("fresh" in n for n in shelf(desk)), "the shelf is not fresh")
    desk.bench("View")
    desk.press("Set up in the model")
    desk.room()
    # From now on what the sheets say is taken down.
    desk.driver.execute_script(
        """window.said = []; const look = () => { window.said.push([...document.querySelectorAll("[aria-label='Trace shelf'] button")].map((b) => b.getAttribute('aria-label'))); requestAnimationFrame(look); }; look();"""
    )
    desk.type_into("Azimuth", "77")
    desk.wait(lambda: desk.view()["sun"]["azimuth"] == 77, "the sun did not turn")
    desk.wait(lambda: all("fresh" in n for n in shelf(desk)), "the shelf does not come fresh", 40)
    said = [
        {n.split(", ")[0]: n.split(", ")[1] for n in row} for row in desk.driver.execute_script("return window.said")
    ]
    assert any(row["Shadow"] != "fresh" for row in said) and any(row["Corners"] != "fresh" for row in said)
    # Corners in the light before are not corners in this one: they too are named by what they are made of.
    states = {t["id"]: t["fresh"] for t in desk.ask("/desk")["traces"]}
    assert set(states.values()) == {True} and "occlusion" in states


@pytest.mark.deep
def test_seen_closely_the_part_that_is_seen_has_a_picture_of_its_own(desk: Desk) -> None:
    desk.open()
    desk.picture()
    room = "//main//*[@role='application']"
    sheet = desk.find(f"{room}//img[@alt!='']")
    for _ in range(7):
        desk.find(room).send_keys("+")
    close = desk.find(f"{room}//img[@alt='']")
    measure = "const [a, b] = arguments; const r = a.getBoundingClientRect(), s = b.getBoundingClientRect(); return [a.naturalWidth / r.width, b.naturalWidth / s.width, r.left - s.left, r.width, s.width]"
    desk.wait(
        lambda: 0.9 < desk.driver.execute_script(measure, close, sheet)[0] < 1.1, "it is not as fine as the screen"
    )
    fine, coarse, left, wide, whole = desk.driver.execute_script(measure, close, sheet)
    assert coarse < 0.5 * fine and left >= -1 and wide < 0.8 * whole
    desk.find(room).send_keys("0")
    desk.wait(lambda: not desk.driver.find_elements(By.XPATH, f"{room}//img[@alt='']"), "it stays")


@pytest.mark.deep
def test_the_picture_before_is_called_that_until_the_new_one_is_there(desk: Desk) -> None:
    desk.open()
    before = desk.picture()
    desk.driver.execute_script(
        """window.told = []; const began = performance.now(); const look = () => { const room = document.querySelector('main [role=application]');
        window.told.push([performance.now(), room.getAttribute('aria-busy'), room.querySelector('img').src, document.querySelector('main [role=status]')?.textContent ?? '']); requestAnimationFrame(look); }; look();"""
    )
    desk.bench("Ink")
    desk.type_into("Weight", "1.3")
    desk.changed(before)
    desk.picture()
    rows = desk.driver.execute_script("return window.told")
    first = rows[0][2]
    busy = [r for r in rows if r[1] == "true"]
    assert busy, "it was never busy"
    # While the old picture is still shown and a third of a second has gone, something says so.
    late = [r for r in busy if r[2] == first and r[0] - busy[0][0] > 300]
    assert all(r[3] for r in late[3:])  # a busy machine may draw a frame or two before it gets to say so
    assert rows[-1][1] == "false" and rows[-1][2] != first and rows[-1][3] == ""


@pytest.mark.deep
def test_two_windows_on_one_study_are_told_and_nothing_is_overwritten(desk: Desk, app: Application) -> None:
    desk.open()
    desk.picture()
    desk.bench("Collage")
    desk.trace("Shade")
    with window(desk.driver) as handle:
        other = Desk(desk.driver, desk.address, desk.slug, handle)
        other.open()
        other.picture()
        other.bench("Ink")
        other.find("//aside//button[contains(., 'Edges')]").click()
        other.type_into("Weight", "0.33")
        other.wait(lambda: other.study()["look"]["pens"][2]["pen"]["weight"] == 0.33, "the pen did not change")
    desk.driver.switch_to.window(desk.handle)
    desk.type_into("Opacity", "77")
    desk.find("//*[contains(text(), 'another window')]")
    look = desk.study()["look"]
    assert look["pens"][2]["pen"]["weight"] == 0.33 and all(t["opacity"] != 0.77 for t in look["traces"])
    # It shows the study as it is now, and the same edit is taken on top of that.
    desk.type_into("Opacity", "77")
    opacity = lambda: next(t["opacity"] for t in desk.study()["look"]["traces"] if t["id"] == "shade")
    desk.wait(lambda: opacity() == 0.77, "the second try was not taken")
    assert desk.study()["look"]["pens"][2]["pen"]["weight"] == 0.33


@pytest.mark.deep
def test_edits_made_faster_than_the_server_answers_arrive_in_order(desk: Desk) -> None:
    desk.open()
    desk.picture()
    desk.bench("Collage")
    first = desk.study()["revision"]
    # The way to the server is slow, and a person is not.
    desk.driver.execute_script(
        "const whole = window.fetch; window.fetch = async (...a) => { await new Promise((r) => setTimeout(r, 120)); "
        "return whole(...a); }"
    )
    for name, value in (("Shadow", "10"), ("Shade", "20"), ("Shadow", "30"), ("Glass", "40"), ("Shade", "50")):
        desk.trace(name)
        desk.type_into("Opacity", value)
    desk.picture()
    found = {t["name"]: t["opacity"] for t in desk.study()["look"]["traces"]}
    assert (found["Shadow"], found["Shade"], found["Glass"]) == (0.3, 0.5, 0.4)
    steps = 0
    while desk.study()["revision"] != first:
        desk.tell("/undo", {"base": desk.study()["revision"]})
        steps += 1
    assert steps == 5  # each is a step of undo of its own


@pytest.mark.deep
def test_edits_that_a_broken_connection_swallowed_are_kept_said_and_sent_again_in_order(desk: Desk) -> None:
    desk.open()
    desk.picture()
    desk.bench("Collage")
    first = desk.study()["revision"]
    # The first answer is lost on its way back, then nothing gets through for a while.
    desk.driver.execute_script(
        """const whole = window.fetch; window.broken = 'answer'; window.fetch = async (...a) => {
             if (window.broken === 'answer' && a[0].url.endsWith('/edits')) { await whole(...a); window.broken = 'all'; }
             if (window.broken === 'all') throw new TypeError('Failed to fetch');
             return whole(...a); }"""
    )
    for name, value in (("Shadow", "10"), ("Shade", "20"), ("Glass", "30")):
        desk.trace(name)
        desk.type_into("Opacity", value)
    alert = desk.find("//header//*[@role='alert']")
    desk.wait(lambda: "3 changes are kept here" in alert.text, "nothing says that nobody answers")
    shown = [
        e.get_attribute("aria-valuenow") for e in desk.driver.find_elements(By.XPATH, "//aside//*[@role='slider']")
    ]
    assert "30" in shown and desk.study()["revision"] == first + 1  # it arrived; only nobody here knows that yet
    desk.driver.execute_script("window.broken = ''")
    desk.wait(lambda: not desk.driver.find_elements(By.XPATH, "//header//*[@role='alert']"), "it is not sent again")
    desk.picture()
    found = {t["name"]: t["opacity"] for t in desk.study()["look"]["traces"]}
    assert (found["Shadow"], found["Shade"], found["Glass"]) == (0.1, 0.2, 0.3) and desk.study()[
        "revision"
    ] == first + 3


@pytest.mark.deep
def test_a_study_that_cannot_be_shown_is_undone_from_its_page(desk: Desk, app: Application) -> None:
    import sqlite3

    desk.tell(
        "/edits",
        {
            "base": desk.study()["revision"],
            "commands": [
                {"do": "look", "label": "Harm", "changes": [{"path": ["pens", "cut", "pen", "weight"], "value": 0.8}]}
            ],
        },
    )
    with sqlite3.connect(Path(app.environment["WARMGRAPHITE_DATA"]) / "studio.sqlite3", timeout=20) as database:
        (head,) = database.execute("select head_id from studies_study where slug = ?", [desk.slug]).fetchone()
        database.execute('update studies_revision set text = \'{"name": "Harmed"}\' where id = ?', [head])
    desk.open("/")
    desk.find("//main//li[contains(., 'Harmed')]//*[@role='alert']")
    desk.open()
    assert (
        "is damaged" in desk.find("//h1[contains(., 'cannot be shown')]/..//*[@role='alert']").text
        and desk.serious_findings() == []
    )
    desk.press("Undo: Harm")
    desk.find("//main[@aria-label='Drawing']", 30)
    desk.picture()
    assert desk.study()["look"]["pens"][0]["pen"]["weight"] == 0.5
    desk.faults()  # the answers that said so are errors to the browser


@pytest.mark.deep
def test_a_second_worker_leaves_the_work_of_the_first_alone(desk: Desk, app: Application) -> None:
    """It starts in the middle of an export, and ends again.
    The export is made once, and the application stays ready.
    """
    made = desk.tell("/exports", {"format": "png", "out": {"resolution": 300}})
    second = app.worker()
    try:
        done = lambda: desk.job(made["id"])["state"] not in ("waiting", "working")
        desk.wait(done, "the export does not end", 90)
    finally:
        second.terminate()
        second.wait(30)
    assert desk.job(made["id"])["state"] == "done" and desk.job(made["id"])["attempts"] == 1
    assert desk.get("/api/ready") == {"ready": True}


def test_every_bench_is_free_of_serious_findings_and_holds_its_width(desk: Desk) -> None:
    sizes = ((1024, 720), (1920, 1080), (1280, 800))

    def holds_its_width(what: str) -> None:
        for size in sizes:
            desk.sized(*size)
            wide = desk.wait(
                lambda size=size: (
                    (w := desk.driver.execute_script("return [innerWidth, document.documentElement.scrollWidth]"))[0]
                    == size[0]
                    and w
                ),
                "the page does not take the size",
            )
            assert wide[1] <= wide[0], (what, size)

    desk.open("/")
    desk.find("//button[contains(., 'Alder Weir Kiln House')]")
    holds_its_width("home")
    assert desk.serious_findings() == []
    desk.open()
    desk.picture()
    for name in ("Model", "View", "Ink", "Collage", "Sheet"):
        desk.bench(name)
        desk.find(f"//aside[@aria-label='{name}: settings']//h2")
        holds_its_width(name)
        assert desk.serious_findings() == [], name


@pytest.mark.deep
def test_the_frame_in_the_browser_is_the_frame_of_the_drawing(desk: Desk) -> None:
    """The 3D view shows the model through a matrix of its own; it must be the server's, for every saved view."""
    desk.open()
    desk.bench("View")
    desk.press("Set up in the model")
    shown = "return JSON.parse(document.querySelector('[data-frame]')?.dataset.frame ?? '[]').flat()"
    for saved in desk.study()["document"]["views"]:
        name = saved["view"]["name"]
        desk.lay_out(name)
        wanted = pytest.approx([v for row in desk.ask("/desk")["world_to_frame"] for v in row], abs=1e-6)
        desk.wait(lambda wanted=wanted: desk.driver.execute_script(shown) == wanted, f"the frame of {name} is another")
