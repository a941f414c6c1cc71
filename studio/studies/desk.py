"""The drawing on the desk: which passes it needs, whether they are fresh, and its picture as it is now."""

from __future__ import annotations

import io
import json
import logging
import struct
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from django.conf import settings
from PIL import Image

from studio.studies.models import Study
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.preview import LayerCache, compose, encode_jpeg, trace_picture
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing import ALWAYS, Drawing, passes_for
from warmgraphite.ink.poche import colour_of
from warmgraphite.passes.lines import KINDS, RANKS
from warmgraphite.passes.store import PassStore, pass_key
from warmgraphite.regions.pointing import widenings
from warmgraphite.regions.query import NamedRegion
from warmgraphite.study import SavedView, StudyDocument
from warmgraphite.view.frame import refuse_pixels, sized_within
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import Sun

__all__ = [
    "caps_block",
    "caps_key",
    "desk_drawing",
    "has_sketch",
    "lay_ahead",
    "named_shape",
    "picture_path",
    "plate_of",
    "point_out",
    "preview",
    "probe",
    "region_mask",
    "rings_of",
    "sketch",
    "sketch_traces",
    "store",
    "suns_key",
    "thumbnail",
    "tone_size",
    "trace_picture_key",
]

#: Pixels of the longer side of the pixel passes that the desk shows.
DESK_PIXELS: int = settings.DESK_PIXELS
#: The same for the first, coarse picture of a drawing that is not there yet, for the small pictures of saved views, and for
#: those of one view under many suns: where the desk has fewer, so have they.
SKETCH_PIXELS, THUMBNAIL_PIXELS, SUN_PIXELS = (max(64, round(DESK_PIXELS * share)) for share in (0.2625, 0.3, 0.1875))
#: The colour of bare paper.
PAPER = "#fbf8f1"
#: Pixels of a picture on the screen, and of its longer side.
MOST_PREVIEW, LONGEST_PREVIEW = 12_000_000, 8000
#: Pixels of a region's mask.
MOST_MASK = 40_000_000

_layers = LayerCache()
_lock = threading.Lock()
_ahead = threading.Lock()
log = logging.getLogger(__name__)
_drawings: OrderedDict[str, Drawing] = OrderedDict()
_plates: OrderedDict[str, Plate] = OrderedDict()


def store() -> PassStore:
    return PassStore(settings.DATA / "passes")


def tone_size(view: ViewSpecification, pixels: int = DESK_PIXELS) -> tuple[int, int]:
    """Pixels of the view's frame with a longer side of ``pixels``."""
    frame = view.frame
    longer = max(frame.width, frame.height)
    return max(1, round(frame.width / longer * pixels)), max(1, round(frame.height / longer * pixels))


def desk_drawing(study: Study, view: ViewSpecification, pixels: int = DESK_PIXELS) -> Drawing:
    """The drawing of a view, kept in memory while it is looked at."""
    key = json.dumps([study.model_version, view.model_dump(mode="json"), pixels])
    with _lock:
        if key in _drawings:
            _drawings.move_to_end(key)
            return _drawings[key]
        found = Drawing(study.model, view, tone_size(view, pixels), store())
        # A part renamed or hidden on the bench is another state of the model, and the same drawing.
        for before in reversed(_drawings.values()):
            if "scene" in before.__dict__:
                found.sharing(before)
                if "scene" in found.__dict__:
                    break
        _drawings[key] = found
        while len(_drawings) > 6:
            _drawings.popitem(last=False)
    return found


def plate_of(drawing: Drawing, document: StudyDocument, traces: tuple[Trace, ...] | None = None) -> Plate:
    """The plate of a drawing whose passes are fresh, with the study's pens and poche, for the desk's traces or for others."""
    look = document.look
    traces = look.traces if traces is None else traces
    inks = [drawing.ink_key(look.pens, traces), {k: v.model_dump() for k, v in look.poche.items()}]
    key = json.dumps([drawing.keys, inks, passes_for(traces), drawing.view.name, document.name])
    with _lock:
        if key in _plates:
            _plates.move_to_end(key)
            return _plates[key]
    found = drawing.plate(look.pens, look.poche, document.name, traces)
    with _lock:
        _plates[key] = found
        while len(_plates) > 6:
            _plates.popitem(last=False)
    return found


def preview(study: Study, document: StudyDocument, width: int, without: str = "") -> bytes | None:
    """The picture on the desk as JPEG, ``width`` pixels wide; ``None`` while a pass is stale."""
    drawing = desk_drawing(study, document.desk.view)
    saved, traces = document.on_desk, document.look.traces
    if not all(drawing.fresh(passes_for(traces)).values()):
        return None
    size = sized_within(document.desk.view.frame, max(width, 64), MOST_PREVIEW, LONGEST_PREVIEW)
    return encode_jpeg(compose(plate_of(drawing, document), traces, saved.sheet, size, _layers, without=without))


