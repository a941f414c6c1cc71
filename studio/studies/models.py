"""Studies and their history. A study's document is JSON that the core validates; every edit is a row of its own.

The model is part of that history: a row names the state of the model that it stands on, so that undo takes back a mend
or a role just as it takes back a pen.
"""

# Long: a study and what it holds, which change together.
from __future__ import annotations

import json
import logging
import re
from collections.abc import Callable, Sequence
from datetime import timedelta
from functools import cache
from typing import Any

import numpy as np
from django.conf import settings
from django.db import models, transaction
from django.utils import timezone
from numpy.typing import NDArray

from studio.studies.mesh import mesh_name
from warmgraphite.errors import EditError, GraphiteError
from warmgraphite.formats import Format, as_it_was
from warmgraphite.memory import remembered
from warmgraphite.model.edits import label_of
from warmgraphite.model.edits.parts import Restore
from warmgraphite.model.model import Model
from warmgraphite.model.store import ModelLost, ModelStore
from warmgraphite.study import StudyDocument, follow_edit, read_document
from warmgraphite.view.kinds import ViewKind, kind_of

__all__ = [
    "RULES",
    "ChangedElsewhere",
    "ModelFile",
    "Revision",
    "RuleBook",
    "Study",
    "StudyUnreadable",
    "model_of_version",
    "model_store",
]

log = logging.getLogger(__name__)

#: Bytes of a document as JSON: a study of a thousand views with forty traces each has less.
MOST_BYTES = 8_000_000
#: Steps of undo that are kept.
HISTORY = 400
#: Edits of one thing, such as the drag of a slider, are one step while they follow each other within this time.
ONE_GESTURE = timedelta(seconds=4)
#: How the rules of a rule book are written.
RULES = Format("rule book", (as_it_was,))


class ChangedElsewhere(GraphiteError):
    """The study moved on since the window that wants to change it last looked."""

    def __init__(self) -> None:
        super().__init__(
            "This study was changed in another window meanwhile; it is shown as it is now, and your last change was "
            "not made."
        )


class StudyUnreadable(GraphiteError):
    """A study cannot be shown as it is. It still opens: with this sentence, and with undo."""

    def __init__(self, study: Study, why: BaseException | None = None, mending: str = "") -> None:
        """``mending`` names what the study is being put right from, so that it opens by itself when that is done."""
        self.study, self.mending, self.lost = study, mending, isinstance(why, ModelLost)
        back = study.undo_label()
        said = str(why) if isinstance(why, GraphiteError) else "This study cannot be shown as it is now"
        then = (
            f"undo the last change ({back})." if back else "nothing else of it is lost, and the server's log says more."
        )
        if mending:
            then = f"it is being read again from {mending}, the file that it came from: wait a moment."
        elif isinstance(why, ModelLost) and not back:
            then = "bring the file again as the next version of this study; its views, looks and pages are there."
        super().__init__(f"{said.rstrip('.')}; {then}")


#: How many times its text a document takes in memory.
DOCUMENT = 8


@cache
def model_store() -> ModelStore:
    """Where the states of models are kept."""
    return ModelStore(settings.DATA / "models")


@remembered("models", most=4)
def model_of_version(version: str) -> Model:
    """The model with this version, from the data folder."""
    return model_store().load(version)


@remembered("documents", most=8, weigh=lambda key, _: DOCUMENT * len(key[0]))
def _read(text: str) -> StudyDocument:
    """The document in a text.
    Windows ask for the same one again and again; reading it takes eight times as long as the text.
    """
    return read_document(json.loads(text))


def text_of(document: StudyDocument) -> str:
    """A document as it is kept."""
    return json.dumps(document.model_dump(mode="json"))


def named_in(text: str) -> str:
    """What of the data folder a text of JSON may name, with spaces between: whatever looks like a name by content.
    It is kept with the text, so that what may be cleared away is found without reading that.
    """
    return " ".join(sorted(set(re.findall(r"[0-9a-f]{32,64}", text))))


def _box(about: dict[str, Any]) -> NDArray[np.float64]:
    return np.array([about["focus_low"], about["focus_high"]], float)


def facts_of(model: Model) -> dict[str, Any]:
    """What is told of a model wherever its study is named. Lengths in metres."""
    low, high = model.bounds.tolist()
    focus_low, focus_high = model.focus.tolist()
    return {
        "geometry": mesh_name(model),
        "parts": int(model.parts.present.sum()),
        "triangles": len(model.triangles),
        "low": low,
        "high": high,
        "focus_low": focus_low,
        "focus_high": focus_high,
        "origin": list(model.origin),
        "units": model.units,
        "up": model.up,
    }


