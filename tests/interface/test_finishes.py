"""Finishes at the Collage bench: what a view changes for itself, and what all who wear a finish have."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys

from tests.interface.desk import Desk
from warmgraphite.study import StudyDocument


@pytest.mark.deep
def test_a_finish_is_changed_for_one_view_or_for_all_kept_laid_over_written_and_taken_in(
    desk: Desk, downloads: Path
) -> None:
    desk.open()
    plain = desk.picture()
    desk.bench("Collage")

    def opacity(view: int) -> float:
        document = StudyDocument.model_validate(desk.study()["document"])
        return next(t.opacity for t in document.look_of(document.views[view]).traces if t.id == "poche")

    desk.trace("Poche")
    desk.type_into("Opacity", "50")
    pale = desk.changed(plain)
    desk.find("//section[@aria-label='Finishes']//li[contains(., 'Poche: opacity') and contains(., '50 %, not 100 %')]")
    assert (opacity(0), opacity(1)) == (0.5, 1.0)
    desk.press("drop: Poche: opacity")
    assert desk.shows(plain)
    desk.press("Undo")
    assert desk.shows(pale)
    desk.press("give back: Poche: opacity")
    desk.wait(lambda: opacity(1) == 0.5, "the finish did not take it")
    # For all that wear the finish at once.
    desk.find("//button[@aria-pressed='false' and starts-with(normalize-space(), 'all in')]").click()
    desk.type_into("Opacity", "70")
    all_of_them = desk.changed(pale)
    assert (opacity(0), opacity(1)) == (0.7, 0.7) and desk.study()["own"] == []
    # Kept under a name, and the first laid over again.
    desk.find("//button[@aria-pressed='false' and normalize-space()='this view']").click()
    desk.type_into("Opacity", "20")
    faint = desk.changed(all_of_them)
    desk.press("Keep as …")
    desk.find("//input[@aria-label='Name of the new finish']").send_keys("Faint", Keys.ENTER)
    desk.find("//section[@aria-label='Finishes']//li[contains(., 'Faint') and contains(., 'here')]")
    desk.press("Graphite and wash")
    desk.press("Compare")
    desk.find("//ul[@aria-label='What it would change']/li[contains(., '20 % → 70 %')]")
    assert desk.serious_findings() == []
    desk.press("Lay over")
    assert desk.shows(all_of_them)
    # Written to a file, and taken in from it.
    desk.press("Faint")
    desk.press("Write to a file")
    file = desk.wait(lambda: next(iter(downloads.glob("*.json")), None), "no finish came down")
    desk.find("//input[@aria-label='Finish file']").send_keys(str(file))
    desk.find("//section[@aria-label='Finishes']//li[contains(., 'Faint 2') and contains(., 'here')]")
    assert desk.shows(faint)


@pytest.mark.deep
def test_a_trace_of_any_kind_is_laid_on_top_set_by_its_own_form_and_removed(desk: Desk) -> None:
    desk.open()
    plain = desk.picture()
    desk.bench("Collage")
    traces = lambda: desk.study()["look"]["traces"]
    count = len(traces())
    desk.take("sheets", "Wire")
    desk.press("Lay it over all")
    wired = desk.changed(plain)
    assert traces()[-1] == traces()[-1] | {"kind": "wire", "id": "wire", "weight": 0.07, "behind": True}
    desk.type_into("Weight", "0.4")
    heavy = desk.changed(wired)
    desk.choose("Dash", "dashed")
    desk.changed(heavy)
    desk.choose("Confined to", "set Shell only")
    desk.wait(
        lambda: traces()[-1]["where"]["sets"] == ["Shell only"] and traces()[-1]["dash"] == [1.6, 0.9],
        "the form did not set it",
    )
    desk.take("sheets", "Wire")
    desk.press("Lay it over all")
    desk.wait(lambda: (traces()[-1]["id"], traces()[-1]["name"]) == ("wire-2", "Wire 2"), "no second one")
    assert desk.serious_findings() == []
    desk.press("Remove this trace")
    desk.trace("Wire")
    desk.press("Remove this trace")
    assert desk.shows(plain) and len(traces()) == count
