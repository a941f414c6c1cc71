"""The studies over HTTP: thin views, all rules are the core's. Their models are in :mod:`studio.studies.model_api`."""

from __future__ import annotations

import re
import uuid
from typing import Any, Literal

import numpy as np
from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.studies import desk
from studio.studies.models import Study
from warmgraphite import study as documents
from warmgraphite.collage.specification import SOURCES
from warmgraphite.drawing import Drawing, passes_for
from warmgraphite.errors import GraphiteError, ViewError
from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.model.read import FORMATS
from warmgraphite.model.units import METRES_PER
from warmgraphite.passes.store import pass_key
from warmgraphite.regions.query import NamedRegion, Query
from warmgraphite.sheet.canvas import BLEND_MODES
from warmgraphite.study import StudyDocument
from warmgraphite.view.differences import differences
from warmgraphite.view.frame import PAPERS, SCALES, Side, extended, fitted
from warmgraphite.view.kinds import SectionPerspective, ViewKind, kind_of, of_kind
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import CITIES, PRESETS, Moment, Preset, Sun, day_of_suns, placed, preset_sun, sun_path, year_of_suns

router = Router()

#: How many remarks on a cut are told at once; a model that nobody cleaned has hundreds.
MOST_REMARKS = 40


class ModelFacts(Schema):
    """What a study's model is. Lengths in metres; the focus is the building without its ground and planting.

    ``version`` changes with all that is said of it, ``geometry`` only with its triangles; ``origin`` is where its zero lies
    in the file's coordinates.
    """

    version: str
    geometry: str
    parts: int
    triangles: int
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    focus_low: tuple[float, float, float]
    focus_high: tuple[float, float, float]
    origin: tuple[float, float, float]
    source: str
    units: str
    up: str


class StudyRow(Schema):
    slug: str
    name: str
    views: int
    model: ModelFacts
    is_sample: bool
    first_view: str


class StudyOut(Schema):
    slug: str
    revision: int
    undo: str
    redo: str
    model: ModelFacts
    document: StudyDocument
    kind: ViewKind


class Change(Schema):
    path: list[str] = Field(min_length=1, max_length=12)
    value: Any


class EditIn(Schema):
    """``gesture`` names a drag whose steps are one step of undo."""

    base: int
    label: str = Field(max_length=120)
    changes: list[Change] = Field(min_length=1, max_length=200)
    gesture: str = Field(default="", max_length=120)


class ViewActionIn(Schema):
    """``name`` is a new view's, or the group's; ``text`` a view as JSON; ``place`` one in the list, from 0."""

    base: int
    action: Literal["open", "save", "keep", "remove", "duplicate", "order", "lock", "unlock", "group", "paste"]
    view_id: str = ""
    name: str = Field(default="", max_length=200)
    text: str = Field(default="", max_length=200_000)
    place: int = 0


class KindIn(Schema):
    """The view on the desk as another kind of it, or with other settings of its kind."""

    base: int
    kind: ViewKind
    gesture: str = Field(default="", max_length=120)


class FrameIn(Schema):
    """Draw a ``side`` of the paper out by so many ``millimetres``, or, without one, fit all that is shown on it."""

    base: int
    side: Side | None = None
    millimetres: float = Field(default=0, ge=-5000, le=5000)


class DifferenceOut(Schema):
    what: str
    first: str
    second: str


class Level(Schema):
    """A storey's floor, metres above zero."""

    name: str
    height: float


class Landmarks(Schema):
    """The storeys from below, and the bearings (degrees from north) in which one looks squarely at a front, largest first."""

    levels: list[Level]
    fronts: list[float]


class SunIn(Schema):
    """The sun of the view on the desk: set as the trade does, or as it stands at a moment."""

    base: int
    preset: Preset | None = None
    moment: Moment | None = None
    gesture: str = Field(default="", max_length=120)


class SunRowOut(Schema):
    """One view under many suns; each picture has an address, which answers 204 until it is drawn."""

    suns: list[Sun]
    labels: list[str]
    pictures: list[str]
    note: str


class WideningOut(Schema):
    word: str
    called: str


