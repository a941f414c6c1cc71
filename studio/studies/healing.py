"""A model whose file on the disk is gone or damaged is made again.
It is read from the file that it came from, which lies beside it.
"""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings

from studio.jobs.models import Job, Watch
from studio.jobs.queue import enqueue, work
from studio.studies.models import ModelFile, Study, model_store
from warmgraphite.errors import ModelFileError
from warmgraphite.model.model import Model, far_origin
from warmgraphite.model.sandboxed import read_fresh
from warmgraphite.model.store import ModelLost

__all__ = ["mended_from"]


def _received(file: ModelFile) -> Path | None:
    """Where a file lies as it was received."""
    folder = Path(settings.DATA) / "received" / file.folder if file.folder else Path(settings.DATA)
    path = folder / file.name
    return path if file.name and path.is_file() else None


def mended_from(study: Study) -> str:
    """What the model of a study is being made again from, begun now where it was not yet; empty where it cannot be."""
    file = study.head.file if study.head else None
    if file is None or _received(file) is None:
        return ""
    key = f"heal {study.model_version}"
    last = Job.last(study, key)
    if last is None or not (last.is_open or last.state == Job.State.FAILED):
        last = enqueue("heal", key, {"version": study.model_version}, study)
    return f"“{file.name}”" if last.is_open else ""


@work("heal")
def heal(job: Job, watch: Watch) -> dict:
    """Read the file that a model came from again, and put back what is the same as what was lost."""
    assert job.study is not None
    study = Study.objects.select_related("head", "head__file").get(pk=job.study.pk)
    version, store = str(job.wanted["version"]), model_store()
    assert study.head is not None
    words = store.words_of(version)
    for file in study.files.order_by("-number"):  # type: ignore[attr-defined]
        path = _received(file)
        if path is None:
            continue
        watch(f"Reading {file.name} again", 0.1)
        model = _as_laid(path, study.head.about_model)
        if words is None and model.version == version:
            store.save(model)
        elif words is not None and model.body == words["body"]:
            store.put_body_back(model)
    try:
        store.load(version)
    except ModelLost:
        raise ModelFileError(
            "The model was changed since its file was read, so reading that again does not bring it back."
        ) from None
    return {}


def _as_laid(path: Path, about: dict[str, Any]) -> Model:
    """The model in a file as it was first laid down, where what is told of it still says how."""
    with tempfile.TemporaryDirectory(prefix="reading-", dir=settings.DATA) as room:
        found = read_fresh(path, Path(room), about["units"], about["up"])
    return far_origin(found, None).said(units=about["units"], up=about["up"])
