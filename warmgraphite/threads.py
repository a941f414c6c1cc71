"""Work shared out among threads: compiled kernels release the interpreter lock, so threads are enough."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import CancelledError, ThreadPoolExecutor
from typing import TypeVar

from warmgraphite.progress import Progress, silent

__all__ = ["AT_ONCE", "in_stretches", "in_threads"]

#: Tasks that are worked on at once where each takes much room.
AT_ONCE = 4

T = TypeVar("T")


class _Here(threading.local):
    """Of a thread whether all processors have work beside its own.
    Sharing that out again would gain nothing.
    """

    busy = False


_here = _Here()


def _enter(busy: bool) -> None:
    _here.busy = busy


def in_threads(
    work: Callable[[int], T], tasks: Iterable[int], progress: Progress = silent, at_once: int | None = None
) -> list[T]:
    """The results of ``work`` for each task, in order, made on as many threads as there are processors, or ``at_once``.

    ``progress`` is told the share that is done; what it raises, to cancel, stops the tasks not yet begun. None is begun
    while it is told: who rests in it lets all of this rest.
    """
    tasks = list(tasks)
    found: list[T] = []
    if len(tasks) <= 1 or _here.busy:
        for task in tasks:
            found.append(work(task))
            progress(len(found) / len(tasks))
        return found
    processors = int(os.environ.get("WARMGRAPHITE_CORES") or os.cpu_count() or 1)
    count = min(processors, at_once or processors)
    going, over = threading.Event(), False
    going.set()

    def begun(task: int) -> T:
        going.wait()
        if over:
            raise CancelledError
        return work(task)

    with ThreadPoolExecutor(count, initializer=_enter, initargs=(min(count, len(tasks)) >= processors,)) as pool:
        try:
            for row in pool.map(begun, tasks):
                found.append(row)
                going.clear()
                progress(len(found) / len(tasks))
                going.set()
        except BaseException:
            over = True
            going.set()
            pool.shutdown(cancel_futures=True)
            raise
    return found


def in_stretches(work: Callable[[int, int], T], count: int, step: int, progress: Progress = silent) -> list[T]:
    """The results of ``work(first, last)`` for stretches of ``step`` from 0 to ``count``.
    One empty stretch for none.
    """
    firsts = range(0, max(count, 1), step)
    return in_threads(lambda first: work(first, min(first + step, count)), firsts, progress)
