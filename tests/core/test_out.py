"""What goes out, read back by general libraries: pages, layers that switch, text, fonts, weights.
Pictures and layered pictures.
"""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ET
import zipfile
from collections import Counter
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2
import pytest
import skia
from PIL import Image
from pyora import Project
from scipy import ndimage

from tests.conftest import box, deeper, model_of
from tests.core.test_sheet import line_widths
from warmgraphite.board.specification import Board, Page, PlacedDrawing
from warmgraphite.bundle import write_bundle
from warmgraphite.canvas.document import Document
from warmgraphite.canvas.fonts import FACES
from warmgraphite.canvas.pixels import raster
from warmgraphite.canvas.protocol import Canvas
from warmgraphite.canvas.protocol import Path as Path2D
from warmgraphite.collage.kinds.for_print import ForPrint
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.shade import Shade
from warmgraphite.collage.kinds.shadow import Shadow
from warmgraphite.collage.kinds.wash import Wash
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.specification import Trace
from warmgraphite.drawing import PASSES, Drawing
from warmgraphite.drawing.tiles import TiledDrawing, tiles_of
from warmgraphite.errors import Cancelled, OurFault, OutputError
from warmgraphite.ink.rules import Ink, default_pens, default_poche
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.out.formats import FORMATS
from warmgraphite.out.layering import Layering
from warmgraphite.out.settings import OutSettings
from warmgraphite.passes.store import PassStore
from warmgraphite.regions.query import Match
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification
from warmgraphite.view.sun import Sun

DPI = 150
#: What a wash is where it is flat.
FLAT = {"flow": 0, "rim": 0, "bloom": 0, "granulation": 0, "wet": 0}
VIEW = ViewSpecification(
    name="Yard section",
    projection=Parallel(direction=(0.4, 1, -0.5), centre=(2.5, 1, 1.5)),
    cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),),
    sun=Sun(azimuth=200, altitude=40),
    frame=Frame(width=203.2, height=152.4, scale=50, resolution=DPI),
)
TRACES: tuple[Trace, ...] = (
    Paper(id="paper", name="Paper"),
    Wash(id="wash", name="Brick wash", where=Match(roles=("structure",)), colour="#cf8f72"),
    Shade(id="shade", name="Shade", blend="multiply", opacity=0.6),
    Shadow(id="shadow", name="Shadow", blend="multiply", mottle=0, opacity=0.7),
    PocheTrace(id="poche", name="Poche"), LinesTrace(id="lines", name="Ink", opacity=0.9),
)  # fmt: skip


def yard() -> Model:
    rows = (
        ("Wall", box((0, 0, 0), (5, 1, 3)), 0),
        ("Step", box((5, 0, 0), (6, 3, 1)), 2),
        ("Back", box((-2, 4, 0), (8, 4.3, 2)), 0),
        ("Ground", box((-6, -3, -0.2), (12, 8, 0)), 0),
    )
    model = model_of(*rows)
    return model.said(
        parts=tuple(replace(p, layer=n) for p, n in zip(model.parts, ("Walls", "Steps", "Walls", "Site"), strict=True))
    )


@cache
def plain() -> Drawing:
    return Drawing(yard(), VIEW, ink=Ink(pens=default_pens(), poche=default_poche()))


def drawn(**said: Any) -> Plate:
    drawing = Drawing(yard(), VIEW, ink=Ink(pens=default_pens(), poche=default_poche()), **said) if said else plain()
    return drawing.plate("Test yard")


def to(path: Path, traces: tuple[Trace, ...] = TRACES, **said: Any) -> Path:
    write_drawing(drawn(), traces, Sheet(), path, resolution=DPI, **said)
    return path


def rendered(data: bytes | Path, dpi: float = DPI) -> np.ndarray:
    """(h, w, 3) the first page as a general library draws it."""
    with pypdfium2.PdfDocument(data) as document:
        return document[0].render(scale=dpi / 72 - 1e-9).to_numpy()[..., 2::-1].astype(int)


def layer_names(pdf: pikepdf.Pdf) -> list[str]:
    return [str(o.Name) for o in pdf.Root.OCProperties.OCGs]


