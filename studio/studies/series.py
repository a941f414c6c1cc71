"""The set of a study: where its drawings lie, and how far it is."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from studio.jobs.models import Job
from studio.studies.models import Study

__all__ = ["folder_of", "latest_job"]


def folder_of(study: Study) -> Path:
    """Where the drawings of a study's set lie."""
    return Path(settings.DATA) / "sets" / str(study.pk)


def latest_job(study: Study) -> Job | None:
    """The job that draws the set, or drew it last."""
    return Job.objects.filter(study=study, kind="set").order_by("-pk").first()
