"""A plate: one view with all that is computed of it, as its traces take it to draw themselves."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from glob import escape
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.grain import PaperGrid
from warmgraphite.ink.along import along, rounds, runs_on
from warmgraphite.ink.assign import chosen_parts
from warmgraphite.ink.confine import Confine, confined
from warmgraphite.ink.rules import Ink, PenRule
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.work import InkRow, Work, line_work_of
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.passes.light import Light
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.surface import Raster, Surface
from warmgraphite.regions.query import All, Match, Not, Query
from warmgraphite.regions.reading import of_parts
from warmgraphite.results import Results
from warmgraphite.threads import AT_ONCE, in_threads
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import ViewSpecification

if TYPE_CHECKING:
    from warmgraphite.notes.lettering import Lettering
    from warmgraphite.notes.note import Note

__all__ = ["Plate"]

Window = tuple[int, int, int, int]


# Many methods: what traces ask of a drawing, a name each.
@dataclass(frozen=True)
class Plate:
    """One view, ready to be laid together.

    ``results`` are those of passes; ``raster`` are the pixels of the window that is drawn; ``ink`` is what it is drawn
    with.
    """

    projection: Projection
    raster: Raster
    model: Model
    results: Results
    ink: Ink
    #: Where the middle of the drawing lies on the paper, in millimetres.
    middle: tuple[float, float]
    view: ViewSpecification
    study_name: str
    #: The direction (3,) towards the sun.
    sun: NDArray[np.float64]
    #: What is written on it, and how: a matter of whoever writes.
    notes: tuple[Note, ...]
    lettering: Lettering
    #: The tiles of which what has pixels is put together: each window, x, y, width and height in pixels, and its plate.
    tiles: Callable[[], Iterator[tuple[Window, Plate]]] | None = None
    #: Where a face of one's own is kept, by its digest.
    kept_face: Callable[[str], str | None] = lambda _digest: None
    #: Whether what is inked of each layer of the model is drawn in a group of its own.
    by_layers: bool = False

    def key(self, wanted: Need) -> str:
        """The name of a result."""
        return self.results.key(wanted)

    def with_results(self, needs: Iterable[Need]) -> Plate:
        """This plate with the results of these passes, and with no others.
        They are got now; of what is put together of tiles, those that have pixels are got with each tile.
        """
        needs, tiles = tuple(needs), self.tiles
        found = replace(self, results=self.results.only(needs, flat=tiles is not None))
        return found if tiles is None else found.in_tiles(lambda: ((w, p.with_results(needs)) for w, p in tiles()))

    @property
    def view_name(self) -> str:
        """What the view is called."""
        return self.view.name

    def in_tiles(self, tiles: Callable[[], Iterator[tuple[Window, Plate]]]) -> Plate:
        """This plate, put together of tiles where it has pixels."""
        return replace(self, tiles=tiles)

    def without_notes(self) -> Plate:
        """This plate with nothing written on it."""
        return replace(self, notes=())

    def apart(self, where: Query | None) -> Iterator[tuple[str, Query]]:
        """Each layer of the model with what of its parts a query of parts means, where they are drawn apart."""
        layers = sorted({p.layer for p in self.model.parts if not p.absent})
        for name in layers:
            # A layer called so means those within it, too; drawn apart, it is its own parts.
            own: Query = Match(layers=(name,)) if name else Not(of=Match(layers=("?*",)))
            if name and any(other.startswith(name + "/") for other in layers):
                own = All(of=(own, Not(of=Match(layers=(escape(name) + "/*",)))))
            yield name or "No layer", own if where is None else All(of=(own, where))

    def painted(self, paint: Callable[[Plate], NDArray[np.uint8]]) -> NDArray[np.uint8]:
        """(h, w, 4) what ``paint`` makes of this plate, or of its tiles, several at once."""
        if self.tiles is None:
            return paint(self)
        out = np.empty((self.raster.height, self.raster.width, 4), np.uint8)
        tiles: list[tuple[Window, Plate] | None] = list(self.tiles())

        def lay(number: int) -> None:
            found, tiles[number] = tiles[number], None  # what it holds of passes goes with it
            assert found is not None
            (x, y, width, height), tile = found
            left, top = x - tile.raster.x, y - tile.raster.y
            out[y : y + height, x : x + width] = paint(tile)[top : top + height, left : left + width]

        in_threads(lay, range(len(tiles)), at_once=AT_ONCE)
        return out

    @property
    def frame(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.projection.width, self.projection.height

    @property
    def place(self) -> tuple[float, float, float, float]:
        """Where the window lies in the frame: x, y, width, height in millimetres."""
        raster = self.raster
        across, down = self.frame[0] / raster.size[0], self.frame[1] / raster.size[1]
        return raster.x * across, raster.y * down, raster.width * across, raster.height * down

    @property
    def ground(self) -> PaperGrid:
        """Where the pixels lie on the paper."""
        return PaperGrid(self.raster, self.frame, self.middle)

    def of(self, name: str, where: Query | None = None) -> Any:
        """The result of a pass, of all or of what a query means."""
        return self.results[Need(name, where)]

    @property
    def surface(self) -> Surface:
        """What each pixel sees."""
        return self.of("surface")  # type: ignore[no-any-return]

    @property
    def light(self) -> Light:
        """Shadow and shade."""
        return self.of("light")  # type: ignore[no-any-return]

    @property
    def lines(self) -> LineSet:
        """The lines of the drawing, without seams."""
        return self.of("lines").drawn  # type: ignore[no-any-return]

    def strokes(self, where: Query | None = None) -> list[Strokes]:
        """The strokes of all pens before a hand draws them, or of what of the lines a query means.
        Round what a rule goes round, over all others.
        """
        if where is not None and not of_parts(where):
            return confined(self.strokes(), self.of("room", where))
        return [*self.of("strokes", where).work(), *(self.rounds() if where is None else ())]

    def rounds(self) -> list[Strokes]:
        """The strokes of rules that draw along outlines."""
        return rounds(self.ink.pens, self.ink.times(self.projection.scale), self.results.__getitem__, self.model)

    def along(self, rule: PenRule) -> list[NDArray[np.float64]]:
        """What a rule draws along: polylines (n, 2) in frame millimetres."""
        return along(rule, self.results.__getitem__, self.model)

    def run_on(self) -> Iterator[InkRow]:
        """Base lines run on to the frame."""
        return runs_on(
            self.ink.pens, self.ink.times(self.projection.scale), self.results.__getitem__, self.model, self.frame[0]
        )

    def penned(self, where: Query | None = None) -> Iterator[InkRow]:
        """The strokes as the hand draws them."""
        if where is not None and not of_parts(where):
            yield from self.by_hand(self.strokes(where))
            return
        yield from self.of("penned", where)

    def by_hand(self, work: Sequence[Strokes]) -> Work:
        """Strokes as the drawing's hand draws them."""
        return line_work_of(work, self.ink.hand, self.middle)

    def parts_in(self, where: Query | None) -> NDArray[np.bool_]:
        """(P,) the parts that a query means; all where it is none of parts alone."""
        return chosen_parts(self.model, where)

    def room(self, where: Query | None) -> Confine | None:
        """What lines are confined to where what they belong to does not say it."""
        return None if where is None or of_parts(where) else self.of("room", where)
