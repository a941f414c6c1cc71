"""The drawing on the desk over HTTP: its passes, pictures and regions, what lies under the pointer, the way out.

What is only looked at is asked for with GET, and never starts any work; what starts a job is a POST, so that no other
page can.
"""

from __future__ import annotations

import re
import threading
import time
from typing import Literal

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.stock.models import kept_pictures
from studio.studies import desk
from studio.studies.api import study_of
from studio.studies.desk_work import arguments_of, problem_of, state_of, working
from studio.studies.first_pictures import first_picture
from studio.studies.models import Study
from warmgraphite.collage.pictures.placing import framing_of
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing import Drawing, Need, Stale
from warmgraphite.errors import GraphiteError, ViewError
from warmgraphite.regions.soft import window_names
from warmgraphite.view.scene import shown_parts, uncut_parts
from warmgraphite.view.sun import Sun, day_of_suns, year_of_suns

router = Router()

#: How many remarks on a cut are told at once; a model that nobody cleaned has hundreds.
MOST_REMARKS = 40


class PassState(Schema):
    name: str
    fresh: bool


class TraceState(Schema):
    """A sheet of the shelf.
    Whether what it shows is as it should be, a name that changes with its small picture, and what is to be said of it
    on this view.
    """

    id: str
    fresh: bool
    picture: str
    remarks: list[str]
    #: Where what of it is moved on the drawing lies, in frame millimetres.
    places: dict[str, float]


class RemarkOut(Schema):
    """What is not as a person expects, with its part and its place in metres."""

    part: str
    place: tuple[float, float, float]
    what: str


class DeskOut(Schema):
    """The desk's passes and traces, and the job that computes them.
    With the frame they share, and what the cut found that is not shut.

    ``revision`` is the state of the study that all this is said of; ``sketch`` whether there is a first, coarse picture
    while its passes are stale; ``caps`` a name that changes with the faces that close its cuts, empty while they are
    not known.
    """

    revision: int
    fresh: bool
    sketch: bool
    passes: list[PassState]
    traces: list[TraceState]
    caps: str
    job: JobOut | None
    problem: str
    scale: float | None
    world_to_frame: list[list[float]] | None
    #: Names the camera and the paper, which pictures made for them remember.
    framing: str
    remarks: list[RemarkOut]


class ShownOut(Schema):
    """How the view on the desk takes the parts of the model.
    Numbers of those it does not show, and of those that its cutting planes leave whole.
    """

    hidden: list[int]
    uncut: list[int]


class SunRowOut(Schema):
    """One view under many suns; each picture has an address, which answers 204 until it is drawn."""

    suns: list[Sun]
    labels: list[str]
    pictures: list[str]
    note: str


class WideningOut(Schema):
    word: str
    called: str


def given_back(data: bytes | None, lasting: bool, kind: str = "image/jpeg") -> HttpResponse:
    """A picture, or 204 while there is none."""
    if data is None:
        return HttpResponse(status=204)
    response = HttpResponse(data, content_type=kind)
    response["Cache-Control"] = "private, max-age=86400" if lasting else "no-store"
    return response


def _places(drawing: Drawing, trace: Trace) -> dict[str, float]:
    try:
        return trace.places(drawing.plate())
    except Stale:
        return {}


def _desk(study: Study, start: bool, again: bool, width: int) -> DeskOut:
    assert study.head is not None
    document = study.document
    view = document.desk.view
    try:
        drawing, look, fresh = state_of(study)
    except GraphiteError as error:
        return _nothing(study, str(error))
    whole = all(ready for n, ready in fresh.items() if n.name != "caps")
    problem = problem_of(drawing)
    projection = drawing.result("frame").projection if fresh[Need("frame")] else None
    job = None
    if not problem and not all(fresh.values()):
        job = working(study, drawing, look, tuple(fresh), start, again)
    if width and job is not None and job.state == Job.State.WORKING and not whole:
        desk.lay_ahead(study, document, width)
    harmed = {m.name for m in view.masks if kept_pictures().masks.is_damaged(m.tiles)}
    traces = [
        TraceState(
            id=t.id,
            fresh=all(drawing.is_fresh(n) for n in t.all_needs()),
            picture=desk.trace_picture_key(drawing, document, t, desk.tracing(look)),
            remarks=[*t.remarks(view, kept_pictures().has), *_of_masks(t, harmed)],
            places=_places(drawing, t) if projection else {},
        )
        for t in look.traces
    ]
    return DeskOut(
        revision=study.head.number, fresh=whole and not problem,
        sketch=not whole and not problem and desk.has_sketch(study, document),
        passes=[PassState(name=n.words, fresh=f) for n, f in fresh.items()], traces=traces,
        job=job_out(job) if job else None,
        caps=desk.caps_key(drawing, document) if fresh[Need("caps")] and view.cuts else "", problem=problem,
        scale=projection.scale if projection else None,
        world_to_frame=projection.matrix.tolist() if projection else None, framing=framing_of(view),
        remarks=[RemarkOut(**r) for r in drawing.remarks()[:MOST_REMARKS]] if whole and not problem else [],
    )  # fmt: skip


