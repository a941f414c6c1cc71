"""Reading a received file in a process of its own: it may run out of time or memory, or crash, and harm nothing else.

    python -m warmgraphite.model.apart FILE OUT

writes the model as read to OUT and tells its stages, and at the end what it found, as lines of JSON.
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
from pathlib import Path
from typing import Any

from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.model.gathering import Stages, unwatched
from warmgraphite.model.read import FORMATS, FileModel, read_model_file
from warmgraphite.model.store import load_model, save_model

__all__ = ["read_apart", "read_here", "sized"]

SECONDS, MEGABYTES = 120, 4096


def read_apart(
    path: Path, out: Path, watch: Stages = unwatched, *, seconds: int = SECONDS, megabytes: int = MEGABYTES, quiet: bool = False
) -> dict[str, Any]:
    """Read ``path`` in another process and keep the model as read at ``out``; returns what was found, as JSON.

    Raises :class:`ModelFileError` with one sentence for a bad file, one that takes longer than ``seconds`` of computing
    or more than ``megabytes`` of memory, and one that the libraries crash on. Whatever ``watch`` raises ends the reading.
    What the libraries say of it goes to standard error, unless it is to be ``quiet``.
    """
    root = Path(__file__).resolve().parents[2]
    path, out = path.resolve(), out.resolve()

    def limit() -> None:
        resource.setrlimit(resource.RLIMIT_AS, (megabytes << 20, megabytes << 20))
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 5))

    # What it unpacks goes with the reading, however that ends.
    room = tempfile.mkdtemp(prefix=".reading-", dir=out.parent)
    process = subprocess.Popen(
        [sys.executable, "-m", "warmgraphite.model.apart", str(path), str(out)],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL if quiet else None, cwd=root, preexec_fn=limit,
        env={**os.environ, "PYTHONPATH": str(root), "OMP_NUM_THREADS": "2", "OPENBLAS_NUM_THREADS": "2", "TMPDIR": room},
    )  # fmt: skip
    too_much = f"{path.name} needs more than {megabytes} MB or {seconds} s to read; leave out what the drawing does not need."
    answer: dict[str, Any] = {}
    try:
        for row in _rows(process, time.monotonic() + seconds * 1.5, watch):
            if "stage" in row:
                watch(str(row["stage"]), float(row["fraction"]))
            else:
                answer = row
        process.wait(5)  # it has said all, and goes by itself
    except (TimeoutError, subprocess.TimeoutExpired):
        raise ModelFileError(too_much) from None
    finally:
        if process.poll() is None:
            process.kill()
        process.wait()
        if process.stdout:
            process.stdout.close()
        shutil.rmtree(room, ignore_errors=True)
    if "error" in answer:
        raise ModelFileError(str(answer["error"]))
    if "size" not in answer:
        if process.returncode in (-signal.SIGSEGV, -signal.SIGABRT, -signal.SIGBUS, -signal.SIGFPE, -signal.SIGILL):
            raise ModelFileError(f"{path.name} cannot be read: it is damaged, or larger than can be held; export it again.")
        raise ModelFileError(too_much)
    return answer


def _rows(process: subprocess.Popen, until: float, watch: Stages) -> Any:
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


def sized(found: FileModel) -> dict[str, Any]:
    """What is told of a model that was read: format, units and why, size in file units, counts, notes."""
    model = found.model
    return {
        "name": model.name,
        "format": FORMATS[found.format],
        "units": found.units,
        "up": found.up,
        "because": found.because,
        "notes": list(found.notes),
        "size": (model.bounds[1] - model.bounds[0]).tolist(),
        "middle": model.bounds.mean(0).tolist(),
        "parts": len(model.parts),
        "triangles": len(model.triangles),
        "materials": len(model.materials),
        "textures": len(model.textures),
        "rooms": len(model.rooms),
    }


def read_here(path: Path, out: Path, tell: Stages) -> dict[str, Any]:
    """Read ``path`` in this process, keep it at ``out``; returns what was found, or ``{"error": sentence}``."""
    try:
        found = read_model_file(path, tell)
        save_model(found.model, out)
        return sized(found)
    except GraphiteError as error:
        return {"error": str(error)}
    except MemoryError:
        return {"error": f"{path.name} needs more memory than is allowed; leave out what the drawing does not need."}
    except RecursionError:
        return {"error": f"{path.name} is nested deeper than any building; export the model again."}
    except Exception as error:  # whatever a damaged file makes of a library, one sentence comes of it
        print(f"{path.name}: {type(error).__name__}: {error}", file=sys.stderr)
        return {"error": f"{path.name} cannot be read: it is damaged, or made in a way that we do not know; export it again."}


def read_fresh(path: Path, folder: Path, units: str | None = None, up: str | None = None) -> Any:
    """The model of a file in metres, read apart, with ``folder`` to work in."""
    out = folder / "as-read.npz"
    found = read_apart(path, out, quiet=not os.environ.get("WARMGRAPHITE_TRACE"))
    return FileModel(load_model(out), "", found["units"], found["up"], "").in_metres(units, up)  # type: ignore[arg-type]


def main() -> None:
    """See the module's docstring."""
    # Libraries in other languages write to standard output as they please; the lines of JSON go their own way.
    lines = os.fdopen(os.dup(1), "w", buffering=1)
    os.dup2(2, 1)
    last = [0.0]

    def tell(stage: str, fraction: float) -> None:
        if time.monotonic() - last[0] > 0.05:
            last[0] = time.monotonic()
            lines.write(json.dumps({"stage": stage, "fraction": fraction}) + "\n")

    answer = read_here(Path(sys.argv[1]), Path(sys.argv[2]), tell)
    lines.write(json.dumps(answer) + "\n")
    lines.close()
    os._exit(0)  # nothing is left to clean up, and crashing on the way out would be taken for a damaged file


if __name__ == "__main__":
    main()