def with_layers(path: Path, off: set[str]) -> np.ndarray:
    """The page with some layers switched off."""
    with pikepdf.open(path) as pdf:
        found = pdf.Root.OCProperties
        found.D.OFF = pikepdf.Array([o for o in found.OCGs if str(o.Name) in off])
        found.D.ON = pikepdf.Array([o for o in found.OCGs if str(o.Name) not in off])
        out = io.BytesIO()
        pdf.save(out)
    return rendered(out.getvalue(), 100)


def test_a_pdf_has_its_page_its_words_its_fonts_and_the_weights_of_its_pens(tmp_path: Path) -> None:
    path = to(tmp_path / "a.pdf")
    with pikepdf.open(path) as pdf:
        page = pdf.pages[0]
        left, bottom, right, top = (float(v) * 25.4 / 72 for v in page.mediabox)
        assert (right - left, top - bottom) == pytest.approx((203.2, 152.4), abs=1e-3)
        assert str(pdf.docinfo["/Title"]) == "Test yard: Yard section" and "1:50" in str(pdf.docinfo["/Subject"])
        fonts = [o for o in pdf.objects if isinstance(o, pikepdf.Dictionary) and o.get("/Type") == "/FontDescriptor"]
        # Both faces of the title are embedded, cut down to what was written.
        assert len(fonts) == 2 and all("/FontFile2" in f and str(f.FontName)[7] == "+" for f in fonts)
        assert all(len(bytes(f.FontFile2.read_bytes())) < FACES["serif"].path.stat().st_size / 3 for f in fonts)
        widths = line_widths(page.Contents, page.Resources, np.eye(3))
    pens = {round(row.style.weight, 3) for row in drawn().penned()}
    assert pens <= widths
    with pypdfium2.PdfDocument(path) as document:
        text = document[0].get_textpage()
        assert text.search("Yard section").get_next() is not None and text.search("1:50").get_next() is not None


def test_layers_of_a_pdf_switch_what_they_are_called(tmp_path: Path) -> None:
    path = to(tmp_path / "a.pdf")
    with pikepdf.open(path) as pdf:
        names = layer_names(pdf)
        order = [str(o.Name) for o in pdf.Root.OCProperties.D.Order]
    assert names == [t.name for t in TRACES] + ["Notes"] and order == names[::-1]
    whole = with_layers(path, set())
    for trace in TRACES:
        # With one off, the page is what is drawn without that trace.
        less = tmp_path / "less.pdf"
        to(less, tuple(t for t in TRACES if t is not trace))
        shown, wanted = with_layers(path, {trace.name}), rendered(less, 100)
        assert np.abs(shown - wanted).mean() < 0.12, trace.name
        assert np.abs(shown - whole).max() > 20, trace.name
    # All off: the page itself is bare.
    assert with_layers(path, set(names)).min() == 255


def test_layers_go_by_rank_by_layer_of_the_model_or_a_choice(tmp_path: Path) -> None:
    whole = rendered(to(tmp_path / "whole.pdf"), 100)
    by_rank = to(tmp_path / "rank.pdf", layers=("traces", "ranks"))
    with pikepdf.open(by_rank) as pdf:
        names = layer_names(pdf)
    assert {"Ink", "Poche", "Lines cut", "Lines outline", "Lines edge"} <= set(names) and any(
        n.startswith("Poche ") for n in names
    )
    assert np.abs(with_layers(by_rank, set()) - whole).mean() < 0.05
    # Without the lines of the cut less is inked, and nothing else changes.
    less = with_layers(by_rank, {"Lines cut"})
    assert (less - with_layers(by_rank, set())).mean() > 0.01 and (less >= with_layers(by_rank, set()) - 3).all()
    by_model = to(tmp_path / "model.pdf", layers=("traces", "model"))
    with pikepdf.open(by_model) as pdf:
        names = layer_names(pdf)
    assert {"Walls", "Steps", "Site"} <= set(names)
    assert np.abs(with_layers(by_model, set()) - whole).mean() < 0.25
    # The steps stand right of the wall: without their layer only that side changes.
    changed = np.abs(with_layers(by_model, {"Steps"}) - with_layers(by_model, set())).max(2) > 30
    columns = np.flatnonzero(changed.any(0))
    assert len(columns) and columns.min() > 0.5 * changed.shape[1]
    chosen = to(tmp_path / "chosen.pdf", only=("Ink",))
    with pikepdf.open(chosen) as pdf:
        assert layer_names(pdf) == ["Ink"]
    with pikepdf.open(to(tmp_path / "none.pdf", layers=())) as pdf:
        assert "/OCProperties" not in pdf.Root
        # All tones beneath the first shape are one picture, of the page's size.
        pictures = [o for o in pdf.objects if isinstance(o, pikepdf.Stream) and o.get("/Subtype") == "/Image"]
        assert [(int(p.Width), int(p.Height)) for p in pictures] == [(1200, 900)]


