"""Drawings and bodies of one's own as figures: strokes stay strokes, bodies stay bodies."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

import numpy as np
import pytest
import trimesh
from lxml import etree
from trimesh.visual.material import PBRMaterial

from tests.conftest import DEEP, deeper
from tests.core.test_figures import ELEVATION, RAIL, SLANT, WALL, figures_lines, view_of, yard
from warmgraphite.collage.kinds.cut_outs import CutOutsTrace
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.errors import PictureError
from warmgraphite.figures.bodies import height_of
from warmgraphite.figures.choosing import Marked
from warmgraphite.figures.figure import Figure
from warmgraphite.figures.kinds.body import Body
from warmgraphite.figures.kinds.cut_out import CutOut
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.specification import ViewSpecification

#: A person 1.7 m tall at 1:10, on a white page: a white shirt, blue legs with a gap between them, a head; strokes of
#: 0.5 and 0.25 mm.
DRAWN = """<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="170mm" viewBox="0 0 60 170">
<rect width="60" height="170" fill="#ffffff"/>
<path d="M20 60 L40 60 L44 110 L16 110 Z" fill="#ffffff" stroke="#222222" stroke-width="0.5"/>
<path d="M18 110 L28 110 L28 169.75 L20 169.75 Z M32 110 L42 110 L40 169.75 L32 169.75 Z" fill="#7788aa" stroke="#222222" stroke-width="0.5"/>
<circle cx="30" cy="12.125" r="12" fill="#e0b090" stroke="#aa3322" stroke-width="0.25"/>
<path d="M24 75 C 28 80 32 80 36 75" fill="none" stroke="#aa3322" stroke-width="0.25"/>{more}</svg>"""
TRACES = (CutOutsTrace(id="c", name="C"), LinesTrace(id="l", name="L"))


@pytest.fixture(scope="module")
def kept(tmp_path_factory: pytest.TempPathFactory) -> KeptPictures:
    return KeptPictures(tmp_path_factory.mktemp("stock") / "kept")


def taken(kept: KeptPictures, text: str) -> str:
    path = kept.folder.parent / "drawn.svg"
    path.write_text(text)
    return kept.take_in(path, path.name).digest


def drawn(kept: KeptPictures, view: ViewSpecification, figure: Figure, *more) -> Drawing:  # type: ignore[no-untyped-def]
    figure = figure.model_copy(update={"id": "mine"})
    drawing = Drawing(yard(*more), view, (480, 320), ink=Marked(figures=(figure,)), pictures=kept)
    drawing.compute(needs_of(TRACES, drawing.ink))
    return drawing


def strokes(drawing: Drawing, path: Path) -> dict[tuple[str, float], np.ndarray]:
    """The strokes within figures in the SVG that is written, by colour and weight in millimetres: points of them."""
    write_drawing(drawing.plate(), TRACES, Sheet(margin=0), path)
    found: dict[tuple[str, float], list[np.ndarray]] = {}
    for group in etree.parse(path).iter("{*}g"):
        if not re.search("figure.details", group.get("id") or group.get("class") or ""):
            continue
        for line in group.iter("{*}path"):
            colour, weight = (
                next(n.get(a) for n in (line, *line.iterancestors()) if n.get(a)) for a in ("stroke", "stroke-width")
            )
            numbers = np.array(re.findall(r"-?\d+\.?\d*", line.get("d")), float).reshape(-1, 2)
            found.setdefault((colour, float(weight)), []).append(numbers)
    return {k: np.concatenate(v) for k, v in found.items()}


def test_a_drawn_cut_out_keeps_its_weights_in_millimetres_whatever_its_size(kept: KeptPictures, tmp_path: Path) -> None:
    digest = taken(kept, DRAWN.format(more=""))
    for height in (1.7, 2.6):
        card = CutOut(picture=digest, height=height, at=(0.4, 0.0, 0.0))
        drawing = drawn(kept, view_of(ELEVATION), card)
        found = strokes(drawing, tmp_path / "out.svg")
        assert sorted(found) == [("#222222", 0.5), ("#aa3322", 0.25)]
        every, mm = np.concatenate(list(found.values())), 1000 / 50 * height / 1.7
        # As tall as it is, but for half a stroke at head and foot; its head is as round as it was drawn.
        assert np.ptp(every[:, 1]) == pytest.approx(1.7 * mm, abs=0.3)
        head = found["#aa3322", 0.25]
        head = head[head[:, 1] < every[:, 1].min() + 0.241 * mm]
        middle = (head.min(0) + head.max(0)) / 2
        assert np.hypot(*(head - middle).T) == pytest.approx(0.12 * mm, abs=0.03)
        # Its fills are the picture, in which no stroke is: through the gap between its legs one sees what is behind.
        pixels = TRACES[0].pixels(drawing.plate())
        colours = pixels[pixels[..., 3] > 250][:, :3].astype(int)
        assert (
            np.abs(colours - (119, 136, 170)).max(1).min() < 6
            and (colours.min(1) > 60).all()
            and (colours.min(1) > 250).sum() > 100
        )
    own = drawn(kept, view_of(ELEVATION), card.model_copy(update={"weight": 0.1, "hue": "#a8553c"}))
    assert {w for _, w in strokes(own, tmp_path / "own.svg")} == {0.1}
    silhouette = drawn(kept, view_of(ELEVATION), card.model_copy(update={"drawn": "silhouette"}))
    assert not strokes(silhouette, tmp_path / "flat.svg") and not TRACES[0].pixels(silhouette.plate()).any()


def test_its_strokes_are_hidden_like_edges(kept: KeptPictures, tmp_path: Path) -> None:
    card = CutOut(picture=taken(kept, DRAWN.format(more="")), height=1.7, at=(0.4, 0.0, 0.0))
    whole = strokes(drawn(kept, view_of(ELEVATION), card), tmp_path / "a.svg")
    partly = strokes(drawn(kept, view_of(ELEVATION), card, RAIL), tmp_path / "b.svg")
    assert not strokes(drawn(kept, view_of(ELEVATION), card, WALL), tmp_path / "c.svg")
    foot = max(p[:, 1].max() for p in whole.values())
    up = (foot - np.concatenate(list(partly.values()))[:, 1]) / 20
    # A rail from 0.9 to 1.0 m above its foot: nothing of it is left there.
    assert not ((up > 0.91) & (up < 0.99)).any() and (up < 0.9).any() and (up > 1.0).any()
    slanting = strokes(drawn(kept, view_of(SLANT), card), tmp_path / "d.svg")
    assert sorted(slanting) == sorted(whole)


def test_what_is_painted_over_is_not_drawn(kept: KeptPictures, tmp_path: Path) -> None:
    """A board held before the chest covers the mark on the shirt and part of its sides.
    As the file's own order has it.
    """
    board = '<path d="M10 70 L50 70 L50 90 L10 90 Z" fill="#f4f0e0" stroke="#225522" stroke-width="0.35"/>'
    card = CutOut(picture=taken(kept, DRAWN.format(more=board)), height=1.7, at=(0.4, 0.0, 0.0))
    found = strokes(drawn(kept, view_of(ELEVATION), card), tmp_path / "out.svg")
    assert sorted(found) == [("#222222", 0.5), ("#225522", 0.35), ("#aa3322", 0.25)]
    foot = max(p[:, 1].max() for p in found.values())
    up = {
        colour: (foot - p[:, 1]) / 0.2 for (colour, _), p in found.items()
    }  # millimetres of the file above its foot, but for 0.25
    assert not ((up["#222222"] > 80.5) & (up["#222222"] < 99.5)).any() and (up["#222222"] > 100).any()
    # Of the red ones only the head is left, not the mark below it; of the board all four sides.
    assert up["#aa3322"].min() > 140 and np.ptp(up["#225522"]) == pytest.approx(20, abs=0.3)


def test_a_pen_heavier_than_any_is_the_heaviest_and_a_hair_the_finest(kept: KeptPictures, tmp_path: Path) -> None:
    more = '<path d="M5 30 L55 30" stroke="#102030" stroke-width="30" fill="none"/><path d="M5 50 L55 50" stroke="#203040" stroke-width="0.001" fill="none"/>'
    drawing = drawn(kept, view_of(ELEVATION), CutOut(picture=taken(kept, DRAWN.format(more=more)), height=1.7))
    found = strokes(drawing, tmp_path / "out.svg")
    assert ("#102030", 5.0) in found and min(w for _, w in found) >= 0.02


@pytest.mark.parametrize(
    "more",
    [
        '<linearGradient id="g"><stop stop-color="#f00"/><stop offset="1" stop-color="#00f"/></linearGradient><rect '
        'x="5" y="20" width="50" height="140" fill="url(#g)"/>',
        '<linearGradient id="g"><stop stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient><rect '
        'x="22" y="64" width="14" height="8" fill="url(#g)"/>',
    ],
    ids=["a large run of colour", "a small one"],
)
def test_what_has_more_than_strokes_and_fills_stays_a_picture(kept: KeptPictures, tmp_path: Path, more: str) -> None:
    drawing = drawn(kept, view_of(ELEVATION), CutOut(picture=taken(kept, DRAWN.format(more=more)), height=1.7))
    assert not strokes(drawing, tmp_path / "out.svg") and TRACES[0].pixels(drawing.plate())[..., 3].any()


def test_in_one_hue_all_of_a_picture_is_of_it(kept: KeptPictures) -> None:
    card = CutOut(picture=taken(kept, DRAWN.format(more="")), height=1.7, hue="#a02020")
    pixels = TRACES[0].pixels(drawn(kept, view_of(ELEVATION), card).plate()).astype(int)
    shown = pixels[pixels[..., 3] > 250][:, :3]
    # From the hue itself to white, and nothing beside that way: green and blue are alike, and red is no darker.
    assert (
        len(shown) > 200 and (np.abs(shown[:, 1] - shown[:, 2]) <= 3).all() and (shown[:, 0] >= shown[:, 1] - 3).all()
    )
    assert np.ptp(shown[:, 1]) > 60


def jug(path: Path, times: float = 1.0, far: float = 0.0, rings: int = 32) -> Path:
    """A jug 0.9 m tall with a blue spout that looks to the front, as a general library writes it."""
    body, spout = trimesh.creation.cylinder(0.3, 0.9, sections=rings), trimesh.creation.box([0.1, 0.4, 0.1])
    scene = trimesh.Scene()
    for n, (mesh, by, colour) in enumerate(
        ((body, (0, 0, 0.45), (180, 80, 60, 255)), (spout, (0, -0.4, 0.7), (60, 80, 180, 255)))
    ):
        mesh.apply_translation(by)
        mesh.apply_scale(times)
        mesh.apply_translation((far, 0, far))
        mesh.visual = trimesh.visual.TextureVisuals(material=PBRMaterial(name=f"m{n}", baseColorFactor=colour))
        scene.add_geometry(mesh)
    # Y up, its front along +Z, as the format has it.
    scene.apply_transform(np.array([(1, 0, 0, 0), (0, 0, 1, 0), (0, -1, 0, 0), (0, 0, 0, 1.0)]))
    path.write_bytes(scene.export(file_type="glb"))
    return path


@pytest.mark.parametrize(("times", "far"), deeper([(1000.0, 3000.0)], [(1.0, 0.0), (1.0, 3000.0), (1000.0, 0.0)]))
def test_a_body_stands_at_its_height_on_its_foot_and_looks_where_it_is_turned(
    kept: KeptPictures, tmp_path: Path, times: float, far: float
) -> None:
    found = kept.take_in(jug(tmp_path / "jug.glb", times, far), "jug.glb")
    model = kept.body(found.digest)
    assert found.kind == "GLB" and model is not None and height_of(model) == pytest.approx(0.9, abs=2e-3)
    assert bool(found.notes) == (times == 1000)
    # What is kept, taken in again, is the same.
    assert kept.take_in(kept.body_path(found.digest), "again.glb").digest == found.digest
    for turn, side in ((90.0, -1.0), (-90.0, 1.0)):  # to the left of north is west, which is left as one looks north
        drawing = drawn(kept, view_of(ELEVATION), Body(picture=found.digest, height=1.8, at=(0.4, 0, 0), turn=turn))
        rows, lines = figures_lines(drawing), drawing.bounds()
        at = np.concatenate([lines.from_mm[rows], lines.to_mm[rows]])
        assert np.ptp(at[:, 1]) == pytest.approx(1.8 * 20, abs=0.2)
        # Farthest out on that side is its spout, and nothing else.
        out = side * (at[:, 0] - 128)
        up = (at[:, 1].max() - at[out > out.max() - 0.1, 1]) / 20
        assert out.max() == pytest.approx(18, abs=0.1) and (up > 1.29).all() and (up < 1.51).all()
    assert not len(figures_lines(drawn(kept, view_of(ELEVATION), Body(picture=found.digest, height=0.9), WALL)))
    gone = drawn(kept, view_of(ELEVATION), Body(picture="0" * 32, height=1.2))
    assert len(figures_lines(gone)) >= 3


def test_what_is_no_body_is_said_in_one_sentence(kept: KeptPictures, tmp_path: Path) -> None:
    whole = jug(tmp_path / "jug.glb").read_bytes()
    tiny, many = jug(tmp_path / "tiny.glb", 0.001), jug(tmp_path / "many.glb", rings=20_000)
    rows = (
        (tmp_path / "cut.glb", whole[:900], "breaks off"),
        (many, many.read_bytes(), "coarser"),
        (tmp_path / "odd.glb", b"glTF" + bytes(60), "version 0"),
        (tiny, tiny.read_bytes(), "no figure"),
    )
    for path, data, words in rows if DEEP else rows[:2]:
        path.write_bytes(data)
        with pytest.raises(PictureError, match=words) as said:
            kept.take_in(path, path.name)
        assert str(said.value).count(".") <= 4 and path.stem in str(said.value) and "Traceback" not in str(said.value)


def test_a_picture_that_arrives_later_takes_the_place_of_what_stood_for_it(kept: KeptPictures, tmp_path: Path) -> None:
    digest, card_of = taken(kept, DRAWN.format(more="")), lambda d: CutOut(picture=d, height=1.7, at=(0.4, 0.0, 0.0))
    other, card = KeptPictures(tmp_path), card_of(digest)
    before = drawn(other, view_of(ELEVATION), card).model.version
    for path in kept.folder.glob(f"{digest}*"):
        shutil.copy(path, tmp_path)
    # The same figure is asked for again, as a desk does.
    assert (
        drawn(other, view_of(ELEVATION), card).model.version
        == drawn(kept, view_of(ELEVATION), card_of(digest)).model.version
        != before
    )