class PointedOut(Schema):
    """The region at a place: what it is called, the query that means it, and its rings in frame millimetres.

    ``job`` makes the map where there is none yet; then there is nothing else.
    """

    job: JobOut | None = None
    widenings: list[WideningOut] = []
    wide: int = 0
    called: str = ""
    query: Query | None = None
    rings: list[list[tuple[float, float]]] = []
    share: float = 0.0
    part: int | None = None
    material: str = ""
    cut: bool = False
    from_pixels: bool = False


class RegionIn(Schema):
    """Keep a query under a name, or rename or remove a kept region."""

    base: int
    action: Literal["keep", "rename", "remove"]
    region_id: str = ""
    name: str = Field(default="", max_length=100)
    query: Query | None = None


class CityOut(Schema):
    name: str
    latitude: float
    longitude: float
    zone: str


class ScaleOut(Schema):
    scale: float
    label: str
    system: str


class StepIn(Schema):
    base: int


class PassState(Schema):
    name: str
    fresh: bool


class RemarkOut(Schema):
    """What is not as a person expects, with its part and its place in metres."""

    part: str
    place: tuple[float, float, float]
    what: str


class DeskOut(Schema):
    """The desk's passes, the job that computes them, the frame they share, and what the cut found that is not shut.

    ``sketch`` is whether there is a first, coarse picture while they are stale.
    """

    fresh: bool
    sketch: bool
    passes: list[PassState]
    job: JobOut | None
    problem: str
    scale: float | None
    world_to_frame: list[list[float]] | None
    remarks: list[RemarkOut]


class ProbeOut(Schema):
    part: int | None
    name: str = ""
    layer: str = ""
    material: str
    role: str
    distance: float | None
    light: str
    cut: bool
    glass: bool
    pen: str
    line: str = ""


class ExportIn(Schema):
    format: Literal["pdf", "svg", "png"]
    resolution: float = Field(default=150, ge=30, le=1200)
    paper: bool = True


class Choices(Schema):
    blend_modes: list[str]
    sources: list[str]
    scales: list[ScaleOut]
    papers: dict[str, tuple[float, float]]
    units: dict[str, float]
    formats: list[str]
    cities: list[CityOut]
    sun_presets: list[str]


def _facts(study: Study) -> ModelFacts:
    assert study.head is not None
    about = study.head.about_model
    source = study.head.file.name if study.head.file else ""
    return ModelFacts(version=study.model_version, source=source, **{k: about[k] for k in ModelFacts.model_fields if k in about})


def study_out(study: Study) -> StudyOut:
    assert study.head is not None
    return StudyOut(
        slug=study.slug, revision=study.head.number, undo=study.undo_label(), redo=study.redo_label(), model=_facts(study),
        document=study.document, kind=kind_of(study.document.desk.view, _box(study)),
    )  # fmt: skip


def _box(study: Study) -> np.ndarray:
    """(2, 3) bounds of the building, which kinds of view are set up by."""
    facts = _facts(study)
    return np.array([facts.focus_low, facts.focus_high])


def study_of(slug: str) -> Study:
    return get_object_or_404(Study.objects.select_related("head", "head__file"), slug=slug)


@router.get("/choices", response=Choices)
def choices(request: HttpRequest) -> Choices:
    """What the forms offer; written down once, in the core."""
    return Choices(
        blend_modes=list(BLEND_MODES),
        sources=list(SOURCES),
        scales=[ScaleOut(scale=n, label=label, system=system) for system, rows in SCALES.items() for n, label in rows.items()],
        papers=PAPERS,
        units=METRES_PER,
        formats=list(FORMATS.values()),
        cities=[CityOut(**c._asdict()) for c in CITIES],
        sun_presets=list(PRESETS),
    )


@router.get("/studies", response=list[StudyRow])
def list_studies(request: HttpRequest) -> list[StudyRow]:
    rows = []
    for study in Study.objects.select_related("head", "head__file"):
        document = study.document
        rows.append(
            StudyRow(
                slug=study.slug,
                name=document.name,
                views=len(document.views),
                model=_facts(study),
                is_sample=study.is_sample,
                first_view=document.views[0].id,
            )
        )
    return rows