def test_a_pdf_is_the_picture_beside_the_png(tmp_path: Path) -> None:
    png = np.asarray(Image.open(to(tmp_path / "a.png")).convert("RGB")).astype(int)
    for name, layers in (("layers", ("traces", "ranks")), ("none", ())):
        found = rendered(to(tmp_path / f"{name}.pdf", layers=layers))
        assert found.shape == png.shape == (900, 1200, 3)
        off = np.abs(found - png).max(2) / 255
        # Where an edge runs through a pixel, two libraries share it out differently.
        flat = ndimage.maximum_filter(png.max(2), 3) - ndimage.minimum_filter(png.min(2), 3) < 90
        assert off[flat].mean() < 0.01 and off.mean() < 0.02 and flat.mean() > 0.6, name


def test_flat_tones_are_shapes_and_uneven_ones_pictures(tmp_path: Path) -> None:
    flat = Wash(id="w", name="Flat wash", where=Match(roles=("structure",)), colour="#cf8f72", **FLAT)
    traces = (Paper(id="p", name="Paper", grain=0), flat, Shadow(id="s", name="Shadow", mottle=0))
    png = np.asarray(Image.open(to(tmp_path / "a.png", traces)).convert("RGB")).astype(int)
    svg = ET.parse(to(tmp_path / "a.svg", traces)).getroot()
    assert not list(svg.iter("{http://www.w3.org/2000/svg}image"))
    found = rendered(to(tmp_path / "a.pdf", traces))
    off = np.abs(found - png).max(2)
    assert (off > 12).mean() < 0.004 and (png < 200).any(2).mean() > 0.1
    uneven = to(tmp_path / "b.svg", (flat.model_copy(update={"bloom": 0.3}), Shadow(id="s", name="Shadow", mottle=0.4)))
    assert len(list(ET.parse(uneven).getroot().iter("{http://www.w3.org/2000/svg}image"))) == 2


def test_a_pdf_that_is_kept_meets_what_can_be_checked_of_its_standard(tmp_path: Path) -> None:
    """ISO 19005-2: no validator of it can be had here, so its clauses are gone through one by one."""
    path = to(tmp_path / "a.pdf", archival=True, layers=("traces", "ranks"))
    data = path.read_bytes()
    assert (
        data.startswith(b"%PDF-1.7") and data.split(b"\n", 2)[1][:1] == b"%" and min(data.split(b"\n", 2)[1][1:5]) > 127
    )  # 6.1.2
    with pikepdf.open(path) as pdf:
        assert "/ID" in pdf.trailer and "/Encrypt" not in pdf.trailer  # 6.1.3
        with pdf.open_metadata() as about:  # 6.6.2, 6.6.4
            assert (about["pdfaid:part"], about["pdfaid:conformance"]) == ("2", "B")
            assert about["dc:title"] == str(pdf.docinfo["/Title"])
        (intent,) = pdf.Root.OutputIntents  # 6.2.3
        assert intent.S == "/GTS_PDFA1" and intent.DestOutputProfile.read_bytes()[36:40] == b"acsp"
        assert "/AA" not in pdf.Root and "/JavaScript" not in pdf.Root.get("/Names", {})  # 6.5
        default = pdf.Root.OCProperties.D  # 6.9
        assert str(default.Name) and "/AS" not in default
        listed = []

        def walk(rows: Any) -> None:
            for row in rows:
                walk(row) if isinstance(row, pikepdf.Array) else listed.append(str(row.Name))

        walk(default.Order)
        assert sorted(listed) == sorted(layer_names(pdf))
        for thing in pdf.objects:
            if not isinstance(thing, pikepdf.Dictionary | pikepdf.Stream):
                continue
            if thing.get("/Subtype") == "/Image":
                assert not thing.get("/Interpolate", False) and "/Alternates" not in thing  # 6.2.8
            if isinstance(thing, pikepdf.Stream):
                assert "/LZWDecode" not in str(thing.get("/Filter", "")) and "/F" not in thing  # 6.1.7
            if thing.get("/Type") == "/FontDescriptor":
                assert "/FontFile2" in thing  # 6.2.11
            if thing.get("/Type") == "/Font" and thing.get("/Subtype") == "/Type0":
                assert "/ToUnicode" in thing
            if "/BM" in thing:
                assert str(thing.BM)[1:] in {"Normal", "Multiply"}  # 6.2.10
            assert thing.get("/S") not in ("/Launch", "/Sound", "/Movie", "/JavaScript")
        assert all("/Group" in page.obj for page in pdf.pages)
    assert np.abs(rendered(path, 60) - rendered(to(tmp_path / "b.pdf", layers=("traces", "ranks")), 60)).max() <= 1


