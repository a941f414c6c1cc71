"""Jobs: long work done off the request, with progress, time left and cancel, that outlives a killed worker."""

from __future__ import annotations

import hashlib
import json
import threading
import time
from datetime import timedelta
from typing import Any

from django.db import models
from django.utils import timezone

from studio.jobs.lanes import FIRST, lane_of
from studio.jobs.leases import alive, worker_of
from warmgraphite.errors import Cancelled
from warmgraphite.formats import Data, Format, as_it_was
from warmgraphite.study.formats import look_with_hatches

__all__ = ["ARGUMENTS", "AskedDocument", "Job", "Watch"]

#: Seconds without a sign of life after which a job is taken from a worker that still lives: it hangs, or was put to
#: sleep.
LOST = 180.0


def _pictures_name_their_view(data: Data) -> Data:
    """The small picture of a saved view was asked for with the view itself beside the document that has it."""
    if "saved" in data["arguments"]:
        data["arguments"]["view_id"] = data["arguments"].pop("saved")["id"]
    return data


def _passes_have_a_look(data: Data) -> Data:
    """Passes were asked for by name, and without the ink that some of them now have."""
    arguments = data["arguments"]
    if "passes" in arguments:
        arguments["passes"] = [[name, None] for name in arguments["passes"]]
        arguments["look"] = {}
    return data


def _passes_have_hatches(data: Data) -> Data:
    """Looks have hatches; pens say what they go along."""
    if isinstance(data["arguments"].get("look"), dict):
        data["arguments"]["look"] = look_with_hatches(data["arguments"]["look"])
    return data


def _model_files_have_a_document(data: Data) -> Data:
    """The study whose figures a model was written with was called by a name of its own."""
    if "of" in data["arguments"]:
        data["arguments"]["document"] = data["arguments"].pop("of")
    return data


def _files_have_settings(data: Data) -> Data:
    """Of a file its resolution was said, and whether it has the paper, beside its format."""
    arguments = data["arguments"]
    if "format" in arguments and "document" in arguments and "out" not in arguments:
        arguments["out"] = {n: arguments.pop(n) for n in ("resolution", "paper") if n in arguments}
    return data


#: How the arguments of jobs are written.
ARGUMENTS = Format(
    "work",
    (
        _pictures_name_their_view,
        _passes_have_a_look,
        _passes_have_hatches,
        as_it_was,
        _files_have_settings,
        _model_files_have_a_document,
    ),
)


class AskedDocument(models.Model):
    """The document of a study that jobs are about, as JSON.
    Kept once for all of them, and while one of them is open.
    """

    digest = models.CharField(max_length=64, unique=True)
    text = models.TextField()

    @classmethod
    def of(cls, text: str) -> AskedDocument:
        """The row of a text."""
        return cls.objects.get_or_create(digest=hashlib.sha256(text.encode()).hexdigest(), defaults={"text": text})[0]

    @classmethod
    def forget_unasked(cls) -> None:
        """Take away what no job is about any more."""
        cls.objects.filter(jobs__isnull=True).delete()


class Job(models.Model):
    """One piece of work. ``key`` names what it makes, so that the same thing is never under way twice."""

    class State(models.TextChoices):
        WAITING = "waiting"
        WORKING = "working"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    OPEN = (State.WAITING, State.WORKING)

    kind = models.CharField(max_length=20)
    key = models.CharField(max_length=200, db_index=True)
    study = models.ForeignKey("studies.Study", null=True, blank=True, on_delete=models.CASCADE, related_name="jobs")
    arguments = models.JSONField(default=dict)
    document = models.ForeignKey(AskedDocument, null=True, blank=True, on_delete=models.SET_NULL, related_name="jobs")
    format = models.PositiveSmallIntegerField(default=0)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING, db_index=True)
    stage = models.CharField(max_length=80, blank=True)
    progress = models.FloatField(default=0.0)
    cancel_asked = models.BooleanField(default=False)
    message = models.TextField(blank=True)
    result = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    sign_of_life = models.DateTimeField(null=True)
    ended = models.DateTimeField(null=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    #: Who works on it (:mod:`studio.jobs.leases`). Only its holder may say how it went.
    lease = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["-id"]

    @property
    def wanted(self) -> dict[str, Any]:
        """The arguments, in whatever format they were written."""
        found: dict[str, Any] = ARGUMENTS.upgraded({"format": self.format, "arguments": self.arguments})["arguments"]
        return {**found, "document": json.loads(self.document.text)} if self.document else found

    @classmethod
    def last(cls, study: Any, key: str) -> Job | None:
        """The job that made ``key`` last for a study, or makes it."""
        return cls.objects.filter(study=study, key=key).first()

    @classmethod
    def has_failed(cls, study: Any, key: str) -> bool:
        """Whether ``key`` could not be made for a study: then it is not tried again by itself."""
        return cls.objects.filter(study=study, key=key, state=cls.State.FAILED).exists()

    @classmethod
    def end(cls, rows: models.QuerySet[Job], state: str, message: str = "", **more: Any) -> int:
        """Keep of jobs how they ended; how many did. What they were about is kept no longer."""
        ended = rows.update(state=state, message=message, ended=timezone.now(), document=None, **more)
        if ended:
            AskedDocument.forget_unasked()
        return ended

    @property
    def is_open(self) -> bool:
        return self.state in self.OPEN

    @property
    def seconds_left(self) -> float | None:
        """A guess from the progress so far; ``None`` while there is too little to guess from."""
        if self.state != self.State.WORKING or not self.started or self.progress < 0.03:
            return None
        gone = (timezone.now() - self.started).total_seconds()
        return max(0.0, gone / self.progress - gone)

    @classmethod
    def lost(cls) -> list[Job]:
        """Working jobs whose worker is no more, or has fallen silent."""
        silent = timezone.now() - timedelta(seconds=LOST)
        rows = cls.objects.filter(state=cls.State.WORKING)
        return [j for j in rows if not alive(worker_of(j.lease)) or j.sign_of_life is None or j.sign_of_life < silent]


class Watch:
    """What a running job calls to tell its progress; raises :class:`Cancelled` when somebody asked it to stop."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.last = 0.0
        self.way = lane_of(job.kind).way  # seconds for which it still makes way for others
        self.resting = threading.Lock()  # several threads of a job rest as one
        self.taken = False  # set when the job was given to another worker meanwhile

    def __call__(self, stage: str, fraction: float) -> None:
        now = time.monotonic()
        if now - self.last < 0.15 and stage == self.job.stage:
            return
        self.last = now
        self.job.stage, self.job.progress = stage, fraction
        changes: dict[str, Any] = {"stage": stage, "progress": fraction, "sign_of_life": timezone.now()}
        self.taken = self.taken or not Job.objects.filter(pk=self.job.pk, lease=self.job.lease).update(**changes)
        self._stop_where_asked()
        with self.resting:
            while self.way > 0 and Job.objects.filter(kind__in=FIRST, state__in=Job.OPEN).exists():
                time.sleep(0.05)
                self.way -= 0.05
                self._stop_where_asked()

    def _stop_where_asked(self) -> None:
        if self.taken or Job.objects.filter(pk=self.job.pk, cancel_asked=True).exists():
            raise Cancelled(self.job.stage or "The work")
