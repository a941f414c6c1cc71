"""Studies are made and removed."""

from __future__ import annotations

import shutil
from collections.abc import Mapping, Sequence
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils.text import slugify

from studio.studies.models import ModelFile, Revision, Study, facts_of, model_store, named_in, text_of
from warmgraphite.board.specification import Board
from warmgraphite.figures.figure import Figure
from warmgraphite.model.model import Model
from warmgraphite.notes.note import Note
from warmgraphite.study import Look, StudyDocument, fresh_document
from warmgraphite.view.kinds import usual_views
from warmgraphite.view.specification import ViewSpecification

__all__ = ["create_study", "remove_study"]


def remove_study(study: Study) -> None:
    """Take a study away with its history, its jobs and what was written for it.
    In the list it is there whole or not at all.
    """
    written = [settings.DATA / "exports" / str(pk) for pk in study.jobs.values_list("pk", flat=True)]  # type: ignore[attr-defined]
    received = [
        settings.DATA / "received" / folder for folder in study.files.values_list("folder", flat=True) if folder
    ]  # type: ignore[attr-defined]
    pictures = settings.DATA / "pictures" / str(study.pk)
    with transaction.atomic():
        Study.objects.filter(pk=study.pk).update(head=None)
        study.delete()
    # Files go after the rows: what a kill leaves of them is cleared away at the next start.
    for folder in (*written, *received, pictures):
        shutil.rmtree(folder, ignore_errors=True)


# Many arguments: all that a study begins with, each with what is usual.
def create_study(
    name: str,
    model: Model,
    views: list[ViewSpecification] | None = None,
    file: dict[str, Any] | None = None,
    is_sample: bool = False,
    finishes: Mapping[str, Look] | None = None,
    wears: Mapping[str, str] | None = None,
    figures: Sequence[Figure] = (),
    notes: Mapping[str, Sequence[Note]] | None = None,
    boards: Sequence[Board] = (),
    document: StudyDocument | None = None,
    label: str = "New study",
) -> Study:
    """A new study of a model, with its model kept in the data folder; ``file`` are fields of its :class:`ModelFile`.
    It has ``finishes`` beside the usual one, by name, and ``wears`` says which views wear them; ``figures`` stand in
    it, ``notes`` are those of views by their names, ``boards`` show them. A whole ``document`` may take the place of
    all that.
    """
    version, about = model_store().save(model), facts_of(model)
    document = document or fresh_document(
        name, views or usual_views(model.bounds), finishes, wears, figures, notes, boards
    )
    text = text_of(document)
    base = slugify(name)[:60] or "study"
    with transaction.atomic():
        slug, n = base, 1
        while Study.objects.filter(slug=slug).exists():
            n += 1
            slug = f"{base}-{n}"
        study = Study.objects.create(slug=slug, is_sample=is_sample, counter=1)
        brought = ModelFile.objects.create(
            study=study, number=1, base_version=version, last_version=version, **{"name": "", **(file or {})}
        )
        study.head = Revision.objects.create(
            study=study, number=1, text=text, label=label, model_version=version, about_model=about, file=brought,
            named=named_in(text),
        )  # fmt: skip
        study.save(update_fields=["head"])
    return study
