"""Start the application on this machine.
The database made ready, the server, a job worker, and the kernels compiled beside them.

Everything ends with this process, however that ends: the others look after it (:mod:`studio.parent`). Only what Python
brings is imported here, so that the server and the worker begin at once.
"""

from __future__ import annotations

import argparse
import errno
import fcntl
import os
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Sequence
from contextlib import closing, suppress
from pathlib import Path
from typing import IO, NoReturn

__all__ = ["Restarts", "data_folder", "environment", "is_prepared", "main"]

ROOT = Path(__file__).resolve().parent.parent
PORT = 8640


def stop(sentence: str, status: int = 2) -> NoReturn:
    print(sentence, file=sys.stderr)
    sys.exit(status)


def data_folder() -> Path:
    """The folder for all that is kept: ``WARMGRAPHITE_DATA``; beside a checkout ``data``.
    Else the user's own for an application.
    """
    named = os.environ.get("WARMGRAPHITE_DATA")
    if named:
        return Path(named)
    if (ROOT / "run").is_file():
        return ROOT / "data"
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "warm-graphite"


def environment() -> dict[str, str]:
    """The environment of every process of the application."""
    data = str(data_folder())
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        "WARMGRAPHITE_DATA": data,
        "WARMGRAPHITE_STUDIES": "studio.lookup:find",
        "WARMGRAPHITE_STOCK": str(Path(data) / "stock"),
        "PYTHONPATH": os.pathsep.join(p for p in (str(ROOT), os.environ.get("PYTHONPATH", "")) if p),
        "PYTHONDONTWRITEBYTECODE": "",  # or each process that starts compiles every module again
        "PYTHONUNBUFFERED": "1",
        # The C library has a heap for each of many threads, and each keeps what was freed: two are as quick, and half
        # as large.
        "MALLOC_ARENA_MAX": os.environ.get("MALLOC_ARENA_MAX", "2"),
    }


def alone_on(data: Path, port: int) -> IO[str]:
    """Hold the data folder for as long as the file that is returned is open.
    Stop where another start holds it already.
    """
    held = (data / "in-use").open("a+")
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        held.seek(0)
        where = held.read().strip()
        stop(
            f"The data folder {data} is in use by Warm Graphite{f' at {where}' if where else ''}; "
            "go there, end that one, or set WARMGRAPHITE_DATA to another folder."
        )
    held.truncate(0)
    held.write(f"http://127.0.0.1:{port}\n")
    held.flush()
    return held


def _has_lost_its_database(data: Path) -> bool:
    """Whether there is work in the data folder, and no database that knows of it.
    It was lost, or never copied along.
    """
    work = any(any(data.glob(kind)) for kind in ("models/[!.]*.npz", "received/[!.]*", "stock/[!.]*.png"))
    path = data / "studio.sqlite3"
    if not work:
        return False
    if not path.is_file() or path.stat().st_size == 0:
        return True
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=5)) as database:
            return not database.execute("select 1 from sqlite_master where name = 'studies_study'").fetchone()
    except sqlite3.Error:
        return False  # whoever makes it ready says what is wrong with it


def is_prepared(data: Path) -> bool:
    """Whether the database is there as this version wants it, with a sample in it.
    Then nothing need be made ready, and the framework that would look after it need not be loaded for that.
    """
    wanted = {(f.parent.parent.name, f.stem) for f in ROOT.glob("studio/*/migrations/[0-9]*.py")}
    path = data / "studio.sqlite3"
    if not path.is_file():
        return False
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=5)) as database:
            done = set(database.execute("select app, name from django_migrations"))
            return wanted <= done and bool(
                database.execute("select 1 from studies_study where is_sample limit 1").fetchone()
            )
    except sqlite3.Error:
        return False  # whoever makes it ready says what is wrong with it


def _compiled_before() -> bool:
    """Whether kernels were once compiled here, so that looking for what is missing has time."""
    named = os.environ.get("WARMGRAPHITE_KERNELS")
    caches = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    kept = Path(named) if named else Path(caches) / "warm-graphite" / "kernels"
    return any(kept.glob("*/complete-*"))


class Restarts:
    """How often something that ends by itself is started again.
    Soon at first, later and later where it ends at once, and after ``most`` such ends in a row no more.
    """

    def __init__(self, most: int = 6, at_once: float = 20.0) -> None:
        self._most, self._at_once, self._row = most, at_once, 0

    def wait(self, lived: float) -> float | None:
        """Seconds to wait after an end that came ``lived`` seconds after the start.
        ``None`` where there is no sense in another.
        """
        self._row = self._row + 1 if lived < self._at_once else 1
        return None if self._row > self._most else min(0.5 * 2.0 ** (self._row - 1), 15.0)


