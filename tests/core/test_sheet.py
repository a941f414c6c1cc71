"""What leaves the application is true.
Page, scale, line widths, fonts, groups, and the picture that was on the desk.
"""

from __future__ import annotations

import base64
import io
import re
import tempfile
import xml.etree.ElementTree as ET
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import pytest
import shapely
import skia
import trimesh
from fontTools.ttLib import TTFont
from PIL import Image
from scipy import ndimage

from tests.conftest import box, model_of
from warmgraphite.canvas.bounds import Bounds
from warmgraphite.canvas.journal import Journal
from warmgraphite.canvas.lettering import measured
from warmgraphite.canvas.pixels import raster
from warmgraphite.canvas.protocol import BLEND_MODES
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.shade import Shade
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.specification import KINDS, Trace, default_traces, form_of
from warmgraphite.collage.stack import Layer
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.drawing import Drawing, Need
from warmgraphite.errors import OutputError, ViewError
from warmgraphite.figures.choosing import Marked
from warmgraphite.figures.kinds import KINDS as FIGURES
from warmgraphite.forms import settings_of
from warmgraphite.ink.fills import GRAPHITE, Flat, Hatch
from warmgraphite.ink.marks.specification import Mark
from warmgraphite.ink.rules import Ink, Pen, PenRule, PocheRule, SurfaceRule, default_pens, default_poche
from warmgraphite.model.model import Contours
from warmgraphite.regions.query import Match
from warmgraphite.sheet.notes import scale_bar_length
from warmgraphite.sheet.page import draw_page
from warmgraphite.sheet.preview import LayerCache, compose
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.vectors import Vectors
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, ViewSpecification

MODEL = model_of(
    ("Wall", box((0, 0, 0), (5, 1, 3)), 0),
    ("Step", box((5, 0, 0), (6, 3, 1)), 2),
    ("Back", box((-2, 4, 0), (8, 4.3, 2)), 0),
)
VIEW = ViewSpecification(
    name="Section <one> & more",
    projection=Parallel(direction=(0, 1, 0), centre=(2.5, 0, 1.5)),
    cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),),
    frame=Frame(width=210, height=148, scale=50, resolution=72),
)


def changed(rules: Sequence[PenRule], **pens: dict) -> tuple[PenRule, ...]:
    """The rules, those named with other fields."""
    return tuple(r.model_validate(r.model_dump() | pens.get(r.id, {})) for r in rules)


PENS = changed(
    default_pens(),
    cut={"pen": {"weight": 0.7, "colour": GRAPHITE}}, outline={"pen": {"weight": 0.45, "colour": GRAPHITE}},
    fading={"fading": {}},
)  # fmt: skip


def plate(pens: Sequence[PenRule] = PENS, poche: Sequence[PocheRule] = default_poche()) -> Plate:
    return Drawing(MODEL, VIEW, ink=Ink(pens=tuple(pens), poche=tuple(poche))).plate("Test house")


def key_of(trace: Trace, drawing: Drawing) -> str:
    return Layer(drawing.plate(), trace, 12).key


def line_widths(content: pikepdf.Object, resources: pikepdf.Object, matrix: np.ndarray) -> set[float]:
    """Widths of lines in millimetres, read back: each width operator times the matrix in force, forms included."""
    widths, stack = set(), []
    for operands, operator in pikepdf.parse_content_stream(content):
        name = str(operator)
        if name == "q":
            stack.append(matrix)
        elif name == "Q":
            matrix = stack.pop()
        elif name == "cm":
            a, b, c, d, e, f = (float(o) for o in operands)
            matrix = np.array([[a, b, 0], [c, d, 0], [e, f, 1]]) @ matrix
        elif name == "w" or (name == "gs" and "/LW" in resources["/ExtGState"][str(operands[0])]):
            width = operands[0] if name == "w" else resources["/ExtGState"][str(operands[0])]["/LW"]
            widths.add(round(float(width) * np.sqrt(abs(np.linalg.det(matrix[:2, :2]))) / 72 * 25.4, 3))
        elif name == "Do":
            form = resources["/XObject"][str(operands[0])]
            if form["/Subtype"] == "/Form":
                widths |= line_widths(form, form.get("/Resources", resources), matrix)
    return widths


