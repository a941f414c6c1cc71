"""Boards: drawings at their true scale on one page, in line by axes and levels, cut to shapes.
Judged by the file that leaves the house.
"""

from __future__ import annotations

import datetime
import json
import re
import subprocess
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pytest
from PIL import Image

from tests.conftest import box, model_of
from tests.core.test_command_line import run as command
from tests.core.test_notes import group, house, level_cut, words
from warmgraphite.board.file import read_board, write_board_file
from warmgraphite.board.lines import lie_of, placed, share_a_line
from warmgraphite.board.specification import Board, BoardText, Page, PlacedDrawing, TitleBlock
from warmgraphite.board.write import write_board
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.drawing import Drawing
from warmgraphite.errors import OutputError, ViewError
from warmgraphite.model.glb import write_glb
from warmgraphite.study import Look, StudyDocument, fresh_document
from warmgraphite.study.boards import change_boards, extend_page
from warmgraphite.study.changes import Change
from warmgraphite.study.lifting import lifted_look
from warmgraphite.study.placed_drawings import in_study, made_ready
from warmgraphite.study.views import remove_view
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, ViewSpecification

LOOK = Look(
    traces=(Paper(id="paper", name="Paper"), PocheTrace(id="poche", name="Poche"), LinesTrace(id="lines", name="Lines"))
)
SECTION = ViewSpecification(
    name="Section",
    projection=Parallel(direction=(0, 1, 0)),
    cuts=(Cut(point=(0, 2.5, 0), normal=(0, -1, 0)),),
    frame=Frame(width=210, height=120, scale=100),
)
PLAN = ViewSpecification(
    name="Plan",
    projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(3, 2, 0)),
    cuts=(level_cut(),),
    frame=Frame(width=180, height=150, scale=100),
)
FRONT = ViewSpecification(
    name="Front",
    projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1)),
    frame=Frame(width=150, height=90, scale=100),
)
SIDE = ViewSpecification(
    name="Side",
    projection=Parallel(direction=(-1, 0, 0), centre=(0, 1, 2)),
    frame=Frame(width=120, height=110, scale=100),
)
EYE = ViewSpecification(
    name="Eye", projection=Perspective(eye=(-6, -9, 2), target=(4, 3, 1)), frame=Frame(width=200, height=140)
)
QUIET = TitleBlock(on=False)


def study() -> StudyDocument:
    return fresh_document(
        "Test house",
        [SECTION, PLAN, FRONT, SIDE, EYE],
        {"Plain": LOOK},
        {v.name: "Plain" for v in (SECTION, PLAN, FRONT, SIDE, EYE)},
    )


def on(view: str, **said: Any) -> PlacedDrawing:
    return PlacedDrawing(id=view.lower(), view=view, **said)


def written(board: Board, path: Path, **said: Any) -> Path:
    document, model = study(), house()
    ready = made_ready(board, lambda row: in_study(row, document, model), path.parent / "tiles", 60)
    write_board(board, ready, path, study=document.name, resolution=60, date=datetime.date(2026, 3, 4), **said)
    return path


def x_of(element: ET.Element) -> np.ndarray:
    """(N, 2) all points of paths and shapes below an element, on the page: moved by the groups that they lie in."""
    out: list[np.ndarray] = []

    def walk(node: ET.Element, move: np.ndarray) -> None:
        found = re.match(r"matrix\(([^)]*)\)", node.get("transform", ""))
        if found:
            move = move + [float(v) for v in re.split(r"[ ,]+", found[1].strip())][4:6]
        if node.tag.endswith("path"):
            numbers = [float(v) for v in re.findall(r"-?\d+\.?\d*(?:e-?\d+)?", node.get("d", ""))]
            out.append(np.array(numbers).reshape(-1, 2) + move)
        for child in node:
            if not child.tag.endswith("clipPath"):
                walk(child, move)

    walk(element, np.zeros(2))
    return np.concatenate(out)


