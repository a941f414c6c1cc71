"""The drawing on the desk: which passes it needs, whether they are fresh, and its picture as it is now."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from typing import Any

import numpy as np
from django.conf import settings

from studio.studies.models import Study
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.preview import LayerCache, compose, encode_jpeg, trace_picture
from warmgraphite.drawing import Drawing
from warmgraphite.passes.lines import KINDS, RANKS
from warmgraphite.passes.store import PassStore, pass_key
from warmgraphite.study import SavedView, StudyDocument
from warmgraphite.view.specification import ViewSpecification

__all__ = ["desk_drawing", "plate_of", "preview", "probe", "store", "thumbnail", "tone_size"]

#: Pixels of the longer side of the pixel passes that the desk shows.
DESK_PIXELS = 1600
#: The same for the small pictures of saved views.
THUMBNAIL_PIXELS = 480
PREVIEW_LIMIT = 4000

_layers = LayerCache()
_lock = threading.Lock()
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
            if before.size == found.size and "scene" in before.__dict__:
                found.sharing(before)
                if "scene" in found.__dict__:
                    break
        _drawings[key] = found
        while len(_drawings) > 4:
            _drawings.popitem(last=False)
    return found


def plate_of(drawing: Drawing, document: StudyDocument) -> Plate:
    """The plate of a drawing whose passes are fresh, with the study's pens and poche."""
    saved = document.on_desk
    inks = [drawing.ink_key(document.pens, saved.traces), {k: v.model_dump() for k, v in document.poche.items()}]
    key = json.dumps([drawing.keys, inks, drawing.view.name, document.name])
    with _lock:
        if key in _plates:
            _plates.move_to_end(key)
            return _plates[key]
    found = drawing.plate(document.pens, document.poche, document.name, saved.traces)
    with _lock:
        _plates[key] = found
        while len(_plates) > 6:
            _plates.popitem(last=False)
    return found


def preview(study: Study, document: StudyDocument, width: int, without: str = "") -> bytes | None:
    """The picture on the desk as JPEG, ``width`` pixels wide; ``None`` while a pass is stale."""
    drawing = desk_drawing(study, document.desk.view)
    if not all(drawing.fresh().values()):
        return None
    saved = document.on_desk
    frame = document.desk.view.frame
    width = min(max(width, 64), PREVIEW_LIMIT)
    size = (width, max(1, round(width * frame.height / frame.width)))
    return encode_jpeg(compose(plate_of(drawing, document), saved.traces, saved.sheet, size, _layers, without=without))


def thumbnail(study: Study, document: StudyDocument, trace_id: str, width: int = 220) -> bytes | None:
    """One trace alone, small, as JPEG; ``None`` while a pass is stale or there is no such trace."""
    drawing = desk_drawing(study, document.desk.view)
    saved = document.on_desk
    trace = next((t for t in saved.traces if t.id == trace_id), None)
    if trace is None or not all(drawing.fresh().values()):
        return None
    frame = document.desk.view.frame
    size = (width, max(1, round(width * frame.height / frame.width)))
    return encode_jpeg(trace_picture(plate_of(drawing, document), trace, saved.sheet, size, _layers), 85)


def picture_key(study: Study, document: StudyDocument, saved: SavedView) -> str:
    """Names the small picture of a saved view: it changes with all that the picture shows, and with nothing else."""
    drawing = Drawing(study.model, saved.view, tone_size(saved.view, THUMBNAIL_PIXELS))
    poche = {k: v.model_dump() for k, v in document.poche.items()}
    ink = drawing.ink_key(document.pens, saved.traces)
    return pass_key("picture", drawing.keys, ink, saved.model_dump(mode="json"), poche, document.name)


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
        pen = getattr(document.pens, rank)
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
