"""What goes out, over HTTP: formats, drawings and boards as files, passes as a bundle, the set."""

from __future__ import annotations

import re
import uuid
from pathlib import Path
from typing import Literal

from django.conf import settings
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field, field_validator

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import cancel, enqueue
from studio.jobs.received import enqueue_received
from studio.studies.api import study_of
from studio.studies.boards import board_of
from studio.studies.models import Study
from studio.studies.series import folder_of, latest_job
from warmgraphite.out.format import MOST_WRITTEN
from warmgraphite.out.settings import OutSettings
from warmgraphite.out.write import FORMATS
from warmgraphite.series.contact import CONTACT_SHEET
from warmgraphite.series.kept import KeptSet
from warmgraphite.series.plan import SeriesSettings, plan_of, safe_name
from warmgraphite.study import write_finish
from warmgraphite.view.frame import refuse_pixels

router = Router()


class OutFormat(Schema):
    """A format that drawings are written in."""

    ending: str
    label: str
    about: str
    is_pixels: bool
    many: bool
    options: list[str]


@router.get("/formats", response=list[OutFormat])
def read_formats(request: HttpRequest) -> list[OutFormat]:
    """The formats, in the order in which they are offered."""
    return [OutFormat(ending=f.ending, label=f.label, about=f.about, is_pixels=f.is_pixels, many=f.many,
        options=list(f.options)) for f in FORMATS.values()]  # fmt: skip


def known_format(ending: str) -> str:
    """A format that is written. Raises :class:`ValueError` for another."""
    if ending not in FORMATS:
        raise ValueError(f"there is no format “{ending}”; use {', '.join(FORMATS)}")
    return ending


class ExportIn(Schema):
    """A file that is asked for."""

    format: str
    out: OutSettings = OutSettings()

    _known = field_validator("format")(known_format)


class BoardExportIn(ExportIn):
    """A file of a board that is asked for; ``page`` is the one that formats of a single page show."""

    page: int = Field(default=1, ge=1)


class BundleIn(Schema):
    """All passes of the view on the desk; ``pictures`` say how those with pixels are kept."""

    resolution: float = Field(default=150, ge=10, le=2400)
    pictures: Literal["png", "tiff"] = "png"


def _begin(study: Study, kind: str, **more: object) -> JobOut:
    """Have a file written of a study as it is now."""
    assert study.head is not None
    wanted = {"version": study.model_version, **more}
    return job_out(enqueue(kind, f"{kind} {uuid.uuid4().hex}", wanted, study, study.head.text))


@router.post("/studies/{slug}/exports", response=JobOut)
def export(request: HttpRequest, slug: str, body: ExportIn) -> JobOut:
    """Write the drawing on the desk as a file; the job's file is what comes of it."""
    study = study_of(slug)
    frame = study.document.desk.view.frame.model_copy(update={"resolution": body.out.resolution})
    refuse_pixels(*frame.pixels, MOST_WRITTEN, body.out.resolution)
    return _begin(study, "export", **body.model_dump(mode="json"))


@router.post("/studies/{slug}/boards/{board_id}/exports", response=JobOut)
def export_board(request: HttpRequest, slug: str, board_id: str, body: BoardExportIn) -> JobOut:
    """Write a board as a file: a job, whose result has its name."""
    study = study_of(slug)
    board_of(study, board_id).refuse_page(body.page)
    return _begin(study, "board_export", board=board_id, **body.model_dump(mode="json"))


