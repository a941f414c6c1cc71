"""Any drawing that a file may ask for, of models that nobody cleaned: drawn, and in every format the same."""

from __future__ import annotations

import json
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pytest
import skia
from PIL import Image

from tests.conftest import deeper
from tests.core.models import pavilion, rotunda, terrain, town, tubes
from warmgraphite.collage.adjusting import AdjustingTrace
from warmgraphite.collage.kinds import KINDS
from warmgraphite.collage.specification import form_of
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.model import Model
from warmgraphite.regions.query import CELL_WORDS, LINE_WORDS, PART_WORDS
from warmgraphite.sheet.preview import LayerCache, compose
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study.drawing_file import DrawingFile, read_drawing, write_drawing_file

MODELS = {"pavilion": pavilion, "rotunda": rotunda, "terrain": terrain, "tubes": tubes, "town": lambda: town(40)}
WORDS: dict[str, Any] = {
    "roles": ["structure", "ground", "glass"], "drawn": ["soft", "plain", "strong"],
    "ranks": ["cut", "outline", "edge", "surface"],
    "kinds": ["cut", "silhouette", "crease", "intersection"], "facing": ["up", "north", "south", "sloping"],
    "light": ["lit", "shadow", "shade"], "where": ["building", "sky"], "hidden": [True, False], "cut": [True, False],
    "glass": [True, False],
    "depth": [[None, 12], [3, None], [2, 30]], "parts": ["*1*", "Roof*", "*"], "layers": ["*"],
}  # fmt: skip


def query(rng: np.random.Generator, model: Model, words: frozenset[str], deep: int = 2) -> dict[str, Any]:
    """Any query in these words."""
    sort = rng.choice(["match", "match", "any", "all", "not"]) if deep else "match"
    if sort == "not":
        return {"kind": "not", "of": query(rng, model, words, deep - 1)}
    if sort != "match":
        return {"kind": sort, "of": [query(rng, model, words, deep - 1) for _ in range(2)]}
    known = WORDS | {"materials": [m.name for m in model.materials] + ["Of another model"]}
    said = rng.choice(sorted(words & known.keys()), size=int(rng.integers(1, 3)), replace=False)
    one = {w: known[w][int(rng.integers(len(known[w])))] for w in said}
    return {"kind": "match"} | {w: v if isinstance(v, bool | list) else [v] for w, v in one.items()}


def setting(rng: np.random.Generator, found: Any) -> Any:
    """Any value that the form of a kind lets one choose."""
    number = float(np.round(rng.uniform(found.low, found.high), 2))
    return {
        "share": number, "number": int(number) if found.step == 1 else number,
        "colour": f"#{rng.integers(1 << 24):06x}",
        "on": bool(rng.integers(2)), "dash": [1.2, 0.6], "choice": found.options and str(rng.choice(found.options)),
        "set": str(rng.choice(["", "Some", "None of them"])),
    }[found.sort]  # fmt: skip


