"""The queue between the web server and the worker: SQLite beside the database, or Redis when it is set."""

from __future__ import annotations

import logging
import sqlite3
import threading
import time
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import DatabaseError, close_old_connections, transaction
from django.db.models import F
from django.utils import timezone
from huey import RedisHuey, SqliteHuey

from studio.jobs.lanes import FIRST, lane_of
from studio.jobs.leases import lease
from studio.jobs.models import ARGUMENTS, AskedDocument, Job, Watch
from studio.sentences import no_room
from warmgraphite.errors import Cancelled, EditError, GraphiteError

__all__ = [
    "cancel",
    "cancel_others",
    "ending",
    "enqueue",
    "huey",
    "is_working",
    "look_after",
    "recover_lost",
    "sweep",
    "work",
]

log = logging.getLogger(__name__)


class _PatientQueue(SqliteHuey):
    """A queue that is looked into hundreds of times a second.
    Where that cannot be, because the disk is full, it says so once a minute and waits.
    """

    _said = -60.0

    def dequeue(self) -> Any:
        try:
            return super().dequeue()
        except sqlite3.Error as error:
            if time.monotonic() - _PatientQueue._said > 60:
                _PatientQueue._said = time.monotonic()
                log.warning("the queue cannot be read: %s", no_room(error) or error)
            time.sleep(1.0)
            return None


_connection: dict[str, str] = settings.QUEUE_CONNECTION
if _connection:
    huey = RedisHuey(settings.HUEY["name"], **_connection)
else:
    settings.DATA.mkdir(parents=True, exist_ok=True)
    huey = _PatientQueue(settings.HUEY["name"], filename=str(settings.DATA / "queue.sqlite3"), fsync=False, timeout=30)

Worker = Callable[[Job, Watch], dict]
WORK: dict[str, Worker] = {}
#: What is done when a job of a kind has ended and that is kept.
AFTER: dict[str, Callable[[Job], None]] = {}

#: Set when this worker has been told to end: what fails from then on fails for that, and is left to the next worker.
ending = threading.Event()

#: A job that lost its worker this often is not tried again: it is likely what kills it.
MOST_ATTEMPTS = 3

#: Jobs of one kind that wait or are worked on for one study: more are asked for by no hand.
MOST_OPEN = 40


def work(kind: str, after: Callable[[Job], None] | None = None) -> Callable[[Worker], Worker]:
    """Decorator: the function that does jobs of this kind.
    It returns the job's result, or raises. ``after`` is called with the job once it is kept how that ended.
    """

    def register(function: Worker) -> Worker:
        assert kind not in WORK, f"two kinds of work are called {kind}"
        WORK[kind] = function
        if after:
            AFTER[kind] = after
        return function

    return register


#: Jobs that are worked on here.
_at_work: set[int] = set()


def is_working() -> bool:
    """Whether this worker is at a job."""
    return bool(_at_work)


@huey.task()
def perform(job_id: int) -> None:
    """Do one job, wherever the worker runs. Only one worker gets it, however often it stands in the queue."""
    close_old_connections()
    kind = Job.objects.filter(pk=job_id).values_list("kind", flat=True).first()
    if kind is None:
        return  # its study is gone
    lane = lane_of(kind)
    if not lane.room.acquire(blocking=False):
        return  # whoever is first to be done in this lane goes on with it
    _at_work.add(job_id)
    try:
        _perform(job_id)
    finally:
        _at_work.discard(job_id)
        lane.room.release()
        waiting = Job.objects.filter(lane.jobs, state=Job.State.WAITING).values_list("pk", "kind")
        for following in sorted(waiting, key=lambda one: (-FIRST.get(one[1], 0), one[0]))[:1]:
            _queue(*following)
        close_old_connections()


def _perform(job_id: int) -> None:
    now = timezone.now()
    begun = Job.objects.filter(pk=job_id, state=Job.State.WAITING).update(
        state=Job.State.WORKING,
        lease=(held := lease()),
        started=now,
        sign_of_life=now,
        progress=0.0,
        stage="",
        attempts=F("attempts") + 1,
    )
    if not begun:
        return
    job = Job.objects.get(pk=job_id)
    watch, done = Watch(job), threading.Event()
    beat = threading.Thread(target=_beat, args=(watch, done), daemon=True)
    beat.start()
    state, message, result = Job.State.DONE, "", {}
    try:
        watch("", 0.0)
        result = WORK[job.kind](job, watch)
    except Cancelled as error:
        state, message = Job.State.CANCELLED, str(error)
    except GraphiteError as error:
        state, message = Job.State.FAILED, str(error)
    except MemoryError:
        state, message = (
            Job.State.FAILED,
            "There was not enough memory for this; choose a lower resolution or hide parts.",
        )
    except Exception as error:
        state, message = Job.State.FAILED, no_room(error)
        if ending.is_set():
            return
        if not message:
            log.exception("job %s (%s) failed", job_id, job.kind)
            message = f"The {job.kind} job could not be finished because of a fault of ours; "
            message += "the server's log says more. Nothing was changed."
    finally:
        done.set()
        beat.join()
    # Who lost the lease has lost the say: another worker is at it, or has done it.
    done_with = {"progress": 1.0} if state == Job.State.DONE else {}
    mine = Job.objects.filter(pk=job_id, lease=held, state=Job.State.WORKING)
    kept = Job.end(mine, state, message, result=result, **done_with)
    if kept:
        job.state = state
        _put_away(job)
    close_old_connections()