#: Requests that wait for the desk at once; more are answered as it is, so that others find a thread.
_waiting = threading.BoundedSemaphore(max(1, settings.SERVER_THREADS // 2))
#: Seconds between two looks of one that waits, and the longest that it does.
LOOK, LONGEST = 0.01, 2.0


def _awaited(slug: str, start: bool, again: bool, width: int, wait: float) -> DeskOut:
    """The desk when its picture or a first sketch is there, its job has ended, or ``wait`` seconds have gone."""
    study = study_of(slug)
    told = _desk(study, start, again, width)
    if (
        wait <= 0
        or told.fresh
        or told.job is None
        or told.job.state not in Job.OPEN
        or not _waiting.acquire(blocking=False)
    ):
        return told
    try:
        end = time.monotonic() + min(wait, LONGEST)
        while time.monotonic() < end:
            time.sleep(LOOK)
            ended = not Job.objects.filter(pk=told.job.id, state__in=Job.OPEN).exists()
            if (
                ended
                or desk.is_whole(study, study.document)
                or (not told.sketch and desk.has_sketch(study, study.document))
            ):
                break
    finally:
        _waiting.release()
    # Its job may have been stopped for a state that the study was in meanwhile: then it is begun again.
    return _desk(study_of(slug), start, again, width)


def _nothing(study: Study, problem: str) -> DeskOut:
    assert study.head is not None
    return DeskOut(
        revision=study.head.number, fresh=False, sketch=False, passes=[], traces=[], job=None, caps="", problem=problem,
        scale=None, world_to_frame=None, framing="", remarks=[],
    )  # fmt: skip


@router.get("/studies/{slug}/desk", response=DeskOut)
def read_desk(request: HttpRequest, slug: str, width: int = 0, wait: float = 0.0) -> DeskOut:
    """Whether the passes of the desk are fresh, and the job that works on them, if one does.
    ``width`` in pixels is that of the picture that will be asked for; while a job works, there is an answer after
    ``wait`` seconds, or as soon as its work can be seen.
    """
    return _awaited(slug, False, False, width, wait)


@router.post("/studies/{slug}/desk", response=DeskOut)
def compute_desk(request: HttpRequest, slug: str, again: bool = False, width: int = 0, wait: float = 0.0) -> DeskOut:
    """As GET, and a job is set to work on the passes that are stale.

    What failed is not begun again by itself, only ``again``: else a fault would be met for ever and never be seen.
    """
    return _awaited(slug, True, again, width, wait)


@router.get("/studies/{slug}/shown", response=ShownOut)
def read_shown(request: HttpRequest, slug: str, key: str = "") -> ShownOut:
    """How the view on the desk takes the parts, for the model in three dimensions.
    ``key`` only makes the address change.
    """
    study = study_of(slug)
    view, model = study.document.desk.view, study.model
    try:
        hidden = ~shown_parts(model, view)
    except GraphiteError:  # its part set is gone: the desk says so
        hidden = ~model.parts.present
    return ShownOut(hidden=hidden.nonzero()[0].tolist(), uncut=uncut_parts(model, view).nonzero()[0].tolist())


@router.get("/studies/{slug}/caps")
def read_caps(request: HttpRequest, slug: str, key: str = "") -> HttpResponse:
    """The faces that close the cuts of the view on the desk, in the colours of their poche.
    See :func:`desk.caps_block`; 204 while they are not known. ``key`` only makes the address change.
    """
    study = study_of(slug)
    return given_back(desk.caps_block(study, study.document), False, "application/octet-stream")


def _of_masks(trace: Trace, harmed: set[str]) -> list[str]:
    """What is to be said of the masks that a trace is seen through."""
    names = sorted(window_names(trace.where) & harmed) if trace.where else []
    return [
        f"What was painted for “{n}” is gone or damaged in the data folder; undo to before, or paint it again."
        for n in names
    ]


def _ids(text: str) -> frozenset[str]:
    return frozenset(i for i in text.split(",") if i)


@router.get("/studies/{slug}/preview")
def read_preview(
    request: HttpRequest,
    slug: str,
    width: int = 1280,
    without: str = "",
    alone: str = "",
    revision: int = 0,
    coarse: bool = False,
    window: str = "",
) -> HttpResponse:
    """The picture on the desk as JPEG; 204 while a pass is stale.
    ``without`` and ``alone`` are ids of traces, with commas between them. ``window`` is x, y, width and height in
    pixels, with commas between them, of the part of it that is seen. ``coarse`` asks for the first sketch of it,
    ``revision`` only makes the address change.
    """
    study = study_of(slug)
    if coarse:
        return given_back(desk.sketch(study, study.document, width), False)
    part = None
    if window:
        if not re.fullmatch(r"-?\d{1,6}(,-?\d{1,6}){3}", window):
            raise ViewError("A window is x, y, width and height in whole pixels, with commas between them.")
        x, y, across, down = (int(n) for n in window.split(","))
        part = (x, y, max(across, 1), max(down, 1))
    return given_back(desk.preview(study, study.document, width, _ids(without), part, _ids(alone)), False)


@router.get("/studies/{slug}/traces/{trace_id}/picture")
def read_trace(request: HttpRequest, slug: str, trace_id: str, key: str = "") -> HttpResponse:
    """One trace alone, small; 204 while what it shows is stale. ``key`` only makes the address change."""
    study = study_of(slug)
    return given_back(desk.thumbnail(study, study.document, trace_id), False)


def _view_picture(study: Study, view_id: str, start: bool) -> HttpResponse:
    document = study.document
    saved = next((v for v in document.views if v.id == view_id), None)
    if saved is None:
        raise Http404
    assert study.head is not None
    shipped = first_picture(study.slug, study.head.file.name if study.head.file else "", study.head.number, view_id)
    if shipped is not None:
        return given_back(shipped, False)
    key = desk.picture_key(study, document, saved)
    found = desk.picture(study, key)
    if found is not None:
        return given_back(found, False)
    if start and not Job.has_failed(study, key):
        enqueue("picture", key, {"view_id": saved.id, "version": study.model_version}, study, study.head.text)
    return given_back(None, False)


@router.get("/studies/{slug}/views/{view_id}/picture")
def read_view_picture(request: HttpRequest, slug: str, view_id: str, revision: int = 0) -> HttpResponse:
    """A saved view, small; 204 while it is not drawn."""
    return _view_picture(study_of(slug), view_id, start=False)


@router.get("/studies/{slug}/views/{view_id}/last")
def read_last_picture(request: HttpRequest, slug: str, view_id: str) -> HttpResponse:
    """A view as it last lay on the desk, whatever has changed since; 204 where it was never drawn."""
    study = study_of(slug)
    assert study.head is not None
    # As the sample came, whatever was done to it since: that, too, was a picture of this view.
    shipped = first_picture(study.slug, study.head.file.name if study.head.file else "", 1, view_id)
    found = desk.picture(study, f"last-{view_id}") or shipped
    return given_back(found or desk.small_picture(study, study.document, view_id), False)


@router.post("/studies/{slug}/views/{view_id}/picture")
def draw_view_picture(request: HttpRequest, slug: str, view_id: str) -> HttpResponse:
    """As GET, and a job draws it where it is not drawn yet."""
    return _view_picture(study_of(slug), view_id, start=True)


@router.post("/studies/{slug}/suns/{row}", response=SunRowOut)
def draw_suns(request: HttpRequest, slug: str, row: Literal["day", "year"]) -> SunRowOut:
    """The view on the desk through the day, or through the year, at the moment that its sun is set by.
    A job draws it.
    """
    study = study_of(slug)
    document = study.document
    sun = document.desk.view.sun
    if sun.moment is None:
        return SunRowOut(suns=[], labels=[], pictures=[], note="Choose a place, a day and an hour first.")
    suns = day_of_suns(sun, sun.moment) if row == "day" else year_of_suns(sun, sun.moment)
    if not suns:
        return SunRowOut(suns=[], labels=[], pictures=[], note="The sun does not rise there on that day.")
    key = desk.suns_key(study, document, suns)
    missing = any(desk.picture(study, f"{key}-{k}") is None for k in range(len(suns)))
    if missing and not Job.has_failed(study, key):
        assert study.head is not None
        shown = {"suns": [s.model_dump(mode="json") for s in suns], "version": study.model_version}
        enqueue("suns", key, shown, study, study.head.text)
    hours = [s.moment.hour for s in suns if s.moment]
    labels = (
        [f"{int(h)}:{round(h % 1 * 60):02d}" for h in hours]
        if row == "day"
        else [s.moment.date.strftime("%-d %b") for s in suns if s.moment]
    )
    pictures = [f"/api/studies/{slug}/sun-pictures/{key}/{k}" for k in range(len(suns))]
    return SunRowOut(suns=suns, labels=labels, pictures=pictures, note="")


@router.get("/studies/{slug}/sun-pictures/{key}/{number}")
def read_sun_picture(request: HttpRequest, slug: str, key: str, number: int) -> HttpResponse:
    """One picture of a row; 204 while it is being drawn."""
    study = study_of(slug)
    if not re.fullmatch(r"suns-[0-9a-f]{32}", key):
        raise Http404
    return given_back(desk.picture(study, f"{key}-{number}"), True)


def mapped_drawing(study: Study) -> Drawing | None:
    """The drawing on the desk if its map is fresh."""
    drawing, _ = desk.on_desk(study, study.document)
    return drawing if drawing.is_fresh("regions") else None


def mapping_job(study: Study) -> JobOut | None:
    """The job that makes the map of the drawing on the desk; ``None`` where it has failed before."""
    drawing, look = desk.on_desk(study, study.document)
    key = f"map {drawing.key('regions')}"
    job = Job.last(study, key)
    if job is None or not (job.is_open or job.state == Job.State.FAILED):
        job = enqueue("passes", key, arguments_of(study, look, (Need("regions"),)), study)
    return job_out(job)
