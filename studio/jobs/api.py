"""Jobs over HTTP: look, cancel, take the file."""

from __future__ import annotations

import datetime

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from studio.jobs.models import Job
from studio.jobs.queue import cancel

router = Router()

#: The kinds of work that write a file to be taken.
WRITES = ("export", "board_export", "bundle", "set_pack", "write_model", "pack", "pack_finish")


class JobOut(Schema):
    id: int
    kind: str
    state: str
    stage: str
    progress: float
    seconds_left: float | None
    attempts: int
    message: str
    result: dict
    ended: datetime.datetime | None


def job_out(job: Job) -> JobOut:
    return JobOut(
        id=job.pk, kind=job.kind, state=job.state, stage=job.stage, progress=job.progress,
        seconds_left=job.seconds_left, attempts=job.attempts,
        message=job.message, result=job.result, ended=job.ended,
    )  # fmt: skip


@router.get("/jobs/{job_id}", response=JobOut)
def read_job(request: HttpRequest, job_id: int) -> JobOut:
    return job_out(get_object_or_404(Job, pk=job_id))


@router.post("/jobs/{job_id}/cancel", response=JobOut)
def cancel_job(request: HttpRequest, job_id: int) -> JobOut:
    """Ask a job to stop. It ends at the next step of its work and leaves nothing half-made."""
    job = get_object_or_404(Job, pk=job_id)
    cancel(job)
    job.refresh_from_db()
    return job_out(job)


@router.get("/jobs/{job_id}/file")
def read_file(request: HttpRequest, job_id: int) -> HttpResponse | FileResponse:
    """The file that an export made."""
    job = get_object_or_404(Job, pk=job_id, kind__in=WRITES, state=Job.State.DONE)
    path = settings.DATA / "exports" / str(job.pk) / job.result["file"]
    if not path.exists() or path.stat().st_size != job.result.get("bytes", path.stat().st_size):
        return JsonResponse({"message": "This file was cleared away, or is damaged; export it again."}, status=410)
    return FileResponse(path.open("rb"), as_attachment=True, filename=path.name)
