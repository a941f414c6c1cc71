"""Notes and boards as an illustrator makes them.
Rooms named, labels set, plan and section in line on one board, a storey that moves.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk
from tests.interface.studies import house
from tests.interface.test_figures import place_of
from warmgraphite.model.obj import write_obj

MM = (210, 148)


def notes(desk: Desk) -> list[dict[str, Any]]:
    document = desk.study()["document"]
    return next(v for v in document["views"] if v["id"] == document["desk"]["view_id"])["notes"]


def placed(desk: Desk) -> list[dict[str, Any]]:
    """The notes where they stand, once the drawing is there."""
    return desk.wait(lambda: desk.ask("/notes"), "no note stands anywhere", 60)


def click_at(desk: Desk, point: tuple[float, float, float]) -> None:
    x, y = place_of(desk, point)
    desk.click_drawing(x / MM[0], y / MM[1])


def angles(row: dict[str, Any]) -> set[int]:
    steps = [np.diff(np.array(line), axis=0) for line in row["lines"]]
    return {round(float(np.degrees(np.arctan2(abs(d), abs(a))))) for s in steps for a, d in s if abs(d) > 0.05}


def taller(path: Path) -> Path:
    """The house with a storey more: its roof 0.7 m higher, and walls up to it."""
    model = house()
    points = model.vertices.copy()
    points[points[:, 2] > 2.9] += [0, 0, 0.7]
    write_obj(model.reshaped(vertices=points), path)
    return path


@pytest.mark.deep
@pytest.mark.parametrize("desk", ["house"], indirect=True)
def test_rooms_labels_a_board_in_line_and_a_storey_that_moves(desk: Desk, tmp_path: Path) -> None:
    desk.open()
    desk.picture()
    desk.bench("View")
    desk.lay_out("Plan")
    desk.picture()

    # The room that the walls enclose is measured, and named.
    desk.bench("Sheet")
    desk.press("Rooms")
    desk.wait(lambda: [n["kind"] for n in notes(desk)] == ["rooms"], "no rooms are written")
    room = desk.wait(lambda: placed(desk)[0]["rooms"][0], "no room is found", 60)
    assert room["area"] == pytest.approx(7.2 * 5.44, abs=0.5)
    field = desk.find("//input[@aria-label='Name of room 1']", 30)
    field.send_keys("Drying room", Keys.ENTER)
    desk.wait(lambda: notes(desk)[0]["named"][0]["name"] == "Drying room", "the room is not named")
    desk.wait(lambda: placed(desk)[0]["rooms"][0]["name"] == "Drying room", "the name is not shown", 60)

    # Five labels, clicked onto what they mean: their leaders have one angle, their texts stand in columns and cover
    # nothing.
    desk.bench("View")
    desk.lay_out("Section")
    desk.picture()
    desk.bench("Sheet")
    desk.press("Label")
    spots = [(0.2, 2.6, 1.6), (7.8, 2.6, 1.6), (4.0, 2.6, 3.15), (3.0, 2.6, 0.1), (6.5, 2.6, 3.2)]
    for count, spot in enumerate(spots, 1):
        click_at(desk, spot)
        desk.wait(lambda count=count: len(notes(desk)) == count, f"label {count} is not written", 30)
        desk.picture()
    assert {n["part"] for n in notes(desk)} == {
        "House/Walls/Wall west",
        "House/Walls/Wall east",
        "House/Roof",
        "House/Floor",
    }
    desk.find("//*[@role='application']").send_keys(Keys.ESCAPE)
    rows = placed(desk)
    assert (
        len(set().union(*(angles(r) for r in rows))) <= 1
        and len({round(b[0], 1) for r in rows for b in r["boxes"]} | {round(b[2], 1) for r in rows for b in r["boxes"]})
        <= 7
    )
    boxes = [b for r in rows for b in r["boxes"]]
    assert not any(
        a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3] for k, a in enumerate(boxes) for b in boxes[:k]
    )
    # One is written, moved by hand with the arrow keys, and let back.
    desk.find("//ul[@aria-label='Notes']//button[contains(., 'Roof')]").click()
    words = desk.find("//section[@aria-label='Note']//textarea")
    words.send_keys(Keys.CONTROL, "a")
    words.send_keys("oak, 28 mm^2", Keys.CONTROL, Keys.ENTER)
    desk.wait(lambda: any(n["text"] == "oak, 28 mm^2" for n in notes(desk)), "the label does not say it")
    grip = desk.find("//*[@data-testid='note-text']", 30)
    desk.picture()
    before = next(r for r in placed(desk) if r["called"].startswith("oak"))["boxes"][0]
    grip.send_keys(Keys.SHIFT, Keys.ARROW_DOWN)
    desk.wait(lambda: any(n["put"] for n in notes(desk) if n["kind"] == "label"), "it was not moved", 30)
    desk.picture()
    after = next(r for r in placed(desk) if r["called"].startswith("oak"))["boxes"][0]
    assert after[1] - before[1] == pytest.approx(5, abs=0.01) and after[0] - before[0] == pytest.approx(0, abs=0.01)
    desk.press("Let it find its place by itself")
    desk.wait(lambda: not any(n["put"] for n in notes(desk)), "it was not let back")
    # Levels, which stand at the storeys and the top.
    desk.press("Levels")
    desk.wait(lambda: any(n["kind"] == "levels" for n in notes(desk)), "no levels are written")
    desk.picture()
    level = lambda: next(r for r in placed(desk) if r["called"] == "Levels")
    top = level()["boxes"]
    assert desk.serious_findings() == []

    # Plan and section on one board, their axes in line: laid on, drawn near, caught by the guide.
    desk.press("Begin a board")
    for name in ("Section", "Plan"):
        desk.find(f"//ul[@aria-label='Lay on it']//button[contains(., '{name}')]", 30).click()
        desk.find(f"//section[@aria-label='Drawing on the board']/h2[contains(., '{name}')]", 30)
    board = lambda: desk.study()["document"]["boards"][0]
    desk.wait(
        lambda: desk.driver.find_element(By.CSS_SELECTOR, "[data-testid=board]").get_attribute("data-fresh") == "true",
        "the board is not drawn",
        120,
    )
    plan = desk.driver.find_elements(By.CSS_SELECTOR, "[data-testid=on-board]")[1]
    desk.pull(plan, 60, 160)
    desk.wait(lambda: board()["drawings"][1]["at"][1] > 60, "the plan was not moved", 30)
    if not board()["drawings"][1]["line_x"]:
        desk.choose("Axes in line with", "A")
    desk.wait(lambda: board()["drawings"][1]["line_x"] == board()["drawings"][0]["id"], "the plan is not in line")
    state = lambda: {d["name"]: d for d in desk.ask(f"/boards/{board()['id']}")["drawings"]}
    lies = state()
    shown = lambda d: d["at"][0] + d["lie"]["left"]
    assert shown(lies["Plan"]) == pytest.approx(shown(lies["Section"]), abs=1e-3)
    # Moved with the arrow keys, the section takes the plan along.
    section = desk.driver.find_elements(By.CSS_SELECTOR, "[data-testid=on-board]")[0]
    ActionChains(desk.driver).move_to_element(section).click().perform()
    section.send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    desk.wait(
        lambda: state()["Section"]["at"][0] == pytest.approx(lies["Section"]["at"][0] + 10),
        "the section was not moved",
        30,
    )
    assert shown(state()["Plan"]) == pytest.approx(shown(state()["Section"]), abs=1e-3)
    # Its frame is cut by a corner that is drawn in, and stays a rectangle.
    desk.pull(desk.driver.find_elements(By.CSS_SELECTOR, "[data-testid=frame-corner]")[0], 24, 12)
    desk.wait(lambda: len(board()["drawings"][0]["frame"]) == 4, "the frame was not cut", 30)
    (x0, y0), (x1, y1), _, (x3, _) = board()["drawings"][0]["frame"]
    assert x0 > 5 and y0 > 2 and x0 == pytest.approx(x3) and y0 == pytest.approx(y1) and x1 == MM[0]
    assert desk.serious_findings() == []
    desk.press("Export PDF")
    desk.find("//section[@aria-label='Export']//a[contains(., 'Board 1.pdf')]", 180)

    # A newer version of the model, higher by 0.7 m: its levels are where they belong, and labels on the roof went up
    # with it.
    desk.find("//nav[@aria-label='Pages']//button[contains(., 'its sheet')]").click()
    roof = next(n for n in notes(desk) if n["part"] == "House/Roof")["at"][2]
    desk.bench("Model")
    desk.press("Versions")
    desk.find("//aside//input[@type='file']").send_keys(str(taller(tmp_path / "house.obj")))
    desk.press("Take it in", 60)
    desk.wait(
        lambda: next(n for n in notes(desk) if n["part"] == "House/Roof")["at"][2] > roof + 0.5,
        "the label did not follow",
        120,
    )
    desk.bench("Sheet")
    desk.picture()
    per_metre = 10.0
    moved = [b for b in level()["boxes"] if all(abs(b[3] - a[3]) > 0.5 for a in top)]
    assert moved and any(abs((a[3] - b[3]) - 0.7 * per_metre) < 0.01 for a in top for b in moved)

    # Its proof says which drawings fill in; they are lifted on it alone, and the way back leads to it.
    desk.find("//nav[@aria-label='Pages']//button[contains(., 'Board 1')]").click()
    desk.press("See the proof")
    desk.find("//button[@role='radio' and contains(., 'Newsprint')]").click()
    fills = "//ul[@aria-label='Drawings that fill in']/li"
    desk.find(fills, 180)
    assert desk.serious_findings() == []
    desk.press("Lift it")
    desk.wait(lambda: any(d["lift"] > 0 for d in board()["drawings"]), "nothing was lifted")
    desk.find("//img[@alt='The print before']", 60)
    desk.press("To the board")
    desk.find("//*[@data-testid='board']", 60)
    assert not any(t["kind"] == "for-print" for t in desk.study()["look"]["traces"])
    desk.press("Undo")
    desk.wait(lambda: not any(d["lift"] for d in board()["drawings"]), "the lift stays")
