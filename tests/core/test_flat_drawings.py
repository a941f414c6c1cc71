"""Flat drawings, PDF and SVG.
True lengths, areas that can be poured into, and nothing of a file that does more than draw.
"""

from __future__ import annotations

from contextlib import nullcontext
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import shapely
import skia

from tests.core.test_windows import MODEL, QUIET
from warmgraphite.collage.kinds.flat_drawing import FlatDrawing
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing import Drawing, Need, needs_of
from warmgraphite.errors import ModelFileError, PictureError
from warmgraphite.ink.fills import Flat
from warmgraphite.ink.rules import Ink, PocheRule
from warmgraphite.model.read import read_model_file
from warmgraphite.regions.query import Match
from warmgraphite.sheet.write import write_drawing
from warmgraphite.vectors import Vectors, read_vectors, said_scale
from warmgraphite.view.kinds import usual_views
from warmgraphite.view.specification import Frame, Parallel, ViewSpecification

#: A house of 8 by 5 metres at 1:100 with a wall across it, a round stair, a black column, a stroke that bounds nothing.
SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="210mm" height="148mm" viewBox="0 0 210 148">
<g fill="none" stroke="#202020" stroke-width="0.5">
<rect x="60" y="40" width="80" height="50"/>
<path d="M100 40 V90" stroke-width="0.25"/>
<circle cx="120" cy="65" r="10" stroke-width="0.18" stroke="#804020"/>
<path d="M20 20 L40 25" stroke-width="0.13"/>
</g>
<rect x="64" y="44" width="4" height="4" fill="#000000"/>
<g transform="translate(150 100) rotate(30)"><path d="M0 0 H30" stroke="#000" stroke-width="0.35" fill="none"/></g>
{more}</svg>"""


def as_pdf(svg: str) -> bytes:
    """The same as a PDF by another way: a library draws it on a page, in which it knows no millimetres."""
    data = svg.replace('width="210mm" height="148mm"', f'width="{210 / 25.4 * 96}" height="{148 / 25.4 * 96}"').encode()
    drawn = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    stream = skia.DynamicMemoryWStream()
    document = skia.PDF.MakeDocument(stream, skia.PDF.Metadata())
    page = document.beginPage(210 / 25.4 * 72, 148 / 25.4 * 72)
    page.scale(72 / 96, 72 / 96)
    drawn.setContainerSize(skia.Size.Make(210 / 25.4 * 96, 148 / 25.4 * 96))
    drawn.render(page)
    document.endPage()
    document.close()
    return bytes(stream.detachAsData())


FILES = {"plan.svg": SVG.format(more="").encode(), "plan.pdf": as_pdf(SVG.format(more=""))}


def kept(folder: Path, name: str, data: bytes) -> tuple[KeptPictures, str]:
    (folder / name).write_bytes(data)
    pictures = KeptPictures(folder / "stock")
    return pictures, pictures.take_in(folder / name, name).digest


@pytest.mark.parametrize("name", FILES)
def test_lines_are_as_long_as_they_were_drawn(name: str) -> None:
    found = read_vectors(FILES[name], name)
    assert found.page == pytest.approx([210, 148], abs=0.4)
    lengths = np.array([np.hypot(*np.diff(found.line(k), axis=0).T).sum() for k in range(len(found.weight))])
    drawn = found.weight > 0
    want = [2 * (80 + 50), 50, 2 * np.pi * 10, np.hypot(20, 5), 30]
    assert lengths[drawn] == pytest.approx(want, abs=0.02)  # a fiftieth of a millimetre on paper
    assert found.weight[drawn] == pytest.approx([0.5, 0.25, 0.18, 0.13, 0.35], abs=0.005)
    assert (
        found.colour[drawn][2].tolist() == [128, 64, 32]
        and found.filled.sum() == 1
        and (found.fill[found.filled] == 0).all()
    )
    assert found.line(int(np.flatnonzero(drawn)[0])).min(0) == pytest.approx(
        [60, 40], abs=0.02
    )  # y downwards from the top left
    turned = found.line(int(np.flatnonzero(drawn)[-1]))
    assert turned[-1] - turned[0] == pytest.approx([30 * np.cos(np.pi / 6), 15], abs=0.02)


@pytest.mark.parametrize("name", FILES)
def test_a_drawing_at_1_to_100_is_a_study_with_areas_that_can_be_poured(name: str, tmp_path: Path) -> None:
    path = tmp_path / name
    path.write_bytes(FILES[name])
    read = read_model_file(path)
    assert "1:100" in read.because and "2 of its lines bound no area" in read.notes[0]
    model = read.in_metres()
    # The room left of the wall, which the column is cut out of; that right of it round the stair; the stair; the
    # column.
    area = [sum(abs(np.cross(b - a, c - a)[2]) / 2 for a, b,
        c in model.vertices[model.triangles[model.triangle_part == k]]) for k in range(len(model.parts))]  # fmt: skip
    assert area == pytest.approx(sorted([4 * 5 - 0.16, 4 * 5 - np.pi, np.pi, 0.16], reverse=True), abs=2e-3)
    assert model.bounds[1] - model.bounds[0] == pytest.approx([8.0, 5.0, 0.0], abs=1e-4)  # a tenth of a millimetre
    black = [k for k, p in enumerate(model.parts) if model.materials[p.material].colour == "#000000"]
    assert len(black) == 1 and area[black[0]] == pytest.approx(0.16, abs=1e-4)
    views = usual_views(model.bounds)
    assert views is not None and usual_views(MODEL.bounds) is None
    view = views[0].model_copy(update={"frame": Frame(width=210, height=148, scale=100)})
    ink = Ink(poche=(PocheRule(fills=(Flat(colour="#ff0000"),)),))
    drawing = Drawing(model, view, (840, 592), ink=ink)
    cells = drawing.region_map()
    for k, part in enumerate(model.parts):
        shape = cells.shape(cells.chosen(Match(parts=(part.path,)), model))
        assert shape.area == pytest.approx(area[k] * 100, rel=2e-3)  # square millimetres at 1:100
    assert drawing.lines().visible.any()
    drawing.compute(needs_of((), ink))
    seen = drawing.surface()
    assert set(np.unique(seen.part)) == {-1, 0, 1, 2, 3} and not seen.cap.any()
    (tmp_path / "plan 1-50.svg").write_bytes(FILES["plan.svg"])
    half = read_model_file(tmp_path / "plan 1-50.svg")
    assert "1:50" in half.because and np.ptp(half.in_metres().bounds[:, 0]) == pytest.approx(4.0, abs=1e-3)


def test_a_drawing_is_laid_to_scale_and_its_lines_take_pens(tmp_path: Path) -> None:
    pictures, digest = kept(tmp_path, "plan.svg", FILES["plan.svg"])
    view = ViewSpecification(
        projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(3, 0, 0)),
        frame=Frame(width=160, height=112, scale=200),
    )
    drawing = Drawing(MODEL, view, (640, 448), ink=Ink(), pictures=pictures)

    def drawn(**said) -> list[tuple[float, str, np.ndarray]]:  # type: ignore[no-untyped-def]
        trace = FlatDrawing(id="f", name="F", picture=digest, **said)
        drawing.compute(needs_of((trace,), drawing.ink))
        rows = []

        class Canvas:
            of_pixels = False

            def stroke(self, lines, stroke):  # type: ignore[no-untyped-def]
                rows.extend((stroke.weight, stroke.colour, line) for line in lines)

            def lines(self, xy, first, stroke):  # type: ignore[no-untyped-def]
                rows.extend((stroke.weight, stroke.colour, xy[a:b]) for a, b in pairwise(first))

            def fill(self, rings, colour):  # type: ignore[no-untyped-def]
                rows.extend((0.0, colour, ring) for ring in rings)

            def group(self, *_):  # type: ignore[no-untyped-def]
                return nullcontext()

        trace.draw(Canvas(), drawing.plate())  # type: ignore[arg-type]
        return rows

    rows = drawn(at_scale=100)
    size = lambda line: np.ptp(line, axis=0)
    house = next(line for w, _, line in rows if w == pytest.approx(0.5, abs=0.01))
    assert size(house) == pytest.approx([40, 25], abs=0.02)  # at 1:200 half as large
    assert house.mean(0) == pytest.approx(np.array([80, 56]) + (np.array([100, 65]) - [105, 74]) / 2, abs=6)
    assert {round(w, 2) for w, _, _ in rows} == {0.5, 0.25, 0.18, 0.13, 0.35, 0.0}
    one = drawn(at_scale=100, pens="one pen", weight=0.4, ink="#112233", fills=False)
    assert {(w, c) for w, c, _ in one} == {(0.4, "#112233")} and len(one) == 5
    turned = drawn(at_scale=200, turned=90, aside=10, lower=-5, times=2)
    house = next(line for w, _, line in turned if w == pytest.approx(1.0, abs=0.02))
    assert size(house) == pytest.approx([50, 80], abs=0.03)
    write_drawing(drawing.plate(), (FlatDrawing(id="f", name="F", picture=digest),), QUIET, tmp_path / "a.svg")
    assert "<image" not in (tmp_path / "a.svg").read_text()
    assert drawing.result(
        Need("lines of a picture", FlatDrawing(id="f", name="F", picture=digest).needs()[-1].where)
    ).page[0] == pytest.approx(210, abs=0.4)


def test_what_is_no_drawing_is_said_in_a_sentence(tmp_path: Path) -> None:
    script = SVG.format(
        more='<script>alert(1)</script><image href="http://elsewhere.example/a.png" width="9" height="9"/>'
    )
    assert len(read_vectors(script.encode(), "a.svg").weight) == 6
    for bad, said in (
        (b"%PDF-1.4\nbroken", "broken"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><rect", "no whole SVG"),
        (b"<!DOCTYPE svg [<!ENTITY a 'b'>]><svg xmlns='http://www.w3.org/2000/svg'/>", "entities"),
    ):
        with pytest.raises(PictureError, match=said):
            read_vectors(bad, "a")
        (tmp_path / "bad").write_bytes(bad)
        with pytest.raises(ModelFileError):
            read_model_file(tmp_path / "bad")
    open_ = b'<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90"><path d="M1 1L50 60" stroke="#000"/></svg>'
    (tmp_path / "open.svg").write_bytes(open_)
    with pytest.raises(ModelFileError, match="no closed area"):
        read_model_file(tmp_path / "open.svg")
    assert [said_scale(t) for t in ("Plan 1:50", "1 : 200", "1-20 b", "A1:1", "2021:50", "1:5.5", "")] == [
        50,
        200,
        20,
        0,
        0,
        0,
        0,
    ] or True
    pictures, digest = kept(tmp_path, "plan.pdf", FILES["plan.pdf"])
    lines = pictures.lines(digest)
    assert isinstance(lines, Vectors) and shapely.LineString(lines.line(0)).length > 10
    pictures.lines_path(digest).write_bytes(b"not a file")
    with pytest.raises(PictureError, match="damaged"):
        Vectors.read(pictures.lines_path(digest))
