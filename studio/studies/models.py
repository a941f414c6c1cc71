"""Studies and their history. A study's document is JSON that the core validates; every edit is a row of its own."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from functools import lru_cache
from typing import Any

from django.conf import settings
from django.db import models, transaction
from django.utils import timezone
from django.utils.text import slugify

from warmgraphite.errors import GraphiteError
from warmgraphite.model.model import Model
from warmgraphite.model.store import load_model, save_model
from warmgraphite.study import StudyDocument, fresh_document
from warmgraphite.view.specification import ViewSpecification

__all__ = ["ChangedElsewhere", "Revision", "Study", "create_study", "model_of_version"]

#: Steps of undo that are kept.
HISTORY = 400
#: Edits of one thing, such as the drag of a slider, are one step while they follow each other within this time.
ONE_GESTURE = timedelta(seconds=4)


class ChangedElsewhere(GraphiteError):
    """The study moved on since the window that wants to change it last looked."""

    def __init__(self) -> None:
        super().__init__(
            "This study was changed in another window meanwhile; it is shown as it is now, and your last change was not made."
        )


@lru_cache(maxsize=4)
def model_of_version(version: str) -> Model:
    """The model with this version, from the data folder."""
    return load_model(settings.DATA / "models" / f"{version}.npz")


class Study(models.Model):
    """One project: a model, its views and its sheets."""

    slug = models.SlugField(unique=True, max_length=80)
    model_version = models.CharField(max_length=40)
    about_model = models.JSONField(default=dict)
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    counter = models.PositiveIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    is_sample = models.BooleanField(default=False)

    class Meta:
        verbose_name_plural = "studies"
        ordering = ["-is_sample", "-created"]

    def __str__(self) -> str:
        return self.slug

    @property
    def model(self) -> Model:
        return model_of_version(self.model_version)

    @property
    def document(self) -> StudyDocument:
        assert self.head is not None
        return StudyDocument.model_validate(self.head.document)

    def undo_label(self) -> str:
        """What undo would take back, empty at the beginning."""
        assert self.head is not None
        return self.head.label if self.revisions.filter(number__lt=self.head.number).exists() else ""

    def redo_label(self) -> str:
        """What redo would bring back, empty at the end."""
        assert self.head is not None
        later = self.revisions.filter(number__gt=self.head.number).order_by("number").first()
        return later.label if later else ""

    @classmethod
    def edit(cls, slug: str, base: int, label: str, change: Callable[[StudyDocument], StudyDocument], gesture: str = "") -> Study:
        """Apply ``change`` and keep the result as a new revision. Raises :class:`ChangedElsewhere` when base is not the head."""
        with transaction.atomic():
            study = cls.objects.select_related("head").get(slug=slug)
            head = study.head
            assert head is not None
            if head.number != base:
                raise ChangedElsewhere
            document = change(study.document).model_dump(mode="json")
            if document == head.document:
                return study
            study.revisions.filter(number__gt=head.number).delete()
            study.counter += 1
            fresh = Revision.objects.create(study=study, number=study.counter, document=document, label=label, gesture=gesture)
            study.head = fresh
            study.save(update_fields=["head", "counter"])
            if gesture and head.gesture == gesture and timezone.now() - head.created < ONE_GESTURE:
                head.delete()  # the gesture goes on: the step before it stays what undo goes back to
            old = study.revisions.order_by("-number").values_list("number", flat=True)[HISTORY : HISTORY + 1]
            if old:
                study.revisions.filter(number__lte=old[0]).delete()
            return study

    @classmethod
    def step(cls, slug: str, base: int, back: bool) -> Study:
        """Undo or redo one edit; at either end nothing happens."""
        with transaction.atomic():
            study = cls.objects.select_related("head").get(slug=slug)
            assert study.head is not None
            if study.head.number != base:
                raise ChangedElsewhere
            rows = study.revisions
            number = study.head.number
            target = (
                rows.filter(number__lt=number).order_by("-number").first()
                if back
                else rows.filter(number__gt=number).order_by("number").first()
            )
            if target:
                study.head = target
                study.save(update_fields=["head"])
            return study


class Revision(models.Model):
    """The document after one edit. ``number`` grows and is never used twice in a study."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    label = models.CharField(max_length=120)
    gesture = models.CharField(max_length=120, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["study", "number"], name="one_revision_per_number")]


def create_study(
    name: str,
    model: Model,
    views: list[ViewSpecification] | None = None,
    about: dict[str, Any] | None = None,
    is_sample: bool = False,
) -> Study:
    """A new study of a model, with its model kept in the data folder."""
    path = settings.DATA / "models" / f"{model.version}.npz"
    if not path.exists():
        save_model(model, path)
    base = slugify(name)[:60] or "study"
    with transaction.atomic():
        slug, n = base, 1
        while Study.objects.filter(slug=slug).exists():
            n += 1
            slug = f"{base}-{n}"
        low, high = model.bounds
        focus = model.focus
        facts = {
            "parts": len(model.parts),
            "triangles": len(model.triangles),
            "low": low.tolist(),
            "high": high.tolist(),
            "focus_low": focus[0].tolist(),
            "focus_high": focus[1].tolist(),
            **(about or {}),
        }
        study = Study.objects.create(slug=slug, model_version=model.version, about_model=facts, is_sample=is_sample, counter=1)
        document = fresh_document(name, model, views)
        study.head = Revision.objects.create(study=study, number=1, document=document.model_dump(mode="json"), label="New study")
        study.save(update_fields=["head"])
    return study
