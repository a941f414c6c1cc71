"""The drawing on the desk: which passes it needs, whether they are fresh, and its picture as it is now."""

from __future__ import annotations

import json
import logging
import struct
import threading
import time
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings

from studio.stock.models import kept_pictures
from studio.studies.models import Study
from warmgraphite.atomic import atomic_write, is_whole_picture
from warmgraphite.collage.histogram import Histogram, histogram_of
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing import Drawing, Looked, Need, needs_of
from warmgraphite.ink.assign import fill_rules
from warmgraphite.keys import key_of
from warmgraphite.memory import Store
from warmgraphite.model.model import Model
from warmgraphite.passes.store import PassStore
from warmgraphite.sheet.notes import ON_DARK, inks_for
from warmgraphite.sheet.preview import TRACING, LayerCache, compose, draw_ahead, encode_jpeg, trace_picture
from warmgraphite.study import DrawnLook, Finish, Look, SavedView, StudyDocument
from warmgraphite.view.frame import refuse_pixels, sized_within
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import Sun

__all__ = [
    "caps_block",
    "caps_key",
    "desk_drawing",
    "has_sketch",
    "is_whole",
    "lay_ahead",
    "on_desk",
    "picture",
    "picture_path",
    "preview",
    "sketch",
    "sketch_traces",
    "small_picture",
    "store",
    "suns_key",
    "thumbnail",
    "tiles_for_paper",
    "tone_size",
    "trace_picture_key",
    "wanted",
]

#: Pixels of the longer side of the pixel passes that the desk shows.
DESK_PIXELS: int = settings.DESK_PIXELS
#: The same for the first, coarse picture of a drawing that is not there yet, for the small pictures of saved views, and
#: for those of one view under many suns and in many finishes: where the desk has fewer, so have they.
SKETCH_PIXELS, THUMBNAIL_PIXELS, SUN_PIXELS, VARIANT_PIXELS = (
    max(64, round(DESK_PIXELS * share)) for share in (0.2625, 0.3, 0.1875, 0.35)
)
#: The colour of bare paper.
PAPER = "#fbf8f1"
#: What lays pictures together: they are others where that is.
PICTURES = ("warmgraphite.sheet.preview", "warmgraphite.collage.kinds", "warmgraphite.notes.kinds")
#: Pixels of a picture on the screen, and of its longer side.
MOST_PREVIEW, LONGEST_PREVIEW = 12_000_000, 8000
#: Lines of a rule that are shown at once.
MOST_HELD = 20_000
#: The same of a picture of which only a window is drawn.
MOST_CLOSE, LONGEST_CLOSE = 2_000_000_000, 60_000
#: Bytes that are kept of the pixels of what has left the house: some three boards.
KEPT_TILES = 4_000_000_000
#: Seconds between two keepings of what lies on the desk.
SELDOM = 4.0
#: Pixels of a region's mask.
MOST_MASK = 40_000_000

_layers = LayerCache()
_ahead = threading.Lock()
log = logging.getLogger(__name__)
_drawings: Store[Drawing] = Store("drawings", most=14)
_results: Store[Any] = Store("passes")


def store() -> PassStore:
    return PassStore(settings.DATA / "passes", pictures=kept_pictures())


@contextmanager
def tiles_for_paper() -> Iterator[Path]:
    """Where pixels of what leaves are kept, apart from those of the desk, which they would push out.
    What was used lately stays: who sends the same again after a change waits for that change alone.
    """
    room = settings.DATA / "tiles"
    room.mkdir(exist_ok=True)
    try:
        yield room
    finally:
        PassStore(room, KEPT_TILES).make_room()


def tone_size(view: ViewSpecification, pixels: int = DESK_PIXELS) -> tuple[int, int]:
    """Pixels of the view's frame with a longer side of ``pixels``."""
    frame = view.frame
    longer = max(frame.width, frame.height)
    return max(1, round(frame.width / longer * pixels)), max(1, round(frame.height / longer * pixels))


