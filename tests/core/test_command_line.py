"""The same work without a browser, as the contract says."""

from __future__ import annotations

import contextlib
import io
import json
import os
import re
import subprocess
import sys
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from bench.models import write_ifc_house
from tests.conftest import box, model_of
from warmgraphite.cli import SHIPPED, main
from warmgraphite.drawing import Drawing
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.model.obj import write_obj
from warmgraphite.passes.store import PassStore
from warmgraphite.study.kit import shipped_finishes
from warmgraphite.view.specification import Frame, Parallel, Sun, ViewSpecification

VIEW = {
    "projection": {"kind": "parallel", "direction": [0, 1, 0], "centre": [1, 0, 1]},
    "cuts": [{"point": [0, 0.5, 0], "normal": [0, -1, 0]}],
    "frame": {"width": 120, "height": 90, "scale": 50, "resolution": 50},
}


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    """The command, in this process: what it says, and the status it would end with."""
    before, out, told, status = sys.argv, io.StringIO(), io.StringIO(), 0
    sys.argv = ["warmgraphite", *map(str, arguments)]
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(told):
            main()
    except SystemExit as done:
        status = int(done.code or 0)
    finally:
        sys.argv = before
    return subprocess.CompletedProcess([], status, out.getvalue(), told.getvalue())


def _packed(arguments: list, folder: Path) -> None:
    """An archive of which nothing can be made."""
    with zipfile.ZipFile(folder / "house.zip", "w") as archive:
        archive.writestr(".", b"x")
    arguments[1] = folder / "house.zip"


@pytest.fixture()
def house(scratch: Path) -> Path:
    write_obj(
        model_of(("Wall", box((0, 0, 0), (2, 1, 2)), 0), ("Beyond", box((1, 3, 0), (4, 4, 1)), 2)),
        scratch / "house.obj",
    )
    (scratch / "view.json").write_text(json.dumps(VIEW))
    return scratch / "house.obj"


def test_a_bundle_holds_every_pass_in_one_frame(house: Path, scratch: Path) -> None:
    out = scratch / "out"
    done = run("passes", house, "--view", scratch / "view.json", "--out", out, "--units", "m", "--up", "z")
    assert done.returncode == 0, done.stderr
    about = json.loads((out / "bundle.json").read_text())
    assert about["frame"] == {"width": 120, "height": 90, "pixels": [236, 177]} and about["peak_memory"] > 10
    matrix = np.array(about["world_to_frame"])
    lines = json.loads((out / "lines.json").read_text())
    assert len({len(column) for column in lines.values()}) == 1
    ends = np.array(lines["start"] + lines["end"])
    on_paper = (np.column_stack([ends, np.ones(len(ends))]) @ matrix.T)[:, :2]
    assert on_paper[:, 0].min() == pytest.approx(60 - 20) and on_paper[:, 0].max() == pytest.approx(60 + 60)
    assert set(lines["kind"]) <= {
        "cut",
        "silhouette",
        "border",
        "crease",
        "intersection",
        "material",
        "smooth",
        "terrain",
    }
    assert set(lines["rank"]) <= {"cut", "outline", "edge", "surface"} and set(lines["visible"]) == {True, False}
    (row,) = json.loads((out / "cut.json").read_text())["rows"]
    assert row["part"] == "Wall" and row["area"] == pytest.approx(4) and len(row["polygons"][0]["exterior"]) == 5
    for name in ("shadow", "shade", "alpha", "colour"):
        with Image.open(out / f"{name}.png") as picture:
            assert picture.size == (236, 177) and picture.mode == "RGBA"
            assert np.asarray(picture)[0, 0, 3] == 0  # transparent where nothing is
    assert all((out / f"drawing.{kind}").stat().st_size > 500 for kind in ("svg", "pdf", "png"))
    assert {"lines", "cut", "shadow", "shade", "alpha", "drawing"} <= set(about["passes"])


