"""Hatches: faces seen, sky and ground beyond, filled by the rules of the finish."""

from __future__ import annotations

from contextlib import ExitStack
from typing import ClassVar, Literal

from warmgraphite.canvas.protocol import Canvas, Path
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace, grained
from warmgraphite.ink.along import ringed
from warmgraphite.ink.work import draw_rows
from warmgraphite.needs import Need


class HatchesTrace(Trace):
    label: ClassVar[str] = "Hatches"
    about: ClassVar[str] = "What is seen, with its fills and hatches. They are chosen at the Ink bench."

    kind: Literal["hatches"] = "hatches"

    def needs(self) -> tuple[Need, ...]:
        return (Need("hatched"), *((Need("room", self.where),) if self.where else ()))

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        found = plate.of("hatched")
        with ExitStack() as within:
            if self.where is not None:
                within.enter_context(canvas.clip_path(Path.of(ringed(plate.of("room", self.where).shape))))
            for flat in found.flats:
                with canvas.group("hatch flat", flat.opacity):
                    canvas.fill(flat.rings, flat.colour)
            within.enter_context(grained(canvas, plate))
            draw_rows(canvas, found.work)
