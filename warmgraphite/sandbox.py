"""Work on what comes from elsewhere in a process of its own.
It may run out of time or memory, or crash, and harm nothing else.

A module that works so has a ``main`` that reads its arguments from ``sys.argv``. It tells its stages, and at the end
its answer, as lines of JSON (:func:`answer_sandboxed`).

A Python that begins from nothing loads libraries for one to four seconds before it looks at the file. So one process is
begun with the first piece of work (:func:`main`), loads what that needs, and is forked for this one and for each that
comes after: it computes nothing itself, has no threads, and holds nothing that a piece of work could harm. It ends with
who began it.
"""

from __future__ import annotations

import gc
import json
import os
import resource
import selectors
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import traceback
import uuid
import warnings
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from typing import Any

from warmgraphite.progress import Stages, unwatched

__all__ = ["SandboxError", "answer_sandboxed", "main", "run_sandboxed"]

_CRASHES = (signal.SIGSEGV, signal.SIGABRT, signal.SIGBUS, signal.SIGFPE, signal.SIGILL)
#: Bytes of one wish at most: names of files, and limits.
_WISH = 1 << 16


class SandboxError(Exception):
    """There is no answer; ``crashed`` where a library did, else it took more time or memory than it may."""

    def __init__(self, crashed: bool) -> None:
        super().__init__("crashed" if crashed else "took too much")
        self.crashed = crashed


class _Forks:
    """The process that is forked for each piece of work, begun when it is first wanted."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._socket: socket.socket | None = None
        self._process: subprocess.Popen | None = None

    def begin(self, wish: dict[str, Any], out: int) -> None:
        """Have a piece of work begun whose lines go to the file ``out``."""
        with self._lock:
            try:
                self._send(wish, [out])
            except OSError:  # it was ended by somebody: there is another
                self._close()
                self._send(wish, [out])

    def end(self, name: str) -> None:
        """Have a piece of work ended, whatever it is at."""
        with self._lock, suppress(OSError):
            self._send({"end": name}, [])

    def _send(self, wish: dict[str, Any], files: list[int]) -> None:
        if self._socket is None:
            root = Path(__file__).resolve().parents[1]
            self._socket, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
            few = {"OMP_NUM_THREADS": "2", "OPENBLAS_NUM_THREADS": "2", "PYTHONPATH": str(root)}
            self._process = subprocess.Popen(
                [sys.executable, "-m", "warmgraphite.sandbox"],
                stdin=theirs.fileno(),
                cwd=root,
                env={**os.environ, **few},
            )
            theirs.close()
        socket.send_fds(self._socket, [json.dumps(wish).encode()], files)

    def _close(self) -> None:
        if self._socket is not None:
            self._socket.close()
        if self._process is not None:
            self._process.kill()
            self._process.wait()
        self._socket = self._process = None


_forks = _Forks()


def run_sandboxed(
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

    Raises :class:`SandboxError` for one that takes longer than ``seconds`` of computing or more than ``megabytes`` of
    memory, and for one that crashes. Whatever ``watch`` raises ends it. What libraries say goes to standard error,
    unless it is to be ``quiet``.
    """
    room = tempfile.mkdtemp(prefix=".apart-", dir=folder)
    name = uuid.uuid4().hex
    wish = {
        "name": name, "module": module, "arguments": list(arguments), "room": room, "seconds": seconds,
        "megabytes": megabytes, "quiet": quiet,
    }  # fmt: skip
    answer: dict[str, Any] | None = None
    status: int | None = None
    lines, out = os.pipe()
    try:
        try:
            _forks.begin(wish, out)
        finally:
            os.close(out)
        for row in _rows(lines, time.monotonic() + seconds * 1.5, watch):
            if "stage" in row:
                watch(str(row["stage"]), float(row["fraction"]))
            elif "status" in row:
                status = int(row["status"])
            else:
                answer = row
    except TimeoutError:
        raise SandboxError(crashed=False) from None
    finally:
        if status is None:
            _forks.end(name)
        os.close(lines)
        shutil.rmtree(room, ignore_errors=True)
    if answer is None:
        raise SandboxError(crashed=status is not None and -status in _CRASHES)
    return answer