def test_a_view_speaks_of_the_files_own_coordinates_however_far_they_lie(house: Path, scratch: Path) -> None:
    move = np.array([4_500_123.5, 5_400_987.25, 120.0])
    near = model_of(("Wall", box((0, 0, 0), (2, 1, 2)), 0), ("Beyond", box((1, 3, 0), (4, 4, 1)), 2))
    matrix = np.eye(4)
    matrix[:3, 3] = move
    write_obj(near.transformed(matrix), scratch / "far.obj")
    cut = VIEW["cuts"][0]  # type: ignore[index]
    far_view = {
        **VIEW,
        "projection": {**VIEW["projection"], "centre": (np.array([1, 0, 1]) + move).tolist()},
        "cuts": [{**cut, "point": (np.array(cut["point"]) + move).tolist()}],
    }  # type: ignore[dict-item]
    (scratch / "far.json").write_text(json.dumps(far_view))
    found = {}
    for name, view in (("house", "view"), ("far", "far")):
        done = run(
            "passes",
            scratch / f"{name}.obj",
            "--view",
            scratch / f"{view}.json",
            "--out",
            scratch / name,
            "--only",
            "lines,cut",
            "--units",
            "m",
            "--up",
            "z",
        )
        assert done.returncode == 0, done.stderr
        found[name] = (
            json.loads((scratch / name / "lines.json").read_text()),
            json.loads((scratch / name / "cut.json").read_text()),
        )
    lines, far_lines = found["house"][0], found["far"][0]
    ends = [
        np.column_stack([np.array(rows["start"]) - at, np.array(rows["end"]) - at])
        for rows, at in ((lines, 0), (far_lines, move))
    ]
    gap = np.abs(ends[0][:, None] - ends[1][None]).max(2)
    partner = gap.argmin(1)
    assert len(set(partner)) == len(ends[0]) == len(ends[1]) and gap.min(1).max() < 1e-4
    for column in ("kind", "rank", "visible", "part"):
        assert [far_lines[column][k] for k in partner] == lines[column]
    exterior = [np.array(found[n][1]["rows"][0]["polygons"][0]["exterior"]) for n in ("far", "house")]
    assert np.allclose(exterior[0] - move, exterior[1], atol=1e-5) and found["far"][1]["rows"][0][
        "area"
    ] == pytest.approx(4, abs=1e-5)


@pytest.mark.deep
def test_an_ifc_file_named_from_where_one_stands(scratch: Path) -> None:
    write_ifc_house(scratch / "row.ifc", storeys=1, bays=1, sides=6)
    (scratch / "view.json").write_text(json.dumps(VIEW | {"cuts": [{"point": [0, 3.5, 0], "normal": [0, -1, 0]}]}))
    command = [
        sys.executable,
        "-m",
        "warmgraphite.cli",
        "passes",
        "row.ifc",
        "--view",
        "view.json",
        "--out",
        "out",
        "--only",
        "cut",
    ]
    done = subprocess.run(
        command,
        cwd=scratch,
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])},
    )
    assert done.returncode == 0 and done.stderr == "", done.stderr
    rows = json.loads((scratch / "out" / "cut.json").read_text())["rows"]
    assert {"Ground floor/Wall/Wall west 0", "Ground floor/Slab/Slab 0"} <= {r["part"] for r in rows}
    (scratch / "row.ifc").write_bytes((scratch / "row.ifc").read_bytes()[:5000])
    done = subprocess.run(
        command,
        cwd=scratch,
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])},
    )
    assert done.returncode == 2 and done.stderr.startswith("row.ifc breaks off") and done.stderr.count("\n") == 1


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda a, s: a.__setitem__(1, s / "none.obj"), "none.obj"),
        (lambda a, s: a.__setitem__(3, s / "none.json"), "none.json"),
        (lambda a, s: a.extend(["--only", "lines,sparkle"]), "sparkle"),
        (lambda a, s: a.extend(["--units", "ells"]), "ells"),
        (lambda a, s: a.extend(["--zoom", "2"]), "--zoom"),
        (lambda a, s: (s / "view.json").write_text('{"projection": {"kind": "fisheye"}}'), "projection"),
        (
            lambda a, s: (s / "view.json").write_text(
                json.dumps(VIEW | {"cuts": [{"point": [0, -9, 0], "normal": [0, 1, 0]}]})
            ),
            "no part",
        ),
        (lambda a, s: (s / "house.obj").write_text("v 1 2\n"), "line 1"),
        (lambda a, s: _packed(a, s), "holds no model"),
        (
            lambda a, s: (s / "view.json").write_text(
                json.dumps(VIEW | {"frame": {"width": 5000, "height": 5000, "resolution": 1200}})
            ),
            "million",
        ),
        (lambda a, s: ((s / "out").mkdir(), (s / "out" / "mine.txt").write_text("keep")), "no pass bundle"),
    ],
)
def test_wrong_input_is_one_line_and_status_two(  # type: ignore[no-untyped-def]
    house: Path, scratch: Path, change, said: str, capfd: pytest.CaptureFixture[str]
) -> None:
    arguments = ["passes", house, "--view", scratch / "view.json", "--out", scratch / "out"]
    change(arguments, scratch)
    done = run(*arguments)
    assert done.returncode == 2 and said in done.stderr and done.stderr.count("\n") == 1, done.stderr
    assert capfd.readouterr().err == ""  # and no library says more
    assert not (scratch / "out" / "bundle.json").exists() and not list(scratch.glob(".out*"))


