"""Studies by name for the command line, which knows nothing of the database."""

from __future__ import annotations

import os

import django

from warmgraphite.errors import StudyNotFoundError
from warmgraphite.model.model import Model
from warmgraphite.study import StudyDocument

__all__ = ["find"]


def find(name: str) -> tuple[Model, StudyDocument]:
    """Model and document of the study with this slug or name."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    django.setup()
    from django.db import DatabaseError

    from studio.studies.models import Study

    try:
        rows = list(Study.objects.select_related("head"))
    except DatabaseError:
        rows = []
    for study in rows:
        if name in (study.slug, study.document.name):
            return study.model, study.document
    known = ", ".join(s.slug for s in rows) or "none yet; ./run demo makes the sample"
    raise StudyNotFoundError(f"There is no model file and no study “{name}”; the studies are: {known}.")