def test_letters_as_outlines_are_drawn_where_the_letters_are(tmp_path: Path) -> None:
    plain, drawn_ = (rendered(to(tmp_path / f"{t}.pdf", text=t)) for t in ("fonts", "outlines"))
    assert np.abs(plain - drawn_).mean() < 0.1 < 0.3 < np.abs(plain - 255).mean()
    svg = to(tmp_path / "a.svg", text="outlines").read_text()
    assert "<text" not in svg and "font-face" not in svg and 'data-name="text Yard section"' in svg
    with pypdfium2.PdfDocument(tmp_path / "outlines.pdf") as document:
        assert "Yard" not in document[0].get_textpage().get_text_range()


@pytest.mark.parametrize(("ending", "off"), deeper([("tiff", 0), ("jpg", 12)], [("webp", 0)]))
def test_pictures_hold_what_the_png_holds(tmp_path: Path, ending: str, off: int) -> None:
    png = Image.open(to(tmp_path / "a.png", paper=False))
    found = Image.open(to(tmp_path / f"a.{ending}", paper=False, quality=100 if ending == "webp" else 92))
    assert found.size == png.size
    if ending == "jpg":  # no alpha: what is bare is white
        laid = Image.new("RGBA", png.size, "white")
        laid.alpha_composite(png)
        assert (
            np.percentile(np.abs(np.asarray(found).astype(int) - np.asarray(laid.convert("RGB")).astype(int)), 99)
            <= off
        )
    else:
        assert found.mode == "RGBA" and (np.asarray(found)[..., 3] == 0).mean() > 0.2
        assert np.abs(np.asarray(found).astype(int) - np.asarray(png).astype(int)).max() == off
    if ending != "webp":
        assert [float(v) for v in found.info["dpi"]] == pytest.approx([DPI, DPI], abs=0.5)


def test_more_pixels_than_a_format_holds_are_refused_in_a_sentence(tmp_path: Path) -> None:
    long = VIEW.model_copy(update={"frame": Frame(width=800, height=20, scale=200)})
    with pytest.raises(
        OutputError, match=r"WebP holds 16,383 pixels along a side, and this would have 18,898; write it at 520 dpi"
    ):
        write_drawing(Drawing(yard(), long).plate(), TRACES[4:], Sheet(), tmp_path / "a.webp", resolution=600)
    with pytest.raises(OutputError, match=r"must end in \.pdf, \.svg, \.png, \.tiff, \.jpg, \.webp or \.ora"):
        to(tmp_path / "a.bmp")
    assert not list(tmp_path.iterdir())
    assert [f.ending for f in FORMATS.values()] == ["pdf", "svg", "png", "tiff", "jpg", "webp", "ora"]