def test_a_pdf_has_the_true_page_and_lines_of_the_pens_width(scratch: Path) -> None:
    write_drawing(plate(), default_traces(), Sheet(), scratch / "a.pdf")
    with pikepdf.open(scratch / "a.pdf") as pdf:
        (page,) = pdf.pages
        left, bottom, right, top = (float(v) for v in page.mediabox)
        assert ((right - left) / 72 * 25.4, (top - bottom) / 72 * 25.4) == pytest.approx((210, 148), abs=1e-3)
        widths = line_widths(page, page.get("/Resources"), np.eye(3))
        fonts = [
            f
            for o in pdf.objects
            if isinstance(o, pikepdf.Dictionary) and o.get("/Type") == "/FontDescriptor"
            for f in [o]
        ]
        modes = {str(o["/BM"]) for o in pdf.objects if isinstance(o, pikepdf.Dictionary) and "/BM" in o}
    assert {0.7, 0.45} <= widths
    assert len(fonts) >= 2 and all("/FontFile2" in f for f in fonts)
    assert "/Multiply" in modes


def test_an_svg_is_at_scale_with_named_groups_per_pass_and_rank(scratch: Path) -> None:
    write_drawing(plate(), default_traces(), Sheet(), scratch / "a.svg")
    root = ET.parse(scratch / "a.svg").getroot()
    space = {"s": "http://www.w3.org/2000/svg"}
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("210mm", "148mm", "0 0 210 148")
    groups = {g.get("data-name"): g for g in root.iter("{http://www.w3.org/2000/svg}g") if g.get("data-name")}
    assert {
        "Paper",
        "Shadow",
        "Poche",
        "Lines",
        "poche Stone",
        "lines cut",
        "lines outline",
        "scale bar",
        "title",
    } <= set(groups)
    assert "multiply" in groups["Shadow"].get("style", "")
    numbers = [float(n) for n in re.findall(r"-?[\d.]+", groups["poche Stone"].find("s:path", space).get("d"))]  # type: ignore[union-attr,arg-type]
    x, y = numbers[::2], numbers[1::2]
    assert max(x) - min(x) == pytest.approx(5 * 20, abs=1e-3) and max(y) - min(y) == pytest.approx(3 * 20, abs=1e-3)
    assert len({g.get("id") for g in root.iter() if g.get("id")}) == len([g for g in root.iter() if g.get("id")])
    assert VIEW.name in "".join(root.itertext())


def test_a_png_has_its_pixels_and_is_transparent_without_paper(scratch: Path) -> None:
    write_drawing(plate(), default_traces(), Sheet(), scratch / "a.png", resolution=72)
    write_drawing(plate(), default_traces(), Sheet(), scratch / "b.png", resolution=72, paper=False)
    with Image.open(scratch / "a.png") as full, Image.open(scratch / "b.png") as bare:
        assert full.size == bare.size == (595, 420) and full.info["dpi"][0] == pytest.approx(72, abs=0.1)
        assert np.asarray(full)[..., 3].min() == 255
        assert np.asarray(bare)[2, 2, 3] == 0  # the margin


def test_the_picture_on_the_desk_is_the_picture_that_is_exported(scratch: Path) -> None:
    found = plate()
    write_drawing(found, default_traces(), Sheet(), scratch / "a.png", resolution=72)
    with Image.open(scratch / "a.png") as file:
        exported = np.asarray(file)[..., :3].astype(int)
    shown = compose(found, default_traces(), Sheet(), (595, 420), LayerCache())
    desk = shown.toarray(colorType=skia.kRGBA_8888_ColorType)[..., :3].astype(int)
    assert np.abs(exported - desk).max() <= 3


