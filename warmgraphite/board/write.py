"""A board as a file: all its pages as PDF, one of them as SVG or PNG."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from pathlib import Path

from warmgraphite.board.drawn import OnBoard, draw_board_page
from warmgraphite.board.specification import Board
from warmgraphite.canvas.pixels import raster_on
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.errors import OutputError
from warmgraphite.sheet.png import png_of
from warmgraphite.sheet.write import MOST_WRITTEN, Leaf, pdf_of, svg_of, write_whole
from warmgraphite.view.frame import refuse_pixels

__all__ = ["write_board"]


def write_board(
    board: Board, drawings: Sequence[OnBoard], path: Path, *, study: str = "", page: int = 1, resolution: float = 150,
    kept: KeptPictures | None = None, date: datetime.date | None = None,
) -> None:  # fmt: skip
    """Write a board in the format of the path's ending. ``page`` is the one that SVG and PNG show; ``resolution`` in pixels per inch is for PNG.

    Raises :class:`OutputError` for an unknown ending, a page that there is not, or a place that cannot be written to.
    """
    if not 1 <= page <= board.pages:
        raise OutputError(
            f"“{board.name}” has {board.pages} {'page' if board.pages == 1 else 'pages'}, and none of number {page}."
        )
    size = (board.page.width, board.page.height)

    def leaf(number: int) -> Leaf:
        return Leaf(size, lambda canvas: draw_board_page(canvas, board, number, drawings, study, kept, date))

    kind, title = path.suffix.lower().lstrip("."), ": ".join(w for w in (study, board.name) if w)
    if kind == "pdf":
        data = pdf_of([leaf(n) for n in range(1, board.pages + 1)], title)
    elif kind == "svg":
        data = svg_of(leaf(page), title)
    elif kind == "png":
        across, down = (max(1, round(mm / 25.4 * resolution)) for mm in size)
        refuse_pixels(across, down, MOST_WRITTEN, resolution)
        pixels, canvas = raster_on((across, down), size)
        leaf(page).draw(canvas)
        data = png_of(pixels, resolution)
    else:
        raise OutputError(f"“{path.name}” must end in .pdf, .svg or .png, so that it is clear what to write.")
    write_whole(path, data)