def desk_drawing(study: Study, view: ViewSpecification, look: Look, pixels: int = DESK_PIXELS) -> Drawing:
    """The drawing of a view as it is looked at: nothing of it is computed here. It is kept in memory for a while."""
    inked = look.model_dump_json(exclude={"traces", "notes", "lettering"})
    # A picture that comes into the stock, or goes, makes another drawing of those that show it.
    shown = {t.shown_picture for t in look.traces} | {p for f in getattr(look, "figures", ()) for p in f.pictures}
    there = sorted(p for p in shown if p and kept_pictures().has(p))
    key = json.dumps([study.model_version, view.model_dump(mode="json"), inked, pixels, there])
    # Another pen, a part renamed on the bench: another drawing, and most of what it shows is the same.
    return _drawings.get(
        key, lambda: Looked(study.model, view, tone_size(view, pixels), store(), ink=look, bench=_results)
    )


def on_desk(study: Study, document: StudyDocument, pixels: int = DESK_PIXELS) -> tuple[Drawing, DrawnLook]:
    """The drawing on the desk, and the look that it is drawn with."""
    look = document.drawn_look(document.on_desk)
    return desk_drawing(study, document.desk.view, look, pixels), look


def wanted(look: DrawnLook) -> tuple[Need, ...]:
    """The passes of a picture with a look."""
    return needs_of(look.traces, look, look.notes)


def is_whole(study: Study, document: StudyDocument) -> bool:
    """Whether all that the picture on the desk shows is there."""
    drawing, look = on_desk(study, document)
    return all(drawing.fresh(wanted(look)).values())


def preview(
    study: Study,
    document: StudyDocument,
    width: int,
    without: Collection[str] = (),
    window: tuple[int, int, int, int] | None = None,
    alone: Collection[str] = (),
) -> bytes | None:
    """The picture on the desk as JPEG.
    It is ``width`` pixels wide, or a ``window`` = (x, y, width, height) of it, ``without`` some traces or with some
    ``alone``; ``None`` while a pass is stale.
    """
    drawing, look = on_desk(study, document)
    if not all(drawing.fresh(wanted(look)).values()) or drawing.result("frame").problem:
        return None
    frame, most = document.desk.view.frame, (MOST_CLOSE, LONGEST_CLOSE) if window else (MOST_PREVIEW, LONGEST_PREVIEW)
    size = sized_within(frame, max(width, 64), *most)
    if window:
        window = _within(window, size)
        refuse_pixels(*window[2:], MOST_PREVIEW)
    plate = drawing.plate(document.name, look)
    found = encode_jpeg(
        compose(plate, look.traces, document.on_desk.sheet, size, _layers, without=without, alone=alone, window=window)
    )
    if not (window or without or alone):
        _keep_last(picture_path(study, f"last-{document.desk.view_id}"), found)
    return found


#: When the last pictures were kept that lie on desks.
_kept_at: dict[Path, float] = {}


def _keep_last(path: Path, picture: bytes) -> None:
    """Keep what lies on the desk for the next time that this view is laid there.
    Not more often than it can be looked at.
    """
    now = time.monotonic()
    if now - _kept_at.get(path, -SELDOM) < SELDOM:
        return
    _kept_at[path] = now
    try:
        with atomic_write(path, lasting=False) as draft:
            draft.write_bytes(picture)
    except OSError as error:  # the drawing is shown all the same
        log.warning("the last picture of a view could not be kept: %s", error)


def small_picture(study: Study, document: StudyDocument, view_id: str) -> bytes | None:
    """The small picture of a saved view as it is; ``None`` where it is not drawn, or there is no such view."""
    saved = next((v for v in document.views if v.id == view_id), None)
    return picture(study, picture_key(study, document, saved)) if saved is not None else None


def histogram(study: Study, document: StudyDocument, width: int) -> Histogram | None:
    """How light and dark the picture on the desk is, ``width`` pixels wide as it lies there.
    ``None`` while a pass is stale.
    """
    if not is_whole(study, document):
        return None
    drawing, look = on_desk(study, document)
    if drawing.result("frame").problem:
        return None
    size = sized_within(document.desk.view.frame, max(width, 64), MOST_PREVIEW, LONGEST_PREVIEW)
    return histogram_of(
        compose(drawing.plate(document.name, look), look.traces, document.on_desk.sheet, size, _layers).toarray()
    )


