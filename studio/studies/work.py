"""The work that a job worker does for studies: computing passes and small pictures.

Each works on the document and on the state of the model that it was asked about, whatever the study has become since.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import skia
from django.conf import settings

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.jobs.received import put_away, received
from studio.stock.models import StockPicture
from studio.studies import boards
from studio.studies.archive import unpack_study
from studio.studies.asked import model_of, source_of
from studio.studies.desk import (
    SKETCH_PIXELS,
    SUN_PIXELS,
    THUMBNAIL_PIXELS,
    VARIANT_PIXELS,
    picture,
    picture_path,
    sketch_traces,
    store,
    tone_size,
    variant_key,
    variant_looks,
    wanted,
)
from studio.studies.models import ModelFile
from studio.studies.names import file_name
from warmgraphite.atomic import atomic_write
from warmgraphite.collage.pictures.phone import photographed
from warmgraphite.drawing import Bench, Drawing, needs_of
from warmgraphite.memory import Store
from warmgraphite.needs import unpacked_need
from warmgraphite.sheet.preview import LayerCache, compose, encode_jpeg
from warmgraphite.study import DrawnLook, read_document
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import Sun

#: Pixels of the longer side of a plate that is photographed.
PHOTOGRAPHED = 3000


#: What was worked on lately: when only the sun is turned, all that goes by the camera serves again.
_bench: Bench = Store("passes")


@work("passes")
def compute_passes(job: Job, watch: Watch) -> dict:
    """Make the passes of a view fresh at the desk's size."""
    assert job.study is not None
    view = ViewSpecification.model_validate(job.wanted["view"])
    look = DrawnLook.model_validate(job.wanted["look"])
    drawing = Drawing(model_of(job), view, tone_size(view), store(), ink=look, bench=_bench)
    needs = [unpacked_need(n) for n in job.wanted["passes"]]
    if drawing.result("frame").problem:
        return {"seconds": {}}  # it is kept, and said at the desk
    if any(n.name == "surface" for n in needs) and not drawing.is_fresh("surface"):
        # There is nothing of this drawing yet: a coarse picture of it comes first.
        coarse = drawing.sized(tone_size(view, SKETCH_PIXELS))
        coarse.compute(
            [n for n in needs if not drawing.is_slow(n)], watch=lambda stage, fraction: watch(stage, fraction * 0.15)
        )
    drawing.compute(needs, watch=watch)
    return {"seconds": drawing.seconds}


@work("suns")
def draw_suns(job: Job, watch: Watch) -> dict:
    """Draw the small pictures of one view under a row of suns; each is there as soon as it is drawn."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    saved, view, look = document.on_desk, document.desk.view, document.drawn_look(document.on_desk)
    size = tone_size(view, SUN_PIXELS)
    first = Drawing(model_of(job), view, size, store(), ink=look, bench=_bench)
    traces = sketch_traces(first, look)
    cache = LayerCache()
    suns = [Sun.model_validate(s) for s in job.wanted["suns"]]
    for k, sun in enumerate(suns):
        watch(f"Sun {k + 1} of {len(suns)}", k / len(suns))
        drawing = first.under(view.model_copy(update={"sun": sun}))
        drawing.compute(needs_of(traces, look, look.notes))
        plate = drawing.plate(document.name)
        with atomic_write(picture_path(job.study, f"{job.key}-{k}"), lasting=False) as draft:
            draft.write_bytes(encode_jpeg(compose(plate, traces, saved.sheet, size, cache), 85))
    watch("", 1.0)
    return {}


@work("picture")
def draw_picture(job: Job, watch: Watch) -> dict:
    """Draw the small picture of a saved view."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    saved = next(v for v in document.views if v.id == job.wanted["view_id"])
    look = document.drawn_look(saved)
    size = tone_size(saved.view, THUMBNAIL_PIXELS)
    drawing = Drawing(model_of(job), saved.view, size, store(), ink=look, bench=_bench)
    drawing.compute(wanted(look), watch=watch)
    plate = drawing.plate(document.name)
    with atomic_write(picture_path(job.study, job.key), lasting=False) as draft:
        draft.write_bytes(encode_jpeg(compose(plate, look.traces, saved.sheet, size, LayerCache()), 88))
    return {}


