"""Work on what comes from elsewhere in a process of its own: it may run out of time or memory, or crash, and harm nothing else.

A module that works so is run as ``python -m MODULE ARGUMENTS``. It tells its stages, and at the end its answer, as lines of JSON.
"""

from __future__ import annotations

import json
import os
import resource
import selectors
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

from warmgraphite.progress import Stages, unwatched

__all__ = ["ApartError", "answer_apart", "run_apart"]


class ApartError(Exception):
    """There is no answer; ``crashed`` where a library did, else it took more time or memory than it may."""

    def __init__(self, crashed: bool) -> None:
        super().__init__("crashed" if crashed else "took too much")
        self.crashed = crashed


def run_apart(
    module: str,
    arguments: Sequence[str],
    folder: Path,
    watch: Stages = unwatched,
    *,
    seconds: int,
    megabytes: int,
    quiet: bool = False,
) -> dict[str, Any]:
    """The answer of a module that is run in another process, with a room of its own in ``folder`` that goes with it.

    Raises :class:`ApartError` for one that takes longer than ``seconds`` of computing or more than ``megabytes`` of memory, and for one
    that crashes. Whatever ``watch`` raises ends it. What libraries say goes to standard error, unless it is to be ``quiet``.
    """
    root = Path(__file__).resolve().parents[1]

    def limit() -> None:
        resource.setrlimit(resource.RLIMIT_AS, (megabytes << 20, megabytes << 20))
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 5))

    room = tempfile.mkdtemp(prefix=".apart-", dir=folder)
    process = subprocess.Popen(
        [sys.executable, "-m", module, *arguments],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL if quiet else None, cwd=root, preexec_fn=limit,
        env={**os.environ, "PYTHONPATH": str(root), "OMP_NUM_THREADS": "2", "OPENBLAS_NUM_THREADS": "2", "TMPDIR": room},
    )  # fmt: skip
    answer: dict[str, Any] | None = None
    try:
        for row in _rows(process, time.monotonic() + seconds * 1.5, watch):
            if "stage" in row:
                watch(str(row["stage"]), float(row["fraction"]))
            else:
                answer = row
        process.wait(5)  # it has said all, and goes by itself
    except (TimeoutError, subprocess.TimeoutExpired):
        raise ApartError(crashed=False) from None
    finally:
        if process.poll() is None:
            process.kill()
        process.wait()
        if process.stdout:
            process.stdout.close()
        shutil.rmtree(room, ignore_errors=True)
    if answer is None:
        crashes = (-signal.SIGSEGV, -signal.SIGABRT, -signal.SIGBUS, -signal.SIGFPE, -signal.SIGILL)
        raise ApartError(crashed=process.returncode in crashes)
    return answer


def _rows(process: subprocess.Popen, until: float, watch: Stages) -> Iterator[dict[str, Any]]:
    """JSON lines as they come; ``watch`` is asked in between too, so that a stop is heard while a stage is silent."""
    assert process.stdout is not None
    buffer, last = b"", ("Opening the file", 0.01)
    with selectors.DefaultSelector() as selector:
        selector.register(process.stdout, selectors.EVENT_READ)
        while True:
            if time.monotonic() > until:
                raise TimeoutError
            if not selector.select(0.2):
                watch(*last)
                continue
            data = os.read(process.stdout.fileno(), 1 << 16)
            if not data:
                return
            buffer += data
            *lines, buffer = buffer.split(b"\n")
            for line in lines:
                try:
                    row = json.loads(line)
                except ValueError:
                    continue
                if "stage" in row:
                    last = (row["stage"], row["fraction"])
                yield row


def answer_apart(work: Callable[[Stages], dict[str, Any]]) -> None:
    """Do the work of a module that is run apart, tell its stages and its answer, and end the process."""
    # Libraries in other languages write to standard output as they please; the lines of JSON go their own way.
    lines = os.fdopen(os.dup(1), "w", buffering=1)
    os.dup2(2, 1)
    last = [0.0]

    def tell(stage: str, fraction: float) -> None:
        if time.monotonic() - last[0] > 0.05:
            last[0] = time.monotonic()
            lines.write(json.dumps({"stage": stage, "fraction": fraction}) + "\n")

    lines.write(json.dumps(work(tell)) + "\n")
    lines.close()
    os._exit(0)  # nothing is left to clean up, and crashing on the way out would be taken for a damaged file
