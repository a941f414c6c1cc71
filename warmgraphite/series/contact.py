"""The contact sheet: every drawing of a set small, with its letter and name, on as many pages as they need."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from PIL import Image

from warmgraphite.canvas.document import Document
from warmgraphite.canvas.lettering import measured
from warmgraphite.canvas.protocol import Canvas, Stroke
from warmgraphite.out.layering import Layering
from warmgraphite.out.write import write_whole
from warmgraphite.series.kept import KeptSet
from warmgraphite.series.plan import Item

__all__ = ["CONTACT_SHEET", "write_contact_sheet"]

CONTACT_SHEET = "Contact sheet.pdf"
#: Millimetres of the page (A3), of the paper around, between pictures, and below each for its name.
PAGE, AROUND, BETWEEN, BELOW, HEAD = (420.0, 297.0), 16.0, 9.0, 9.0, 16.0
_INK, _SOFT, _PAPER = "#2e2a27", "#6b635b", "#fbf8f1"
#: Pictures on a page at most.
MOST = 20


def write_contact_sheet(items: Sequence[Item], there: KeptSet, study: str) -> None:
    """Write the contact sheet of the drawings that are there as a PDF beside them."""
    shown = [i for i in items if there.has(i)]
    pages = [shown[k : k + MOST] for k in range(0, len(shown), MOST)] or [[]]
    document = Document(f"{study}: contact sheet", "Contact sheet")
    for number, rows in enumerate(pages):
        head = f"{number + 1} of {len(pages)}" if len(pages) > 1 else f"{len(shown)} drawings"
        document.page(PAGE, lambda canvas, rows=rows, head=head: _page(canvas, rows, there, study, head), Layering())  # type: ignore[misc]
    write_whole(there.folder / CONTACT_SHEET, document.bytes())


def _columns(count: int, room: tuple[float, float]) -> int:
    """In how many columns so many pictures, about three to two, are largest."""

    def side(columns: int) -> float:
        rows = math.ceil(count / columns)
        across = (room[0] - (columns - 1) * BETWEEN) / columns
        down = (room[1] - (rows - 1) * BETWEEN) / rows - BELOW
        return min(across, 1.5 * down)

    return max(range(1, max(count, 1) + 1), key=side)


def _page(canvas: Canvas, items: Sequence[Item], there: KeptSet, study: str, head: str) -> None:
    width, height = PAGE
    canvas.fill([np.array([(0, 0), (width, 0), (width, height), (0, height), (0, 0)], float)], _PAPER)
    canvas.text(AROUND, AROUND + 4, study, "serif", 7, _INK)
    canvas.text(width - AROUND, AROUND + 4, head, "sans", 4, _SOFT, "end")
    if not items:
        return
    room = (width - 2 * AROUND, height - 2 * AROUND - HEAD)
    columns = _columns(len(items), room)
    rows = math.ceil(len(items) / columns)
    across = (room[0] - (columns - 1) * BETWEEN) / columns
    down = (room[1] - (rows - 1) * BETWEEN) / rows - BELOW
    for number, item in enumerate(items):
        left = AROUND + (number % columns) * (across + BETWEEN)
        top = AROUND + HEAD + (number // columns) * (down + BELOW + BETWEEN)
        pixels = np.asarray(Image.open(there.small(item)).convert("RGBA"))
        scale = min(across / pixels.shape[1], down / pixels.shape[0])
        wide, high = pixels.shape[1] * scale, pixels.shape[0] * scale
        # All stand on one line, with their names below.
        y = top + down - high
        canvas.image(np.ascontiguousarray(pixels), left, y, wide, high)
        ring = np.array([(left, y), (left + wide, y), (left + wide, y + high), (left, y + high), (left, y)])
        canvas.stroke([ring], Stroke(0.13, _SOFT))
        said = f"{item.mark}  {item.name}".strip()
        while len(said) > 4 and measured(said, "sans", 3.6) > across:
            said = said[:-2].rstrip(" ,…") + "…"
        canvas.text(left, top + down + 5.2, said, "sans", 3.6, _INK)
