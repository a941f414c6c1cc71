"""Every check and test: ``python -m tests.lanes [--deep] [PYTEST'S ARGUMENTS]``.

The checks run one after the other, and what a failed one says is told when it is through; beside them kernels that are
not kept are compiled, and then the tests run.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from studio.studies.first_pictures import out_of_date

ROOT = Path(__file__).resolve().parents[1]


def checks() -> list[list[str]]:
    """What is looked at without being run, the longest first."""
    npm = [shutil.which("npm") or "npm", "--prefix", "web", "run", "--silent"]
    python = [sys.executable, "-m"]
    return [
        [*python, "mypy"],
        [*npm, "check"],
        [*npm, "test"],
        [*npm, "lint"],
        [*npm, "format"],
        [*python, "ruff", "check", "."],
        [*python, "ruff", "format", "--check", "-q", "."],
        [sys.executable, str(Path(sys.executable).with_name("lint-imports"))],
        [*python, "tests.audit"],
    ]


def said_of(command: list[str]) -> str:
    """A check by the words that tell it from others."""
    return " ".join(
        Path(w).name for w in command if w not in ("-m", "--silent", "--prefix", "web", "run", sys.executable)
    )


def run(command: list[str], env: dict[str, str]) -> tuple[int, float]:
    began = time.monotonic()
    done = subprocess.run(command, cwd=ROOT, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    took = time.monotonic() - began
    print(f"{took:4.0f} s  {said_of(command)}{'' if done.returncode == 0 else ': FAILED'}", flush=True)
    # What went well has nothing to say, but for what could not be asked.
    if done.stdout.strip() and (done.returncode or "tests.audit" in command):
        print(done.stdout.rstrip(), flush=True)
    return done.returncode, took


def environment() -> dict[str, str]:
    # Processes share the processors: threads that spin while they wait for each other would take them from the next
    # one, and those that share out what one process computes gain nothing. The application that is driven shares its
    # work out, and so does the deep run.
    alone = {"OMP_WAIT_POLICY": "passive", "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    return {**os.environ, **alone, **({} if "--deep" in sys.argv else {"WARMGRAPHITE_CORES": "1"})}


def main(words: list[str]) -> int:
    env = environment()
    compiling = subprocess.Popen([sys.executable, "-m", "warmgraphite.kernels"], cwd=ROOT, env=env)
    named = [w for w in words if w not in ("--deep",)]
    if named:  # something in particular
        compiling.wait()
        return subprocess.run([sys.executable, "-m", "pytest", *words], cwd=ROOT, env=env).returncode
    began = time.monotonic()
    # The generated types are read by several checks.
    subprocess.run(
        [shutil.which("npm") or "npm", "--prefix", "web", "run", "types", "--silent"],
        cwd=ROOT,
        env=env,
        stdout=subprocess.DEVNULL,
    )
    with tempfile.TemporaryFile("w+") as out, ThreadPoolExecutor(1) as beside:
        looked = beside.submit(lambda: [run(check, env)[0] for check in checks()])
        # What a browser waits for goes by what a person would wait, and not by a compiler.
        status = [compiling.wait()]
        # One process is with the browser, for which it mostly waits; the others have the processors.
        spread = ["-n", str((os.cpu_count() or 1) + 1), "--dist", "loadscope"]
        command = [sys.executable, "-m", "pytest", *spread, *words, "tests"]
        status.append(subprocess.run(command, cwd=ROOT, env=env, stdout=out, stderr=subprocess.STDOUT).returncode)
        status += looked.result()
        out.seek(0)
        print(out.read().rstrip(), flush=True)
    if out_of_date():
        print(
            "The pictures that come with the samples were drawn before the last change of what draws them; ./run shots "
            "renews them."
        )
    print(f"{time.monotonic() - began:4.0f} s in all", flush=True)
    return next((s for s in status if s), 0)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