def _within(window: tuple[int, int, int, int], size: tuple[int, int]) -> tuple[int, int, int, int]:
    """What of a window lies in a picture, at least a pixel of it."""
    x, y = (min(max(at, 0), most - 1) for at, most in zip(window[:2], size, strict=True))
    return x, y, max(1, min(window[2], size[0] - x)), max(1, min(window[3], size[1] - y))


def lay_ahead(study: Study, document: StudyDocument, width: int) -> None:
    """Draw the sheets that do not wait for the last passes of the desk while these are computed.
    So that the picture is there as soon as they are. One at a time, beside the request; whoever comes meanwhile has
    nothing to wait for.
    """
    drawing, look = on_desk(study, document)
    ready = tuple(t for t in look.traces if t.on and all(drawing.fresh(needs_of((t,), look)).values()))
    if not ready or not _ahead.acquire(blocking=False):
        return

    def lay() -> None:
        try:
            size = sized_within(document.desk.view.frame, max(width, 64), MOST_PREVIEW, LONGEST_PREVIEW)
            draw_ahead(drawing.plate(document.name, look), ready, document.on_desk.sheet, size, _layers)
        except Exception as error:  # it is only done sooner here
            log.warning("sheets could not be drawn ahead: %s", error)
        finally:
            _ahead.release()

    threading.Thread(target=lay, daemon=True).start()


def sketch_traces(drawing: Drawing, look: Look) -> tuple[Trace, ...]:
    """The traces of a first, coarse picture: all but what takes longest."""
    return tuple(t for t in look.traces if not any(drawing.is_slow(n) for n in t.all_needs()))


def has_sketch(study: Study, document: StudyDocument) -> bool:
    """Whether there is a first, coarse picture of the view on the desk."""
    drawing, look = on_desk(study, document, SKETCH_PIXELS)
    return all(drawing.fresh(needs_of(sketch_traces(drawing, look), look, look.notes)).values())


def sketch(study: Study, document: StudyDocument, width: int) -> bytes | None:
    """The first, coarse picture on the desk as JPEG; ``None`` while there is none."""
    if not has_sketch(study, document):
        return None
    drawing, look = on_desk(study, document, SKETCH_PIXELS)
    size = sized_within(document.desk.view.frame, max(width, 64), MOST_PREVIEW, LONGEST_PREVIEW)
    return encode_jpeg(
        compose(drawing.plate(document.name, look), sketch_traces(drawing, look), document.on_desk.sheet, size, _layers)
    )


def thumbnail(study: Study, document: StudyDocument, trace_id: str, width: int = 220) -> bytes | None:
    """One trace alone, small, as JPEG, also where it is off.
    ``None`` while a pass is stale or there is no such trace.
    """
    drawing, look = on_desk(study, document)
    trace = next((t for t in look.traces if t.id == trace_id), None)
    if trace is None or not all(
        drawing.fresh(("frame", *needs_of((trace.model_copy(update={"on": True}),), look))).values()
    ):
        return None
    size = sized_within(document.desk.view.frame, width, width * width, 2 * width)
    return encode_jpeg(
        trace_picture(drawing.plate(document.name, look), trace, document.on_desk.sheet, size, _layers, tracing(look)),
        85,
    )


def tracing(look: Look) -> str:
    """The tone of the paper that small pictures of traces lie on.
    Dark where the drawing's is, so that pale ink is seen.
    """
    paper = next((t.colour for t in look.traces if isinstance(t, Paper) and t.on and t.lies != "over all"), TRACING)
    return paper if inks_for(look.traces).ink == ON_DARK.ink else TRACING


def trace_picture_key(drawing: Drawing, document: StudyDocument, trace: Trace, paper: str = TRACING) -> str:
    """Names the small picture of a trace: it changes with all that the picture shows, and with nothing else."""
    frame, margin = document.desk.view.frame, document.on_desk.sheet.margin
    shown = [
        trace.shows(),
        [drawing.key(n) for n in needs_of((trace,), drawing.ink)],
        frame.width,
        frame.height,
        margin,
        paper,
    ]
    return key_of("trace", shown, by=PICTURES).removeprefix("trace-")


def caps_key(drawing: Drawing, document: StudyDocument) -> str:
    """Names the faces that close the cuts, with their colours."""
    fills = [r.model_dump(mode="json") for r in drawing.ink.poche]
    return key_of("faces", drawing.key("caps"), fills).removeprefix("faces-")