@router.get("/studies/{slug}", response=StudyOut)
def read_study(request: HttpRequest, slug: str) -> StudyOut:
    return study_out(study_of(slug))


@router.delete("/studies/{slug}", response={204: None})
def remove_study(request: HttpRequest, slug: str) -> tuple[int, None]:
    study = study_of(slug)
    Study.objects.filter(pk=study.pk).update(head=None)
    study.delete()
    return 204, None


@router.post("/studies/{slug}/edits", response=StudyOut)
def edit_study(request: HttpRequest, slug: str, body: EditIn) -> StudyOut:
    study_of(slug)
    changes = [(c.path, c.value) for c in body.changes]
    return study_out(Study.edit(slug, body.base, body.label, lambda d: documents.with_changes(d, changes), body.gesture))


@router.post("/studies/{slug}/views", response=StudyOut)
def act_on_view(request: HttpRequest, slug: str, body: ViewActionIn) -> StudyOut:
    """Open a saved view, save the one on the desk over it, keep it as a new one, or remove one."""
    study_of(slug)
    work = {
        "open": lambda d: documents.open_view(d, body.view_id),
        "save": documents.save_view,
        "keep": lambda d: documents.keep_view(d, body.name),
        "remove": lambda d: documents.remove_view(d, body.view_id),
        "duplicate": lambda d: documents.duplicate_view(d, body.view_id),
        "order": lambda d: documents.order_view(d, body.view_id, body.place),
        "lock": lambda d: documents.mark_view(d, body.view_id, locked=True),
        "unlock": lambda d: documents.mark_view(d, body.view_id, locked=False),
        "group": lambda d: documents.mark_view(d, body.view_id, group=body.name.strip()[:100]),
        "paste": lambda d: documents.paste_view(d, body.text),
    }
    label = {
        "open": "Open view", "save": "Save view", "keep": f"Keep view “{body.name[:90]}”", "remove": "Remove view",
        "duplicate": "Duplicate view", "order": "Order of views", "lock": "Lock view", "unlock": "Unlock view",
        "group": "Group view", "paste": "Paste view",
    }  # fmt: skip
    return study_out(Study.edit(slug, body.base, label[body.action], work[body.action]))


@router.post("/studies/{slug}/kind", response=StudyOut)
def set_kind(request: HttpRequest, slug: str, body: KindIn) -> StudyOut:
    """The view on the desk as a plan, a section, an isometric …"""
    study = study_of(slug)
    box = _box(study)

    def change(view: ViewSpecification) -> ViewSpecification:
        scale = desk.desk_drawing(study, view).scene.projection.scale if isinstance(body.kind, SectionPerspective) else None
        return of_kind(view, body.kind, box, scale)

    label = f"View as {body.kind.kind}"
    return study_out(Study.edit(slug, body.base, label, lambda d: documents.reshape_view(d, change), body.gesture))


@router.post("/studies/{slug}/frame", response=StudyOut)
def set_frame(request: HttpRequest, slug: str, body: FrameIn) -> StudyOut:
    """Another paper for the view on the desk: a side drawn out, or all that is shown fitted."""
    study = study_of(slug)

    def change(view: ViewSpecification) -> ViewSpecification:
        scene = desk.desk_drawing(study, view).scene
        if body.side is None:
            return fitted(view, scene.corners.reshape(-1, 3))
        return extended(view, body.side, body.millimetres, scene.projection)

    label = f"Draw the paper out, {body.side}" if body.side else "Fit the drawing"
    return study_out(Study.edit(slug, body.base, label, lambda d: documents.reshape_view(d, change), f"frame {body.side}"))