def lay_ahead(study: Study, document: StudyDocument, width: int) -> None:
    """While the last passes of the desk are computed, draw the sheets that do not wait for them, so that the picture is there as
    soon as they are. One at a time, beside the request; whoever comes meanwhile has nothing to wait for."""
    drawing = desk_drawing(study, document.desk.view)
    ready = tuple(t for t in document.look.traces if t.on and all(drawing.fresh((*ALWAYS, *t.needs())).values()))
    if not ready or not _ahead.acquire(blocking=False):
        return

    def lay() -> None:
        try:
            size = sized_within(document.desk.view.frame, max(width, 64), MOST_PREVIEW, LONGEST_PREVIEW)
            compose(plate_of(drawing, document, ready), ready, document.on_desk.sheet, size, _layers)
        except Exception as error:  # it is only done sooner here
            log.warning("sheets could not be drawn ahead: %s", error)
        finally:
            _ahead.release()

    threading.Thread(target=lay, daemon=True).start()


def sketch_traces(document: StudyDocument) -> tuple[Trace, ...]:
    """The traces of a first, coarse picture: all but what takes longest."""
    return tuple(t for t in document.look.traces if "occlusion" not in t.needs())


def has_sketch(study: Study, document: StudyDocument) -> bool:
    """Whether there is a first, coarse picture of the view on the desk."""
    drawing = desk_drawing(study, document.desk.view, SKETCH_PIXELS)
    return all(drawing.fresh(passes_for(sketch_traces(document))).values())


def sketch(study: Study, document: StudyDocument, width: int) -> bytes | None:
    """The first, coarse picture on the desk as JPEG; ``None`` while there is none."""
    if not has_sketch(study, document):
        return None
    drawing, traces = desk_drawing(study, document.desk.view, SKETCH_PIXELS), sketch_traces(document)
    size = sized_within(document.desk.view.frame, max(width, 64), MOST_PREVIEW, LONGEST_PREVIEW)
    plate = drawing.plate(document.look.pens, document.look.poche, document.name, traces)
    return encode_jpeg(compose(plate, traces, document.on_desk.sheet, size, _layers))


def thumbnail(study: Study, document: StudyDocument, trace_id: str, width: int = 220) -> bytes | None:
    """One trace alone, small, as JPEG, also where it is off; ``None`` while a pass is stale or there is no such trace."""
    drawing = desk_drawing(study, document.desk.view)
    saved, shown = document.on_desk, document.look.traces
    trace = next((t for t in shown if t.id == trace_id), None)
    if trace is None or not all(drawing.fresh((*passes_for(shown), *trace.needs())).values()):
        return None
    traces = tuple(t.model_copy(update={"on": True}) if t.id == trace_id else t for t in shown)
    size = sized_within(document.desk.view.frame, width, width * width, 2 * width)
    return encode_jpeg(trace_picture(plate_of(drawing, document, traces), trace, saved.sheet, size, _layers), 85)


def trace_picture_key(drawing: Drawing, document: StudyDocument, trace: Trace) -> str:
    """Names the small picture of a trace: it changes with all that the picture shows, and with nothing else."""
    margin = document.on_desk.sheet.margin
    return pass_key("trace", drawing.trace_key(trace, document.look.pens, document.look.poche, margin)).removeprefix("trace-")


def caps_key(drawing: Drawing, document: StudyDocument) -> str:
    """Names the faces that close the cuts, with their colours."""
    poche = {k: v.model_dump() for k, v in document.look.poche.items()}
    return pass_key("faces", drawing.keys["caps"], poche).removeprefix("faces-")


def caps_block(study: Study, document: StudyDocument) -> bytes | None:
    """The faces that close the cuts of the view on the desk, for the model in three dimensions; ``None`` while they are stale.

    Little-endian: uint32 length of the JSON head; the head, padded to 4: ``origin`` in metres and ``fills`` as rows of colour,
    first corner, number of corners; then the corners as float32 about the origin, three for each triangle. A cut that is left
    void has the colour of the paper.
    """
    drawing = desk_drawing(study, document.desk.view)
    if not drawing.fresh(("caps",))["caps"]:
        return None
    model = study.model
    corners, part = drawing.cap_faces()
    material = model.part_cut_as[part]
    fills, blocks, first = [], [], 0
    for number in np.unique(material):
        rows = corners[material == number]
        colour = colour_of(document.look.poche, model.materials[number].name) or PAPER
        fills.append([colour, first, 3 * len(rows)])
        blocks.append((rows.reshape(-1, 3) - model.heart).astype("<f4").tobytes())
        first += 3 * len(rows)
    text = json.dumps({"origin": model.heart.tolist(), "fills": fills}).encode()
    text += b" " * (-len(text) % 4)
    return b"".join([struct.pack("<I", len(text)), text, *blocks])


