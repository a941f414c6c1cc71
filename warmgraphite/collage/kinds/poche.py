"""Poche: what is cut, filled by the rules of the finish."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, grained
from warmgraphite.ink.filled import draw_filled
from warmgraphite.needs import Need
from warmgraphite.regions.reading import of_parts


class PocheTrace(Trace):
    label: ClassVar[str] = "Poche"
    about: ClassVar[str] = "What is cut, with its fills. They are chosen at the Ink bench."

    kind: Literal["poche"] = "poche"

    def needs(self) -> tuple[Need, ...]:
        if self.where is None or of_parts(self.where):
            return (Need("ground"), Need("poche", self.where), Need("built", self.where))
        return (Need("ground"), Need("poche"), Need("built"), Need("room", self.where))

    def needs_on(self, plate: Plate) -> tuple[Need, ...]:
        if not plate.by_layers or not (self.where is None or of_parts(self.where)):
            return ()
        return tuple(Need(name, where) for _, where in plate.apart(self.where) for name in ("poche", "built"))

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        room = plate.room(self.where)
        with grained(canvas, plate):
            if plate.by_layers and room is None:
                for filled in plate.of("ground") if self.where is None else ():
                    draw_filled(canvas, filled)
                for name, where in plate.apart(self.where):
                    with canvas.group(f"layer {name}"):
                        for filled in (*plate.of("poche", where), *plate.of("built", where)):
                            draw_filled(canvas, filled)
                return
            own = self.where if room is None else None
            for filled in (
                *(plate.of("ground") if own is None else ()),
                *plate.of("poche", own),
                *plate.of("built", own),
            ):
                if room is not None:
                    filled = filled.within(room.shape, plate.projection, plate.ink.hand, plate.middle)
                draw_filled(canvas, filled)