@router.post("/studies/{slug}/sun", response=StudyOut)
def set_sun(request: HttpRequest, slug: str, body: SunIn) -> StudyOut:
    """The sun of the view on the desk, by the trade's habit or by place, day and hour."""
    study = study_of(slug)
    kind = kind_of(study.document.desk.view, _box(study)).model_dump()
    bearing = float(kind.get("bearing", kind.get("corner", kind.get("top", 0))))

    def change(view: ViewSpecification) -> ViewSpecification:
        sun = preset_sun(view.sun, body.preset, bearing) if body.preset else view.sun
        return view.model_copy(update={"sun": placed(sun, body.moment) if body.moment else sun})

    label = f"Sun: {body.preset}" if body.preset else "Sun by place and time"
    return study_out(Study.edit(slug, body.base, label, lambda d: documents.reshape_view(d, change), body.gesture))


@router.get("/studies/{slug}/suns/{row}", response=SunRowOut)
def read_suns(request: HttpRequest, slug: str, row: Literal["day", "year"]) -> SunRowOut:
    """The view on the desk through the day, or through the year, at the moment that its sun is set by."""
    study = study_of(slug)
    document = study.document
    sun = document.desk.view.sun
    if sun.moment is None:
        return SunRowOut(suns=[], labels=[], pictures=[], note="Choose a place, a day and an hour first.")
    suns = day_of_suns(sun, sun.moment) if row == "day" else year_of_suns(sun, sun.moment)
    if not suns:
        return SunRowOut(suns=[], labels=[], pictures=[], note="The sun does not rise there on that day.")
    key = desk.suns_key(study, document, suns)
    folder = settings.DATA / "pictures"
    if (
        not all((folder / f"{key}-{k}.jpg").exists() for k in range(len(suns)))
        and not Job.objects.filter(key=key, state="failed").exists()
    ):
        shown = {
            "document": document.model_dump(mode="json"),
            "suns": [s.model_dump(mode="json") for s in suns],
            "version": study.model_version,
        }
        enqueue("suns", key, shown, study)
    hours = [s.moment.hour for s in suns if s.moment]
    labels = (
        [f"{int(h)}:{round(h % 1 * 60):02d}" for h in hours]
        if row == "day"
        else [s.moment.date.strftime("%-d %b") for s in suns if s.moment]
    )
    pictures = [f"/api/studies/{slug}/sun-pictures/{key}/{k}" for k in range(len(suns))]
    return SunRowOut(suns=suns, labels=labels, pictures=pictures, note="")


@router.get("/studies/{slug}/sun-path", response=list[tuple[float, float, float]])
def read_sun_path(request: HttpRequest, slug: str) -> list[tuple[float, float, float]]:
    """Where the sun goes on the day that it is set by: azimuth, altitude and hour, while it is up."""
    moment = study_of(slug).document.desk.view.sun.moment
    return sun_path(moment) if moment else []


@router.get("/studies/{slug}/sun-pictures/{key}/{number}")
def read_sun_picture(request: HttpRequest, slug: str, key: str, number: int) -> HttpResponse:
    """One picture of a row; 204 while it is being drawn."""
    study_of(slug)
    if not re.fullmatch(r"suns-[0-9a-f]{32}", key):
        return HttpResponse(status=404)
    path = settings.DATA / "pictures" / f"{key}-{number}.jpg"
    return _picture(path.read_bytes() if path.exists() else None, True)


def _mapped(study: Study) -> tuple[Drawing | None, Job | None]:
    """The drawing on the desk if its map is fresh, else the job that makes it."""
    view = study.document.desk.view
    drawing = desk.desk_drawing(study, view)
    if all(drawing.fresh(("cut", "lines", "shadow", "regions")).values()):
        return drawing, None
    key = f"map {drawing.keys['regions']}"
    job = Job.objects.filter(key=key).first()
    if job is None or not (job.is_open or job.state == Job.State.FAILED):
        arguments = {
            "view": view.model_dump(mode="json"),
            "version": study.model_version,
            "passes": ["cut", "lines", "shadow", "regions"],
        }
        job = enqueue("passes", key, arguments, study)
    return None, job


@router.get("/studies/{slug}/pointed", response={200: PointedOut, 204: None})
def read_pointed(request: HttpRequest, slug: str, x: float, y: float, wide: int = 0) -> Any:
    """The region at a place of the drawing, in frame millimetres; ``wide`` steps wider."""
    study = study_of(slug)
    drawing, job = _mapped(study)
    if drawing is None:
        return 200, PointedOut(job=job_out(job) if job else None)
    found = desk.point_out(drawing, x, y, wide)
    return (200, PointedOut(**found)) if found else (204, None)


