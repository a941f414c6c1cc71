"""The set: every view and board, nothing twice, gone on with where it was stopped, and a contact sheet of all."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2
import pytest
from PIL import Image

from tests.core.test_boards import LOOK, QUIET, house, on, study
from warmgraphite.board.specification import Board, Page
from warmgraphite.errors import Cancelled, OutputError
from warmgraphite.out.settings import OutSettings
from warmgraphite.series import draw as drawing_of
from warmgraphite.series.contact import CONTACT_SHEET
from warmgraphite.series.draw import draw_set
from warmgraphite.series.kept import KeptSet
from warmgraphite.series.plan import SeriesSettings, plan_of
from warmgraphite.study import StudyDocument
from warmgraphite.study.finish import Finish

PALE = LOOK.model_copy(update={"weight": 0.5})
SMALL = OutSettings(resolution=40)


def document() -> StudyDocument:
    board = Board(
        id="b1",
        name="Panel: one?",
        page=Page(width=300, height=200),
        drawings=(on("Section", at=(5, 5)),),
        block=QUIET,
        pages=2,
    )
    found = study()
    pale = Finish.model_validate({"id": "finish-9", "name": "Pale", **PALE.model_dump()})
    return found.model_copy(update={"boards": (board,), "finishes": (*found.finishes, pale)})


def made(folder: Path, monkeypatch: pytest.MonkeyPatch | None = None, **said: Any) -> list[str]:
    """Draw a set; gives what was really drawn."""
    seen: list[str] = []
    whole = drawing_of.write_drawing, drawing_of.write_board

    def counting(what: Any) -> Any:
        def write(*words: Any, **more: Any) -> None:
            seen.append(next(w.name for w in words if isinstance(w, Path)))
            what(*words, **more)

        return write

    drawing_of.write_drawing, drawing_of.write_board = map(counting, whole)  # type: ignore[assignment]
    try:
        draw_set(said.pop("document", document()), house(), SeriesSettings(out=SMALL, **said), folder)
    finally:
        drawing_of.write_drawing, drawing_of.write_board = whole
    return seen


def test_a_set_is_drawn_once_and_only_what_changed_is_drawn_anew(tmp_path: Path) -> None:
    folder = tmp_path / "set"
    files = ["A Section.pdf", "B Plan.pdf", "C Front.pdf", "D Side.pdf", "E Eye.pdf", "Panel one.pdf"]
    assert made(folder) == files
    assert sorted(p.name for p in folder.iterdir()) == sorted([*files, CONTACT_SHEET, "set.json", "small"])
    with pypdfium2.PdfDocument(folder / "Panel one.pdf") as pdf:
        assert len(pdf) == 2 and [v * 25.4 / 72 for v in pdf[0].get_size()] == pytest.approx([300, 200], abs=0.01)
    before = {n: (folder / n).read_bytes() for n in files}
    assert made(folder) == [] and before == {n: (folder / n).read_bytes() for n in files}
    # Another view, another scale of it on the board: just these two.
    changed = document()
    views = [v.model_copy(update={"view": v.view.model_copy(update={"name": "Front, late"})}) if v.view.name == "Front"
        else v for v in changed.views]  # fmt: skip
    board = changed.boards[0].model_copy(update={"drawings": (on("Section", at=(8, 5)),)})
    changed = changed.model_copy(update={"views": tuple(views), "boards": (board,)})
    assert made(folder, document=changed) == ["C Front, late.pdf", "Panel one.pdf"]
    assert not (folder / "C Front.pdf").exists()  # what it was called before is gone with it
    # A file that was taken away is drawn again; another finish is another set.
    (folder / "B Plan.pdf").unlink()
    assert made(folder, document=changed) == ["B Plan.pdf"]
    assert len(made(folder, document=changed, finish="Pale")) == 6


def test_one_that_was_stopped_goes_on_where_it_was(tmp_path: Path) -> None:
    told: list[str] = []

    def stop_at_third(stage: str, fraction: float) -> None:
        assert 0 <= fraction <= 1
        told.append(stage)
        if stage.startswith("3 of"):
            raise Cancelled("The set")

    with pytest.raises(Cancelled):
        draw_set(document(), house(), SeriesSettings(out=SMALL), tmp_path / "set", watch=stop_at_third)
    there = KeptSet.of(tmp_path / "set")
    assert sorted(there.rows) == ["A Section.pdf", "B Plan.pdf"] and any(s.startswith("2 of 6: Plan") for s in told)
    assert not list((tmp_path / "set").glob(".*"))  # nothing half-made
    assert made(tmp_path / "set") == ["C Front.pdf", "D Side.pdf", "E Eye.pdf", "Panel one.pdf"]
    # A damaged list of what is there is no reason to stop.
    (tmp_path / "set" / "set.json").write_text('{"format": 1, "draw')
    assert len(made(tmp_path / "set")) == 6


def test_views_are_chosen_by_name_and_pages_are_files_where_a_format_holds_one(tmp_path: Path) -> None:
    assert made(tmp_path / "a", views=("B", "Panel: one?"), format="png") == [
        "B Plan.png",
        "Panel one 1.png",
        "Panel one 2.png",
    ]
    assert Image.open(tmp_path / "a" / "Panel one 2.png").size == (472, 315)
    small = sorted((tmp_path / "a" / "small").glob("*.png"))
    assert len(small) == 3 and all(max(Image.open(p).size) <= 640 for p in small)
    for wrong, words in (
        ({"views": ("Nowhere",)}, "no view and no board “Nowhere”.*“Section”"),
        ({"finish": "Gone"}, "no finish “Gone”.*“Plain”"),
        ({"format": "bmp"}, "“bmp” is no format"),
    ):
        with pytest.raises(OutputError, match=words):
            plan_of(document(), house(), SeriesSettings(**wrong))  # type: ignore[arg-type]
    (tmp_path / "b").mkdir()
    (tmp_path / "b" / "letter.txt").write_text("mine")
    with pytest.raises(OutputError, match="holds other files and no set"):
        draw_set(document(), house(), SeriesSettings(out=SMALL), tmp_path / "b")
    assert (tmp_path / "b" / "letter.txt").read_text() == "mine"


def test_a_view_that_cannot_be_drawn_is_told_and_the_others_are_drawn(tmp_path: Path) -> None:
    found = document()
    lost = found.views[2].view.model_copy(
        update={"parts": found.views[2].view.parts.model_copy(update={"hidden": ("*",)})}
    )
    views = tuple(v.model_copy(update={"view": lost}) if v.mark == "C" else v for v in found.views)
    desk = found.desk.model_copy(update={"view_id": found.views[0].id, "view": found.views[0].view})
    items = draw_set(
        found.model_copy(update={"views": views, "desk": desk}), house(), SeriesSettings(out=SMALL), tmp_path / "set"
    )
    assert [bool(i.problem) for i in items] == [False, False, True, False, False, False]
    assert "shows no part" in items[2].problem and not (tmp_path / "set" / "C Front.pdf").exists()


def test_the_contact_sheet_shows_all_with_their_names(tmp_path: Path) -> None:
    made(tmp_path / "set")
    with pypdfium2.PdfDocument(tmp_path / "set" / CONTACT_SHEET) as pdf:
        text = pdf[0].get_textpage().get_text_range()
        page = pdf[0].render(scale=1).to_numpy()[..., 2::-1].astype(int)
    words = " ".join(text.split())
    assert all(said in words for said in ("Test house", "6 drawings", "A Section", "E Eye", "Panel: one?")), words
    with pikepdf.open(tmp_path / "set" / CONTACT_SHEET) as pdf_:
        pictures = [o for o in pdf_.objects if isinstance(o, pikepdf.Stream) and o.get("/Subtype") == "/Image"]
        assert len(pictures) == 6 and [float(v) * 25.4 / 72 for v in pdf_.pages[0].mediabox[2:3]] == pytest.approx(
            [420], abs=0.01
        )
    assert np.abs(page - page[0, 0]).max(2).mean() > 2
    assert json.loads((tmp_path / "set" / "set.json").read_text())["format"] == 1