def picture_key(study: Study, document: StudyDocument, saved: SavedView) -> str:
    """Names the small picture of a saved view: it changes with all that the picture shows, and with nothing else."""
    drawing = Drawing(study.model, saved.view, tone_size(saved.view, THUMBNAIL_PIXELS))
    look = document.look_of(saved)
    ink = drawing.ink_key(look.pens, look.traces)
    shown = [m.model_dump(mode="json") for m in (saved.view, saved.sheet, look)]
    return pass_key("picture", drawing.keys, ink, shown, document.name)


def picture_path(study: Study, name: str) -> Path:
    """Where a small picture of a study is kept; they go with the study."""
    return Path(settings.DATA) / "pictures" / str(study.pk) / f"{name}.jpg"


def suns_key(study: Study, document: StudyDocument, suns: list[Sun]) -> str:
    """Names the small pictures of the view on the desk under a row of suns: it changes with all that they show."""
    view = document.desk.view
    saved = document.on_desk
    traces = sketch_traces(document)
    drawings = [Drawing(study.model, view.model_copy(update={"sun": sun}), tone_size(view, SUN_PIXELS)) for sun in suns]
    rows = [[d.keys[name] for name in passes_for(traces)] for d in drawings]
    poche = {k: v.model_dump() for k, v in document.look.poche.items()}
    ink = drawings[0].ink_key(document.look.pens, traces)
    look = [[t.model_dump() for t in traces], saved.sheet.model_dump(), poche, view.name, document.name]
    return pass_key("suns", rows, ink, look)


def probe(study: Study, document: StudyDocument, x: float, y: float) -> dict[str, Any] | None:
    """What lies at frame millimetres (x, y) of the drawing on the desk; ``None`` while a pass is stale."""
    view = document.desk.view
    drawing = desk_drawing(study, view)
    if not all(drawing.fresh().values()) or not (0 <= x <= view.frame.width and 0 <= y <= view.frame.height):
        return None
    seen, lit = drawing.surface(), drawing.light()
    height, width = seen.part.shape
    column = min(int(x / view.frame.width * width), width - 1)
    row = min(int(y / view.frame.height * height), height - 1)
    number = int(seen.part[row, column])
    model = study.model
    found: dict[str, Any] = {
        "part": None,
        "material": "",
        "role": "",
        "distance": None,
        "light": "",
        "cut": False,
        "pen": "",
        "glass": False,
    }
    if number >= 0:
        part = model.parts[number]
        found |= {
            "part": number,
            "name": part.name,
            "layer": part.layer,
            "material": model.materials[part.material].name,
            "role": part.role,
            "distance": round(float(seen.distance[row, column]) - _nearest(drawing), 2),
            "cut": bool(seen.cap[row, column] > 127),
            "glass": bool(seen.glass[row, column] > 127),
        }
        shade, shadow = int(lit.shade[row, column]), int(lit.shadow[row, column])
        if not found["cut"]:
            found["light"] = "in shadow" if shadow > 127 else "in shade" if shade > 150 else "lit"
    line = _line_at(drawing, x, y, 1.2)
    if line is not None:
        rank = RANKS[int(drawing.lines().rank[line])]
        pen = getattr(document.look.pens, rank)
        found["pen"] = f"{rank} {pen.weight:.2f} mm"
        found["line"] = KINDS[int(drawing.lines().kind[line])]
    return found


def _nearest(drawing: Drawing) -> float:
    """Distance from which depth is told: the cutting plane where there is one, else the nearest thing seen."""
    distance = drawing.surface().distance
    seen = distance[np.isfinite(distance)]
    return float(seen.min()) if len(seen) else 0.0


def _line_at(drawing: Drawing, x: float, y: float, reach: float) -> int | None:
    """The visible line nearest to (x, y) within ``reach`` millimetres."""
    found = drawing.lines()
    point = np.array([x, y])
    a, b = found.from_mm, found.to_mm
    near = found.visible & (np.minimum(a, b) <= point + reach).all(1) & (np.maximum(a, b) >= point - reach).all(1)
    rows = np.flatnonzero(near)
    if not len(rows):
        return None
    step = b[rows] - a[rows]
    t = np.clip(((point - a[rows]) * step).sum(1) / np.maximum((step**2).sum(1), 1e-12), 0, 1)
    gap = np.linalg.norm(a[rows] + t[:, None] * step - point, axis=1)
    best = int(np.argmin(gap))
    return int(rows[best]) if gap[best] <= reach else None


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
    found = widenings(cells, cell, drawing.model, drawing.point_at(*cells.inner[cell]))
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
        "part": int(cells.part[cell]) if cells.part[cell] >= 0 else None,
        "material": drawing.model.materials[drawing.model.parts[cells.part[cell]].material].name if cells.part[cell] >= 0 else "",
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