def _arguments(words: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(prog="demo", add_help=False, exit_on_error=False)
    parser.add_argument("--port", type=int, default=PORT)
    try:
        said, more = parser.parse_known_args(list(words))
    except argparse.ArgumentError:
        said, more = None, list(words)
    if said is None or more or not 0 < said.port < 65536:
        stop("demo takes nothing but --port and a number from 1 to 65535.")
    return int(said.port)


def _check_port(port: int) -> None:
    with socket.socket() as trial:
        trial.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            trial.bind(("127.0.0.1", port))
        except OSError:
            stop(
                f"Port {port} is taken by another program; end that one, or start with demo --port {port % 65535 + 1}."
            )


def _check_data(data: Path) -> None:
    try:
        data.mkdir(parents=True, exist_ok=True)
        try:
            with (data / ".try").open("wb") as out:
                out.write(bytes(1_000_000))
                out.flush()
                os.fsync(out.fileno())  # or a quota is only heard of later
        finally:
            (data / ".try").unlink(missing_ok=True)
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            stop(f"The disk of {data} is full; make room on it, or set WARMGRAPHITE_DATA to another folder.")
        stop(f"The data folder {data} cannot be written to ({error.strerror}); set WARMGRAPHITE_DATA to one that can.")


def check(words: Sequence[str]) -> int:
    """The port that is asked for, where it is free and the data folder can be written to.
    Else a sentence, and the end.
    """
    port = _arguments(words)
    _check_port(port)
    _check_data(data_folder())
    return port


def _answers(address: str) -> bool:
    try:
        with urllib.request.urlopen(address, timeout=2) as answer:
            return b'"ready": true' in answer.read()
    except OSError:
        return False


class _Process:
    """One process of the application, and since when it runs."""

    def __init__(self, env: dict[str, str], module: str, *words: str, gate: int = -1) -> None:
        own = {**env, "WARMGRAPHITE_PARENT": str(os.getpid()), "WARMGRAPHITE_GATE": str(gate)}
        self.began = time.monotonic()
        self.process = subprocess.Popen(
            [sys.executable, "-m", module, *words],
            cwd=ROOT,
            env=own,
            start_new_session=True,
            pass_fds=(gate,) if gate >= 0 else (),
        )

    @property
    def ended(self) -> bool:
        return self.process.poll() is not None

    @property
    def lived(self) -> float:
        return time.monotonic() - self.began

    def end(self, how: int, seconds: float = 6.0) -> None:
        """Ask it to end; end it where it does not."""
        if not self.ended:
            (os.killpg if how == signal.SIGKILL else os.kill)(self.process.pid, how)
            try:
                self.process.wait(seconds)
            except subprocess.TimeoutExpired:
                os.killpg(self.process.pid, signal.SIGKILL)
                self.process.wait()


def run(port: int, say: Callable[[str], None]) -> int:
    """Start, keep running until told to end, and give the exit status."""
    env, data = environment(), data_folder()
    held = alone_on(data, port)
    if _has_lost_its_database(data):
        stop(
            f"The data folder {data} holds models or pictures, but the database that knows of them (studio.sqlite3) is "
            f"missing or empty. "
            "Put it back from a copy, or set WARMGRAPHITE_DATA to another folder to begin anew; nothing was touched."
        )
    for path in data.glob("queue.sqlite3*"):
        # The jobs themselves are in the database; what only says their order is not kept with care, and a power cut may
        # harm it.
        path.unlink(missing_ok=True)
    if not (data / "studio.sqlite3").exists():
        say("Laying out the sample study …")
    begun = int(os.environ.get("WARMGRAPHITE_COMPILING") or 0)
    kernels = None if begun or _compiled_before() else _Process(env, "studio.compiling")
    # Both load what they need while the database is made ready, and go on when the gate opens: when its other end is
    # closed.
    gate, opens = os.pipe()
    address = f"http://127.0.0.1:{port}"
    server = _Process(env, "studio.serve", f"127.0.0.1:{port}", gate=gate)
    worker = _Process(env, "studio.worker", gate=gate)
    os.close(gate)
    ending = False

    def end(*_: object) -> None:
        nonlocal ending
        ending = True

    signal.signal(signal.SIGINT, end)
    signal.signal(signal.SIGTERM, end)
    prepared = (
        0
        if is_prepared(data)
        else subprocess.run([sys.executable, "-m", "studio.prepare"], cwd=ROOT, env=env).returncode
    )
    status, ready, restarts, next_start = prepared, False, Restarts(), 0.0
    if prepared == 0:
        os.close(opens)
    while not ending and status == 0 and prepared == 0:
        if server.ended:
            status = 1
            break
        if worker.ended and not next_start:
            wait = restarts.wait(worker.lived)
            if wait is None:
                say(
                    "The job worker ends right after its start, again and again; what it said above tells why. Warm "
                    "Graphite ends."
                )
                status = 1
                break
            # Jobs are kept: a new worker takes back what the old one left.
            say("The job worker ended; starting another.")
            next_start = time.monotonic() + wait
        if next_start and time.monotonic() >= next_start:
            worker, next_start = _Process(env, "studio.worker"), 0.0
        if not ready and _answers(f"{address}/api/ready"):
            ready = True
            say(f"Warm Graphite is ready at {address}  (Ctrl+C ends it)")
            kernels = kernels or (None if begun else _Process(env, "studio.compiling"))
        time.sleep(0.05 if not ready else 0.5)
    if kernels:
        kernels.end(signal.SIGKILL)
    elif begun:
        with suppress(ProcessLookupError):
            os.killpg(begun, signal.SIGKILL)
    server.end(signal.SIGTERM)
    worker.end(signal.SIGINT)
    held.close()
    return status


def main(words: Sequence[str]) -> None:
    """``demo``: start with the sample studies where there is nothing yet."""
    port = check(words)
    if shutil.disk_usage(data_folder()).free < 50_000_000:
        stop(f"The disk of {data_folder()} is full; make room on it, or set WARMGRAPHITE_DATA to another folder.")
    sys.exit(run(port, lambda said: print(said, flush=True)))


if __name__ == "__main__":
    main(sys.argv[1:])
