"""The files of a study's model over HTTP: what was brought, what is written, and what is brought again."""

from __future__ import annotations

import uuid
from pathlib import Path
from typing import Any, Literal

from django.conf import settings
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.jobs.received import AS_READ, enqueue_received, put_away, received_in
from studio.studies.api import ChangedOut, study_of, told
from studio.studies.models import ModelFile, Study, model_store
from studio.studies.names import received_name
from warmgraphite.errors import EditError, ModelFileError
from warmgraphite.model.read import FORMATS
from warmgraphite.study import follow_names

__all__ = [
    "AcceptIn",
    "BringBackIn",
    "FileOut",
    "WriteIn",
    "accept_upload",
    "bring_back",
    "discard_upload",
    "list_files",
    "upload",
    "write_model",
]

router = Router()

_COMPANIONS = {".mtl", ".bin", ".png", ".jpg", ".jpeg", ".gif", ".webp", ".bmp", ".tif", ".tiff", ".tga"}


class FileOut(Schema):
    number: int
    name: str
    format: str
    received: str
    current: bool
    source: str
    notes: list[str]
    report: dict[str, Any]


class WriteIn(Schema):
    """What is written of the model: all of it, or the parts of a set.
    With the ``figures`` that stand in the view on the desk, or without.
    """

    format: Literal["glb", "obj"]
    part_set: str = Field(default="", max_length=200)
    figures: bool = False


class AcceptIn(Schema):
    """``study`` names the study whose model this is the next version of; empty makes a new study.
    It is a version of the joined file ``source``, or ``joins`` the study as one more file.
    """

    name: str = Field(default="", max_length=120)
    units: Literal["m", "cm", "mm", "ft", "in"]
    up: Literal["z", "y"]
    study: str = Field(default="", max_length=80)
    source: str = Field(default="", max_length=40)
    joins: bool = False


@router.post("/studies/{slug}/model/write", response=JobOut)
def write_model(request: HttpRequest, slug: str, body: WriteIn) -> JobOut:
    """Write the model, or a part set of it, as GLB or as OBJ with its materials and pictures in an archive."""
    study = study_of(slug)
    if body.part_set and body.part_set not in study.model.sets:
        raise EditError(f"There is no part set “{body.part_set}” any more; choose another.")
    arguments = {**body.model_dump(), "version": study.model_version}
    document = study.head.text if body.figures and study.head else ""
    return job_out(enqueue("write_model", f"write {uuid.uuid4().hex}", arguments, study, document))


@router.get("/studies/{slug}/files", response=list[FileOut])
def list_files(request: HttpRequest, slug: str, revision: int = 0) -> list[FileOut]:
    """The versions of the model as they were received, newest first, each with what it changed."""
    study = study_of(slug)
    assert study.head is not None
    files = list(study.files.order_by("-number"))
    there = {"", *(j.id for j in study.model.joined)}
    head = next((f for f in files if f.pk == study.head.file_id), files[0])
    # Of each file that lies there it is the version that came last, up to the one that the model was laid down with.
    lying: dict[str, int] = {}
    for file in files:
        if file.number <= head.number and file.source in there:
            lying.setdefault(file.source, file.number)
    return [
        FileOut(
            number=f.number, name=f.name or "the model", format=f.format, received=f.received.isoformat(),
            current=lying.get(f.source) == f.number,
            source=f.source, notes=f.notes, report=f.report,
        )
        for f in files
    ]  # fmt: skip


class BringBackIn(Schema):
    base: int


@router.post("/studies/{slug}/files/{number}/back", response=ChangedOut)
def bring_back(request: HttpRequest, slug: str, number: int, body: BringBackIn) -> ChangedOut:
    """Lay an older version of the model down again, as the study had made of it. Views, pens and collage stay."""
    study = study_of(slug)
    file = get_object_or_404(study.files, number=number)
    assert study.head is not None
    if file.pk == study.head.file_id:
        raise EditError("This version of the model lies on the desk already.")
    current, model = study.model, model_store().load(file.last_version)
    head, before = study.head, study.head.file

    def laid() -> ModelFile:
        if before is not None:
            ModelFile.objects.filter(pk=before.pk).update(last_version=head.model_version)
        return file

    def back() -> Study:
        label = f"Back to {file.name}"[:120]
        return Study.commit(slug, body.base, label, lambda d: follow_names(d, current, model), model, file=laid)

    return told(slug, body.base, back)


@router.post("/uploads", response=JobOut)
def upload(request: HttpRequest, files: list[UploadedFile] = File(...)) -> JobOut:  # type: ignore[type-arg] # noqa: B008
    """Receive a model and what belongs beside it (MTL, pictures, or all in one archive); a job reads it."""
    kept = [received_name(f.name or "model") for f in files]
    names = [name for name, _ in kept]
    models = [n for n in names if Path(n).suffix.lower() not in _COMPANIONS]
    if len(models) != 1:
        known = ", ".join(name for key, name in FORMATS.items() if key != "zip")
        raise ModelFileError(
            f"Bring one model at a time ({known}, or a zip archive), with its materials and pictures beside it."
        )
    if len(set(names)) < len(names):
        raise ModelFileError("Two of these files have the same name; rename one of them, or bring all in one archive.")
    if sum(f.size or 0 for f in files) > settings.UPLOAD_LIMIT:
        raise ModelFileError(
            f"{models[0]} is larger than {settings.UPLOAD_LIMIT // 1_000_000} MB; leave out what the drawing does not "
            f"need."
        )
    renamed = f"“{models[0]}” is its name here: the one that it came with cannot be kept as it is."
    notes = [renamed] if dict(kept)[models[0]] else []
    return job_out(enqueue_received("read", dict(zip(names, files, strict=True)), models[0], notes=notes))


@router.post("/uploads/{job_id}/accept", response=JobOut)
def accept_upload(request: HttpRequest, job_id: int, body: AcceptIn) -> JobOut:
    """Make a study of a model that was read, or its next version, in the units and with the up-axis given: a job."""
    job = get_object_or_404(Job, pk=job_id, kind="read", state=Job.State.DONE)
    study = study_of(body.study) if body.study else None
    if study is None and not body.name.strip():
        raise EditError("The study needs a name.")
    if not (received_in(job) / AS_READ).exists():
        raise ModelFileError("This model was taken or put away already; bring the file again.")
    arguments = {
        **job.wanted,
        **body.model_dump(),
        "format": job.result.get("format", ""),
        "notes": job.result.get("notes", []),
    }
    # One upload is taken once, however often the button is pressed.
    return job_out(enqueue("take", f"take {job.wanted['folder']}", arguments, study))


@router.post("/uploads/{job_id}/discard", response={204: None})
def discard_upload(request: HttpRequest, job_id: int) -> tuple[int, None]:
    """Put a model that was read away again."""
    job = get_object_or_404(Job, pk=job_id, kind="read")
    put_away(job)
    return 204, None
