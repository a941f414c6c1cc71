"""Files that were received for a job: they lie in a folder of their own until it has done with them."""

from __future__ import annotations

import shutil
import uuid
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.conf import settings
from ninja.files import UploadedFile

from studio.jobs.models import Job
from studio.jobs.queue import ending, enqueue

__all__ = ["enqueue_received", "received"]


def enqueue_received(kind: str, files: Mapping[str, UploadedFile], file: str, **arguments: Any) -> Job:
    """Keep files under their names, and begin the job that works on them; it is told the ``folder``, and which ``file`` it is about."""
    folder = uuid.uuid4().hex
    place = settings.DATA / "incoming" / folder
    try:
        place.mkdir(parents=True)
        for name, received in files.items():
            with (place / name).open("wb") as out:
                for chunk in received.chunks():
                    out.write(chunk)
        return enqueue(kind, f"{kind} {folder}", {"folder": folder, "file": file, **arguments})
    except BaseException:
        shutil.rmtree(place, ignore_errors=True)
        raise


@contextmanager
def received(job: Job) -> Iterator[Path]:
    """The file that a job is about. Its folder goes with the end of the work, but not where the worker ends: the next one needs it."""
    folder = settings.DATA / "incoming" / job.wanted["folder"]
    try:
        yield folder / job.wanted["file"]
    finally:
        if not ending.is_set():
            shutil.rmtree(folder, ignore_errors=True)
