"""One writer per output format. Each draws the same plate on its own canvas and writes the file whole or not at all."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import pikepdf
import skia

from warmgraphite.canvas.pixels import SkiaCanvas
from warmgraphite.canvas.protocol import Canvas
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.specification import Trace
from warmgraphite.collage.stack import layers
from warmgraphite.errors import OutputError
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.sheet.notes import draw_notes, inks_for
from warmgraphite.sheet.page import draw_page
from warmgraphite.sheet.png import png_of
from warmgraphite.sheet.specification import Sheet
from warmgraphite.view.frame import refuse_pixels
from warmgraphite.whole import whole

__all__ = ["FORMATS", "MOST_WRITTEN", "Leaf", "pdf_of", "svg_of", "write_drawing", "write_whole"]

_POINTS = 72 / 25.4


@dataclass(frozen=True)
class Leaf:
    """One page that is written: its size in millimetres, and what draws it."""

    size: tuple[float, float]
    draw: Callable[[Canvas], None]


def pdf_of(leaves: Sequence[Leaf], title: str) -> bytes:
    """Pages as PDF, each of its true size."""
    stream = skia.DynamicMemoryWStream()
    about = skia.PDF.Metadata()
    about.fTitle = title
    about.fCreator = "Warm Graphite"
    document = skia.PDF.MakeDocument(stream, about)
    for leaf in leaves:
        width, height = leaf.size
        target = document.beginPage(width * _POINTS, height * _POINTS)
        target.scale(_POINTS, _POINTS)
        leaf.draw(SkiaCanvas(target, is_document=True))
        document.endPage()
    document.close()
    # The library rounds pages to whole points and measures from their top: set the true boxes.
    pdf = pikepdf.open(io.BytesIO(bytes(stream.detachAsData())))
    for page, leaf in zip(pdf.pages, leaves, strict=True):
        width, height = leaf.size
        top = float(page.mediabox[3])
        exact = [0, top - height * _POINTS, width * _POINTS, top]
        for name in ("/MediaBox", "/CropBox", "/TrimBox"):
            page[name] = pikepdf.Array([round(v, 4) for v in exact])
    out = io.BytesIO()
    pdf.save(out)
    return out.getvalue()


def svg_of(leaf: Leaf, title: str) -> bytes:
    """A page as SVG."""
    canvas = SvgCanvas(*leaf.size, title=title)
    leaf.draw(canvas)
    return canvas.document().encode()


def write_whole(path: Path, data: bytes) -> None:
    """Write a file whole or not at all. Raises :class:`OutputError` for a place that cannot be written to."""
    if not path.parent.is_dir():
        raise OutputError(f"{path} cannot be written (there is no folder {path.parent}); choose another place.")
    try:
        with whole(path) as draft:
            draft.write_bytes(data)
    except OSError as error:
        raise OutputError(f"{path} cannot be written ({error.strerror or error}); choose another place.") from error


def _png(plate: Plate, traces: Sequence[Trace], sheet: Sheet, paper: bool, resolution: float) -> bytes:
    """The picture, tile by tile where it has pixels."""
    width, height = plate.frame
    size = (max(1, round(width / 25.4 * resolution)), max(1, round(height / 25.4 * resolution)))
    refuse_pixels(*size, MOST_WRITTEN, resolution)
    laid = list(layers(plate, traces, sheet.margin, paper=paper))
    pixels, canvas = laid_flat(plate, laid, size)
    draw_notes(canvas, plate, sheet, inks_for(traces))
    return png_of(pixels, resolution)


FORMATS = ("pdf", "svg", "png")
#: Pixels of a picture that is written: A0 at 300 to the inch, and a little more.
MOST_WRITTEN = 150_000_000


def write_drawing(
    plate: Plate,
    traces: Sequence[Trace],
    sheet: Sheet,
    path: Path,
    *,
    paper: bool = True,
    resolution: float = 150,
) -> None:
    """Write the drawing in the format of the path's ending. ``resolution`` in pixels per inch is for PNG.

    Raises :class:`OutputError` for an unknown ending or a place that cannot be written to.
    """
    kind = path.suffix.lower().lstrip(".")
    title = f"{plate.study_name}: {sheet.title or plate.view_name}"
    leaf = Leaf(plate.frame, lambda canvas: draw_page(canvas, plate, traces, sheet, paper=paper))
    if kind == "pdf":
        data = pdf_of([leaf], title)
    elif kind == "svg":
        data = svg_of(leaf, title)
    elif kind == "png":
        data = _png(plate, traces, sheet, paper, resolution)
    else:
        raise OutputError(f"“{path.name}” must end in .pdf, .svg or .png, so that it is clear what to write.")
    write_whole(path, data)
