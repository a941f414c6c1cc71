"""Reading a received model in a process of its own.

    python -m warmgraphite.model.sandboxed FILE OUT

writes the model as read to OUT and tells its stages, and at the end what it found, as lines of JSON.
"""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import Any

from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.model.read import FORMATS, FileModel, read_model_file
from warmgraphite.model.store import load_model, save_model
from warmgraphite.progress import Stages, unwatched
from warmgraphite.sandbox import SandboxError, answer_sandboxed, run_sandboxed

__all__ = ["read_here", "read_sandboxed", "sized"]

SECONDS, MEGABYTES = 120, 4096


def read_sandboxed(
    path: Path,
    out: Path,
    watch: Stages = unwatched,
    *,
    seconds: int = SECONDS,
    megabytes: int = MEGABYTES,
    quiet: bool = False,
) -> dict[str, Any]:
    """Read ``path`` in another process and keep the model as read at ``out``; returns what was found, as JSON.

    Raises :class:`ModelFileError` with one sentence for a bad file, one that takes longer than ``seconds`` of computing
    or more than ``megabytes`` of memory, and one that the libraries crash on. Whatever ``watch`` raises ends the
    reading. What the libraries say of it goes to standard error, unless it is to be ``quiet``.
    """
    path, out = path.resolve(), out.resolve()
    try:
        answer = run_sandboxed(
            "warmgraphite.model.sandboxed",
            [str(path), str(out)],
            out.parent,
            watch,
            seconds=seconds,
            megabytes=megabytes,
            quiet=quiet,
        )
    except SandboxError as error:
        if error.crashed:
            raise ModelFileError(
                f"{path.name} cannot be read: it is damaged, or larger than can be held; export it again."
            ) from None
        raise ModelFileError(
            f"{path.name} needs more than {megabytes} MB or {seconds} s to read; leave out what the drawing does not "
            f"need."
        ) from None
    if "error" in answer:
        raise ModelFileError(str(answer["error"]))
    return answer


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
        return {
            "error": f"{path.name} cannot be read: it is damaged, or made in a way that we do not know; export it "
            f"again."
        }


def read_fresh(path: Path, folder: Path, units: str | None = None, up: str | None = None) -> Any:
    """The model of a file in metres, read apart, with ``folder`` to work in."""
    out = folder / "as-read.npz"
    found = read_sandboxed(path, out, quiet=not os.environ.get("WARMGRAPHITE_TRACE"))
    return FileModel(load_model(out), "", found["units"], found["up"], "").in_metres(units, up)  # type: ignore[arg-type]


def main() -> None:
    """See the module's docstring."""
    answer_sandboxed(lambda tell: read_here(Path(sys.argv[1]), Path(sys.argv[2]), tell))


if __name__ == "__main__":
    main()