@router.post("/studies/{slug}/regions", response=StudyOut)
def act_on_region(request: HttpRequest, slug: str, body: RegionIn) -> StudyOut:
    """Keep, rename or remove a named region."""
    study_of(slug)
    if body.action == "keep" and body.query is None:
        raise ViewError("There is no region to keep; select one in the drawing first.")
    query = body.query
    work = {
        "keep": lambda d: documents.keep_region(d, body.name, query),
        "rename": lambda d: documents.rename_region(d, body.region_id, body.name),
        "remove": lambda d: documents.remove_region(d, body.region_id),
    }
    label = {"keep": f"Keep region “{body.name[:80]}”", "rename": "Rename region", "remove": "Remove region"}[body.action]
    return study_out(Study.edit(slug, body.base, label, work[body.action]))


def _kept_region(study: Study, region_id: str) -> NamedRegion:
    found = next((r for r in study.document.regions if r.id == region_id), None)
    if found is None:
        raise Http404
    return found


@router.get("/studies/{slug}/regions/{region_id}/shape", response=PointedOut)
def read_region_shape(request: HttpRequest, slug: str, region_id: str) -> PointedOut:
    """A kept region in the view on the desk."""
    study = study_of(slug)
    region = _kept_region(study, region_id)
    drawing, job = _mapped(study)
    if drawing is None:
        return PointedOut(job=job_out(job) if job else None)
    return PointedOut(called=region.name, query=region.query, **desk.named_shape(drawing, region))


@router.get("/studies/{slug}/regions/{region_id}/mask")
def read_region_mask(request: HttpRequest, slug: str, region_id: str, width: int = 1600) -> HttpResponse:
    """A kept region as a grey PNG at any size; 204 while the map is being made."""
    study = study_of(slug)
    region = _kept_region(study, region_id)
    drawing, _ = _mapped(study)
    if drawing is None:
        return HttpResponse(status=204)
    response = HttpResponse(desk.region_mask(drawing, region, width), content_type="image/png")
    response["Cache-Control"] = "no-store"
    return response


@router.get("/studies/{slug}/views/{first}/differences/{second}", response=list[DifferenceOut])
def compare_views(request: HttpRequest, slug: str, first: str, second: str) -> list[DifferenceOut]:
    """What differs between two saved views; “desk” is the one on the desk."""
    study = study_of(slug)
    views = {v.id: v.view for v in study.document.views} | {"desk": study.document.desk.view}
    if first not in views or second not in views:
        raise Http404
    return [DifferenceOut(**d._asdict()) for d in differences(views[first], views[second], _box(study))]


@router.get("/studies/{slug}/landmarks", response=Landmarks)
def read_landmarks(request: HttpRequest, slug: str) -> Landmarks:
    """What views of the model are set up by."""
    found = landmarks_of(study_of(slug).model)
    return Landmarks(levels=[Level(name=name, height=z) for name, z in found.levels], fronts=found.fronts)


@router.post("/studies/{slug}/undo", response=StudyOut)
def undo(request: HttpRequest, slug: str, body: StepIn) -> StudyOut:
    study_of(slug)
    return study_out(Study.step(slug, body.base, back=True))


@router.post("/studies/{slug}/redo", response=StudyOut)
def redo(request: HttpRequest, slug: str, body: StepIn) -> StudyOut:
    study_of(slug)
    return study_out(Study.step(slug, body.base, back=False))