class Study(models.Model):
    """One project: a model, its views and its sheets."""

    slug = models.SlugField(unique=True, max_length=80)
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
    def model_version(self) -> str:
        assert self.head is not None
        return self.head.model_version

    @property
    def model(self) -> Model:
        return model_of_version(self.model_version)

    @property
    def base(self) -> Model | None:
        """The model as the file on the desk was read."""
        assert self.head is not None
        return model_store().load(self.head.file.base_version) if self.head.file else None

    @property
    def document(self) -> StudyDocument:
        assert self.head is not None
        return self.head.read()

    @property
    def box(self) -> NDArray[np.float64]:
        """(2, 3) bounds of the building in metres, which kinds of view are set up by."""
        assert self.head is not None
        return _box(self.head.about_model)

    @property
    def kind(self) -> ViewKind:
        """What kind of view lies on the desk."""
        return kind_of(self.document.desk.view, self.box)

    def undo_label(self) -> str:
        """What undo would take back, empty at the beginning."""
        assert self.head is not None
        return self.head.label if self.revisions.filter(number__lt=self.head.number).exists() else ""

    def redo_label(self) -> str:
        """What redo would bring back, empty at the end."""
        assert self.head is not None
        later = self.revisions.filter(number__gt=self.head.number).order_by("number")
        return later.values_list("label", flat=True).first() or ""

    @classmethod
    def edit(
        cls,
        slug: str,
        base: int,
        label: str,
        change: Callable[[StudyDocument], StudyDocument],
        gesture: str = "",
        token: str = "",
    ) -> Study:
        """Apply ``change`` and keep the result as a new revision.
        Raises :class:`ChangedElsewhere` when base is not the head.

        ``token`` names this one edit: sent again, because the answer was lost on its way, it is made once all the same.
        """
        study = cls._study(slug)
        if study._was_made(token):
            return study
        study._refuse_other(base)
        return study._keep(label, change(study.document), gesture=gesture, token=token)

    @classmethod
    def edit_model(
        cls,
        slug: str,
        base: int,
        edits: Sequence[Any],
        gesture: str = "",
        ready: Callable[[Model], Any] | None = None,
        job: int | None = None,
    ) -> Study:
        """Apply edits of the model, one step of undo together; the document follows them.
        ``ready`` is called with the changed model before it is kept.
        """
        study = cls._study(slug)
        study._refuse_other(base)
        model, document = study.model, study.document
        for edit in edits:
            changed = edit.apply(model, study.base) if isinstance(edit, Restore) else edit.apply(model)
            document = follow_edit(document, edit, model, changed)
            model, before = changed, model
        label = label_of(edits[-1], before)[:120]
        if ready:
            ready(model)
        return cls.commit(slug, base, label, lambda _: document, model, gesture=gesture, job=job)

    @classmethod
    def commit(
        cls,
        slug: str,
        base: int,
        label: str,
        change: Callable[[StudyDocument], StudyDocument],
        model: Model,
        **more: Any,
    ) -> Study:
        """Keep a changed document on a changed model.

        ``job`` is the number of the job that does it, ``file`` gives the version of the model that it brings: it is
        called when that is sure to be kept.
        """
        study = cls._study(slug)
        study._refuse_other(base)
        version = model_store().save(model)
        return study._keep(label, change(study.document), version=version, about=facts_of(model), **more)

    @classmethod
    def _study(cls, slug: str) -> Study:
        return cls.objects.select_related("head", "head__file").get(slug=slug)

    def _was_made(self, token: str) -> bool:
        """Whether an edit was made already, by whatever others came after it."""
        return bool(token) and self.revisions.filter(token=token).exists()

    def _refuse_other(self, base: int) -> None:
        assert self.head is not None
        if self.head.number != base:
            raise ChangedElsewhere

    def _keep(
        self, label: str, document: StudyDocument, *, version: str | None = None, about: dict[str, Any] | None = None,
        file: Callable[[], ModelFile] | None = None, gesture: str = "", job: int | None = None, token: str = "",
    ) -> Study:  # fmt: skip
        """Keep what becomes of the study as it was read.
        All that takes time is done before the database is held, which then only looks whether somebody else was
        quicker.
        """
        head = self.head
        assert head is not None
        text = text_of(document)
        size = len(text)
        if size > MOST_BYTES:
            raise EditError(
                f"This change would make the study {size / 1e6:.1f} MB of text, and {MOST_BYTES / 1e6:.0f} MB is the "
                f"most; "
                "name fewer parts one by one, by a part set or a pattern."
            )
        version, about = version or head.model_version, about if about is not None else head.about_model
        if text == head.text and version == head.model_version:
            return self
        self._refuse_unshown(document, about)
        named = named_in(text)
        with transaction.atomic():
            now = Study.objects.select_for_update().filter(pk=self.pk).values("head_id", "counter").first()
            if now is None or now["head_id"] != head.pk:
                if now is not None and self._was_made(token):
                    return self._study(self.slug)
                raise ChangedElsewhere
            self.revisions.filter(number__gt=head.number).delete()
            self.counter = now["counter"] + 1
            self.head = Revision.objects.create(
                study=self, number=self.counter, text=text, label=label, gesture=gesture, model_version=version,
                about_model=about,
                file=file() if file else head.file, job=job, token=token, named=named,
            )  # fmt: skip
            self.save(update_fields=["head", "counter"])
            if gesture and head.gesture == gesture and timezone.now() - head.created < ONE_GESTURE:
                head.delete()  # the gesture goes on: the step before it stays what undo goes back to
            old = self.revisions.order_by("-number").values_list("number", flat=True)[HISTORY : HISTORY + 1]
            if old:
                self.revisions.filter(number__lte=old[0]).delete()
        return self

    def _refuse_unshown(self, document: StudyDocument, about: dict[str, Any]) -> None:
        """Raises :class:`EditError` where the study as it would be cannot be shown: then it is not kept."""
        try:
            kind_of(document.desk.view, _box(about))
        except GraphiteError:
            raise
        except Exception as error:
            log.exception("a state of study %s cannot be shown", self.slug)
            raise EditError("This change would give a view that cannot be shown, so it was not made.") from error

    @classmethod
    def step(cls, slug: str, base: int, back: bool) -> Study:
        """Undo or redo one edit; at either end nothing happens."""
        with transaction.atomic():
            study = cls._study(slug)
            study._refuse_other(base)
            assert study.head is not None
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


