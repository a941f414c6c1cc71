"""The one walk over the traces of a plate, for the picture on the desk and for every export.

A layer's content is drawn at full strength. Opacity and blend mode are applied when it is laid down, so that whoever keeps
drawn layers can lay them together anew.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, Trace

__all__ = ["Layer", "draw_stack", "inside", "layers"]


@dataclass(frozen=True)
class Layer:
    """What one trace shows, or lays ``over`` all others; ``margin`` millimetres of bare paper stay around it."""

    plate: Plate
    trace: Trace
    margin: float
    over: bool = False

    @property
    def name(self) -> str:
        return f"{self.trace.name} over all" if self.over else self.trace.name

    @property
    def blend(self) -> str:
        return "multiply" if self.over else self.trace.blend

    @cached_property
    def key(self) -> str:
        """Names what it shows at full strength."""
        plate = self.plate
        return json.dumps([self.trace.shows(), [plate.key(n) for n in self.trace.needs()], plate.frame, self.margin, self.over])

    @property
    def has_pixels(self) -> bool:
        """Whether it is made of pixels, so that each window has its own."""
        return isinstance(self.trace, PixelTrace)

    def draw(self, canvas: Canvas) -> None:
        """Draw it at full strength."""
        if self.over:
            self.trace.draw_over(canvas, self.plate)
        elif self.trace.ground:
            self.trace.draw(canvas, self.plate)
        else:
            with canvas.clip(*inside(self.plate, self.margin)):
                self.trace.draw(canvas, self.plate)


def inside(plate: Plate, margin: float) -> tuple[float, float, float, float]:
    """Where the drawing lies on the sheet: x, y, width, height in millimetres."""
    width, height = plate.frame
    return margin, margin, max(width - 2 * margin, 1.0), max(height - 2 * margin, 1.0)


def layers(plate: Plate, traces: Sequence[Trace], margin: float, *, paper: bool = True) -> Iterator[Layer]:
    """Every trace that is on, from the lowest up, and what lies over them all. ``paper`` False leaves papers out."""
    laid = [t for t in traces if t.on and t.opacity > 0 and (paper or not t.ground)]
    yield from (Layer(plate, t, margin) for t in laid)
    yield from (Layer(plate, t, margin, over=True) for t in laid if t.lies_over())


def draw_stack(canvas: Canvas, plate: Plate, traces: Sequence[Trace], margin: float, *, paper: bool = True) -> None:
    """The whole picture but for its notes."""
    for layer in layers(plate, traces, margin, paper=paper):
        with canvas.group(layer.name, layer.trace.opacity, layer.blend):
            layer.draw(canvas)
