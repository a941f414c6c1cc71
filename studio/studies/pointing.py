"""What lies under a place of the drawing on the desk, and where on it something is."""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from PIL import Image

from studio.studies.desk import MOST_HELD, MOST_MASK, on_desk
from studio.studies.models import Study
from warmgraphite.collage.of_picture import OfPicture
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.drawing import Drawing
from warmgraphite.ink.along import along_needs
from warmgraphite.ink.assign import LineCells, held_by
from warmgraphite.ink.rules import BuildUpRule, PenRule, PocheRule, SurfaceRule
from warmgraphite.ink.strokes import runs
from warmgraphite.passes.line_set import KINDS, RANKS
from warmgraphite.passes.surface import Raster
from warmgraphite.regions.pointing import widenings
from warmgraphite.regions.query import NamedRegion, PartCells
from warmgraphite.study import Look, StudyDocument
from warmgraphite.view.frame import refuse_pixels

__all__ = ["held_lines", "named_shape", "point_out", "probe", "region_mask", "rings_of"]


def probe(study: Study, document: StudyDocument, x: float, y: float) -> dict[str, Any] | None:
    """What lies at frame millimetres (x, y) of the drawing on the desk; ``None`` while a pass is stale."""
    view = document.desk.view
    drawing, look = on_desk(study, document)
    if not all(drawing.fresh().values()) or not (0 <= x <= view.frame.width and 0 <= y <= view.frame.height):
        return None
    seen, lit = drawing.surface(), drawing.light()
    height, width = seen.part.shape
    column = min(int(x / view.frame.width * width), width - 1)
    row = min(int(y / view.frame.height * height), height - 1)
    number = int(seen.part[row, column])
    model = drawing.model
    found: dict[str, Any] = {
        "part": None,
        "material": "",
        "role": "",
        "distance": None,
        "light": "",
        "cut": False,
        "pen": "",
        "glass": False,
        "figure": "",
    }
    if number >= 0:
        part = model.parts[number]
        found |= {
            # A part of a figure has no number on the benches, which know the model alone.
            "part": None if part.figure else number,
            "figure": part.figure,
            "name": part.layer.rpartition("/")[2] if part.figure else part.name,
            "layer": part.layer.split("/")[1] if part.figure else part.layer,
            "material": model.materials[part.material].name,
            "role": part.role,
            "distance": round(float(seen.distance[row, column]) - drawing.nearest, 2),
            "cut": bool(seen.cap[row, column] > 127),
            "glass": bool(seen.glass[row, column] > 127),
        }
        shade, shadow = int(lit.shade[row, column]), int(lit.shadow[row, column])
        if not found["cut"]:
            found["light"] = "in shadow" if shadow > 127 else "in shade" if shade > 150 else "lit"
    found["under"] = _pictures_over(drawing, look, row, column)
    line = _line_at(drawing, x, y, 1.2)
    if line is not None:
        strokes, lines = drawing.result("strokes"), drawing.lines()
        pen = strokes.styles[strokes.pen[line]]
        found["pen"] = f"{RANKS[int(lines.rank[line])] if lines.visible[line] else 'hidden'} {pen.weight:.2f} mm"
        found["line"] = KINDS[int(lines.kind[line])]
    return found


def _pictures_over(drawing: Drawing, look: Look, row: int, column: int) -> list[str]:
    """The names of pictures from elsewhere that hide what the model shows at a pixel, the uppermost first."""
    plate = drawing.plate()
    one = replace(plate, raster=Raster(drawing.size, column, row, 1, 1))
    found = []
    for trace in reversed(look.traces):
        if (
            isinstance(trace, OfPicture)
            and isinstance(trace, PixelTrace)
            and trace.on
            and all(drawing.fresh(trace.all_needs()).values())
        ):
            share = trace.plain.pixels(one)[0, 0, 3] * trace.opacity / 255
            if trace.soft:
                share *= float(plate.of("reach", trace.soft).pixels(1, 1, *one.place)[0, 0]) / 255
            if trace.plain.where is not None:
                share *= float(plate.of("mask", trace.plain.where)[row, column]) / 255
            if share > 0.5:
                found.append(trace.name)
    return found


