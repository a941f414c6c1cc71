"""The page: a plate with its traces laid together, and the notes beside it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from warmgraphite.canvas.pixels import ORDER
from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.stack import draw_layers, layers
from warmgraphite.collage.trace import Trace
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.sheet.notes import draw_notes, inks_for
from warmgraphite.sheet.specification import Sheet

__all__ = ["draw_page"]


def draw_page(canvas: Canvas, plate: Plate, traces: Sequence[Trace], sheet: Sheet, *, paper: bool = True) -> None:
    """The whole picture: every trace that is on, and the notes. ``paper`` False leaves papers out."""
    laid = list(layers(plate, traces, sheet.margin, paper=paper))
    changed = max((k for k, layer in enumerate(laid) if layer.adjusts), default=-1)
    if changed >= 0:
        # Documents know no sheet that changes what lies beneath it: up to there the picture is laid flat, lines and all.
        pixels, _ = laid_flat(plate, laid[: changed + 1], plate.raster.size)
        with canvas.group(f"Beneath {laid[changed].name}"):
            canvas.image(np.ascontiguousarray(pixels[..., [*ORDER, 3]]), 0, 0, *plate.frame)
    draw_layers(canvas, laid[changed + 1 :])
    with canvas.group("Notes"):
        draw_notes(canvas, plate, sheet, inks_for(traces))
