"""Work shared out among threads: compiled kernels release the interpreter lock, so threads are enough."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from warmgraphite.progress import Progress, silent

__all__ = ["in_stretches", "in_threads"]

T = TypeVar("T")


def in_threads(work: Callable[[int], T], tasks: Iterable[int], progress: Progress = silent) -> list[T]:
    """The results of ``work`` for each task, in order, made on as many threads as there are processors.

    ``progress`` is told the share that is done; what it raises, to cancel, stops the tasks not yet begun.
    """
    tasks = list(tasks)
    if len(tasks) <= 1:
        return [work(task) for task in tasks]
    found = []
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        try:
            for done, row in enumerate(pool.map(work, tasks), 1):
                found.append(row)
                progress(done / len(tasks))
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
    return found


def in_stretches(work: Callable[[int, int], T], count: int, step: int, progress: Progress = silent) -> list[T]:
    """The results of ``work(first, last)`` for stretches of ``step`` from 0 to ``count``; one empty stretch for none."""
    firsts = range(0, max(count, 1), step)
    return in_threads(lambda first: work(first, min(first + step, count)), firsts, progress)