def test_plan_under_section_and_elevation_beside_stand_in_line_to_a_hundredth_of_a_millimetre(tmp_path: Path) -> None:
    """By what is drawn: the same wall of the model, in the SVG, lies under itself, and the same floor beside itself."""
    rows = (
        on("Section", at=(40, 30)), on("Plan", at=(9, 200), line_x="section"),
        on("Front", at=(300, 7), line_y="section"),
        on("Side", at=(480, 7), line_y="front"),
    )  # fmt: skip
    board = Board(page=Page(width=841, height=594), drawings=rows, block=QUIET)
    svg = ET.parse(written(board, tmp_path / "a.svg")).getroot()
    at = {
        name: x_of(group(svg, f"Drawing {mark} {name}")[0])
        for mark, name in zip("ABCD", ("Section", "Plan", "Front", "Side"), strict=True)
    }
    # The house is 7.9 m long and stands between 0 and 7.9: its ends are the extremes of what is drawn in each.
    for one, other, way in (("Section", "Plan", 0), ("Section", "Front", 1), ("Front", "Side", 1)):
        a, b = at[one][:, way], at[other][:, way]
        assert abs(a.min() - b.min()) < 0.01 or abs(a.max() - b.max()) < 0.01, (one, other)
    assert np.ptp(at["Plan"][:, 0]) == pytest.approx(79, abs=0.6)
    # They keep in line when the first is moved, and when its view is framed otherwise.
    document, model = study(), house()
    lies = {r.id: lie_of(Drawing(model, in_study(r, document, model).view).paper) for r in rows}
    there = placed(board, lies)
    moved = placed(
        board.model_copy(update={"drawings": (rows[0].model_copy(update={"at": (90, 55)}), *rows[1:])}), lies
    )
    assert moved["plan"][0] - there["plan"][0] == pytest.approx(50) and moved["plan"][1] == 200
    assert moved["side"][1] - there["side"][1] == pytest.approx(25)
    # What shows no common line has none: other scales, other directions, perspectives.
    eye = lie_of(Drawing(model, EYE).paper)
    coarse = lie_of(Drawing(model, SECTION.model_copy(update={"frame": Frame(width=210, height=120, scale=50)})).paper)
    assert (
        eye is None
        and share_a_line(lies["section"], coarse, "x") is None
        and share_a_line(lies["plan"], lies["side"], "x") is None
    )
    assert share_a_line(lies["plan"], lies["front"], "y") is None


def test_a_drawing_at_another_scale_shows_the_same_on_less_paper_and_its_levels_are_in_line(tmp_path: Path) -> None:
    rows = (
        on("Front", at=(20, 20)),
        on("Section", at=(200, 20), scale=200, frame=()),
        on("Side", at=(400, 20), scale=200, line_y="section"),
    )
    board = Board(page=Page(width=600, height=200), drawings=rows, block=QUIET)
    svg = ET.parse(written(board, tmp_path / "a.svg")).getroot()
    front, section = (x_of(group(svg, f"Drawing {m} {n}")[0]) for m, n in (("C", "Front"), ("A", "Section")))
    assert np.ptp(section[:, 0]) == pytest.approx(np.ptp(front[:, 0]) / 2, abs=0.4)
    side = x_of(group(svg, "Drawing D Side")[0])
    assert abs(side[:, 1].max() - section[:, 1].max()) < 0.01
    assert any("1:200" in w for g in group(svg, "Caption") for w in words(g))


def test_frames_cut_drawings_to_any_shape_and_nothing_of_them_is_seen_beside(tmp_path: Path) -> None:
    shape = ((60.0, 20.0), (150.0, 40.0), (120.0, 110.0), (70.0, 90.0))
    board = Board(
        page=Page(width=300, height=200, colour="#ffffff"),
        drawings=(on("Plan", at=(50, 20), frame=shape, caption_on=False, paper="own"),),
        block=QUIET,
    )
    pixels = np.asarray(Image.open(written(board, tmp_path / "a.png")).convert("L"))
    y, x = np.nonzero(pixels < 250)
    import shapely

    inside = shapely.Polygon(shape).buffer(0.6)
    spots = np.column_stack([(x + 0.5) / pixels.shape[1] * 300 - 50, (y + 0.5) / pixels.shape[0] * 200 - 20])
    assert len(spots) > 2000 and shapely.contains_xy(inside, spots[:, 0], spots[:, 1]).all()
    assert pixels.shape == (round(200 / 25.4 * 60), round(300 / 25.4 * 60))


