"""The one script that starts everything: what it says when the machine is not as it should be."""

from __future__ import annotations

import fcntl
import hashlib
import importlib.machinery
import importlib.util
import os
import socket
import stat
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]


def run(*arguments: str, root: Path = ROOT, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, str(root / "run"), *arguments],
        capture_output=True,
        text=True,
        env={**os.environ, **environment},
        timeout=120,
    )


def one_sentence(done: subprocess.CompletedProcess[str]) -> str:
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and "Traceback" not in done.stderr, done.stderr
    return done.stderr


def program(folder: Path, name: str, prints: str) -> None:
    (folder / name).write_text(f"#!/bin/sh\necho {prints}\n")
    (folder / name).chmod(stat.S_IRWXU)


def test_a_taken_port_is_named_with_another_to_try() -> None:
    with socket.socket() as holder:
        holder.bind(("127.0.0.1", 0))
        holder.listen()
        port = holder.getsockname()[1]
        said = one_sentence(run("demo", "--port", str(port)))
    assert str(port) in said and f"--port {port + 1}" in said


@pytest.mark.parametrize("arguments", [("--port", "abc"), ("--port", "70000"), ("--fast",)])
def test_demo_refuses_what_it_does_not_know(arguments: tuple[str, ...]) -> None:
    assert "--port" in one_sentence(run("demo", *arguments))


@pytest.fixture()
def checkout(tmp_path: Path) -> Path:
    """A checkout in which Python's packages are there and the front end is not built."""
    found = tmp_path / "checkout"
    (found / "studio").mkdir(parents=True)
    for name in ("run", "studio/__init__.py", "studio/start.py"):
        (found / name).write_bytes((ROOT / name).read_bytes())
    (found / "web").mkdir()
    (found / "requirements").mkdir()
    (found / "requirements" / "base.txt").write_text("")
    (found / ".setup").mkdir()
    empty = hashlib.sha256(b"requirements/base.txt\0").hexdigest()
    (found / ".setup" / "python-base").write_text(empty)
    (found / ".setup" / "python-test").write_text("")
    (found / "requirements" / "test.txt").write_text("")
    (found / ".venv" / "bin").mkdir(parents=True)
    (found / ".venv" / "bin" / "python").symlink_to(sys.executable)
    return found


def test_a_node_that_is_too_old_or_missing_is_said(checkout: Path, tmp_path: Path) -> None:
    program(tmp_path, "npm", "10.0.0")
    said = one_sentence(run("demo", "--port", "18764", root=checkout, PATH=str(tmp_path)))
    assert "none was found" in said
    program(tmp_path, "node", "v16.3.0")
    assert "v16.3.0" in one_sentence(run("demo", "--port", "18764", root=checkout, PATH=f"{tmp_path}:/usr/bin:/bin"))


def test_what_was_done_is_done_again_only_when_what_it_was_done_from_changed(checkout: Path) -> None:
    loader = importlib.machinery.SourceFileLoader("run_of_a_checkout", str(checkout / "run"))
    found = importlib.util.module_from_spec(importlib.util.spec_from_loader(loader.name, loader))  # type: ignore[arg-type]
    loader.exec_module(found)
    source, done = checkout / "web" / "index.html", []
    source.write_text("one")
    step = lambda: found.once("built", found.digest(source), lambda: done.append(source.read_text()))
    step()
    step()
    source.write_text("two")
    step()
    assert done == ["one", "two"]
    with pytest.raises(ZeroDivisionError):
        found.once("broken", "x", lambda: 1 / 0)
    assert not found.done("broken", "x"), "what did not work is not done"
    with pytest.raises(found.Stopped, match="first"):
        found.at_once(lambda: (_ for _ in ()).throw(found.Stopped("first")), lambda: None)


def test_a_data_folder_that_cannot_be_written_is_said() -> None:
    said = one_sentence(run("demo", "--port", "18764", WARMGRAPHITE_DATA="/proc/nothing"))
    assert "/proc/nothing" in said and "WARMGRAPHITE_DATA" in said


def test_a_data_folder_in_use_is_said_with_where(tmp_path: Path) -> None:
    with (tmp_path / "in-use").open("w") as held:
        held.write("http://127.0.0.1:8640\n")
        held.flush()
        fcntl.flock(held, fcntl.LOCK_EX)
        said = one_sentence(run("demo", "--port", "18764", WARMGRAPHITE_DATA=str(tmp_path)))
    assert str(tmp_path) in said and "127.0.0.1:8640" in said and not (tmp_path / "studio.sqlite3").exists()