def test_a_model_is_drawn_by_default_in_each_format(house: Path, scratch: Path) -> None:
    for kind in ("pdf", "svg", "png"):
        done = run("draw", house, "--view", scratch / "view.json", "--out", scratch / f"d.{kind}", "--resolution", 40)
        assert done.returncode == 0, done.stderr
        assert (scratch / f"d.{kind}").stat().st_size > 1000


def test_a_finish_is_laid_over_a_drawing_or_refused_in_one_line(house: Path, scratch: Path) -> None:
    pens = {"cut": {"weight": 1.11, "colour": "#aa0000"}}
    (scratch / "bold.json").write_text(
        json.dumps(
            {"format": 1, "name": "Bold", "pens": pens, "traces": [{"kind": "lines", "id": "l", "name": "All lines"}]}
        )
    )
    (scratch / "odd.json").write_text(json.dumps({"format": 1, "shine": 1.0}))
    (scratch / "picture.json").write_bytes(bytes(range(256)))

    def draw(finish: str) -> subprocess.CompletedProcess[str]:
        return run("draw", house, "--view", scratch / "view.json", "--out", scratch / "a.svg", "--finish", finish)

    done = draw(str(scratch / "bold.json"))
    assert done.returncode == 0 and done.stderr == "", done.stderr
    text = (scratch / "a.svg").read_text()
    assert (
        'stroke-width="1.11"' in text and "#aa0000" in text and 'data-name="All lines"' in text and "poche" not in text
    )
    worn = draw("Night sheet")
    assert worn.returncode == 0 and worn.stderr == "", worn.stderr
    names = {t.name for t in shipped_finishes()["Night sheet"].traces}
    shown = set(re.findall(r'data-name="([^"]+)"', (scratch / "a.svg").read_text()))
    assert names <= shown and "All lines" not in shown
    for name, said in (
        ("none.json", "“Night sheet”"),
        ("odd.json", "“shine” is not a field"),
        ("picture.json", "no finish"),
        ("none.json", "“Graphite and wash”"),
    ):
        refused = draw(str(scratch / name))
        assert refused.returncode == 2 and said in refused.stderr and refused.stderr.count("\n") == 1, refused.stderr


