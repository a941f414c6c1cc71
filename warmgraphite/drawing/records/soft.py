"""What discs and painted masks show: nothing is kept of it, it is put together where it is asked for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.needs import Need
from warmgraphite.progress import Progress
from warmgraphite.regions.painted import KeptMasks
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of
from warmgraphite.regions.soft import Reach, Round, Soft, hard_parts, mask_of, reach_of, window_names
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.windows import Disc

__all__ = ["REACH"]


@dataclass(frozen=True)
class _Windows:
    """The discs and masks that are meant, and which of those masks are kept here."""

    words: Any
    said: tuple[Any, ...]
    there: tuple[bool, ...]
    middle: tuple[float, float]
    where: Query = held()
    view: ViewSpecification = held()
    masks: KeptMasks | None = held()


def _reads(spec: DrawingSpec, where: Query | None) -> _Windows:
    assert where is not None
    windows = [w for name in sorted(window_names(where)) for w in spec.view.windows(name)]
    said = tuple(w.model_dump(mode="json", exclude={"id"}) for w in windows)
    masks = spec.masks
    # A mask that is not kept here shows nothing, until it is.
    there = tuple(isinstance(w, Disc) or not w.tiles or masks is None or masks.has(w.tiles) for w in windows)
    return _Windows(read_of(where, spec.model), said, there, spec.middle, where, spec.view, masks)


def _compute(read: _Windows, given: Given, _progress: Progress) -> Reach:
    def windows(name: str) -> list[Soft]:
        found: list[Soft] = []
        for window in read.view.windows(name):
            if isinstance(window, Disc):
                disc = Round.of(window, given["paper"].projection, read.middle)
                found += [disc] if disc else []
            elif read.masks is not None:
                found.append(mask_of(read.masks.painted(window.tiles), read.middle))
        return found

    return reach_of(read.where, windows, lambda part: given[Need("room", part)].shape)


REACH = Pass(
    name="reach",
    of_where=True,
    stage="Laying windows",
    weight=0.01,
    reads=_reads,
    compute=_compute,
    unpack=lambda a: a,  # never kept
    needs=lambda _s, where: ("paper", *(Need("room", p) for p in hard_parts(where))),
    light=True,
)