def test_a_layered_picture_is_opened_and_put_together_again(tmp_path: Path) -> None:
    traces = (*TRACES[:4], ForPrint(id="fp", name="Lift", acts_on="the sheet beneath"), *TRACES[4:])
    small = {"resolution": 60}
    write_drawing(drawn(), traces, Sheet(), tmp_path / "a.ora", **small)
    write_drawing(drawn(), traces, Sheet(), tmp_path / "a.png", **small)
    with zipfile.ZipFile(tmp_path / "a.ora") as file:
        first = file.infolist()[0]
        assert (first.filename, first.compress_type, file.read(first)) == (
            "mimetype",
            zipfile.ZIP_STORED,
            b"image/openraster",
        )
        assert max(Image.open(file.open("Thumbnails/thumbnail.png")).size) <= 256
    project = Project.load(str(tmp_path / "a.ora"))
    rows = list(project.children)[::-1]
    assert [r.name for r in rows] == [*(t.name for t in TRACES), "Notes"]
    assert [r.composite_op for r in rows] == ["svg:src-over", "svg:multiply", "svg:multiply", "svg:multiply"] + [
        "svg:src-over"
    ] * 3
    assert [r.opacity for r in rows] == pytest.approx([1, 1, 0.6, 0.7, 1, 0.9, 1])
    merged = np.asarray(project.get_image_data(use_original=True)).astype(int)
    assert (merged == np.asarray(Image.open(tmp_path / "a.png")).astype(int)).all()
    again = np.asarray(project.get_image_data(use_original=False)).astype(int)
    assert np.abs(again - merged).max() <= 4
    # A sheet that changes all beneath it has no likeness there: up to it all is one picture.
    write_drawing(drawn(), (*TRACES, ForPrint(id="fp", name="Lift")), Sheet(), tmp_path / "b.ora", resolution=30)
    assert [r.name for r in Project.load(str(tmp_path / "b.ora")).children] == ["Notes", "Beneath Lift"]


def test_a_board_goes_out_with_a_layer_for_each_drawing(tmp_path: Path) -> None:
    from tests.core import test_boards as boards
    from warmgraphite.board.write import write_board
    from warmgraphite.study.placed_drawings import in_study, made_ready

    rows = (PlacedDrawing(id="a", view="Section", at=(10, 10)), PlacedDrawing(id="b", view="Plan", at=(10, 140)))
    board = Board(id="b", name="B", page=Page(width=240, height=300), drawings=rows, block=boards.QUIET)
    document, model = boards.study(), boards.house()
    ready = made_ready(board, lambda row: in_study(row, document, model), tmp_path / "tiles", 60)
    write_board(board, ready, tmp_path / "a.pdf", study="S", resolution=60)
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        names = layer_names(pdf)
        tops = [o for o in pdf.Root.OCProperties.D.Order if not isinstance(o, pikepdf.Array)]
    assert [str(o.Name) for o in tops][-1] == "Paper" and {"Drawing A Section", "Drawing B Plan"} <= {
        str(o.Name) for o in tops
    }
    assert names.count("Lines") == 2
    whole, less = with_layers(tmp_path / "a.pdf", set()), with_layers(tmp_path / "a.pdf", {"Drawing B Plan"})
    changed = np.flatnonzero((np.abs(whole - less).max(2) > 30).any(1)) / whole.shape[0] * 300
    assert len(changed) and changed.min() > 135
    write_board(board, ready, tmp_path / "a.ora", study="S", resolution=60)
    write_board(board, ready, tmp_path / "a.png", study="S", resolution=60)
    project = Project.load(str(tmp_path / "a.ora"))
    assert "Drawing A Section: Poche" in [r.name for r in project.children]
    merged = np.asarray(Image.open(tmp_path / "a.png")).astype(int)
    assert np.abs(np.asarray(project.get_image_data(use_original=False)).astype(int) - merged).max() <= 4


def test_passes_are_kept_as_tiff_with_all_of_their_bits(tmp_path: Path) -> None:
    small = VIEW.model_copy(update={"frame": VIEW.frame.model_copy(update={"resolution": 40})})
    told: list[str] = []
    for kind in ("png", "tiff"):
        write_bundle(Drawing(yard(), small), tmp_path / kind, pictures=kind, watch=lambda stage, _f: told.append(stage))  # type: ignore[arg-type]
    names = {p.stem for p in (tmp_path / "png").glob("*.png")}
    assert names == {p.stem for p in (tmp_path / "tiff").glob("*.tiff")} and not list((tmp_path / "tiff").glob("*.png"))
    for name in sorted(names):
        a, b = (np.asarray(Image.open(tmp_path / k / f"{name}.{k}")) for k in ("png", "tiff"))
        assert (a == b).all(), name
    assert np.asarray(Image.open(tmp_path / "tiff" / "depth.tiff")).dtype.itemsize >= 2 and "Writing depth" in told
    assert len(np.unique(np.asarray(Image.open(tmp_path / "tiff" / "depth.tiff")))) > 256
    assert json.loads((tmp_path / "tiff" / "bundle.json").read_text())["frame"]["pixels"] == [320, 240]


