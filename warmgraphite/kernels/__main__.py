"""Compile every declared kernel that is not kept yet: ``python -m warmgraphite.kernels [--processes N] [--first]``.

What a first drawing needs comes first, the longest of it before the rest, so that no process is left with a long one at
the end. Who wants a kernel meanwhile waits for it, or compiles it; who starts this a second time finds that somebody is
at it, and leaves.
"""

from __future__ import annotations

import argparse
import fcntl
import multiprocessing
import os
import sys
import time
from pathlib import Path
from typing import Any

from warmgraphite.kernels import Kernel, all_kernels, load_all
from warmgraphite.kernels.cache import digest_of, folder, forget_old

__all__ = ["compile_all", "is_complete", "load_kept", "main"]

#: What a first drawing does without: it comes last. Modules, and kernels by name.
LATER = (
    "canvas.kernels.layers", "canvas.kernels.marks.path_data", "canvas.kernels.straight", "collage.kernels.edging",
    "collage.kernels.picturing", "collage.kernels.reflecting", "collage.kernels.following", "ink.kernels.courses",
    "ink.kernels.strokes.dashed", "notes.kernels", "passes.kernels.casting.tone_lines", "passes.kernels.mirroring",
    "passes.kernels.pixels.edge_values", "passes.kernels.pixels.fan", "passes.kernels.pixels.smooth_alike",
    "passes.kernels.textures",
    "regions.kernels.painting",
)  # fmt: skip


def _stamp() -> Path:
    """The file that says that all kernels of these sources are compiled."""
    files = sorted({Path(k.py_func.__code__.co_filename) for k in all_kernels()})
    import hashlib

    said = hashlib.sha256("".join(digest_of(f) for f in files).encode()).hexdigest()
    return folder() / f"complete-{said[:24]}"


def is_complete() -> bool:
    """Whether every declared kernel is compiled and kept."""
    load_all()
    return _stamp().exists()


def _tasks(first: bool) -> list[tuple[Kernel, Any]]:
    """What is to be compiled, in order: what is wanted first, and of that the largest."""
    rows = []
    for kernel in all_kernels():
        late = kernel.name.removeprefix("warmgraphite.").startswith(LATER)
        if not (late and first):
            rows += [((late, -len(kernel.py_func.__code__.co_code)), kernel, form) for form in kernel.forms]
    return [(kernel, form) for _, kernel, form in sorted(rows, key=lambda r: r[0])]


def _work(tasks: list[tuple[Kernel, Any]], next_one: Any, nice: int) -> None:
    os.nice(nice)
    while True:
        with next_one.get_lock():
            at = next_one.value
            next_one.value += 1
        if at >= len(tasks):
            return
        kernel, form = tasks[at]
        kernel.compile(form)


def compile_all(processes: int, first: bool = False, nice: int = 0) -> None:
    """Compile what is not kept, in so many processes; ``first`` leaves out what no first drawing needs."""
    load_all()
    if _stamp().exists():
        return
    tasks = _tasks(first)
    fork = multiprocessing.get_context("fork")  # everything is imported, and nothing compiled: a child begins at once
    next_one = fork.Value("q", 0)
    children = [fork.Process(target=_work, args=(tasks, next_one, nice)) for _ in range(processes)]
    for child in children:
        child.start()
    for child in children:
        child.join()
    if any(child.exitcode for child in children):
        raise SystemExit(1)
    if not first:
        _stamp().write_text("")


def load_kept() -> None:
    """Have the kernels of a first drawing in memory, in this process."""
    load_all()
    for kernel, form in _tasks(first=True):
        kernel.compile(form)


def main() -> None:
    """Compile, unless somebody else is at it."""
    words = argparse.ArgumentParser(prog="python -m warmgraphite.kernels", description=__doc__)
    words.add_argument("--processes", type=int, default=os.cpu_count() or 1, metavar="N")
    words.add_argument("--first", action="store_true", help="only what a first drawing needs")
    words.add_argument("--nice", type=int, default=0, metavar="N", help="let others go before")
    words.add_argument("--timed", action="store_true", help="say how long it took")
    said = words.parse_args()
    began = time.perf_counter()
    folder().mkdir(parents=True, exist_ok=True)
    with (folder() / "compiling").open("a") as held:
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return
        compile_all(max(1, said.processes), said.first, said.nice)
        forget_old()
    if said.timed:
        print(
            f"{sum(len(k.forms) for k in all_kernels())} kernels, {time.perf_counter() - began:.0f} s", file=sys.stderr
        )


if __name__ == "__main__":
    main()