def _line_at(drawing: Drawing, x: float, y: float, reach: float) -> int | None:
    """The drawn line nearest to (x, y) within ``reach`` millimetres."""
    lines, strokes = drawing.lines(), drawing.result("strokes")
    rows = strokes.index.near(x, y, reach)
    rows = rows[strokes.pen[rows] >= 0]
    if not len(rows):
        return None
    a, b, point = lines.from_mm[rows], lines.to_mm[rows], np.array([x, y])
    step = b - a
    t = np.clip(((point - a) * step).sum(1) / np.maximum((step**2).sum(1), 1e-12), 0, 1)
    gap = np.linalg.norm(a + t[:, None] * step - point, axis=1)
    best = int(np.argmin(gap))
    return int(rows[best]) if gap[best] <= reach else None


def held_lines(
    drawing: Drawing, rule: PenRule | PocheRule | BuildUpRule | SurfaceRule
) -> list[list[tuple[float, float]]]:
    """What a rule takes hold of in a drawing whose lines and fills are fresh, as lines in frame millimetres."""
    if isinstance(rule, PocheRule | BuildUpRule):
        parts = held_by(rule, PartCells.of(drawing.model, cut=True), drawing.model)
        shapes = [s for s in drawing.result("shapes") if parts[s.part]]
        return [np.round(ring, 2).tolist() for s in shapes for ring in s.rings][:MOST_HELD]
    if isinstance(rule, SurfaceRule):
        cells = drawing.region_map()
        return rings_of(cells.shape(held_by(rule, cells, drawing.model) & ~cells.cut))[:MOST_HELD]
    if rule.along != "lines":
        fresh = all(drawing.is_fresh(n) for n in along_needs(rule))
        lines = drawing.plate().along(rule) if fresh else []
        return [np.round(line, 2).tolist() for line in lines[:MOST_HELD]]
    found = drawing.lines()
    rows = np.flatnonzero(held_by(rule, LineCells.of(found), drawing.model))
    return [np.round(line, 2).tolist() for line in runs(found, rows)[:MOST_HELD]]


def rings_of(shape: shapely.Geometry) -> list[list[tuple[float, float]]]:
    """The rings of a shape in frame millimetres, to a hundredth: what a screen needs."""
    rings, _ = shapely.get_rings(shapely.get_parts(shape), return_index=True)
    return [[(float(x), float(y)) for x, y in np.round(shapely.get_coordinates(ring), 2)] for ring in rings]


def point_out(drawing: Drawing, x: float, y: float, wide: int) -> dict[str, Any] | None:
    """The region at frame millimetres, ``wide`` steps wider than the cell itself; ``None`` outside of the frame.

    The map of the drawing must be fresh.
    """
    cells = drawing.region_map()
    cell = cells.at(x, y)
    if cell is None:
        return None
    found = widenings(cells, cell, drawing.model)
    at = min(max(wide, 0), len(found) - 1)
    chosen = cells.chosen(found[at].query, drawing.model)
    shape = cells.shape(chosen)
    return {
        "widenings": [{"word": w.word, "called": w.called} for w in found],
        "wide": at,
        "called": found[at].called,
        "query": found[at].query,
        "rings": rings_of(shape),
        "share": float(shape.area) / (cells.frame[0] * cells.frame[1]),
        "part": int(cells.part[cell]) if 0 <= cells.part[cell] < len(drawing.bare.parts) else None,
        "figure": drawing.model.parts[cells.part[cell]].figure if cells.part[cell] >= 0 else "",
        "material": drawing.model.materials[drawing.model.parts[cells.part[cell]].material].name
        if cells.part[cell] >= 0
        else "",
        "cut": bool(cells.cut[cell]),
        "from_pixels": bool(cells.traced[chosen].any()),
    }


def named_shape(drawing: Drawing, region: NamedRegion) -> dict[str, Any]:
    """The shape of a kept region in a drawing whose map is fresh."""
    cells = drawing.region_map()
    chosen = cells.chosen(region.query, drawing.model)
    shape = cells.shape(chosen)
    return {
        "rings": rings_of(shape),
        "share": float(shape.area) / (cells.frame[0] * cells.frame[1]),
        "from_pixels": bool(cells.traced[chosen].any()),
    }


def region_mask(drawing: Drawing, region: NamedRegion, width: int) -> bytes:
    """A kept region as a grey PNG, ``width`` pixels wide, white where it is."""
    frame = drawing.view.frame
    size = (max(width, 16), max(1, round(max(width, 16) * frame.height / frame.width)))
    refuse_pixels(*size, MOST_MASK)
    cells = drawing.region_map()
    out = io.BytesIO()
    Image.fromarray(cells.mask(cells.chosen(region.query, drawing.model), size)).save(out, "PNG", compress_level=4)
    return out.getvalue()
