"""Starting and ending.
Nothing outlives who started it, nothing is started without end, and a release is all that it needs.
"""

from __future__ import annotations

import errno
import os
import re
import signal
import socket
import sqlite3
import subprocess
import sys
import textwrap
import time
import urllib.request
import venv
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from release.__main__ import requirements
from studio.start import Restarts, _check_data, _has_lost_its_database, data_folder, is_prepared
from warmgraphite import __version__

ROOT = Path(__file__).resolve().parents[1]


def alive(pid: int) -> bool:
    """Whether a process runs; one that has ended and was not yet asked for does not."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def wait(test: Callable[[], bool], seconds: float = 60) -> bool:
    end = time.monotonic() + seconds
    while not test() and time.monotonic() < end:
        time.sleep(0.05)
    return test()


def test_a_data_folder_that_lost_its_database_is_not_taken_for_a_new_one(tmp_path: Path) -> None:
    """Nor touched: what lies there waits for its database."""
    (tmp_path / "models").mkdir()
    (tmp_path / "models" / "abc.npz").write_bytes(b"triangles")
    before = {p: p.stat().st_mtime_ns for p in tmp_path.rglob("*") if p.is_file()}
    for make in (
        lambda: None,
        lambda: (tmp_path / "studio.sqlite3").touch(),
        lambda: sqlite3.connect(tmp_path / "studio.sqlite3").execute("vacuum"),
    ):
        make()
        done = subprocess.run(
            [sys.executable, "-m", "studio.start", "--port", str(free_port())], cwd=ROOT, capture_output=True,
            text=True, timeout=60,
            env={**os.environ, "WARMGRAPHITE_DATA": str(tmp_path)},
        )  # fmt: skip
        assert (done.returncode, done.stdout, done.stderr.count("\n")) == (
            2,
            "",
            1,
        ) and "studio.sqlite3" in done.stderr, done.stderr
        assert {p: p.stat().st_mtime_ns for p in before} == before
    # One that has never held any work is a new one, whatever lies in it; and the queue of before, which may be harmed,
    # is begun anew.
    assert not _has_lost_its_database(tmp_path / "models")


def test_a_disk_that_takes_nothing_is_said_before_anything_is_begun(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    def full(*_: object) -> None:
        raise OSError(errno.EDQUOT, "quota")

    with pytest.MonkeyPatch.context() as patch, pytest.raises(SystemExit):
        patch.setattr(os, "fsync", full)
        _check_data(tmp_path)
    assert "is full; make room" in capsys.readouterr().err and not list(tmp_path.iterdir())


def free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])


CHILD = """
    import os, subprocess, sys, time
    from studio.parent import end_with_parent
    own = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(600)"])
    end_with_parent(0.05)
    print(os.getpid(), own.pid, flush=True)
    time.sleep(600)
    """
PARENT = """
    import os, subprocess, sys, time
    env = {**os.environ, "WARMGRAPHITE_PARENT": str(os.getpid())}
    subprocess.Popen([sys.executable, "-c", sys.argv[1]], env=env, start_new_session=True)
    time.sleep(600)
    """


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGTERM])
def test_what_was_started_ends_with_who_started_it_and_with_all_that_it_started_in_its_turn(how: int) -> None:
    parent = subprocess.Popen(
        [sys.executable, "-c", textwrap.dedent(PARENT), textwrap.dedent(CHILD)], stdout=subprocess.PIPE, text=True,
        cwd=ROOT,
        env={**os.environ, "PYTHONPATH": str(ROOT)},
    )  # fmt: skip
    assert parent.stdout
    pids = [int(word) for word in parent.stdout.readline().split()]
    assert len(pids) == 2 and all(alive(pid) for pid in pids)
    parent.send_signal(how)
    parent.wait(10)
    assert wait(lambda: not any(alive(pid) for pid in pids), 20)


def test_a_gate_opens_when_its_other_end_is_closed() -> None:
    read, write = os.pipe()
    code = "from studio.parent import wait_for_gate; print('waits', flush=True); wait_for_gate(); print('goes on', flush=True)"
    env = {**os.environ, "PYTHONPATH": str(ROOT), "WARMGRAPHITE_GATE": str(read)}
    process = subprocess.Popen(
        [sys.executable, "-c", code], stdout=subprocess.PIPE, text=True, env=env, pass_fds=(read,)
    )
    os.close(read)
    assert process.stdout and process.stdout.readline() == "waits\n"
    time.sleep(0.2)
    assert process.poll() is None
    os.close(write)
    assert process.stdout.readline() == "goes on\n" and process.wait(10) == 0


def test_who_ends_at_once_again_and_again_is_started_later_and_later_and_then_no_more() -> None:
    restarts = Restarts(most=4, at_once=10)
    assert [restarts.wait(1) for _ in range(5)] == [0.5, 1.0, 2.0, 4.0, None]
    restarts = Restarts(most=4, at_once=10)
    waits = [restarts.wait(lived) for lived in (1, 2, 60, 1, 1, 1, 1)]
    assert waits == [0.5, 1.0, 0.5, 1.0, 2.0, 4.0, None], "one that lived for a while begins anew"


def test_where_things_are_kept(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("WARMGRAPHITE_DATA", str(tmp_path))
    assert data_folder() == tmp_path
    monkeypatch.delenv("WARMGRAPHITE_DATA")
    assert data_folder() == ROOT / "data", "beside a checkout"
    monkeypatch.setattr("studio.start.ROOT", tmp_path)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "own"))
    assert data_folder() == tmp_path / "own" / "warm-graphite", "of a release"


def test_what_is_prepared_is_not_prepared_again(tmp_path: Path) -> None:
    assert not is_prepared(tmp_path)
    (tmp_path / "studio.sqlite3").write_bytes(b"no database")
    assert not is_prepared(tmp_path)
    (tmp_path / "studio.sqlite3").unlink()
    names = [(f.parent.parent.name, f.stem) for f in ROOT.glob("studio/*/migrations/[0-9]*.py")]
    with closing(sqlite3.connect(tmp_path / "studio.sqlite3")) as database:
        database.execute("create table django_migrations (app text, name text)")
        database.execute("create table studies_study (is_sample bool)")
        database.executemany("insert into django_migrations values (?, ?)", names[:-1])
        database.execute("insert into studies_study values (1)")
        database.commit()
        assert len(names) > 5 and not is_prepared(tmp_path), "a step is missing"
        database.execute("insert into django_migrations values (?, ?)", names[-1])
        database.commit()
        assert is_prepared(tmp_path)
        database.execute("delete from studies_study")
        database.commit()
        assert not is_prepared(tmp_path), "there is no sample"


def test_a_release_needs_just_what_is_pinned() -> None:
    pinned = re.findall(r"^([\w.\-]+)==([^\s;\\]+)", (ROOT / "requirements" / "base.txt").read_text(), re.M)
    assert [r.partition(";")[0].strip() for r in requirements()] == [f"{n}=={v}" for n, v in pinned] and len(
        pinned
    ) > 30
    named = {
        re.split(r"[<>=\[; ]", line)[0].lower()
        for line in (ROOT / "requirements" / "base.in").read_text().splitlines()
        if line
    }
    assert {n.replace("_", "-") for n in named} <= {n.lower().replace("_", "-") for n, _ in pinned}


@pytest.fixture(scope="module")
def wheel() -> Path:
    done = subprocess.run([sys.executable, str(ROOT / "run"), "release"], capture_output=True, text=True, timeout=600)
    assert done.returncode == 0, done.stderr
    return ROOT / done.stdout.splitlines()[-1].split()[0]


@pytest.mark.deep
def test_a_wheel_holds_front_end_faces_and_samples_and_nothing_of_ours_alone(wheel: Path) -> None:
    names = zipfile.ZipFile(wheel).namelist()
    assert f"-{__version__}-" in wheel.name
    for wanted in (
        "studio/web/index.html",
        "warmgraphite/canvas/fonts/Fraunces-SemiBold.ttf",
        "demo/kiln_house.py",
        "demo/pictures/",
    ):
        assert any(n.startswith(wanted) for n in names), wanted
    assert not any(n.startswith(("tests/", "bench/", "release/", "web/")) or "__pycache__" in n for n in names)


@pytest.mark.deep
def test_a_release_is_installed_and_started_without_node(wheel: Path, tmp_path: Path) -> None:
    venv.create(tmp_path / "env", with_pip=True)
    own = tmp_path / "env" / "bin"
    subprocess.run([own / "python", "-m", "pip", "install", "-q", str(wheel)], check=True, timeout=900)
    (tmp_path / "home").mkdir()
    env = {"PATH": f"{own}:/usr/bin:/bin", "HOME": str(tmp_path / "home"), "WARMGRAPHITE_DATA": str(tmp_path / "data")}
    for name in ("node", "npm"):
        (own / name).write_text("#!/bin/sh\nexit 9\n")
        (own / name).chmod(0o755)
    said = subprocess.run([own / "warm-graphite", "--version"], env=env, capture_output=True, text=True, cwd=tmp_path)
    assert said.stdout.strip() == f"Warm Graphite {__version__}"
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    started = subprocess.Popen(
        [own / "warm-graphite", "demo", "--port", str(port)], env=env, stdout=subprocess.PIPE, text=True, cwd=tmp_path
    )
    try:
        assert started.stdout and any("is ready at" in line for line in started.stdout)
        get = lambda path: urllib.request.urlopen(f"http://127.0.0.1:{port}{path}", timeout=60).read().decode()
        assert (
            "<title>" in get("/")
            and __version__ in get("/api/about")
            and "Alder Weir Kiln House" in get("/api/studies")
        )
    finally:
        started.send_signal(signal.SIGINT)
        assert started.wait(60) == 0
    out = tmp_path / "section.svg"
    drawn = [own / "warm-graphite", "draw", "alder-weir-kiln-house", "--view", "B", "--out", out]
    subprocess.run(drawn, env=env, check=True, timeout=900, cwd=tmp_path)
    assert f"Warm Graphite {__version__}" in out.read_text()
