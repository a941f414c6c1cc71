"""The page: a plate with its traces laid together, and the notes beside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.pixels import ORDER
from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.stack import Layer, layers
from warmgraphite.collage.trace import PixelTrace, Trace
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.leaf import Sheet as Laid
from warmgraphite.progress import Progress, silent
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.sheet.notes import Inks, draw_notes, inks_for
from warmgraphite.sheet.specification import Sheet

__all__ = ["draw_page", "page_leaf", "page_sheets"]


def page_sheets(
    plate: Plate, traces: Sequence[Trace], sheet: Sheet, *, paper: bool = True, merged: bool = False
) -> Iterator[Laid]:
    """What lies on each other, from the lowest up: every trace that is on, and the notes.
    ``paper`` False leaves papers out; where the tones that lie beneath all lines are ``merged``, they are one picture.
    """
    laid = list(layers(plate, traces, sheet.margin, paper=paper))
    changed = max((k for k, layer in enumerate(laid) if layer.adjusts), default=-1)
    while merged and changed + 1 < len(laid) and _is_tone(laid[changed + 1]):
        changed += 1
    if changed >= 0:
        # Documents know no sheet that changes what lies beneath it: up to there the picture is laid flat, lines and
        # all.
        beneath = laid[: changed + 1]

        def flat(canvas: Canvas) -> None:
            pixels, _ = laid_flat(plate, beneath, plate.raster.size)
            canvas.image(np.ascontiguousarray(pixels[..., [*ORDER, 3]]), 0, 0, *plate.frame)

        yield Laid(f"Beneath {laid[changed].name}", 1.0, "normal", flat)
    for layer in laid[changed + 1 :]:
        yield Laid(layer.name, layer.trace.opacity, layer.blend, layer.draw)
    yield Laid("Notes", 1.0, "normal", lambda canvas: draw_notes(canvas, plate, sheet, _inks(traces, paper)))


def _inks(traces: Sequence[Trace], paper: bool) -> Inks:
    """What is read on the sheet; without its paper what lies behind words is white."""
    found = inks_for(traces)
    return found if paper else replace(found, paper="#ffffff")


def _is_tone(layer: Layer) -> bool:
    """Whether a layer is a picture in a document, too."""
    trace = layer.trace
    return isinstance(trace, PixelTrace) and not layer.over and (trace.flat(layer.plate) is None or bool(layer.changes))


def draw_page(
    canvas: Canvas, plate: Plate, traces: Sequence[Trace], sheet: Sheet, *, paper: bool = True, merged: bool = False,
    watch: Progress = silent,
) -> None:  # fmt: skip
    """The whole picture: every trace that is on, and the notes.
    ``watch`` is told the share that is drawn, and may raise to stop.
    """
    rows = list(page_sheets(plate, traces, sheet, paper=paper, merged=merged))
    for number, row in enumerate(rows):
        watch(number / len(rows))
        with canvas.group(row.name, row.opacity, row.blend):
            row.draw(canvas)


def page_leaf(
    plate: Plate,
    traces: Sequence[Trace],
    sheet: Sheet,
    *,
    paper: bool = True,
    merged: bool = False,
    watch: Progress = silent,
) -> Leaf:
    """A plate with its traces and its sheet, as a page that is written."""

    def pixels(size: tuple[int, int]) -> NDArray[np.uint8]:
        found, canvas = laid_flat(plate, list(layers(plate, traces, sheet.margin, paper=paper)), size, watch)
        draw_notes(canvas, plate, sheet, _inks(traces, paper))
        return found

    def sheets() -> Iterator[Laid]:
        rows = list(page_sheets(plate, traces, sheet, paper=paper))
        for number, row in enumerate(rows):
            watch(number / len(rows))
            yield row

    draw = lambda canvas: draw_page(canvas, plate, traces, sheet, paper=paper, merged=merged, watch=watch)
    return Leaf(plate.frame, draw, pixels, sheets)
