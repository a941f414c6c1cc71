"""What discs and painted masks show: nothing is kept of it, it is put together where it is asked for."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from warmgraphite.drawing.graph import Pass
from warmgraphite.needs import Need
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of
from warmgraphite.regions.soft import Reach, Round, Soft, hard_parts, mask_of, reach_of, window_names
from warmgraphite.view.windows import Disc

if TYPE_CHECKING:
    from warmgraphite.drawing.drawing import Drawing

__all__ = ["REACH"]


def _reads(drawing: Drawing, where: Query | None) -> Any:
    assert where is not None
    windows = [w for name in sorted(window_names(where)) for w in drawing.view.windows(name)]
    said = [w.model_dump(mode="json", exclude={"id"}) for w in windows]
    # A mask that is not kept here shows nothing, until it is.
    there = [isinstance(w, Disc) or not w.tiles or drawing.masks is None or drawing.masks.has(w.tiles) for w in windows]
    return read_of(where, drawing.model), said, there, drawing.middle, drawing.sight.framed.projection, drawing.sight.framed.paper


def _compute(drawing: Drawing, where: Query | None, _progress: Progress) -> Reach:
    assert where is not None

    def windows(name: str) -> list[Soft]:
        found: list[Soft] = []
        for window in drawing.view.windows(name):
            if isinstance(window, Disc):
                disc = Round.of(window, drawing.paper, drawing.middle)
                found += [disc] if disc else []
            elif drawing.masks is not None:
                found.append(mask_of(drawing.masks.painted(window.tiles), drawing.middle))
        return found

    return reach_of(where, windows, lambda part: drawing.result(Need("room", part)).shape)


REACH = Pass(
    name="reach",
    of_where=True,
    stage="Laying windows",
    weight=0.01,
    reads=_reads,
    compute=_compute,
    unpack=lambda a: a,  # never kept
    needs=lambda _d, where: ("frame", *(Need("room", p) for p in hard_parts(where))),
    light=True,
)
