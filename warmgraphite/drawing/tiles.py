"""A drawing of any size in tiles.
What has pixels is computed window by window and kept on disk, so that room is asked for one window at a time; what has
none is computed once.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing.drawing import Drawing, needs_of
from warmgraphite.drawing.specification import Window
from warmgraphite.ink.rules import Ink
from warmgraphite.needs import Need, need
from warmgraphite.notes.note import Note
from warmgraphite.passes.store import PassStore
from warmgraphite.threads import AT_ONCE, in_threads

__all__ = ["MARGIN", "SIDE", "TiledDrawing", "tiles_of"]

#: Pixels of a tile's side, and around it: more than any pass looks to its sides, and a multiple of what patterns repeat
#: in.
SIDE, MARGIN = 1024, 16


def tiles_of(size: tuple[int, int], side: int = SIDE) -> Iterator[Window]:
    """Windows x, y, width, height of about ``side`` pixels that fill ``size`` = (width, height) without overlap."""
    across, down = (max(1, math.ceil(length / side)) for length in size)
    for row in range(down):
        top, bottom = size[1] * row // down, size[1] * (row + 1) // down
        for column in range(across):
            left, right = size[0] * column // across, size[0] * (column + 1) // across
            yield left, top, right - left, bottom - top


def _widened(window: Window, size: tuple[int, int]) -> Window:
    """The window with its margin, beginning where patterns begin anew."""
    x, y, width, height = window
    left, top = (max(at - MARGIN, 0) // MARGIN * MARGIN for at in (x, y))
    right, bottom = min(x + width + MARGIN, size[0]), min(y + height + MARGIN, size[1])
    return left, top, right - left, bottom - top


class TiledDrawing:
    """The tiles of a ``drawing``; what they hold is kept in ``folder``, apart from what is kept for the desk."""

    def __init__(self, drawing: Drawing, folder: Path, windows: Iterable[Window] | None = None) -> None:
        self.drawing, self.store = drawing, PassStore(folder, limit=1 << 60)
        self.windows = tuple(tiles_of(drawing.size) if windows is None else windows)
        self._keys: dict[Window, dict[Need, str]] = {w: {} for w in self.windows}

    def _tile(self, window: Window) -> Drawing:
        tile = self.drawing.windowed(_widened(window, self.drawing.size), self.store)
        tile.knowing(self._keys[window])
        return tile

    def compute_picture(
        self,
        traces: Sequence[Trace],
        ink: Ink,
        notes: Sequence[Note] = (),
        watch: Callable[[str, float], None] | None = None,
    ) -> None:
        """Make fresh what a picture shows, and nothing that is only there to be pointed at."""
        self.compute(needs_of(traces, ink, notes, always=("frame",), vectors=True), watch)

    def compute(self, wanted: Iterable[Need | str], watch: Callable[[str, float], None] | None = None) -> None:
        """Make passes fresh, those that have pixels tile by tile.
        ``watch`` is told the stage at work and the whole's progress.
        """
        tell = watch or (lambda _stage, _fraction: None)
        needs = [need(n) for n in wanted]
        deep = [n for n in needs if self.drawing.has_pixels(n)]
        # What those need that has no pixels is made once, too, and not by every tile that comes to it.
        flat = [n for n in self.drawing.in_order(needs) if not self.drawing.has_pixels(n)]
        self.drawing.compute(flat, lambda stage, f: tell(stage, 0.15 * f))
        for one in self._without_pixels(needs):
            self.drawing.result(one)  # held, though it was fresh: else every tile would read it again
        if deep:
            self._compute_tiles(deep, lambda stage, f: tell(stage, 0.15 + 0.85 * f))
        self.drawing.rest()
        tell("", 1.0)

    def _without_pixels(self, needs: Iterable[Need]) -> Iterator[Need]:
        """What of the needs, and of what they need, has no pixels."""
        for one in needs:
            if not self.drawing.has_pixels(one):
                if (
                    one.of is not None or not self.drawing.record(one.name).tool
                ):  # that is made where something is computed
                    yield one
            elif one.of is None:
                yield from self._without_pixels(self.drawing.needed(one))

    def _compute_tiles(self, needs: Sequence[Need], tell: Callable[[str, float], None]) -> None:
        """Make passes that have pixels fresh, on several tiles at once."""
        stages, seconds, told = [""], self.drawing.seconds, threading.Lock()
        # Only this thread tells how far it is: whoever watches may have what belongs to it alone, and raises to stop
        # here.
        alone = tell if len(self.windows) == 1 else lambda stage, _fraction: stages.__setitem__(0, stage)

        def work(number: int) -> None:
            tile = self._tile(self.windows[number])
            tile.compute(needs, alone)
            with told:
                for name, spent in tile.seconds.items():
                    seconds[name] = seconds.get(name, 0.0) + spent

        in_threads(work, range(len(self.windows)), lambda share: tell(stages[0], share), AT_ONCE)

    def plates(self, study_name: str = "") -> Iterator[tuple[Window, Plate]]:
        """Each window with the plate that draws it."""
        for window in self.windows:
            yield window, self._tile(window).plate(study_name)

    def plate(self, study_name: str = "") -> Plate:
        """The plate of the whole: what a trace has of pixels is put together of tiles as it is drawn."""
        plate = self.drawing.plate(study_name)
        return plate.in_tiles(lambda: self.plates(study_name))
