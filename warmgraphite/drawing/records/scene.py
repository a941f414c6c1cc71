"""The bodies as planes leave them, and the same in their frame: what passes are computed with."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import Framed, Shown, held
from warmgraphite.drawing.specification import PINNED, WHOLE, DrawingSpec
from warmgraphite.errors import ViewError
from warmgraphite.needs import Need
from warmgraphite.passes.packing import digest
from warmgraphite.progress import Progress
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Remainder, Scene, remainder_of, scene_of

__all__ = ["REMAINDER", "SCENE"]

_THERE, _LOOKED_AT = Need("remainder", None, WHOLE), Need("scene", None, WHOLE)
_FRAME = Need("paper", None, PINNED)


@dataclass(frozen=True)
class _Chosen:
    """The parts (P,) of a drawing that are seen alone."""

    shown: Shown
    parts: NDArray[np.bool_] = held()


def _remainder(read: Shown | _Chosen, given: Given, _progress: Progress) -> Remainder:
    if isinstance(read, _Chosen):
        found: Remainder = given[_THERE]
        return found.only(read.parts)
    if read.problem:
        raise ViewError(read.problem)
    return remainder_of(read.bodies, read.cuts, read.shown, read.uncut)


REMAINDER = Pass(
    name="remainder",
    stage="Taking away what planes cut off",
    weight=0.02,
    reads=lambda s, _: _Chosen(s.sight.shown, s.chosen) if s.whole else s.sight.shown,
    compute=_remainder,
    needs=lambda s, _: (_THERE,) if s.whole else (),
    tool=True,
)


@dataclass(frozen=True)
class _Framed:
    framed: Framed
    #: The frame of something else that it has.
    pinned: str
    projection: Projection | None = held()


def _framed(spec: DrawingSpec, _where: Any) -> _Framed | _Chosen:
    if spec.whole:
        return _Chosen(spec.sight.shown, spec.chosen)
    pinned = spec.pinned
    if isinstance(pinned, Projection):
        return _Framed(spec.sight.framed, digest(pinned.matrix, np.array([pinned.width, pinned.height])), pinned)
    return _Framed(spec.sight.framed, "a drawing's" if pinned else "", None)


def _scene_needs(spec: DrawingSpec, _where: Any) -> Iterable[str | Need]:
    if spec.whole:
        return (_LOOKED_AT,)
    return ("remainder", _FRAME) if isinstance(spec.pinned, DrawingSpec) else ("remainder",)


def _scene(read: _Framed | _Chosen, given: Given, _progress: Progress) -> Scene:
    if isinstance(read, _Chosen):
        found: Scene = given[_LOOKED_AT]
        return found.only(read.parts)
    projection = given[_FRAME].projection if read.pinned == "a drawing's" else read.projection
    return scene_of(given["remainder"], read.framed.projection, read.framed.frame, projection)


SCENE = Pass(
    name="scene",
    stage="Setting up the view",
    weight=0.02,
    reads=_framed,
    compute=_scene,
    needs=_scene_needs,
    tool=True,
)