def _put_away(job: Job) -> None:
    """Do what is done after a job of its kind; it is kept that it ended."""
    if job.kind in AFTER:
        AFTER[job.kind](job)


def _beat(watch: Watch, done: threading.Event) -> None:
    """Signs of life, also while a stage has nothing to tell."""
    while not done.wait(3.0):
        try:
            renewed = Job.objects.filter(pk=watch.job.pk, lease=watch.job.lease).update(sign_of_life=timezone.now())
        except DatabaseError as error:
            log.warning("no sign of life of job %s could be given: %s", watch.job.pk, error)
            continue
        watch.taken = watch.taken or not renewed
    close_old_connections()


def enqueue(kind: str, key: str, arguments: dict, study: Any = None, document: str = "") -> Job:
    """The open job that makes ``key`` for a study, or a new one; ``document`` is the text of the one that it is about.
    A job goes with its study: another study that wants the same has a job of its own, which finds made what was.
    """
    with transaction.atomic():
        open_job = Job.objects.filter(study=study, key=key, state__in=Job.OPEN, cancel_asked=False).first()
        if open_job:
            return open_job
        if Job.objects.filter(study=study, kind=kind, state__in=Job.OPEN).count() >= MOST_OPEN:
            raise EditError(
                f"{MOST_OPEN} of these are under way or wait already; let some of them be done first, or stop them."
            )
        job = Job.objects.create(
            kind=kind, key=key, arguments=arguments, format=ARGUMENTS.number, study=study,
            document=AskedDocument.of(document) if document else None,
        )  # fmt: skip
        transaction.on_commit(lambda: _queue(job.pk, kind))
    return job


def _queue(job_id: int, kind: str = "") -> None:
    """Put a job into the queue. Its row is stored already: what does not get in is found by :func:`sweep`."""
    words = {"priority": FIRST.get(kind, 0)} if isinstance(huey, SqliteHuey) else {}  # the other queue knows no order
    try:
        perform(job_id, **words)
    except Exception as error:  # the queue is another file, with whatever is wrong with its disk
        log.warning("job %s is not in the queue yet: %s", job_id, error)


def cancel(job: Job) -> None:
    """Ask a job to stop; one that has not begun ends at once."""
    Job.objects.filter(pk=job.pk).update(cancel_asked=True)
    waiting = Job.objects.filter(pk=job.pk, state=Job.State.WAITING)
    if Job.end(waiting, Job.State.CANCELLED, str(Cancelled())):
        job.state = Job.State.CANCELLED
        _put_away(job)


def cancel_others(study: Any, kinds: tuple[str, ...], key: str) -> None:
    """Ask what is under way of these kinds for a study to stop, except what makes ``key``.
    Nobody looks at it any more.
    """
    for old in Job.objects.filter(study=study, kind__in=kinds, state__in=Job.OPEN).exclude(key=key):
        cancel(old)


def recover_lost() -> int:
    """Put jobs whose worker died back into the queue; returns how many there were."""
    found = Job.lost()
    for job in found:
        held = Job.objects.filter(pk=job.pk, state=Job.State.WORKING, lease=job.lease)
        if job.cancel_asked:
            Job.end(held, Job.State.CANCELLED, str(Cancelled(job.stage or "The work")), lease="")
        elif job.attempts >= MOST_ATTEMPTS:
            message = f"This was begun {job.attempts} times and never came to an end; try less of it."
            Job.end(held, Job.State.FAILED, message, lease="")
        elif held.update(state=Job.State.WAITING, progress=0.0, lease=""):
            _queue(job.pk, job.kind)
    return len(found)


def sweep() -> int:
    """Queue the jobs that wait without an entry in the queue; returns how many did.

    A worker may have died between taking an entry and saying so, and a full disk may have kept an entry out.
    """
    queued = {task.args[0] for task in huey.pending() if task.args}
    waiting = Job.objects.filter(state=Job.State.WAITING).exclude(pk__in=queued).values_list("pk", flat=True)
    for job_id in (missing := list(waiting)):
        _queue(job_id)
    return len(missing)


def look_after(end: threading.Event, seconds: float = 5.0) -> None:
    """Until the end, take back what dead workers had and queue what waits without an entry."""
    while not end.wait(seconds):
        try:
            recover_lost()
            sweep()
        except Exception as error:  # a full or a busy disk: looked at again
            log.warning("the jobs could not be looked after: %s", error)
        finally:
            close_old_connections()