@pytest.mark.parametrize("ending", deeper(["pdf"], ["svg", "png", "ora"]))
def test_writing_tells_how_far_it_is_and_leaves_nothing_when_it_is_stopped(tmp_path: Path, ending: str) -> None:
    told: list[float] = []
    write_drawing(drawn(), TRACES, Sheet(), tmp_path / f"a.{ending}", resolution=40, watch=told.append)
    assert len(told) >= 2 and all(0 <= f <= 1 for f in told) and told[-1] > 0.4

    def stop(share: float) -> None:
        if share > 0.4:
            raise Cancelled("Writing")

    with pytest.raises(Cancelled):
        write_drawing(drawn(), TRACES, Sheet(), tmp_path / f"b.{ending}", resolution=40, watch=stop)
    assert [p.name for p in tmp_path.iterdir()] == [f"a.{ending}"]


def lying(canvas: Canvas, pixels: np.ndarray) -> None:
    """A picture laid down in all ways in which a picture may be confined, and one that lies plainly under it."""
    disc = Path2D.of([np.stack([30 + 24 * np.cos(t), 20 + 18 * np.sin(t)], 1) for t in [np.linspace(0, 2 * np.pi, 64)]])
    canvas.fill([np.array([(0, 0), (60, 0), (60, 40), (0, 40)], float)], "#d8c8a0")
    with canvas.group("Sheet", 0.8), canvas.clip(3, 2, 50, 36), canvas.transform((1, 0, 0, 1, 2.0, 1.0)):
        canvas.image(np.ascontiguousarray(pixels[::-1]), 0, 0, 50, 40)
    with (
        canvas.clip_path(disc),
        canvas.group("Over", 0.7, "multiply"),
        canvas.transform((0.9, 0.1, -0.1, 0.9, 4.0, 0.0)),
    ):
        canvas.image(pixels, 4, 2, 48, 36)


def pictures_of(pdf: bytes) -> list[tuple[np.ndarray, np.ndarray]]:
    """The colours of each picture, and how opaque it is."""
    with pikepdf.open(io.BytesIO(pdf)) as found:
        images = [
            o
            for o in found.objects
            if isinstance(o, pikepdf.Stream) and o.get("/Subtype") == "/Image" and "/SMask" in o
        ]
        return [
            (
                np.asarray(pikepdf.PdfImage(o).as_pil_image())[..., :3],
                np.asarray(pikepdf.PdfImage(o.SMask).as_pil_image()),
            )
            for o in images
        ]