@router.post("/studies/{slug}/bundles", response=JobOut)
def write_passes(request: HttpRequest, slug: str, body: BundleIn) -> JobOut:
    """Write all passes of the view on the desk as one archive."""
    study = study_of(slug)
    frame = study.document.desk.view.frame.model_copy(update={"resolution": body.resolution})
    refuse_pixels(*frame.pixels, MOST_WRITTEN // 4, body.resolution)
    return _begin(study, "bundle", **body.model_dump(mode="json"))


@router.post("/studies/{slug}/finishes/{finish_id}/pack", response=JobOut)
def pack_finish(request: HttpRequest, slug: str, finish_id: str) -> JobOut:
    """Write a finish with the pictures and faces that it shows as one file."""
    study = study_of(slug)
    document = study.document
    finish = next((f for f in document.finishes if f.id == finish_id), None)
    if finish is None:
        raise Http404
    text = write_finish(finish.like(finish.plain.resolved(document.regions)))
    return job_out(
        enqueue("pack_finish", f"pack_finish {uuid.uuid4().hex}", {"text": text, "name": finish.name}, study)
    )


@router.post("/finishes", response=JobOut)
def receive_finish(request: HttpRequest, file: UploadedFile = File(...)) -> JobOut:  # type: ignore[type-arg] # noqa: B008
    """Take in a finish with its stock; the job's result has the text of the finish."""
    name = safe_name(str(file.name or "finish.zip"))
    return job_out(enqueue_received("unpack_finish", {name: file}, name))


class SetItem(Schema):
    """A file of the set: whether it is drawn as it would be drawn now, or is there as it was before.
    Where its small picture is.
    """

    id: str
    kind: str
    name: str
    mark: str
    file: str
    drawn: bool
    stale: bool
    bytes: int
    small: str
    problem: str


class SetState(Schema):
    """The set as it would be drawn, what of it is there, and the job that draws it, or drew it last."""

    items: list[SetItem]
    drawn: int
    contact_sheet: bool
    job: JobOut | None
    folder: str


@router.post("/studies/{slug}/set/state", response=SetState)
def read_set(request: HttpRequest, slug: str, body: SeriesSettings) -> SetState:
    """What of a set is drawn. Nothing is begun."""
    study = study_of(slug)
    there, job = KeptSet.of(folder_of(study)), latest_job(study)
    left_out = job.result.get("left_out", {}) if job and job.state == Job.State.DONE else {}
    rows = []
    for item in plan_of(study.document, study.model, body):
        drawn, path = there.has(item), there.folder / item.file
        small = f"/api/studies/{slug}/set/small/{item.key}" if drawn and there.small(item).is_file() else ""
        rows.append(
            SetItem(
                id=item.id, kind=item.kind, name=item.name, mark=item.mark, file=item.file, drawn=drawn,
                stale=not drawn and path.is_file(), bytes=path.stat().st_size if drawn else 0, small=small,
                problem=item.problem or left_out.get(item.file, ""),
            )
        )  # fmt: skip
    return SetState(
        items=rows, drawn=sum(r.drawn for r in rows), contact_sheet=(there.folder / CONTACT_SHEET).is_file(),
        job=job_out(job) if job else None, folder=str(there.folder.relative_to(settings.DATA)),
    )  # fmt: skip


@router.post("/studies/{slug}/set", response=JobOut)
def draw_set(request: HttpRequest, slug: str, body: SeriesSettings) -> JobOut:
    """Draw the set, or go on with it. One that is being drawn otherwise is stopped first."""
    study = study_of(slug)
    plan_of(study.document, study.model, body)  # what is wrong with it is said at once
    open_jobs = Job.objects.filter(study=study, kind="set", state__in=Job.OPEN)
    asked = body.model_dump(mode="json")
    for job in open_jobs:
        if job.wanted.get("set") != asked:
            cancel(job)
    assert study.head is not None
    key = f"set {slug} {uuid.uuid5(uuid.NAMESPACE_OID, str(asked)).hex}"
    return job_out(enqueue("set", key, {"version": study.model_version, "set": asked}, study, study.head.text))


@router.post("/studies/{slug}/set/archive", response=JobOut)
def pack_set(request: HttpRequest, slug: str) -> JobOut:
    """Put what is drawn of the set into one archive."""
    study = study_of(slug)
    return _begin(study, "set_pack")


def _file(path: Path, name: str, attached: bool) -> HttpResponse | FileResponse:
    if not path.is_file():
        raise Http404
    return FileResponse(path.open("rb"), as_attachment=attached, filename=name)


@router.get("/studies/{slug}/set/small/{key}", include_in_schema=False)
def read_small(request: HttpRequest, slug: str, key: str) -> HttpResponse | FileResponse:
    """A small picture of the set."""
    study = study_of(slug)
    if not re.fullmatch(r"[a-z0-9-]{1,100}", key):
        raise Http404
    response = _file(folder_of(study) / "small" / f"{key}.png", "small.png", attached=False)
    response["Cache-Control"] = "private, max-age=86400"
    return response


@router.get("/studies/{slug}/set/files/{name}", include_in_schema=False)
def read_set_file(request: HttpRequest, slug: str, name: str) -> HttpResponse | FileResponse:
    """A drawing of the set, or its contact sheet."""
    study = study_of(slug)
    there = KeptSet.of(folder_of(study))
    if name not in there.rows and name != CONTACT_SHEET:
        raise Http404
    return _file(there.folder / name, name, attached=True)
