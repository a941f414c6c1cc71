"""The page: a plate with its traces laid together, and the notes beside it."""

from __future__ import annotations

from collections.abc import Sequence

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.stack import draw_stack
from warmgraphite.collage.trace import Trace
from warmgraphite.sheet.notes import draw_notes, inks_for
from warmgraphite.sheet.specification import Sheet

__all__ = ["draw_page"]


def draw_page(canvas: Canvas, plate: Plate, traces: Sequence[Trace], sheet: Sheet, *, paper: bool = True) -> None:
    """The whole picture: every trace that is on, and the notes. ``paper`` False leaves papers out."""
    draw_stack(canvas, plate, traces, sheet.margin, paper=paper)
    with canvas.group("Notes"):
        draw_notes(canvas, sheet, plate.projection, plate.view_name, plate.study_name, inks_for(traces))