@work("board")
def compute_board(job: Job, watch: Watch) -> dict:
    """Draw the pictures of all drawings of a board."""
    document = read_document(job.wanted["document"])
    board = next(b for b in document.boards if b.id == job.wanted["board"])
    shown = source_of(job, document)
    assert job.study is not None
    for number, row in enumerate(board.drawings):
        source = shown(row)
        size = tone_size(source.view, boards.pixels_of(bool(job.wanted.get("fine"))))
        drawing = Drawing(source.model, source.view, size, store(), ink=source.look, bench=_bench)
        if not drawing.result("frame").problem:
            name = source.view.name

            def told(stage: str, fraction: float, number: int = number, name: str = name) -> None:
                watch(f"{name}: {stage}" if stage else name, (number + fraction) / len(board.drawings))

            drawing.compute(wanted(source.look), watch=told)
            watch(f"{name}: laying it together", (number + 0.9) / len(board.drawings))
            boards.draw_picture(job.study, row, source, drawing)
        drawing.rest()
    watch("", 1.0)
    return {}


@work("photograph")
def photograph(job: Job, watch: Watch) -> dict:
    """Photograph the drawing on the desk as a telephone does, and take the picture in.
    It comes in by the door that all pictures come in by.
    """
    assert job.study is not None
    document = read_document(job.wanted["document"])
    look, view = document.drawn_look(document.on_desk), document.desk.view
    drawing = Drawing(model_of(job), view, tone_size(view), store(), ink=look, bench=_bench)
    drawing.compute(wanted(look), watch=lambda stage, f: watch(stage, 0.5 * f))
    watch("Drawing the plate", 0.5)
    size = tone_size(view, PHOTOGRAPHED)
    plate = compose(drawing.plate(document.name), look.traces, document.on_desk.sheet, size, LayerCache())
    watch("Photographing it", 0.65)
    taken = photographed(plate.toarray(colorType=skia.kRGBA_8888_ColorType), int(job.wanted["seed"]))
    with tempfile.TemporaryDirectory(prefix="photograph-", dir=settings.DATA) as room:
        path = Path(room) / f"{file_name(f'Photograph of {view.name}', 'photograph')}.jpg"
        path.write_bytes(taken.data)
        row = StockPicture.take_in(path, path.name, lambda stage, f: watch(stage, 0.85 + 0.15 * f))
    return {"digest": row.digest, "notes": row.notes}


@work("unpack", after=put_away)
def unpack(job: Job, watch: Watch) -> dict:
    """Take a study in from an archive."""
    known = ModelFile.objects.filter(job=job.pk).select_related("study").first()
    if known:  # done by a worker that was killed before it could say so
        return {"slug": known.study.slug}
    file = received(job)
    study = unpack_study(file, file.name, watch, job.pk)
    return {"slug": study.slug}


@work("variants")
def draw_variants(job: Job, watch: Watch) -> dict:
    """Draw the view on the desk in a row of finishes."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    view, saved = document.desk.view, document.on_desk
    size, cache = tone_size(view, VARIANT_PIXELS), LayerCache()
    model, looks = model_of(job), variant_looks(document)
    for k, (finish, look) in enumerate(looks):
        path = picture_path(job.study, variant_key(model, document, look))
        if picture(job.study, path.stem) is not None:
            continue
        watch(f"“{finish.name}”", k / len(looks))
        drawing = Drawing(model, view, size, store(), ink=look, bench=_bench)
        drawing.compute(wanted(look), watch=lambda stage, f, k=k: watch(stage, (k + 0.9 * f) / len(looks)))  # type: ignore[misc]
        if drawing.result("frame").problem:
            break
        with atomic_write(path, lasting=False) as draft:
            draft.write_bytes(
                encode_jpeg(compose(drawing.plate(document.name), look.traces, saved.sheet, size, cache), 88)
            )
    watch("", 1.0)
    return {}