def test_pages_numbers_title_block_and_fields_are_alike_on_all_pages(tmp_path: Path) -> None:
    texts = (BoardText(text="{study}, {views}", at=(20, 10), page=0, face="serif"),)
    rows = (on("Section", at=(20, 20)), on("Plan", at=(20, 20), page=2), on("Eye", at=(220, 20), page=2))
    board = Board(name="Sheet one", pages=2, page=Page(width=420, height=297), drawings=rows, texts=texts, numbers=True)
    pdf = pikepdf.open(written(board, tmp_path / "a.pdf"))
    assert len(pdf.pages) == 2
    for page in pdf.pages:
        assert [
            round(float(v) * 25.4 / 72, 2)
            for v in (page.mediabox[2] - page.mediabox[0], page.mediabox[3] - page.mediabox[1])
        ] == [420, 297]
    for number, views, scales in ((1, "Section", "1:100"), (2, "Plan, Eye", "1:100")):
        said = words(ET.parse(written(board, tmp_path / f"{number}.svg", page=number)).getroot())
        for text in (f"Test house, {views}", "Sheet one", scales, "4 March 2026", f"{number} of 2", "Test house"):
            assert text in said, (text, said)
    with pytest.raises(OutputError, match="none of number 3"):
        written(board, tmp_path / "c.svg", page=3)


def test_room_is_made_on_one_side_without_moving_what_stands_there() -> None:
    document = change_boards(
        study(),
        [
            Change(
                path=("boards", "board-1"),
                value={
                    "id": "board-1",
                    "name": "B",
                    "drawings": [{"view": "view-1", "at": [40, 50]}],
                    "texts": [{"at": [5, 6], "text": "a"}],
                },
            )
        ],
    )
    wider = extend_page(extend_page(document, "board-1", "left", 30), "board-1", "bottom", -20).boards[0]
    assert (wider.page.width, wider.page.height, wider.drawings[0].at, wider.texts[0].at) == (
        871,
        574,
        (70, 50),
        (35, 6),
    )
    with pytest.raises(ViewError, match="between 20 and 5000"):
        extend_page(document, "board-1", "right", -840)
    # A view that goes takes its drawings along, and what was in line with them stands by itself.
    two = change_boards(
        document,
        [
            Change(
                path=("boards", "board-1", "drawings", "b"), value={"id": "b", "view": "view-2", "line_x": "drawing-1"}
            )
        ],
    )
    left = remove_view(two, "view-1").boards[0].drawings
    assert [(d.id, d.line_x) for d in left] == [("b", "")]


