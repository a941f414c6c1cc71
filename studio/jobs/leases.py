"""Which workers are alive: each holds a lock on a file of its own, which the system takes from it however it ends.

A job says which worker has it, under a lease that no other job ever had. So a worker that was killed is known at once,
one that only computes for long is left in peace, and what a worker finishes after its job was given to another is not
written.
"""

from __future__ import annotations

import fcntl
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

__all__ = ["alive", "any_ready", "clear_dead", "lease", "mark_ready", "worker_name", "worker_of", "working"]

_name = ""


def _folder() -> Path:
    return settings.DATA / "workers"


def worker_name() -> str:
    """This process's name among the workers; it has one from when it first asks."""
    global _name
    _name = _name or uuid.uuid4().hex[:12]
    return _name


def lease() -> str:
    """A new lease of this worker."""
    return f"{worker_name()}:{uuid.uuid4().hex[:12]}"


def worker_of(held: str) -> str:
    """The worker that a lease belongs to."""
    return held.partition(":")[0]


@contextmanager
def working() -> Iterator[None]:
    """While within, this process counts as a live worker."""
    path = _folder() / worker_name()
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("a+") as mark:
        fcntl.flock(mark, fcntl.LOCK_EX)
        try:
            yield
        finally:
            path.unlink(missing_ok=True)


def mark_ready() -> None:
    """Say that this worker takes jobs."""
    (_folder() / worker_name()).write_text("ready")


def _is_locked(path: Path) -> bool:
    try:
        with path.open("r") as mark:
            fcntl.flock(mark, fcntl.LOCK_SH | fcntl.LOCK_NB)
            return False
    except FileNotFoundError:
        return False
    except OSError:
        return True


def alive(worker: str) -> bool:
    """Whether a worker lives."""
    return bool(worker) and (worker == _name or _is_locked(_folder() / worker))


def any_ready() -> bool:
    """Whether some live worker is ready for jobs."""
    return any(_is_locked(path) and path.read_text() == "ready" for path in _folder().glob("*"))


def clear_dead() -> None:
    """Put away the marks of workers that ended without doing so."""
    for path in _folder().glob("*"):
        try:
            if time.time() - path.stat().st_mtime > 60 and not _is_locked(
                path
            ):  # one that begins has no lock for a moment
                path.unlink(missing_ok=True)
        except FileNotFoundError:
            continue
