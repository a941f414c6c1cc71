"""Files that were received for a job: they lie in a folder of their own until it has done with them."""

from __future__ import annotations

import shutil
import uuid
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.conf import settings
from ninja.files import UploadedFile

from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from warmgraphite.atomic import make_folder, settle_all

__all__ = ["AS_READ", "enqueue_received", "put_away", "received", "received_in"]

#: A model as it was read, beside its file. No name of a file that is received begins so.
AS_READ = ".as-read.npz"


def enqueue_received(kind: str, files: Mapping[str, UploadedFile], file: str, **arguments: Any) -> Job:
    """Keep files under their names, and begin the job that works on them.
    It is told the ``folder``, and which ``file`` it is about.
    """
    folder = uuid.uuid4().hex
    place = settings.DATA / "incoming" / folder
    try:
        make_folder(place.parent)
        place.mkdir()
        for name, received in files.items():
            with (place / name).open("wb") as out:
                for chunk in received.chunks():
                    out.write(chunk)
        settle_all(place)
        return enqueue(kind, f"{kind} {folder}", {"folder": folder, "file": file, **arguments})
    except BaseException:
        shutil.rmtree(place, ignore_errors=True)
        raise


def received_in(job: Job) -> Path:
    """The folder with what was received for a job."""
    return Path(settings.DATA) / "incoming" / str(job.wanted["folder"])


def received(job: Job) -> Path:
    """The file that a job is about."""
    return received_in(job) / str(job.wanted["file"])


def put_away(job: Job) -> None:
    """Take away what was received for a job that has done with it, and said so.
    Until then the next worker may need it.
    """
    shutil.rmtree(received_in(job), ignore_errors=True)