def test_pictures_of_a_document_lie_where_they_are_laid_and_are_no_larger_than_they_are_seen() -> None:
    y, x = np.mgrid[0:180, 0:240]
    opaque = np.where(np.hypot(x - 120, y - 90) < 85, 90 + x // 3 + y // 6, 0).astype(np.uint8)
    soft = np.stack([200 - x // 4, 90 + y // 3, np.full_like(x, 60)], -1)
    striped = np.where((x // 7 % 2 == 0)[..., None], [220, 60, 40], [40, 60, 220])
    for colour, by in ((soft, 4), (striped, 1)):
        pixels = np.concatenate([colour * (opaque[..., None] / 255), opaque[..., None]], -1).round().astype(np.uint8)
        surface, canvas = raster(600, 400, 60, 40)
        lying(canvas, pixels)
        want = surface.makeImageSnapshot().toarray(colorType=skia.kRGBA_8888_ColorType)[..., :3].astype(int)
        for quality in (92, 100):
            document = Document("Picture", quality=quality)
            document.page((60, 40), lambda c, p=pixels: lying(c, p), Layering.of(OutSettings(layers=()), False))  # type: ignore[misc]
            pdf = document.bytes()
            off = np.abs(rendered(pdf, 254) - want).max(-1)
            assert off.mean() < 3 and np.median(off) <= 2, quality
            rows = pictures_of(pdf)
            kept = next(r for r in rows if np.array_equal(r[1], opaque[6:175, 36:205]))
            assert len(rows) == 2 and kept[0].shape[0] == -(-169 // (by if quality < 100 else 1))
            if quality == 100:
                there = kept[1] > 7
                assert np.abs(kept[0].astype(int) - colour[6:175, 36:205])[there].max() <= 2


def test_what_leaves_is_all_computed_before_it_is_written_and_nothing_else(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ink = Ink(pens=default_pens(), poche=default_poche())
    plain = TiledDrawing(Drawing(yard(), VIEW, ink=ink), tmp_path / "plain")
    plain.compute_picture(TRACES[-2:], ink)
    assert not {"surface", "light", "corners"} & set(plain.drawing.seconds), "lines hang on no pixels"
    tiled = TiledDrawing(Drawing(yard(), VIEW, ink=ink), tmp_path / "tiles", tiles_of((1200, 900), 400))
    shares: list[float] = []
    tiled.compute_picture(TRACES, ink, watch=lambda _stage, share: shares.append(share))
    assert shares == sorted(shares) and shares[-1] == 1 and len(tiled.windows) == 9

    flat = (Shadow(id="s", name="S", mottle=0),)
    alone = TiledDrawing(Drawing(yard(), VIEW, ink=ink), tmp_path / "alone")
    alone.compute_picture(flat, ink)

    def refuse(_drawing: Drawing, wanted: Any, record: Any) -> None:
        assert record.light, f"{wanted.words} is computed while it is written"

    monkeypatch.setattr(Drawing, "refuse_computing", refuse)
    for name in ("a.pdf", "a.png", "a.svg"):
        write_drawing(tiled.plate("Test yard"), TRACES, Sheet(), tmp_path / name, resolution=DPI)
    write_drawing(alone.plate(), flat, Sheet(), tmp_path / "flat.svg")
    with pytest.raises(OurFault, match="needs surface"):
        alone.plate().with_results([Need("lines")]).surface  # noqa: B018 - only painting is handed results
    monkeypatch.undo()
    to(tmp_path / "whole.png")
    whole, tiles = (np.asarray(Image.open(tmp_path / n)).astype(int) for n in ("whole.png", "a.png"))
    assert np.abs(whole - tiles).max() <= 1


def test_what_is_fresh_is_read_once_for_all_tiles_and_nothing_is_computed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A pass without pixels is read once by whoever sends the drawing again, not by each of its tiles.
    One with pixels by its own.
    """
    ink, store = Ink(pens=default_pens(), poche=default_poche()), PassStore(tmp_path / "passes")
    read: Counter[str] = Counter()
    loaded = PassStore.load

    def load(kept: PassStore, key: str) -> Any:
        found = loaded(kept, key)
        read[key] += found is not None
        return found

    def sent(number: int) -> dict[str, float]:
        tiled = TiledDrawing(
            Drawing(yard(), VIEW, store=store, ink=ink), tmp_path / "tiles", tiles_of((1200, 900), 400)
        )
        tiled.compute_picture(TRACES, ink)
        write_drawing(tiled.plate("Test yard"), TRACES, Sheet(), tmp_path / f"{number}.png", resolution=DPI)
        return tiled.drawing.seconds

    assert {"lines", "regions", "light", "surface"} <= set(sent(0))
    monkeypatch.setattr(PassStore, "load", load)
    assert not sent(1), "what was fresh is computed again"
    flat = {key: n for key, n in read.items() if not PASSES[key.rpartition("-")[0]].pixels}
    assert len(flat) > 4 and max(flat.values()) == 1, flat
    assert (tmp_path / "0.png").read_bytes() == (tmp_path / "1.png").read_bytes()


def test_tiles_stop_where_whoever_watches_says_so(tmp_path: Path) -> None:
    tiled = TiledDrawing(Drawing(yard(), VIEW), tmp_path, tiles_of((1200, 900), 150))

    def watch(_stage: str, share: float) -> None:
        if share > 0.3:
            raise Cancelled

    with pytest.raises(Cancelled):
        tiled.compute(("surface",), watch)
    made = len(list(tmp_path.glob("surface-*")))
    assert 0 < made < len(tiled.windows) - 10, "those not begun are not begun any more"