def _rows(lines: int, until: float, watch: Stages) -> Iterator[dict[str, Any]]:
    """JSON lines as they come; ``watch`` is asked in between too, so that a stop is heard while a stage is silent."""
    buffer, last = b"", ("Opening the file", 0.01)
    with selectors.DefaultSelector() as selector:
        selector.register(lines, selectors.EVENT_READ)
        while True:
            if time.monotonic() > until:
                raise TimeoutError
            if not selector.select(0.2):
                watch(*last)
                continue
            data = os.read(lines, 1 << 16)
            if not data:
                return
            buffer += data
            *whole, buffer = buffer.split(b"\n")
            for line in whole:
                try:
                    row = json.loads(line)
                except ValueError:
                    continue
                if "stage" in row:
                    last = (row["stage"], row["fraction"])
                yield row


def answer_sandboxed(work: Callable[[Stages], dict[str, Any]]) -> None:
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


# -- In the process that is forked


def _work(wish: dict[str, Any], out: int) -> None:
    """Be one piece of work, from the fork to the end."""
    status = 1
    try:
        for number in (signal.SIGCHLD, signal.SIGINT):
            signal.signal(number, signal.SIG_DFL)
        signal.set_wakeup_fd(-1)
        os.dup2(out, 1)
        if wish["quiet"]:
            os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
        os.environ["TMPDIR"] = wish["room"]
        tempfile.tempdir = None
        most = int(wish["megabytes"]) << 20
        resource.setrlimit(resource.RLIMIT_AS, (most, most))
        resource.setrlimit(resource.RLIMIT_CPU, (wish["seconds"], wish["seconds"] + 5))
        sys.argv = [wish["module"], *wish["arguments"]]
        import_module(wish["module"]).main()
        status = 0
    except BrokenPipeError:
        pass  # who wished for it is no more: nobody is there to be told
    except BaseException:
        traceback.print_exc()
    finally:
        os._exit(status)


def main() -> None:
    """Fork for each wish that comes over standard input, a socket.
    Tell how each piece of work ended on the file that came with it, after all that it told there itself; end with all
    of them when there is nobody any more who could wish.
    """
    wishes = socket.socket(fileno=os.dup(0))
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    warnings.filterwarnings(
        "ignore", "This process .* is multi-threaded", DeprecationWarning
    )  # those of a library, which minds forks
    woken, wake = socket.socketpair()
    wake.setblocking(False)
    signal.set_wakeup_fd(wake.fileno())
    signal.signal(signal.SIGCHLD, lambda *_: None)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # who began it ends it
    at_work: dict[int, tuple[str, int]] = {}
    with selectors.DefaultSelector() as selector:
        selector.register(wishes, selectors.EVENT_READ)
        selector.register(woken, selectors.EVENT_READ)
        while True:
            ready = {key.fileobj for key, _ in selector.select()}
            if woken in ready:
                woken.recv(4096)
                _reap(at_work)
            if wishes in ready and not _heed(wishes, at_work):
                break
    for pid in at_work:
        os.kill(pid, signal.SIGKILL)


def _reap(at_work: dict[int, tuple[str, int]]) -> None:
    """Tell of each piece of work that ended how it did."""
    for pid in list(at_work):
        found, status = os.waitpid(pid, os.WNOHANG)
        if found:
            _, out = at_work.pop(pid)
            with suppress(OSError):  # nobody waits for it any more
                os.write(out, json.dumps({"status": os.waitstatus_to_exitcode(status)}).encode() + b"\n")
            os.close(out)


def _heed(wishes: socket.socket, at_work: dict[int, tuple[str, int]]) -> bool:
    """Do what one wish says; whether there may be another."""
    said, files, _, _ = socket.recv_fds(wishes, _WISH, 1)
    if not said:
        return False
    wish = json.loads(said)
    if "end" in wish:
        for pid in [p for p, (name, _) in at_work.items() if name == wish["end"]]:
            os.kill(pid, signal.SIGKILL)  # it is no other's: it is reaped here, and only here
        return True
    try:
        import_module(wish["module"])
    except Exception:  # the piece of work says so
        traceback.print_exc()
    gc.freeze()  # what is loaded stays, and is not written to by who looks for what can be thrown away
    pid = os.fork()
    if pid == 0:
        wishes.close()
        for _, out in at_work.values():
            os.close(out)
        _work(wish, files[0])
    at_work[pid] = (wish["name"], files[0])
    return True


if __name__ == "__main__":
    main()