def test_a_board_file_is_drawn_without_a_study_and_says_what_is_wrong_with_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.delenv("WARMGRAPHITE_STUDIES", raising=False)  # there are none
    write_glb(model_of(("Block", box((0, 0, 0), (4, 3, 3)), 0)), tmp_path / "house.glb")
    view = {
        "projection": {"kind": "parallel", "direction": [0, 1, 0]},
        "frame": {"width": 120, "height": 90, "scale": 50},
    }
    drawing = {"format": 1, "view": view, "finish": {"traces": [{"kind": "lines"}]}}
    (tmp_path / "d.json").write_text(json.dumps(drawing))
    data: dict[str, Any] = {
        "format": 1, "page": {"width": 300, "height": 200}, "texts": [{"text": "Two of a kind", "at": [20, 15]}],
        "drawings": [{"drawing": drawing, "model": "house.glb", "at": [30, 40]},
            {"drawing": "d.json", "model": "house.glb", "at": [160, 11], "line_y": "drawing-1"}],
    }  # fmt: skip

    def run(board: Any, out: str) -> subprocess.CompletedProcess[str]:
        (tmp_path / "b.json").write_text(json.dumps(board))
        return command("board", tmp_path / "b.json", "--out", tmp_path / out)

    done = run(data, "b.svg")
    assert done.returncode == 0 and done.stderr == "", done.stderr
    svg = ET.parse(tmp_path / "b.svg").getroot()
    assert "Two of a kind" in words(svg)
    first, second = (x_of(g) for g in group(svg, "Drawing"))
    assert np.ptp(first[:, 0]) == pytest.approx(80, abs=0.4) and abs(first[:, 1].max() - second[:, 1].max()) < 0.01
    assert run(data, "b.pdf").returncode == 0 and run(data, "b.png").returncode == 0
    for broken, said in (
        ({**data, "shine": 1}, "“shine” is not a field"), ({**data, "format": 9}, "newer version"),
        ({"page": {}}, "no “format”"),
        ({**data, "drawings": [{"model": "house.glb"}]}, "neither a “drawing” nor a “view”"),
        ({**data, "drawings": [{"drawing": drawing}]}, "says no “model”"),
        ({**data, "drawings": [{"drawing": "none.json", "model": "house.glb"}]}, "no drawing file"),
        ({**data, "drawings": [{"drawing": drawing, "model": "gone.glb"}]}, "gone.glb"),
        ({**data, "drawings": [{**data["drawings"][0], "id": "a", "line_x": "b"},
            {**data["drawings"][0], "id": "b", "line_x": "a"}]}, "keep in line with the other"),
        ({**data, "texts": [{"text": "x", "page": 4}]}, "stands on page 4"),
    ):  # fmt: skip
        refused = run(broken, "c.pdf")
        assert (
            refused.returncode == 2
            and said in refused.stderr
            and refused.stderr.count("\n") == 1
            and not (tmp_path / "c.pdf").exists()
        ), refused.stderr
    board = read_board(json.dumps(data))
    assert read_board(write_board_file(board)) == board


def test_pale_lines_bring_their_dark_paper_to_a_light_page(tmp_path: Path) -> None:
    night = Look(traces=(Paper(id="paper", name="Paper", colour="#27323a"), LinesTrace(id="lines", name="Lines")))
    document, model = fresh_document("T", [FRONT], {"Night": night}, {"Front": "Night"}), house()
    for paper, dark in (("auto", True), ("none", False)):
        board = Board(
            page=Page(width=200, height=120, colour="#ffffff"),
            drawings=(on("Front", at=(20, 10), caption_on=False, paper=paper),),
            block=QUIET,
        )
        ready = made_ready(board, lambda row: in_study(row, document, model), tmp_path / paper, 40)
        write_board(board, ready, tmp_path / "a.png", resolution=40)
        pixels = np.asarray(Image.open(tmp_path / "a.png").convert("L"))
        corner = pixels[round(15 / 120 * pixels.shape[0]), round(25 / 200 * pixels.shape[1])]
        assert (corner < 90) == dark and pixels[2, 2] > 250


def test_a_drawing_is_lifted_on_one_board_and_stays_what_it_is_elsewhere(tmp_path: Path) -> None:
    rows = (on("Front", at=(20, 10), lift=0.6, black=0.1), PlacedDrawing(id="plain", view="Front", at=(20, 120)))
    board = Board(page=Page(width=200, height=220), drawings=rows, block=QUIET)
    svg = ET.parse(written(board, tmp_path / "a.svg")).getroot()
    lifted, plain = group(svg, "Drawing C Front")
    strokes = [
        {(e.get("stroke"), float(e.get("stroke-width", 0))) for e in g.iter() if e.get("stroke", "none")[:1] == "#"}
        for g in (lifted, plain)
    ]
    light = [min(sum(int(c[i : i + 2], 16) for i in (1, 3, 5)) for c, _ in found) for found in strokes]
    assert light[0] > light[1] + 60, "ink is paler, and ink still"
    wide = [max(w for _, w in found) for found in strokes]
    assert wide[0] == pytest.approx(0.85 * wide[1], rel=0.01)
    # Said once more by a view that is lifted itself it is not lifted twice.
    look = study().drawn_look(study().views[2])
    once = lifted_look(look, 0.6, 0.1)
    assert lifted_look(once, 0.4, 0.05) == once and lifted_look(once, 0.0, 0.0) == once
    assert lifted_look(once, 0.8, 0.1).weight == pytest.approx(0.8 * look.weight)