class ModelFile(models.Model):
    """One version of a study's model as it was received.

    ``base_version`` is the file as it was read, in metres, with the study's part numbers; ``last_version`` the state
    that the study had made of it when the next version came. The file itself stays in the data folder under ``folder``.
    """

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="files")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=255)
    folder = models.CharField(max_length=40, blank=True)
    format = models.CharField(max_length=60, blank=True)
    base_version = models.CharField(max_length=40)
    last_version = models.CharField(max_length=40)
    report = models.JSONField(default=dict)
    notes = models.JSONField(default=list)
    received = models.DateTimeField(auto_now_add=True)
    #: The joined file that it is a version of; empty for the model's own.
    source = models.CharField(max_length=40, blank=True)
    #: The job that brought it, so that a job done twice brings it once.
    job = models.PositiveBigIntegerField(null=True, unique=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["study", "number"], name="one_file_per_number")]


class Revision(models.Model):
    """The document after one edit. ``number`` grows and is never used twice in a study."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    #: The document as JSON. It is read where it was not yet: most requests ask for one that was.
    text = models.TextField()
    model_version = models.CharField(max_length=40)
    about_model = models.JSONField(default=dict)
    file = models.ForeignKey(ModelFile, null=True, on_delete=models.CASCADE, related_name="+")
    #: What of the data folder it may name (:func:`named_in`).
    named = models.TextField(default="")
    label = models.CharField(max_length=120)
    gesture = models.CharField(max_length=120, blank=True)
    #: Names the edit that made it, for whoever sent it and had no answer.
    token = models.CharField(max_length=40, blank=True)
    #: The job that made it, so that a job begun again by another worker knows that it is done.
    job = models.PositiveBigIntegerField(null=True, db_index=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["study", "number"], name="one_revision_per_number")]

    def read(self) -> StudyDocument:
        """The document."""
        return _read(self.text)

    @property
    def name(self) -> str:
        """What the study is called in it, also where the rest cannot be read; else nothing."""
        try:
            found = json.loads(self.text).get("name", "")
        except (ValueError, AttributeError):
            return ""
        return str(found)


class RuleBook(models.Model):
    """Role rules kept under a name, for the next model."""

    name = models.CharField(max_length=120, unique=True)
    rules = models.JSONField(default=list)
    format = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["name"]

    @property
    def current(self) -> list[dict[str, Any]]:
        """The rules, in whatever format they were written."""
        found: list[dict[str, Any]] = RULES.upgraded({"format": self.format, "rules": self.rules})["rules"]
        return found
