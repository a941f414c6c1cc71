"""The queue between the web server and the worker: SQLite beside the database, or Redis when it is set."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable

from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone
from huey import RedisHuey, SqliteHuey, crontab

from studio.jobs.models import Job, Watch
from warmgraphite.errors import Cancelled, GraphiteError

__all__ = ["cancel", "enqueue", "huey", "recover_lost", "work"]

log = logging.getLogger(__name__)

if settings.HUEY["connection"]:
    huey = RedisHuey(settings.HUEY["name"], **settings.HUEY["connection"])
else:
    settings.DATA.mkdir(parents=True, exist_ok=True)
    huey = SqliteHuey(settings.HUEY["name"], filename=str(settings.DATA / "queue.sqlite3"), fsync=False)

Worker = Callable[[Job, Watch], dict]
WORK: dict[str, Worker] = {}

#: A job that lost its worker this often is not tried again: it is likely what kills it.
MOST_ATTEMPTS = 3


def work(kind: str) -> Callable[[Worker], Worker]:
    """Decorator: the function that does jobs of this kind. It returns the job's result, or raises."""

    def register(function: Worker) -> Worker:
        WORK[kind] = function
        return function

    return register


@huey.task()
def perform(job_id: int) -> None:
    """Do one job, wherever the worker runs."""
    close_old_connections()
    with transaction.atomic():
        job = Job.objects.select_for_update().filter(pk=job_id, state=Job.State.WAITING).first()
        if job is None:
            return
        job.state, job.started, job.sign_of_life = Job.State.WORKING, timezone.now(), timezone.now()
        job.attempts += 1
        job.progress = 0.0
        job.save()
    done = threading.Event()
    beat = threading.Thread(target=_beat, args=(job_id, done), daemon=True)
    beat.start()
    state, message, result = Job.State.DONE, "", {}
    try:
        watch = Watch(job)
        watch("", 0.0)
        result = WORK[job.kind](job, watch)
    except Cancelled as error:
        state, message = Job.State.CANCELLED, str(error)
    except GraphiteError as error:
        state, message = Job.State.FAILED, str(error)
    except MemoryError:
        state, message = Job.State.FAILED, "There was not enough memory for this; choose a lower resolution or hide parts."
    except Exception:
        log.exception("job %s (%s) failed", job_id, job.kind)
        state = Job.State.FAILED
        message = f"The {job.kind} job could not be finished because of a fault of ours; the server's log says more. Nothing was changed."
    finally:
        done.set()
        beat.join()
    Job.objects.filter(pk=job_id).update(
        state=state,
        message=message,
        result=result,
        ended=timezone.now(),
        **({"progress": 1.0} if state == Job.State.DONE else {}),
    )
    close_old_connections()


def _beat(job_id: int, done: threading.Event) -> None:
    """Signs of life, also while a stage has nothing to tell."""
    while not done.wait(3.0):
        Job.objects.filter(pk=job_id).update(sign_of_life=timezone.now())
    close_old_connections()


def enqueue(kind: str, key: str, arguments: dict, study=None) -> Job:  # type: ignore[no-untyped-def]
    """The open job that makes ``key``, or a new one."""
    with transaction.atomic():
        open_job = Job.objects.filter(key=key, state__in=(Job.State.WAITING, Job.State.WORKING), cancel_asked=False).first()
        if open_job:
            return open_job
        job = Job.objects.create(kind=kind, key=key, arguments=arguments, study=study)
        transaction.on_commit(lambda: perform(job.pk))
    return job


def cancel(job: Job) -> None:
    """Ask a job to stop; one that has not begun ends at once."""
    Job.objects.filter(pk=job.pk).update(cancel_asked=True)
    Job.objects.filter(pk=job.pk, state=Job.State.WAITING).update(
        state=Job.State.CANCELLED, message=str(Cancelled()), ended=timezone.now()
    )


def recover_lost(everything: bool = False) -> int:
    """Put jobs whose worker died back into the queue; ``everything`` at start, when no worker can be alive."""
    found = Job.objects.filter(state=Job.State.WORKING) if everything else Job.lost()
    count = 0
    for job in found:
        count += 1
        if job.attempts >= MOST_ATTEMPTS or job.cancel_asked:
            message = "" if job.cancel_asked else f"This was begun {job.attempts} times and never came to an end; try less of it."
            state = Job.State.CANCELLED if job.cancel_asked else Job.State.FAILED
            Job.objects.filter(pk=job.pk, state=Job.State.WORKING).update(state=state, message=message, ended=timezone.now())
        elif Job.objects.filter(pk=job.pk, state=Job.State.WORKING).update(state=Job.State.WAITING, progress=0.0):
            perform(job.pk)
    if everything:
        # A queue entry may have been taken by the worker that died before the job was marked.
        for job in Job.objects.filter(state=Job.State.WAITING):
            perform(job.pk)
    return count


@huey.periodic_task(crontab(minute="*"))
def look_for_lost() -> None:
    """Once a minute."""
    recover_lost()