def caps_block(study: Study, document: StudyDocument) -> bytes | None:
    """The faces that close the cuts of the view on the desk, for the model in three dimensions.
    ``None`` while they are stale.

    Little-endian: uint32 length of the JSON head; the head, padded to 4: ``origin`` in metres and ``fills`` as rows of
    colour, first corner, number of corners; then the corners as float32 about the origin, three for each triangle. A
    cut that is left void has the colour of the paper.
    """
    drawing, look = on_desk(study, document)
    if not drawing.is_fresh("caps"):
        return None
    model = drawing.model
    corners, part = drawing.cap_faces()
    rule = fill_rules(model, look.poche)[part]
    fills, blocks, first = [], [], 0
    for number in np.unique(rule):
        rows = corners[rule == number]
        laid = look.poche[number].fills if number >= 0 else ()
        fills.append([laid[-1].colour if laid else PAPER, first, 3 * len(rows)])
        blocks.append((rows.reshape(-1, 3) - model.median_centre).astype("<f4").tobytes())
        first += 3 * len(rows)
    text = json.dumps({"origin": model.median_centre.tolist(), "fills": fills}).encode()
    text += b" " * (-len(text) % 4)
    return b"".join([struct.pack("<I", len(text)), text, *blocks])


def picture_key(study: Study, document: StudyDocument, saved: SavedView) -> str:
    """Names the small picture of a saved view: it changes with all that the picture shows, and with nothing else."""
    look = document.drawn_look(saved)
    size = tone_size(saved.view, THUMBNAIL_PIXELS)
    drawing = Drawing(study.model, saved.view, size, ink=look, pictures=store().pictures)
    shown = [m.model_dump(mode="json") for m in (saved.view, saved.sheet, look)]
    return key_of("picture", [drawing.key(n) for n in wanted(look)], shown, document.name, by=PICTURES)


def picture(study: Study, name: str) -> bytes | None:
    """A small picture that is kept; ``None`` for one that is not, or is not whole."""
    path = picture_path(study, name)
    return path.read_bytes() if is_whole_picture(path) else None


def picture_path(study: Study, name: str) -> Path:
    """Where a small picture of a study is kept; they go with the study."""
    return Path(settings.DATA) / "pictures" / str(study.pk) / f"{name}.jpg"


def suns_key(study: Study, document: StudyDocument, suns: list[Sun]) -> str:
    """Names the small pictures of the view on the desk under a row of suns: it changes with all that they show."""
    view, look, size = (
        document.desk.view,
        document.drawn_look(document.on_desk),
        tone_size(document.desk.view, SUN_PIXELS),
    )
    drawings = [
        Drawing(study.model, view.model_copy(update={"sun": sun}), size, ink=look, pictures=store().pictures)
        for sun in suns
    ]
    traces = sketch_traces(drawings[0], look)
    rows = [[d.key(n) for n in needs_of(traces, look, look.notes)] for d in drawings]
    shown = [
        [m.model_dump(mode="json") for m in (*traces, *look.notes, look.lettering)],
        document.on_desk.sheet.model_dump(),
        view.name,
        document.name,
    ]
    return key_of("suns", rows, shown, by=PICTURES)


def variant_looks(document: StudyDocument) -> list[tuple[Finish, DrawnLook]]:
    """Each finish of a study with the look that the view on the desk has in it.
    That which it wears with the view's own changes.
    """
    saved = document.on_desk
    return [
        (f, document.drawn_look(saved) if f.id == saved.finish else document.marked(f.plain, saved.id))
        for f in document.finishes
    ]


def variant_key(model: Model, document: StudyDocument, look: DrawnLook) -> str:
    """Names the picture of the view on the desk in a look: it changes with all that it shows, and with nothing else."""
    view = document.desk.view
    drawing = Drawing(model, view, tone_size(view, VARIANT_PIXELS), store(), ink=look)
    shown = [
        [m.model_dump(mode="json") for m in (*look.traces, *look.notes, look.lettering)],
        document.on_desk.sheet.model_dump(),
        view.name,
        document.name,
    ]
    return key_of("variant", [drawing.key(n) for n in wanted(look)], shown, by=PICTURES)
