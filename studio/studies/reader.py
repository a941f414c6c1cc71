"""The process that reads one received model: it may run out of time or memory without harm to anything else."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from warmgraphite.errors import GraphiteError
from warmgraphite.model.read import read_model_file
from warmgraphite.model.store import save_model

__all__ = ["main"]


def main() -> None:
    """Read ``folder/name``, keep the model as read beside it, and print what was found as JSON."""
    folder, name = Path(sys.argv[1]), sys.argv[2]
    try:
        found = read_model_file(folder / name)
        save_model(found.model, folder / "as-read.npz")
        size = (found.model.bounds[1] - found.model.bounds[0]).tolist()
        answer = {
            "name": Path(name).stem,
            "format": found.format,
            "units": found.units,
            "up": found.up,
            "because": found.because,
            "size": size,
            "parts": len(found.model.parts),
            "triangles": len(found.model.triangles),
            "materials": len(found.model.materials),
        }
    except GraphiteError as error:
        answer = {"error": str(error)}
    except MemoryError:
        answer = {"error": f"{name} needs more memory than is allowed; leave out what the drawing does not need."}
    except RecursionError:
        answer = {"error": f"{name} is nested deeper than any building; export the model again."}
    print(json.dumps(answer))


if __name__ == "__main__":
    main()