def test_what_is_nested_without_end_is_one_line_and_a_board_that_shows_nothing_waits_for_no_other(
    house: Path, scratch: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file, out = scratch / "deep.json", scratch / "a.pdf"
    for text in ("[" * 90_000, '{"format": 1, "page": ' + '{"a": ' * 300 + "1" + "}" * 301):
        file.write_text(text)
        for words in (("board", file, "--out", out), ("draw", house, "--drawing", file, "--out", out)):
            done = run(*words)
            assert (done.returncode, done.stderr.count("\n")) == (2, 1) and "nested deeper" in done.stderr, done.stderr
    away = {**VIEW, "cuts": [{"point": [0, 50, 0], "normal": [0, -1, 0]}]}
    rows = [
        {"id": n, "model": str(house), "drawing": {"format": 1, "view": v}} for n, v in (("one", VIEW), ("away", away))
    ]
    file.write_text(json.dumps({"format": 1, "drawings": rows}))
    monkeypatch.setattr(TiledDrawing, "compute_picture", lambda *_: pytest.fail("something was computed"))
    done = run("board", file, "--out", out)
    assert done.returncode == 2 and "“away”" in done.stderr and not out.exists(), done.stderr


def test_the_finishes_that_come_with_it_are_told_by_name_where_one_asks_for_help() -> None:
    assert set(SHIPPED) == set(shipped_finishes())
    said = re.sub(r"[\s│]+", " ", run("draw", "--help").stdout)
    assert all(name in said for name in SHIPPED)


def test_a_drawing_file_is_drawn_without_a_study(house: Path, scratch: Path) -> None:
    view = json.loads((scratch / "view.json").read_text())
    pens = [
        {
            "where": {"kind": "match", "ranks": ["cut", "outline"], "hidden": False},
            "pen": {"weight": 0.77, "colour": "#0000aa"},
        }
    ]
    red = [{"where": {"kind": "match"}, "fills": [{"kind": "flat", "colour": "#cc0000"}]}]
    finish = {"pens": pens, "poche": red, "traces": [{"kind": "poche"}, {"kind": "lines"}]}
    drawing = {"format": 1, "view": view, "finish": finish, "sheet": {"title": "By file", "margin": 5}}
    (scratch / "d.json").write_text(json.dumps(drawing))
    draw = lambda *more: run("draw", house, "--out", scratch / "d.svg", *more)
    done = draw("--drawing", scratch / "d.json")
    assert done.returncode == 0 and done.stderr == "", done.stderr
    text = (scratch / "d.svg").read_text()
    assert "#0000aa" in text and 'fill="#cc0000"' in text and "By file" in text
    person = {"kind": "person", "pose": "walking", "at": [2.6, 1.5, 0.0], "turn": 30, "height": 1.72, "seed": 3}
    (scratch / "d.json").write_text(json.dumps(drawing | {"figures": [person]}))
    assert (
        draw("--drawing", scratch / "d.json").returncode == 0
        and 'data-name="figure outlines"' in (scratch / "d.svg").read_text()
    )
    (scratch / "d.json").write_text(json.dumps(drawing | {"notes": [{}]}))
    for words, said in (
        ((), "Say what to draw"),
        (("--drawing", scratch / "d.json"), "there is no kind of note"),
        (("--drawing", scratch / "e.json"), "no drawing file"),
    ):
        refused = draw(*words)
        assert refused.returncode == 2 and said in refused.stderr and refused.stderr.count("\n") == 1, refused.stderr


def test_only_what_depends_on_a_change_is_computed_again(scratch: Path) -> None:
    model = model_of(("Wall", box((0, 0, 0), (2, 1, 2)), 0))
    store = PassStore(scratch / "passes")
    view = ViewSpecification(
        projection=Parallel(direction=(0.3, 1, -0.4)), frame=Frame(width=60, height=40, resolution=40)
    )
    first = Drawing(model, view, store=store)
    assert not any(first.fresh().values())
    first.compute()
    again = Drawing(model, view, store=store)
    assert all(again.fresh().values())
    again.compute()
    assert again.seconds == {}
    stale = lambda **changes: {
        name
        for name, fresh in Drawing(model, view.model_copy(update=changes), store=store).fresh().items()
        if not fresh
    }
    assert stale(sun=Sun(azimuth=10)) == {"light"}
    assert stale(name="Other") == set()
    assert stale(projection=Parallel(direction=(0, 1, 0))) == {"frame", "strokes", "surface", "light"}
    assert stale(frame=view.frame.model_copy(update={"resolution": 30})) == {"surface", "light"}
    kept = Drawing(model, view, store=store)
    assert kept.lines().from_mm == pytest.approx(first.lines().from_mm)
    surface = store.path(kept.key("surface"))
    lines, whole = store.path(kept.key("lines")), surface.read_bytes()
    for path, damaged in ((lines, b"damaged"), (surface, whole[:-900]), (surface, whole[:400]), (surface, b"")):
        path.write_bytes(damaged)
        again = Drawing(model, view, store=store)
        assert len(again.lines()) == len(first.lines())  # a damaged file is computed anew
        assert np.array_equal(again.surface().distance, first.surface().distance)


def test_kept_arrays_lie_ready_in_a_file_that_others_read(scratch: Path) -> None:
    store = PassStore(scratch / "kept")
    chance = np.random.default_rng(3)
    arrays = {
        "a": chance.random((90, 200)), "by columns": np.asfortranarray(chance.random((120, 90))),
        "bytes": np.full((400, 301), 7, np.uint8),
        "small": np.arange(5), "none": np.empty((0, 4), np.float32), "one": np.array(3),
        "long name" * 9: chance.integers(0, 9, (70, 300)),
    }  # fmt: skip
    store.save("k", arrays)
    found = store.load("k") or {}
    assert set(found) == set(arrays)
    for name, array in arrays.items():
        assert found[name].dtype == array.dtype and np.array_equal(found[name], array), name
        assert found[name].flags.aligned and found[name].flags.writeable
    with np.load(store.path("k")) as others:
        assert all(np.array_equal(others[n], arrays[n]) for n in ("a", "by columns", "bytes"))
    # It may be written to, which leaves the file as it is; and outlives it.
    found["a"][:] = 7
    assert np.array_equal((store.load("k") or {})["a"], arrays["a"])
    store.path("k").unlink()
    assert (found["bytes"] == 7).all() and store.load("k") is None
