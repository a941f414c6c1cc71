"""The Ink bench: rules as sentences, in an order, and what each takes hold of."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk


@pytest.mark.deep
def test_rules_are_read_rested_on_moved_switched_off_doubled_and_taken_out(desk: Desk) -> None:
    desk.open()
    plain = desk.picture()
    desk.bench("Ink")
    rules = "//aside//ol[@aria-label='Rules of pens']"
    said = lambda: [
        e.text.split("\n")[0] for e in desk.driver.find_elements(By.XPATH, f"{rules}/li//button[@aria-pressed]")
    ]
    ids = lambda: [r["id"] for r in desk.study()["look"]["pens"]]
    began = said()
    assert began[:3] == ["Cut lines", "Outlines", "Edges"] and "Fading with distance" in began
    # Resting on a rule shows in the drawing what it takes hold of: the outline of what is cut, and not the edges
    # beyond.
    held = lambda: [e.get_attribute("d") for e in desk.driver.find_elements(By.XPATH, "//*[@data-testid='held']")]
    seen = []
    for words in ("Cut lines", "Outlines"):
        ActionChains(desk.driver).move_to_element(desk.find(f"{rules}//button[contains(., '{words}')]")).perform()
        desk.wait(lambda before=seen: held() and held() != before, f"nothing is shown for “{words}”")
        seen = held()
        assert seen[0].startswith("M") and len(seen[0]) > 30
    ActionChains(desk.driver).move_to_element(desk.find("//header")).perform()
    desk.wait(lambda: not held(), "it is still shown")

    # A doubled rule that is made heavy prevails over the one it was doubled from, and not once it stands before it.
    desk.find(f"{rules}//button[contains(., 'Outlines')]").click()
    desk.press("Double")
    desk.wait(lambda: len(ids()) == len(began) + 1, "it was not doubled")
    double = ids()[2]  # behind the one that it was made from
    desk.type_into("Weight", "0.9")
    heavy = desk.changed(plain)
    desk.press("Move “Outlines” up")
    desk.wait(lambda: ids()[1] == double, "it did not move")
    assert desk.shows(plain)
    desk.press("Move “Outlines” down")
    assert desk.shows(heavy)
    desk.find("//aside//button[@role='switch' and @aria-checked='true' and contains(@aria-label, 'Outlines')][1]")
    desk.driver.find_elements(By.XPATH, "//aside//button[@role='switch' and contains(@aria-label, 'Outlines')]")[
        1
    ].click()
    assert desk.shows(plain)
    # It takes hold of something else: the walls, which have none here.
    desk.driver.find_elements(By.XPATH, "//aside//button[@role='switch' and contains(@aria-label, 'Outlines')]")[
        1
    ].click()
    assert desk.shows(heavy)
    desk.choose("Of", "role structure")
    desk.find(f"{rules}//button[contains(., 'Outlines of structure')]")
    assert desk.shows(plain)
    desk.press("Take out")
    assert desk.shows(plain) and said() == began and desk.serious_findings() == []

    # A fill of one's own for one material, and none.
    ground = desk.find("//aside//ol[@aria-label='Rules of poche']//button[contains(., 'Ground')]")
    desk.driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", ground)
    desk.press("Take this fill out")
    void = desk.changed(plain)
    desk.press("Undo")
    assert desk.shows(plain) and void != plain


def test_a_fill_is_poured_emptied_and_changed_and_a_hand_draws_it(desk: Desk) -> None:
    desk.open()
    plain = desk.picture()
    desk.bench("Ink")
    strip = "//*[@role='group' and @aria-label='Pour a fill']"
    seen = lambda: desk.study()["look"]["surfaces"]
    places = [(x, y) for y in range(50, 120, 5) for x in range(40, 170, 7)]
    face = lambda p: (
        (found := desk.ask("/probe", x=p[0], y=p[1]))
        and found["part"] is not None
        and not found["cut"]
        and not found["line"]
    )
    x, y = next(p for p in places if face(p))
    x, y = x / 210, y / 148
    desk.find(f"{strip}//button[@aria-label='Parallel lines']").click()
    desk.click_drawing(x, y)
    desk.wait(lambda: len(seen()) == 1 and seen()[0]["fills"][0]["pattern"] == "parallel", "it was not poured")
    poured = desk.changed(plain)
    assert seen()[0]["where"]["parts"], seen()[0]["where"]
    # The same tap once more empties it, and undo fills it again.
    desk.click_drawing(x, y)
    desk.wait(lambda: seen()[0]["fills"] == [], "it was not emptied")
    assert desk.shows(plain)
    desk.press("Undo")
    assert desk.shows(poured)
    desk.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    desk.find(f"{strip}//button[@aria-label='Parallel lines' and @aria-pressed='false']")
    # Tapped without a fill in the hand, a region is only selected.
    desk.click_drawing(x, y)
    desk.find("//*[@role='dialog']//button[normalize-space()='Close']").click()
    assert len(seen()) == 1

    rule = desk.find("//aside//ol[@aria-label='Rules of what is seen']//button[@aria-pressed]")
    desk.driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", rule)
    desk.type_into("Spacing", "3")
    wide = desk.changed(poured)
    desk.wait(lambda: seen()[0]["fills"][0]["spacing"] == 3, "the spacing is not kept")
    desk.find("//aside//button[contains(., 'Pattern')]").click()
    bond = desk.find("//*[@role='listbox' and @aria-label='Patterns']//*[@aria-label='Brick bond']")
    assert (
        len(desk.driver.find_elements(By.XPATH, "//*[@role='listbox' and @aria-label='Patterns']//*[@role='option']"))
        >= 28
    )
    bond.click()
    desk.wait(lambda: seen()[0]["fills"][0]["pattern"] == "bond", "the pattern is not kept")
    bricks = desk.changed(wide)

    desk.find("//aside//button[@aria-label='The hand that draws']").click()
    desk.find("//aside//button[@role='radio' and contains(., 'Calm pencil')]").click()
    desk.wait(lambda: desk.study()["look"]["hand"]["waver"] == 0.09, "the hand is not kept")
    by_hand = desk.changed(bricks)
    sample = desk.find("//*[@data-testid='hand-sample']")
    desk.wait(
        lambda: desk.driver.execute_script("return arguments[0].naturalWidth", sample) > 0,
        "no stroke of the hand is shown",
    )
    # Cut lines end in an outline that is drawn round the right half of the paper.
    cut = desk.find("//aside//ol[@aria-label='Rules of pens']//button[contains(., 'Cut lines')]")
    desk.driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", cut)
    desk.choose("It ends", "in an outline drawn …")
    for corner in ((0.5, 0.02), (0.98, 0.02), (0.98, 0.98), (0.5, 0.98)):
        desk.click_drawing(*corner)
    desk.driver.switch_to.active_element.send_keys(Keys.ENTER)
    away = lambda: next(r["away"] for r in desk.study()["look"]["pens"] if r["id"] == "cut")
    desk.wait(lambda: len(away()["outline"]) == 4 and abs(away()["outline"][0][0]) < 1.5, "the outline is not kept")
    by_hand = desk.changed(by_hand)
    desk.type_into("All weights", "2")
    desk.changed(by_hand)
    assert desk.study()["look"]["weight"] == 2 and desk.serious_findings() == []


@pytest.mark.deep
def test_a_trace_is_confined_to_what_is_pointed_at_and_to_a_kept_region(desk: Desk) -> None:
    desk.open()
    plain = desk.picture()
    desk.bench("Collage")
    desk.trace("Material tint")
    desk.click_drawing(0.37, 0.35)
    desk.find("//*[@role='dialog']", 40)
    desk.find("//*[@role='dialog']//input").send_keys("The pointed one")
    desk.press("Keep")
    where = lambda: next(t["where"] for t in desk.study()["look"]["traces"] if t["id"] == "tint")
    desk.choose("Confined to", "region The pointed one")
    confined = desk.changed(plain)
    assert where() == {"kind": "kept", "name": "The pointed one"}
    # It goes along when the region is called otherwise, and the region stays while it is needed.
    desk.press("Rename The pointed one")
    desk.find("//input[@aria-label='New name for The pointed one']").send_keys(
        Keys.CONTROL + "a" + Keys.NULL + "Mine" + Keys.ENTER
    )
    desk.wait(lambda: where() == {"kind": "kept", "name": "Mine"}, "the trace lost its region")
    assert desk.shows(confined)
    desk.press("Remove Mine")
    desk.find("//*[contains(text(), 'is confined to region “Mine”')]")
    desk.choose("Confined to", "all of the drawing")
    assert desk.shows(plain)
