"""Windows: a drawing made whole and in odd tiles is the same drawing."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import skia
from PIL import Image
from scipy.spatial import cKDTree

from tests.conftest import DEEP, deeper
from tests.core.test_keys import scene
from warmgraphite.canvas.pixels import skia_image
from warmgraphite.collage.grain import PaperGrid, value_noise
from warmgraphite.collage.kinds import KINDS
from warmgraphite.collage.specification import default_traces
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing import PASSES, Drawing, Need, needs_of
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.ink.hand import PRESETS
from warmgraphite.ink.rules import Ink
from warmgraphite.passes.surface import Raster
from warmgraphite.regions.query import Match
from warmgraphite.sheet.preview import FlatStack, LayerCache, Row, compose
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.frame import extended
from warmgraphite.view.specification import ViewSpecification

ACROSS, DOWN = [0, 61, 62, 175, 343], [0, 87, 88, 240]
WINDOWS = [(x, y, r - x, b - y) for y, b in pairwise(DOWN) for x, r in pairwise(ACROSS)]
SIZE = (ACROSS[-1], DOWN[-1])


def view(**sun: float) -> ViewSpecification:
    found = scene()[1]
    frame = found.frame.model_copy(update={"resolution": SIZE[0] / found.frame.width * 25.4})
    return found.model_copy(update={"frame": frame, "sun": found.sun.model_copy(update=sun)})


@pytest.mark.parametrize("softness", deeper([5.0], [0.0]))
def test_every_pass_of_a_window_is_that_window_of_the_whole(softness: float, tmp_path: Path) -> None:
    whole = Drawing(scene()[0], view(softness=softness), SIZE)
    tiled = TiledDrawing(Drawing(scene()[0], view(softness=softness), SIZE), tmp_path, WINDOWS)
    lit = Match(light=("lit",))
    needs = [
        # How faces lie is told triangle by triangle; what is painted by it is compared below, as it is seen.
        *(Need(n) for n, p in PASSES.items() if p.pixels and not p.of_where and not n.startswith("lies")),
        Need("mask", lit),
        Need("mask", Match(sets=("Walls",))),
    ]
    tiled.compute(needs)
    fields = {
        "surface": ("part", "distance", "cover", "cap", "glass"),
        "light": ("shadow", "shade"),
        "cover": ("most",),
    }
    for (x, y, width, height), plate in tiled.plates():
        left, top = x - plate.raster.x, y - plate.raster.y
        for wanted in needs:
            one, two = whole.result(wanted), plate.results[wanted]
            for name in fields.get(wanted.name, ("",)):
                a, b = (getattr(found, name) if name else found for found in (one, two))
                a, b = a[y : y + height, x : x + width], b[top : top + height, left : left + width]
                if name in ("distance", "part", "most"):
                    assert np.array_equal(a, b), (wanted.words, name)
                else:
                    assert np.abs(a.astype(int) - b.astype(int)).max(initial=0) <= 1, (wanted.words, name, (x, y))
    assert tiled.drawing.store is None and list(tmp_path.glob("surface-*.npz"))


def test_a_picture_written_in_tiles_has_no_seams(tmp_path: Path) -> None:
    """A trace of every kind over one another, papers and their tooth among them.
    As pixels, in SVG and in the size of a PDF.
    """
    kinds = list(KINDS.values())[:: 1 if DEEP else 3]
    traces: list[Trace] = [kind(id=f"t{k}", name=kind.label, opacity=0.5) for k, kind in enumerate(kinds)]
    traces[0] = traces[0].model_copy(update={"where": Match(light=("lit", "shade"))})
    traces = [t.model_copy(update={"lies": "both"}) if t.kind == "paper" else t for t in traces]
    whole, apart = (Drawing(scene()[0], view(), SIZE) for _ in range(2))
    tiled = TiledDrawing(apart, tmp_path / "tiles", WINDOWS)
    tiled.compute(needs_of(traces, apart.ink))
    resolution, sheet = view().frame.resolution, Sheet(margin=4)
    for plate, name in ((whole.plate("House"), "whole"), (tiled.plate("House"), "tiled")):
        for kind in ("png", "svg", "pdf"):
            write_drawing(plate, traces, sheet, tmp_path / f"{name}.{kind}", resolution=resolution)
    one, two = (np.asarray(Image.open(tmp_path / f"{n}.png")).astype(int) for n in ("whole", "tiled"))
    assert one.shape == (SIZE[1], SIZE[0], 4) and np.ptp(one[..., 0]) > 100
    alpha = np.concatenate([one[..., 3:], two[..., 3:]], -1)
    assert np.abs(alpha[..., 0] - alpha[..., 1]).max() <= 1
    # What is all but clear has no colour to speak of.
    one, two = (p[..., :3] * p[..., 3:] / 255 for p in (one, two))
    assert np.abs(one - two).max() <= 1
    assert [w for w in (tmp_path / "whole.svg").read_text().splitlines() if "<image" not in w] == [
        w for w in (tmp_path / "tiled.svg").read_text().splitlines() if "<image" not in w
    ]
    assert (tmp_path / "tiled.pdf").stat().st_size == pytest.approx((tmp_path / "whole.pdf").stat().st_size, rel=0.02)


def test_unevenness_belongs_to_its_place_and_not_to_the_paper_or_the_picture_of_it() -> None:
    frame, size = (120.0, 84.0), (480, 336)
    whole = value_noise(PaperGrid(Raster.of(size), frame, (60, 42)), 9, 4, 5)
    assert abs(float(whole.mean())) < 0.1 and 0.15 < float(whole.std()) < 0.6 and float(np.abs(whole).max()) <= 1.3
    for x, y, w, h in ((0, 0, 480, 336), (33, 71, 101, 57), (479, 335, 1, 1)):
        part = value_noise(PaperGrid(Raster(size, x, y, w, h), frame, (60, 42)), 9, 4, 5)
        assert np.abs(part - whole[y : y + h, x : x + w]).max() < 1e-6
    # On paper drawn out to the left and below the same place has the same grain.
    larger = value_noise(PaperGrid(Raster.of((560, 376)), (140.0, 94.0), (80, 42)), 9, 4, 5)
    assert np.abs(larger[:336, 80:] - whole).max() < 1e-5
    # Looked at twice as closely, every other place of it is nearly where it was.
    close = value_noise(PaperGrid(Raster.of((1440, 1008)), frame, (60, 42)), 9, 3, 5)
    again = value_noise(PaperGrid(Raster.of(size), frame, (60, 42)), 9, 3, 5)
    assert np.abs(close[1::3, 1::3] - again).max() < 1e-5
    assert np.abs(value_noise(PaperGrid(Raster.of(size), frame, (60, 42)), 9, 4, 6) - whole).mean() > 0.1


def test_the_hand_is_the_same_when_the_paper_is_drawn_out_and_when_it_is_drawn_again() -> None:
    """Every stroke and every mark that the paper did not cut off lies where it lay.
    To a hundredth of a millimetre.
    """
    model, asked = scene()
    hatches = [
        {"fills": [{"kind": "hatch", "pattern": "bond", "lies": "face", "disorder": 0.5}]},
        {"over": True, "where": {"kind": "match", "light": ["shade", "shadow"]},
            "fills": [{"kind": "hatch", "angle": 40, "suggested": 0.4}]},
        {"over": True, "fills": [{"kind": "hatch", "pattern": "gravel", "disorder": 0.3}]},
    ]  # fmt: skip
    hand = PRESETS["Soft graphite"].model_copy(update={"breaks": 0.5})
    ink = Ink.model_validate({"hand": hand.model_dump(), "surfaces": hatches})

    def ribbons(drawing: Drawing) -> list[np.ndarray]:
        rows = [*drawing.result("penned"), *drawing.result("hatched").work]
        assert all(r.width is not None for r in rows)
        parts = [np.column_stack([r.xy - drawing.middle, r.width]) for r in rows]
        return [p for part, r in zip(parts, rows, strict=True) for p in np.split(part, r.first[1:-1])]

    before = Drawing(model, asked, ink=ink)
    after = Drawing(model, extended(asked, "left", 25, before.paper), ink=ink)
    one, two, again = ribbons(before), ribbons(after), ribbons(Drawing(model, asked, ink=ink))
    assert len(one) > 300 and all((a == b).all() for a, b in zip(one, again, strict=True))
    # Those near the edge that the paper cut off go on farther now.
    near = np.array([asked.frame.width, asked.frame.height]) / 2 - 4
    held = [line for line in one if (np.abs(line[:, :2]) < near).all()]
    tree = cKDTree(np.stack([line[0] for line in two]))
    gap, found = tree.query(np.stack([line[0] for line in held]))
    same = [
        g < 0.01 and len(two[k]) == len(line) and np.abs(two[k] - line).max() < 0.01
        for line, g, k in zip(held, gap, found, strict=True)
    ]
    assert len(held) > 200 and np.mean(same) > 0.995


def test_sheets_that_lie_flat_are_laid_as_each_would_be_alone() -> None:
    """While one of many sheets is changed the others lie flat.
    The picture is the one that is laid together from nothing, but for what eight bits lose at each of seven layers.
    """
    rng = np.random.default_rng(3)
    size, modes = (70, 50), ["normal", "multiply", "screen", "multiply", "normal", "darken", "multiply", "screen"]

    def picture(name: str) -> skia.Image:
        alpha = rng_of(name).integers(0, 256, (50, 70, 1), dtype=np.uint16)
        colour = rng_of(name + "c").integers(0, 256, (50, 70, 3), dtype=np.uint16)
        return skia_image(np.concatenate([colour * alpha // 255, alpha], -1).astype(np.uint8))

    def rng_of(name: str) -> np.random.Generator:
        return np.random.default_rng(sum(map(ord, name)))

    def pixels(flat: FlatStack, rows: list[Row]) -> np.ndarray:
        return (
            flat.laid(tuple(rows), size, lambda k, _: picture(rows[k][0]))
            .toarray(colorType=skia.kRGBA_8888_ColorType)
            .astype(int)
        )

    rows: list[Row] = [(f"{k}", 0.7, mode) for k, mode in enumerate(modes)]
    kept = FlatStack()
    pixels(kept, rows)
    for step in range(40):
        place = 6 if step < 12 else 1 if step < 24 else int(rng.integers(0, len(rows)))
        name, _, mode = rows[place]
        rows[place] = (f"{name}+" if step % 5 == 4 else name, float(rng.random()), mode)
        if step == 30:
            rows.insert(3, ("new", 0.4, "screen"))
        if step == 33:
            rows[0], rows[1] = rows[1], rows[0]
        assert np.abs(pixels(kept, rows) - pixels(FlatStack(), rows)).max() <= 4, step
    upper = [r for r in rows if r[2] != "darken"]
    for opacity in (0.1, 0.2, 0.3, 0.4):  # all above the lowest is one map by now
        upper[0] = (upper[0][0], opacity, "normal")
        assert np.abs(pixels(kept, upper) - pixels(FlatStack(), upper)).max() <= 4
    # What was looked at last is looked at again for nothing; of what is changed next, only that is drawn.
    assert all(kept.holds(tuple(upper), k, size) for k in range(len(upper)))
    kept.laid(tuple(upper), size, lambda k, _: pytest.fail(f"layer {k} is drawn again"))
    upper[0] = (upper[0][0], 0.5, "normal")
    assert kept.holds(tuple(upper), 3, size) and not kept.holds(tuple(upper), 0, size)


def test_the_part_that_is_seen_is_that_part_of_the_whole_picture() -> None:
    drawing = Drawing(scene()[0], view(), SIZE)
    traces, size, window = default_traces(), (1372, 960), (300, 256, 512, 400)
    whole, part = (
        compose(drawing.plate(), traces, Sheet(margin=4), size, LayerCache(), window=w).toarray(
            colorType=skia.kRGBA_8888_ColorType
        )
        for w in (None, window)
    )
    x, y, width, height = window
    assert part.shape == (height, width, 4)
    apart = np.abs(whole[y : y + height, x : x + width].astype(int) - part).max(-1)
    assert (
        (apart > 2).mean() < 0.01 and apart.mean() < 0.2 and np.ptp(part[..., 0]) > 100
    )  # but for how edges of lines are rounded