@router.get("/studies/{slug}/desk", response=DeskOut)
def read_desk(request: HttpRequest, slug: str, start: bool = False, again: bool = False) -> DeskOut:
    """Whether the passes of the desk are fresh; ``start`` sets a job to work on them when they are not.

    What failed is not begun again by itself, only ``again``: else a fault would be met for ever and never be seen.
    """
    study = study_of(slug)
    view = study.document.desk.view
    drawing = desk.desk_drawing(study, view)
    problem, scale, matrix = "", None, None
    try:
        projection = drawing.scene.projection
        scale, matrix = projection.scale, projection.matrix.tolist()
    except GraphiteError as error:
        problem = str(error)
    names = passes_for(study.document.on_desk.traces)
    fresh = drawing.fresh(names)
    whole = all(fresh.values())
    job = None
    key = pass_key("desk", [drawing.keys[n] for n in names])
    if not whole and not problem:
        job = Job.objects.filter(key=key).first()
        given_up = job is not None and job.state == Job.State.FAILED and not again
        if start and not given_up and (job is None or not job.is_open):
            # What an earlier state of this study asked for is wanted no more.
            for old in Job.objects.filter(study=study, kind__in=("passes", "suns"), state__in=("waiting", "working")).exclude(
                key=key
            ):
                from studio.jobs.queue import cancel

                cancel(old)
            arguments = {"view": view.model_dump(mode="json"), "version": study.model_version, "passes": list(names)}
            job = enqueue("passes", key, arguments, study)
    return DeskOut(
        fresh=whole, sketch=not whole and not problem and desk.has_sketch(study, study.document), passes=[PassState(name=n, fresh=f) for n, f in fresh.items()], job=job_out(job) if job else None,
        problem=problem, scale=scale, world_to_frame=matrix,
        remarks=[RemarkOut(**r._asdict()) for r in drawing.remarks()[:MOST_REMARKS]] if whole and not problem else [],
    )  # fmt: skip


def _picture(data: bytes | None, lasting: bool) -> HttpResponse:
    if data is None:
        return HttpResponse(status=204)
    response = HttpResponse(data, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400" if lasting else "no-store"
    return response


@router.get("/studies/{slug}/preview")
def read_preview(
    request: HttpRequest, slug: str, width: int = 1280, without: str = "", revision: int = 0, coarse: bool = False
) -> HttpResponse:
    """The picture on the desk as JPEG; 204 while a pass is stale. ``coarse`` asks for the first sketch of it, ``revision`` only
    makes the address change."""
    study = study_of(slug)
    if coarse:
        return _picture(desk.sketch(study, study.document, width), False)
    return _picture(desk.preview(study, study.document, width, without), False)


@router.get("/studies/{slug}/traces/{trace_id}/picture")
def read_trace(request: HttpRequest, slug: str, trace_id: str, revision: int = 0) -> HttpResponse:
    """One trace alone, small."""
    study = study_of(slug)
    return _picture(desk.thumbnail(study, study.document, trace_id), False)


@router.get("/studies/{slug}/views/{view_id}/picture")
def read_view_picture(request: HttpRequest, slug: str, view_id: str, revision: int = 0) -> HttpResponse:
    """A saved view, small; 204 while it is being drawn."""
    study = study_of(slug)
    document = study.document
    saved = next((v for v in document.views if v.id == view_id), None)
    if saved is None:
        return HttpResponse(status=404)
    key = desk.picture_key(study, document, saved)
    path = settings.DATA / "pictures" / f"{key}.jpg"
    if path.exists():
        return _picture(path.read_bytes(), False)
    if not Job.objects.filter(key=key, state="failed").exists():
        shown = {
            "document": document.model_dump(mode="json"),
            "saved": saved.model_dump(mode="json"),
            "version": study.model_version,
        }
        enqueue("picture", key, shown, study)
    return _picture(None, False)


@router.get("/studies/{slug}/probe", response={200: ProbeOut, 204: None})
def read_probe(request: HttpRequest, slug: str, x: float, y: float) -> Any:
    """What lies at a place of the drawing, in frame millimetres."""
    study = study_of(slug)
    found = desk.probe(study, study.document, x, y)
    return (200, found) if found else (204, None)


@router.post("/studies/{slug}/exports", response=JobOut)
def export(request: HttpRequest, slug: str, body: ExportIn) -> JobOut:
    """Write the drawing on the desk as a file; the job's file is what comes of it."""
    study = study_of(slug)
    arguments = {"document": study.document.model_dump(mode="json"), "version": study.model_version, **body.model_dump()}
    return job_out(enqueue("export", f"export {uuid.uuid4().hex}", arguments, study))
