"""Taking bodies of one's own in: a GLB from anywhere as a plain one, and a picture of it.

    python -m warmgraphite.sheet.body_intake FILE OUT NAME

writes the picture to OUT as PNG and the body beside it, and tells what was found as a line of JSON.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from warmgraphite.errors import PictureError
from warmgraphite.figures.bodies import body_taken, digest_of, read_body
from warmgraphite.figures.kinds.body import Body
from warmgraphite.model.glb import write_glb
from warmgraphite.model.model import Model
from warmgraphite.progress import Stages
from warmgraphite.sandbox import answer_sandboxed
from warmgraphite.sheet.figure_sample import figure_sample

#: Pixels of a side of its picture.
PIXELS = 600


class _Drafted:
    """The one body that is being taken in."""

    def __init__(self, model: Model) -> None:
        self.model = model

    def has(self, _digest: str) -> bool:
        return True

    def pixels(self, _digest: str) -> None:
        return None

    def lines(self, _digest: str) -> None:
        return None

    def body(self, _digest: str) -> Model:
        return self.model


def _take(source: Path, out: Path, name: str, tell: Stages) -> dict[str, Any]:
    try:
        model, notes = body_taken(source, name, tell)
        file = out.with_suffix(".glb")
        write_glb(model, file)
        kept = read_body(file)
        if kept is None:
            raise PictureError(f"“{name}” cannot be kept as GLB; export it again, with fewer materials or pictures.")
    except PictureError as error:
        return {"error": str(error)}
    tell("Drawing it", 0.8)
    tall = float(kept.bounds[1, 2])
    out.write_bytes(figure_sample(Body(picture="draft", height=max(tall, 0.005)), PIXELS, _Drafted(kept)))
    return {"digest": digest_of(kept), "kind": "GLB", "notes": notes, "width": PIXELS, "height": PIXELS}


def main() -> None:
    """Take a file in; what was wrong with it is said in the answer."""
    answer_sandboxed(lambda tell: _take(Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3], tell))


if __name__ == "__main__":
    main()
