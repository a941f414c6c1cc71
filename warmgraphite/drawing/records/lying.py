"""How textures lie on what is seen, for each way in which they may be turned."""

from __future__ import annotations

from warmgraphite.collage.lying import Lies, lies_of
from warmgraphite.drawing.graph import Pass
from warmgraphite.drawing.inputs import Nothing

__all__ = ["LIES", "LIES_ALONG", "LIES_TO_VIEWER"]


def _lies(name: str, turned: str) -> Pass[Nothing, Lies]:
    return Pass(
        name=name,
        stage="Laying faces flat",
        weight=0.1,
        reads=lambda _s, _: Nothing(),
        compute=lambda _read, given, progress: lies_of(
            given["scene"], given["hiders"], given["surface"], turned, progress
        ),
        unpack=lambda a: Lies(**a),
        needs=lambda _s, _: ("surface", "scene", "hiders"),
        pixels=True,
    )


LIES = _lies("lies", "")
LIES_ALONG = _lies("lies along", "along")
LIES_TO_VIEWER = _lies("lies to the viewer", "viewer")