def test_a_scale_bar_is_as_long_as_it_says(scratch: Path) -> None:
    assert scale_bar_length(50) == 2 and scale_bar_length(100) == 5 and scale_bar_length(200) == 10
    write_drawing(plate(), (), Sheet(title_on=False, north_on=False), scratch / "bar.svg")
    root = ET.parse(scratch / "bar.svg").getroot()
    bar = next(g for g in root.iter("{http://www.w3.org/2000/svg}g") if g.get("data-name") == "scale bar")
    outline = next(p.get("d") for p in bar if p.get("fill") == "none")
    x = [float(n) for n in re.findall(r"-?[\d.]+", outline or "")][::2]
    assert max(x) - min(x) == pytest.approx(2000 / 50) and "2 m" in [t.text for t in bar]


@pytest.mark.parametrize("mode", BLEND_MODES)
def test_blend_modes_are_those_of_the_w3c(mode: str) -> None:
    """The separable modes by the standard's own formulas, on the wash of glass-free shade over paper."""
    formulas = {
        "normal": lambda b, s: s,
        "multiply": lambda b, s: b * s,
        "screen": lambda b, s: b + s - b * s,
        "overlay": lambda b, s: np.where(b <= 0.5, 2 * b * s, 1 - 2 * (1 - b) * (1 - s)),
        "darken": np.minimum,
        "lighten": np.maximum,
        "hard-light": lambda b, s: np.where(s <= 0.5, 2 * b * s, 1 - 2 * (1 - b) * (1 - s)),
        "difference": lambda b, s: np.abs(b - s),
        "exclusion": lambda b, s: b + s - 2 * b * s,
        "color-dodge": lambda b, s: np.where(s >= 1, 1.0, np.minimum(1, b / np.maximum(1 - s, 1e-9))),
        "color-burn": lambda b, s: np.where(s <= 0, 0.0, 1 - np.minimum(1, (1 - b) / np.maximum(s, 1e-9))),
    }
    lower = Paper(id="paper", name="Paper", colour="#d8b890", grain=0)
    upper = Paper(id="second", name="Second", colour="#6090c0", grain=0, blend=mode, opacity=0.5)  # type: ignore[arg-type]
    shown = compose(
        plate(), (lower, upper), Sheet(title_on=False, scale_bar_on=False, north_on=False), (60, 42), LayerCache()
    )
    pixel = shown.toarray(colorType=skia.kRGBA_8888_ColorType)[20, 30, :3] / 255.0
    assert pixel.min() >= 0  # every mode is known to the canvas
    if mode in formulas:
        b, s = (np.array([int(c[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0 for c in (lower.colour, upper.colour))
        assert pixel == pytest.approx(0.5 * b + 0.5 * formulas[mode](b, s), abs=0.012)


def test_the_sky_wash_stays_in_the_sky_and_poche_hides_what_is_under_it() -> None:
    sky = tuple(t for t in default_traces() if t.kind == "sky")
    found = plate()
    picture = compose(
        found, sky, Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False), (595, 420), LayerCache()
    )
    pixels = picture.toarray(colorType=skia.kRGBA_8888_ColorType)[..., :3]
    seen = np.asarray(Image.fromarray(found.surface.cover).resize((595, 420)))
    assert (pixels[seen == 255] == 255).all() and (pixels[seen == 0] < 250).any()


def test_a_wash_of_sky_lies_where_one_looks_up_and_nowhere_in_a_plan() -> None:
    sky = tuple(t for t in default_traces() if t.kind == "sky")
    sheet = Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False)

    def washed(projection: Parallel | Perspective) -> np.ndarray:
        view = VIEW.model_copy(
            update={"projection": projection, "cuts": (), "frame": Frame(width=210, height=148, scale=100)}
        )
        found = Drawing(MODEL, view, (210, 148), ink=Ink(pens=PENS)).plate()
        picture = compose(found, sky, sheet, (210, 148), LayerCache()).toarray(colorType=skia.kRGBA_8888_ColorType)
        return (picture[..., :3].min(2) < 245) & (found.surface.cover == 0)

    assert (
        not washed(Parallel(direction=(0, 0, -1), up=(0, 1, 0))).any()
        and not washed(Parallel(direction=(1, 1, -0.6))).any()
    )
    assert washed(Parallel(direction=(0, 1, 0))).any() and washed(Parallel(direction=(1, 1, 0.6))).any()
    # In a perspective the wash ends at the horizon, which is as high as the eye: in the middle of a level view.
    level = washed(Perspective(eye=(2, -30, 1.6), target=(2, 0, 1.6), field_of_view=50))
    assert level[40].any() and not level[80:].any() and not washed(Perspective(eye=(2, -9, 30), target=(2, 2, 0))).any()


def test_a_trace_is_named_by_all_that_it_shows() -> None:
    drawing = Drawing(replace(MODEL, sets={"House": (0, 1), "Yard": (2,)}), VIEW, (80, 56))
    base = Shade(id="shade", name="Shade")
    key = lambda t, d=drawing: key_of(t, d)
    house = Match(sets=("House",))
    for change in ({"colour": "#112233"}, {"mottle": 0.9}, {"where": house}):
        assert key(base.model_copy(update=change)) != key(base), change
    assert key(base.model_copy(update={"opacity": 0.1, "name": "Other", "blend": "multiply", "on": False})) == key(base)
    confined = base.model_copy(update={"where": house})
    other = Drawing(replace(MODEL, sets={"House": (0,), "Yard": (2,)}), VIEW, (80, 56))
    assert key(confined, other) != key(confined)
    lines = LinesTrace(id="lines", name="Lines")
    assert key(lines) != key(lines, Drawing(drawing.model, VIEW, (80, 56), ink=Ink(pens=PENS)))
    # A fill of another colour is another picture of the same shapes.
    poche, red = PocheTrace(id="poche", name="Poche"), [PocheRule(fills=(Flat(colour="#ff0000"),))]
    other = Drawing(drawing.model, VIEW, (80, 56), ink=Ink(poche=default_poche()[:1]))
    assert key(poche) != key(poche, Drawing(drawing.model, VIEW, (80, 56), ink=Ink(poche=tuple(red))))
    assert other.key("shapes") == Drawing(drawing.model, VIEW, (80, 56), ink=Ink(poche=tuple(red))).key("shapes")


def test_every_kind_of_trace_says_what_it_is_and_shows_what_its_passes_hold(tmp_path: Path) -> None:
    """Each kind draws something of its own on a plate made for it.
    In all of the parts or in some, and names it anew when a setting changes; its form has a field for each setting.
    """
    slope = trimesh.Trimesh([[-9, -6, -2], [12, -6, -1], [12, 9, 1], [-9, 9, 0]], [[0, 1, 2], [0, 2, 3]])
    bodies = (("House", box((0, 0, -2), (4, 3, 3)), 0), ("Shed", box((5, 1, -2), (7, 2, 2)), 2), ("Slope", slope, 0))
    pane = trimesh.Trimesh([[-3, 0, -1], [-1, 0, -1], [-1, 0, 2], [-3, 0, 2]], [[0, 1, 2], [0, 2, 3]])
    card = trimesh.Trimesh([[-6, -1, -1], [-5, -1, -1], [-5, -1, 2], [-6, -1, 2]], [[0, 1, 2], [0, 2, 3]])
    model = model_of(*bodies, ("Pane", pane, 1), ("cut-out", card, 2))
    about = {"Slope": {"role": "ground"}, "cut-out": {"figure": "one"}}
    parts = tuple(replace(p, **about.get(p.name, {})) for p in model.parts)
    model = replace(model, parts=parts, sets={"House": (0, 1)}, contours=Contours(0.5, 5))
    seen_from = Perspective(eye=(-4, -14, 5), target=(2, 1, 1), field_of_view=60)
    view = VIEW.model_copy(
        update={"projection": seen_from, "frame": Frame(width=210, height=148), "cuts": VIEW.cuts[:0]}
    )
    cut = view.model_copy(update={"cuts": (Cut(point=(0, 1.5, 0), normal=(0, -1, 0)),)})
    fills = (Flat(colour="#ccbbaa"),)
    sheet = Mark(kind="rectangle", points=((-90, -60, 0), (90, 60, 0)), fills=fills)
    ink = Marked(surfaces=(SurfaceRule(fills=(Hatch(spacing=2), *fills)),), marks=(sheet,))
    stock = KeptPictures(tmp_path)
    pale = np.random.default_rng(1).integers(190, 256, (240, 340, 3), np.uint8)
    pale[20:230:24, 10:330] = 20  # on which lines are drawn
    Image.fromarray(pale).save(stock.path("5eed"))
    star = np.array([[10.0, 10], [120, 30], [60, 90], [10, 10]])
    row, wide = np.ones((1, 3), np.uint8), np.array([0.4], np.float32)
    Vectors(
        star,
        np.array([0, 4]),
        wide,
        row,
        np.zeros(1, np.int32),
        np.ones(1, bool),
        row,
        np.array([148.0, 105]),
        np.zeros(1),
    ).write(stock.lines_path("5eed"))
    drawings = {c: Drawing(model, (view, cut)[c], (160, 112), ink=ink, pictures=stock) for c in (False, True)}
    house = Match(sets=("House",))
    wheres: dict[str, Match | None] = {"": None, "House": house, "Lit": house.model_copy(update={"light": ("lit",)})}
    assert len(KINDS) >= 16
    elsewhere = ("glass", "contours", "backdrop", "reflection", "cut-outs")  # which are nowhere on the house
    for name, kind in KINDS.items():
        own = (
            {"picture": "5eed"}
            if "picture" in kind.model_fields
            else {"veil": {"set": "House", "pens": "of the finish"}, "reflection": {"of": "glass"}}.get(name, {})
        )
        trace, drawing = kind(id="a", name=kind.label, **own), drawings[name in ("poche", "cut-shadow")]
        form = form_of(kind)
        assert form.kind == name and form.label and form.about.endswith(".")
        hidden = {
            n
            for n, f in kind.model_fields.items()
            if isinstance(f.json_schema_extra, dict) and f.json_schema_extra.get("hidden")
        }
        assert {s.field for s in form.settings} == set(kind.model_fields) - set(PixelTrace.model_fields) - hidden
        assert [s.field for s in form.edges] == ["edge", "edge_reach", "outward"] * (
            issubclass(kind, PixelTrace) and kind.confines
        )
        for setting in form.settings:
            other = {
                "share": 0.77, "number": max(min(setting.high, 3), setting.low), "colour": "#102030",
                "on": not setting.initial, "dash": [1.0, 0.5],
                "choice": next((o for o in setting.options if o != getattr(trace, setting.field)), ""),
                "set": "Another",
            }[setting.sort]  # fmt: skip
            other_one = type(trace).model_validate(trace.model_dump() | {setting.field: other})
            assert key_of(other_one, drawing) != key_of(trace, drawing), (name, setting.field)
        marks = {}
        for called, where in wheres.items() if kind.confines else [("", None)]:
            laid = trace.model_copy(update={"where": where})
            plate = drawing.plate()
            surface, canvas = raster(160, 112, *plate.frame)
            # A layer is handed what its trace says that it needs, and nothing else, in documents too.
            Layer(plate, laid, 0).draw(canvas)
            for by_layers in (False, True):
                document = SvgCanvas(*plate.frame, name)
                Layer(replace(plate, by_layers=by_layers), laid, 0).draw(document)
            marks[called] = surface.toarray()[..., 3] > 0
        assert marks[""].any() or trace.lies_over(), name
        if kind.confines and name not in (
            "wire",
            "hidden",
            "cut-shadow",
        ):  # which shine through what stands before, or fall beside it
            house = ndimage.binary_dilation(np.isin(drawing.surface().part, [0, 1]), iterations=2)
            assert not (marks["House"] & ~house).any(), name
            assert name == "backdrop" or marks["House"].any() == (name not in elsewhere), name
        if kind.confines and name not in (*elsewhere, "poche", "cut-shadow"):
            # What lies in the sun of the house: within a pixel of the map's own mask.
            lit = ndimage.binary_dilation(drawing.result(Need("mask", wheres["Lit"])) > 0, iterations=2)
            assert marks["Lit"].any() and not (marks["Lit"] & ~lit).any(), name


def test_paper_lies_below_over_all_or_both() -> None:
    drawing = Drawing(MODEL, VIEW, (160, 112), ink=Ink(poche=(PocheRule(fills=(Flat(colour="#ff0000"),)),)))

    def drawn(lies: str) -> np.ndarray:
        traces = (
            Paper(id="paper", name="Paper", colour="#c0b090", grain=1.0, lies=lies),
            PocheTrace(id="poche", name="Poche"),
        )  # type: ignore[arg-type]
        made = drawing.plate()
        quiet = Sheet(title_on=False, scale_bar_on=False, north_on=False)
        with tempfile.TemporaryDirectory() as folder:
            write_drawing(made, traces, quiet, Path(folder) / "a.png", resolution=60)
            written = np.asarray(Image.open(Path(folder) / "a.png").convert("RGB")).astype(int)
        shown = compose(made, traces, quiet, (written.shape[1], written.shape[0]), LayerCache())
        desk = shown.toarray(colorType=skia.kRGBA_8888_ColorType)[..., :3].astype(int)
        assert np.abs(desk - written).max() <= 2
        return written

    below, over, both = (drawn(lies) for lies in ("below", "over all", "both"))
    cut = (below == [255, 0, 0]).all(-1)
    assert cut.sum() > 50
    assert (over[cut][:, 0] < 255).any() and (both[cut][:, 0] < 255).any()  # the tooth is seen through the ink
    assert np.ptp(over[cut][:, 0]) > 3 and abs(int(np.median(both[cut][:, 0])) - 250) < 12
    bare = ~cut & (np.abs(below - [192, 176, 144]).max(-1) < 25)
    assert bare.mean() > 0.3 and np.abs(over[bare] - below[bare]).mean() < 20


def test_more_pixels_than_can_be_held_are_refused_before_anything_is_made() -> None:
    frame = Frame(width=1189, height=841, resolution=300)
    drawing = Drawing(MODEL, VIEW.model_copy(update={"frame": frame}))
    for work in (drawing.compute, drawing.surface, drawing.refuse_too_many):
        with pytest.raises(ViewError, match="227 dpi or less"):
            work()
    assert drawing.seconds == {} and drawing.lines().visible.any()  # what has no pixels is drawn at any size
    Drawing(MODEL, VIEW.model_copy(update={"frame": frame.model_copy(update={"resolution": 227})})).refuse_too_many()


def test_what_one_pen_or_poche_is_changed_to_is_what_is_drawn() -> None:
    quiet = Sheet(title_on=False, scale_bar_on=False, north_on=False)
    traces = tuple(t for t in default_traces() if t.kind in ("poche", "lines"))

    def dark(found: Plate) -> np.ndarray:
        return compose(found, traces, quiet, (595, 420), LayerCache()).toarray(colorType=skia.kRGBA_8888_ColorType)[
            ..., :3
        ]

    stone = Match(materials=("Stone",))
    red, void = (
        dark(plate(poche=[*default_poche(), PocheRule(where=stone, fills=f)])) for f in ((Flat(colour="#ff0000"),), ())
    )
    assert (red[208, 300] == [255, 0, 0]).all() and (void[208, 300] == 255).all()
    assert plate([r.model_copy(update={"on": False}) for r in PENS]).strokes() == []


def test_lines_are_drawn_in_the_longest_clean_strokes() -> None:
    """A box, seen from above, is one closed outline of six corners and a star of three edges.
    One through, one on its own.
    """
    drawing = Drawing(
        model_of(("Box", box((0, 0, 0), (2, 3, 4)), 0)),
        ViewSpecification(projection=Parallel(direction=(0.5, 1, -0.6))),
    )
    by_rank = {
        s.style.group: s.lines for s in Drawing(drawing.model, drawing.view, ink=Ink(pens=PENS)).plate().strokes()
    }
    (outline,) = by_rank["outline"]
    assert len(outline) == 7 and np.array_equal(outline[0], outline[-1])
    assert sorted(len(line) for line in by_rank["edge"]) == [2, 3]


def test_the_profile_pen_goes_round_its_part_set_over_all_other_lines() -> None:
    """Wall and step are seen whole but for what is cut away before them: 5 × 3 and 1 × 1 metres, at 1:50."""
    model = replace(MODEL, sets={"House": (0, 1)})
    house = PenRule(id="house", along="subject", where=Match(sets=("House",)), pen=Pen(weight=0.9))
    strokes = Drawing(model, VIEW, ink=Ink(pens=(*PENS, house))).plate().strokes()
    assert strokes[-1].style.group == "profile" and strokes[-1].style.weight == 0.9
    (ring,) = strokes[-1].lines
    assert np.array_equal(ring[0], ring[-1])
    assert shapely.Polygon(ring).area == pytest.approx((5 * 3 + 1) * 20**2, rel=1e-4)
    without = Drawing(model, VIEW, ink=Ink(pens=PENS)).plate().strokes()
    assert [s.style for s in without] == [s.style for s in strokes[:-1]]


def test_far_lines_are_thinner_and_lighter_and_cut_ones_never() -> None:
    rows = [(f"Post {k}", box((3 * k, 4 * k, 0), (3 * k + 1, 4 * k + 1, 3)), 0) for k in range(6)]
    view = VIEW.model_copy(
        update={
            "cuts": (Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),),
            "projection": Parallel(direction=(0, 1, 0)),
            "frame": Frame(),
        }
    )
    drawing = Drawing(model_of(*rows), view)
    for fade in (0.0, 0.8):
        pens = changed(PENS, fading={"fading": {"thinner": 0.55 * fade, "paler": 0.45 * fade}})
        found = Drawing(drawing.model, view, ink=Ink(pens=tuple(pens))).plate().strokes()
        assert {(s.style.weight, s.style.colour) for s in found if s.style.group == "cut"} == {(0.7, GRAPHITE)}
        # The strokes of a rank come farthest first: each band stands farther to the right than the one after it.
        bands = [s for s in found if s.style.group == "outline"]
        places = [np.concatenate(s.lines)[:, 0].mean() for s in bands]
        weights, tones = [s.style.weight for s in bands], [int(s.style.colour[1:3], 16) for s in bands]
        assert places == sorted(places, reverse=True)
        if fade:
            assert weights == sorted(set(weights)) and tones == sorted(set(tones), reverse=True) and len(bands) >= 3
            assert weights[0] == pytest.approx(0.45 * (1 - 0.55 * fade), abs=0.002)
        else:
            assert weights == [0.45] and len(bands) == 1


def test_an_unknown_ending_and_an_unwritable_place_are_one_sentence(scratch: Path) -> None:
    with pytest.raises(OutputError, match="must end in"):
        write_drawing(plate(), (), Sheet(), scratch / "a.doc")
    with pytest.raises(OutputError, match="cannot be written"):
        write_drawing(plate(), (), Sheet(), scratch / "no" / "such" / "a.svg")
    assert not list(scratch.rglob("*.draft"))


def test_what_is_taken_down_is_drawn_again_and_its_bounds_are_those_of_its_pixels() -> None:
    """One page on every canvas.
    Played from a journal it is the same picture and the same file, and it ends where it is said to.
    """
    found, traces = plate(), tuple(t for t in default_traces() if t.kind in ("poche", "lines", "shadow"))
    sheet = Sheet(margin=30, title_on=False, scale_bar_on=False, north_on=True)
    taken, direct, played = Journal(), SvgCanvas(*found.frame, title="A"), SvgCanvas(*found.frame, title="A")
    draw_page(taken, found, traces, sheet)
    draw_page(direct, found, traces, sheet)
    taken.play(played)
    assert direct.document() == played.document() and len(taken.rows) > 20
    bounds = Bounds()
    taken.play(bounds)
    surface, canvas = raster(1050, 740, *found.frame)
    taken.play(canvas)
    rows, columns = (np.flatnonzero((surface.toarray()[..., 3] > 0).any(axis)) / 5 for axis in (1, 0))
    assert bounds.box is not None
    left, top, right, bottom = bounds.box
    assert columns[0] >= left - 0.2 and rows[0] >= top - 0.2 and columns[-1] <= right and rows[-1] <= bottom
    assert columns[0] <= left + 1.5 and columns[-1] >= right - 1.5


def test_words_are_measured_as_they_are_drawn_and_only_their_letters_are_embedded() -> None:
    for face in ("serif", "sans", "hand"):
        for words in ("AVAT Tower 1:50", "Wände, Öfen · é", "fi ffl"):
            wide = measured(words, face, 8)  # type: ignore[arg-type]
            bounds = Bounds()
            bounds.text(10, 10, words, face, 8, "#000000")  # type: ignore[arg-type]
            assert bounds.box is not None and bounds.box[2] - bounds.box[0] == pytest.approx(wide)
            ends = []
            for anchor, x in (("start", 5.0), ("middle", 5.0 + wide / 2), ("end", 5.0 + wide)):
                surface, canvas = raster(1200, 160, 120, 16)
                canvas.text(x, 11, words, face, 8, "#000000", anchor)  # type: ignore[arg-type]
                inked = np.flatnonzero((surface.toarray()[..., 3] > 127).any(0)) / 10
                ends.append((inked[0], inked[-1]))
            assert np.ptp(np.array(ends), 0).max() <= 0.11 and abs(ends[0][1] - 5 - wide) < 0.9, (face, words, ends)
    kerned = measured("AV", "serif", 1) - measured("A", "serif", 1) - measured("V", "serif", 1)
    assert kerned < -0.01
    canvas = SvgCanvas(100, 50, "A")
    canvas.text(5, 20, "Plan", "serif", 5, "#000000")
    data = re.search(r"base64,([A-Za-z0-9+/=]+)", canvas.document())
    assert data is not None
    font = TTFont(io.BytesIO(base64.b64decode(data.group(1))))
    assert {chr(c) for c in font.getBestCmap()} == set("Plan") and len(data.group(1)) < 12_000


def test_no_form_offers_what_is_refused() -> None:
    """The least and the most that can be drawn to, and every choice, of every kind of trace and of figure."""
    offered = [(k(id="a", name="A"), (*form_of(k).settings, *form_of(k).edges)) for k in KINDS.values()]
    offered += [(k(), settings_of(k, {"kind"})) for k in FIGURES.values()]
    for first, settings in offered:
        for setting in settings:
            for value in (setting.low, setting.high) if setting.sort in ("number", "share") else setting.options:
                whole = type(getattr(first, setting.field)) is int
                type(first).model_validate(first.model_dump() | {setting.field: int(value) if whole else value})
