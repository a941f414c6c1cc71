"""Poche: what is cut, filled by the rules of the finish."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.canvas.protocol import Canvas, Ring
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, draw_rows, grained
from warmgraphite.ink.fills import Flat
from warmgraphite.ink.poche import confined_shape, hatched_shape
from warmgraphite.ink.work import hatch_work
from warmgraphite.needs import Need
from warmgraphite.regions.reading import of_parts


class PocheTrace(Trace):
    label: ClassVar[str] = "Poche"
    about: ClassVar[str] = "What is cut, with its fills. They are chosen at the Ink bench."

    kind: Literal["poche"] = "poche"

    def needs(self) -> tuple[Need, ...]:
        if self.where is None or of_parts(self.where):
            return (Need("poche", self.where),)
        return (Need("poche"), Need("room", self.where))

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        room = plate.room(self.where)
        with grained(canvas, plate):
            for filled in plate.of("poche", self.where if room is None else None):
                shape, work = filled.shape, filled.work
                if room is not None:
                    shape = confined_shape(shape, room.shape)
                    work = hatch_work(hatched_shape(shape, filled.fills, plate.projection, plate.middle), plate.ink.hand)
                with canvas.group(f"poche {shape.material}"):
                    for fill in filled.fills:
                        if isinstance(fill, Flat):
                            _fill(canvas, shape.rings, fill.colour, fill.opacity)
                    draw_rows(canvas, work)


def _fill(canvas: Canvas, rings: list[Ring], colour: str, opacity: float) -> None:
    if opacity == 1:
        canvas.fill(rings, colour)
        return
    with canvas.group("fill", opacity):
        canvas.fill(rings, colour)