def drawing_file(seed: int, model: Model) -> dict[str, Any]:
    """A drawing file that asks for anything."""
    rng = np.random.default_rng(seed)
    low, high = model.vertices.min(0), model.vertices.max(0)
    middle, reach = (low + high) / 2, float(np.linalg.norm(high - low))
    way = np.array([*rng.normal(size=2), -rng.uniform(0, 0.6)])
    way /= np.linalg.norm(way)
    flat = {"kind": "parallel", "direction": way.tolist()}
    seen = {
        "kind": "perspective",
        "eye": (middle - reach * way).tolist(),
        "target": middle.tolist(),
        "field_of_view": 55,
    }
    plane = {"point": (middle + rng.normal(size=3)).tolist(), "normal": [*(-np.sign(way[:2])).tolist(), 0.0]}
    traces: list[dict[str, Any]] = [{"kind": "paper"}]
    for kind in rng.permutation(sorted(KINDS.keys() - {"paper"}))[:7]:
        form = form_of(KINDS[kind])
        where = {"where": query(rng, model, CELL_WORDS - {"face"}, 1)} if form.confines and rng.integers(2) else {}
        fields = {s.field: setting(rng, s) for s in (*form.settings, *form.edges)}
        blend, opacity = (
            str(rng.choice(["normal", "multiply", "screen", "darken"])),
            float(np.round(rng.uniform(0.2, 1), 2)),
        )
        traces.append({"kind": str(kind), "blend": blend, "opacity": opacity} | fields | where)
    pens = [{"where": {"kind": "match", "hidden": False}, "pen": {"weight": 0.2}}]
    pens += [
        {"where": query(rng, model, LINE_WORDS), "pen": {"weight": 0.4, "colour": "#804020"}, "times": 0.7}
        for _ in range(3)
    ]
    poche = [
        {"where": query(rng, model, PART_WORDS), "fills": [{"kind": "flat", "colour": c}]}
        for c in ("#203040", "#c9b9a1")
    ]
    return {
        "format": 1,
        "view": {
            "name": f"Any {seed}", "projection": [flat, seen][seed % 2], "cuts": [plane] * int(rng.integers(2)),
            "sun": {"azimuth": float(rng.uniform(0, 360)), "altitude": float(rng.uniform(5, 80)),
                "softness": float(rng.choice([0, 3]))},
            "frame": {"width": 148, "height": 105, "resolution": 60},
        },
        "finish": {"traces": traces, "pens": pens, "poche": poche},
        "sheet": {"margin": 6},
    }  # fmt: skip


def written(asked: DrawingFile, model: Model, path: Path) -> bytes:
    look = asked.finish
    drawing = Drawing(model, asked.view, ink=look)
    drawing.compute(needs_of(look.traces, look))
    write_drawing(drawing.plate(), look.traces, asked.sheet, path, resolution=asked.view.frame.resolution)
    return path.read_bytes()


@pytest.mark.parametrize("seed", deeper((1, 2, 4), (0, 3, *range(5, 30))))
def test_any_drawing_of_any_model_is_drawn_and_every_format_shows_the_same(seed: int, tmp_path: Path) -> None:
    model = list(MODELS.values())[seed % 5]()
    asked = read_drawing(json.dumps(drawing_file(seed, model)))
    look, frame = asked.finish, asked.view.frame
    drawing = Drawing(model, asked.view, ink=look)
    drawing.compute(needs_of(look.traces, look))
    plate = drawing.plate()
    for end in ("png", "svg", "pdf"):
        write_drawing(plate, look.traces, asked.sheet, tmp_path / f"a.{end}", resolution=frame.resolution)
    pixels = np.asarray(Image.open(tmp_path / "a.png").convert("RGB")).astype(int)
    desk = compose(plate, look.traces, asked.sheet, frame.pixels, LayerCache()).toarray(
        colorType=skia.kRGBA_8888_ColorType
    )
    assert pixels.shape[1::-1] == frame.pixels and np.ptp(pixels) > 20
    apart = np.abs(desk[..., :3].astype(int) - pixels).max(-1)
    assert (apart > 4).mean() < 0.01, "the desk shows something else than what is written"
    groups = [g.get("data-name") for g in ET.parse(tmp_path / "a.svg").getroot().iter() if g.get("data-name")]
    # Up to the last sheet that changes what lies beneath it a document is laid flat.
    changing = [k for k, t in enumerate(look.traces) if isinstance(t, AdjustingTrace) and t.acts_on == "all beneath"]
    laid = look.traces[changing[-1] + 1 :] if changing else look.traces
    names = [t.name for t in laid if not isinstance(t, AdjustingTrace)]
    assert not changing or f"Beneath {look.traces[changing[-1]].name}" in groups
    assert [g for g in groups if g in names][: len(names)] == names, "traces are not laid in their order"
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        box = [float(v) / 72 * 25.4 for v in pdf.pages[0].mediabox]  # type: ignore[union-attr]
    assert np.allclose([box[2] - box[0], box[3] - box[1]], [frame.width, frame.height], atol=0.01)
    # What is copied from the desk and pasted elsewhere draws the same, to the last byte.
    again = read_drawing(write_drawing_file(asked.view, look, asked.sheet))
    assert again == asked and written(again, model, tmp_path / "b.svg") == (tmp_path / "a.svg").read_bytes()
