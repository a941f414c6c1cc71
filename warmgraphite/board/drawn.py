"""A page of a board, drawn: its paper, its drawings in their places, pictures, captions, texts, and the title block."""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from warmgraphite.board.specification import Board, BoardText, PlacedDrawing
from warmgraphite.canvas.pixels import raster_on
from warmgraphite.canvas.protocol import Canvas, Path, Stroke
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.colour import is_light, premultiplied
from warmgraphite.notes.written import block, draw_marks
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.leaf import Sheet as Laid
from warmgraphite.out.settings import OutSettings
from warmgraphite.progress import Progress, silent
from warmgraphite.sheet.notes import inks_for
from warmgraphite.sheet.page import page_sheets
from warmgraphite.sheet.specification import Sheet
from warmgraphite.view.scales import scale_label

__all__ = ["OnBoard", "board_leaf", "caption_of", "draw_board_page", "draw_over", "filled_fields"]

#: Millimetres of capitals of captions, and below a drawing.
CAPTION, BELOW = 2.5, 3.5


@dataclass(frozen=True)
class OnBoard:
    """A drawing of a board, ready to be drawn: its plate and traces, its sheet, and where its frame lies."""

    placed: PlacedDrawing
    plate: Plate
    traces: Sequence[Trace]
    sheet: Sheet
    at: tuple[float, float]
    mark: str = ""
    #: Whether tones beneath all lines are one picture in documents.
    merged: bool = False

    @property
    def has_paper(self) -> bool:
        """Whether it brings its own paper: where nothing is said, a dark one."""
        if self.placed.paper == "auto":
            return not is_light(inks_for(self.traces).paper)
        return self.placed.paper == "own"

    @property
    def shape(self) -> Path:
        """What of its frame is shown."""
        width, height = self.plate.frame
        points = self.placed.frame
        ring = np.array(points if len(points) >= 3 else [(0, 0), (width, 0), (width, height), (0, height)], float)
        return Path.of([ring])

    @property
    def box(self) -> tuple[float, float, float, float]:
        """The room that it takes on the page."""
        return box_of(self.placed, self.plate.frame, self.at)

    def written_as(self, settings: OutSettings) -> OnBoard:
        """The same, as it is written: with what is inked of each layer of the model apart, or with tones merged."""
        return replace(
            self, plate=replace(self.plate, by_layers="model" in settings.layers), merged=not settings.layers
        )

    @property
    def called(self) -> str:
        """What its group is called."""
        return f"Drawing {self.mark} {self.plate.view_name}".replace("  ", " ")

    @contextmanager
    def within(self, canvas: Canvas) -> Iterator[None]:
        """Marks made inside lie where it stands on the page, and within what of it is shown."""
        with canvas.transform((1.0, 0.0, 0.0, 1.0, *self.at)), canvas.clip_path(self.shape):
            yield

    def sheets(self) -> Iterator[Laid]:
        """What lies on each other in it."""
        plate = self.plate if self.placed.notes else self.plate.without_notes()
        return page_sheets(plate, self.traces, self.written, paper=self.has_paper, merged=self.merged)

    @property
    def written(self) -> Sheet:
        """Its sheet: title, scale bar and north stand on the board's own, unless it brings them."""
        if self.placed.furniture:
            return self.sheet
        return self.sheet.model_copy(update={"title_on": False, "scale_bar_on": False, "north_on": False})


def box_of(
    placed: PlacedDrawing, frame: tuple[float, float], at: tuple[float, float]
) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of a drawing on its page, as it is cut."""
    points = np.array(placed.frame if len(placed.frame) >= 3 else [(0, 0), frame], float)
    (x0, y0), (x1, y1) = points.min(0).tolist(), points.max(0).tolist()
    return at[0] + x0, at[1] + y0, at[0] + x1, at[1] + y1


def draw_board_page(
    canvas: Canvas, board: Board, number: int, drawings: Sequence[OnBoard], study: str = "",
    kept: KeptPictures | None = None,
    date: datetime.date | None = None, watch: Progress = silent,
) -> None:  # fmt: skip
    """All of one page."""
    mine = [d for d in drawings if d.placed.page == number]
    with canvas.group("Paper"):
        draw_paper(canvas, board)
    for place, row in enumerate(mine):
        with canvas.group(row.called), row.within(canvas):
            sheets = list(row.sheets())
            for k, sheet in enumerate(sheets):
                watch((place + k / len(sheets)) / len(mine))
                with canvas.group(sheet.name, sheet.opacity, sheet.blend):
                    sheet.draw(canvas)
    draw_over(canvas, board, number, _told(drawings), study, kept, date)


def _told(drawings: Sequence[OnBoard]) -> Told:
    return {
        d.placed.id: (d.mark, d.plate.view_name, d.plate.projection.scale, d.box, d.plate.projection.is_perspective)
        for d in drawings
    }


def board_leaf(
    board: Board, number: int, drawings: Sequence[OnBoard], study: str = "", kept: KeptPictures | None = None,
    date: datetime.date | None = None, watch: Progress = silent,
) -> Leaf:  # fmt: skip
    """A page of a board as one that is written.
    ``watch`` is told the share of its drawings that is drawn, and may raise to stop.
    """
    size = (board.page.width, board.page.height)

    def draw(canvas: Canvas) -> None:
        draw_board_page(canvas, board, number, drawings, study, kept, date, watch)

    def pixels(many: tuple[int, int]) -> NDArray[np.uint8]:
        found, canvas = raster_on(many, size)
        draw(canvas)
        return found

    def sheets() -> Iterator[Laid]:
        yield Laid("Paper", 1.0, "normal", lambda canvas: draw_paper(canvas, board))
        for row in drawings:
            for sheet in row.sheets() if row.placed.page == number else ():
                yield replace(sheet, name=f"{row.called}: {sheet.name}", draw=partial(_placed, row, sheet))
        yield Laid("Over all", 1.0, "normal", lambda c: draw_over(c, board, number, _told(drawings), study, kept, date))

    return Leaf(size, draw, pixels, sheets, holds_drawings=True)


def _placed(row: OnBoard, sheet: Laid, canvas: Canvas) -> None:
    with row.within(canvas):
        sheet.draw(canvas)


def draw_paper(canvas: Canvas, board: Board) -> None:
    """The page's paper."""
    width, height = board.page.width, board.page.height
    canvas.fill([np.array([(0, 0), (width, 0), (width, height), (0, height), (0, 0)], float)], board.page.colour)


#: Letter, name, scale, room on the page, and whether it is a perspective, of a drawing by its id.
Told = Mapping[str, tuple[str, str, float | None, tuple[float, float, float, float], bool]]


def caption_of(placed: PlacedDrawing, mark: str, name: str, scale: float | None, perspective: bool) -> str:
    """What stands below a drawing."""
    if placed.caption:
        return placed.caption
    said = scale_label(scale) if scale and not perspective and scale_label(scale) not in name else ""
    return ", ".join(w for w in (f"{mark}  {name}".strip(), said) if w)


def draw_over(
    canvas: Canvas, board: Board, number: int, drawings: Told, study: str = "", kept: KeptPictures | None = None,
    date: datetime.date | None = None,
) -> None:  # fmt: skip
    """What stands on a page beside and over the drawings: pictures, captions, texts, the title block."""
    fields = filled_fields(board, number, drawings, study, date)
    dark = not is_light(board.page.colour)
    ink, soft = ("#f0e9dc", "#b9b2a6") if dark else ("#2e2a27", "#6b635b")
    here = lambda page: page in (0, number)
    for picture in board.pictures:
        pixels = kept.pixels(picture.picture) if kept and kept.has(picture.picture) and here(picture.page) else None
        if pixels is not None:
            high = picture.width * pixels.shape[0] / pixels.shape[1]
            flat = premultiplied(pixels)
            with canvas.group("Picture"):
                canvas.image(np.ascontiguousarray(flat), *picture.at, picture.width, high)
    for row in board.drawings:
        if row.page != number or row.id not in drawings:
            continue
        mark, name, scale, box, perspective = drawings[row.id]
        if row.outline > 0:
            x0, y0, x1, y1 = box
            ring = np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)])
            if len(row.frame) >= 3:
                points = np.array(row.frame, float)
                shift = np.array([x0, y0]) - points.min(0)
                ring = np.vstack([points, points[:1]]) + shift
            with canvas.group(f"Outline {name}"):
                canvas.stroke([ring], Stroke(row.outline, ink))
        if row.caption_on:
            words = caption_of(row, mark, name, scale, perspective)
            with canvas.group(f"Caption {name}"):
                draw_marks(canvas, block(words, "sans", CAPTION).at(box[0], box[3] + BELOW, ink))
    for text in board.texts:
        if here(text.page):
            with canvas.group(f"Text {text.text[:40]}"):
                _text(canvas, text, fields, kept)
    if board.block.on:
        with canvas.group("Title block"):
            _title_block(canvas, board, fields, ink, soft, kept)
    if board.numbers:
        with canvas.group("Page number"):
            margin = board.page.module.margin
            made = block(str(number), "sans", 2.5)
            draw_marks(canvas, made.at(board.page.width - margin, board.page.height - margin * 0.55, soft, "end"))


def filled_fields(
    board: Board, number: int, drawings: Told, study: str, date: datetime.date | None = None
) -> dict[str, str]:
    """What fields in braces stand for."""
    day = date or datetime.date.today()
    here = [drawings[d.id] for d in board.drawings if d.page == number and d.id in drawings]
    scales = list(dict.fromkeys(scale_label(s) for _, _, s, _, perspective in here if s and not perspective))
    return {
        "study": study, "board": board.name, "page": str(number), "pages": str(board.pages),
        "date": f"{day.day} {day.strftime('%B %Y')}", "scales": ", ".join(scales) or "none",
        "scale": scales[0] if len(scales) == 1 else ", ".join(scales),
        "views": ", ".join(name for _, name, *_ in here), "marks": ", ".join(m for m, *_ in here if m),
    }  # fmt: skip


def _filled(words: str, fields: Mapping[str, str]) -> str:
    for name, value in fields.items():
        words = words.replace(f"{{{name}}}", value)
    return words


def _face(name: str, kept: KeptPictures | None) -> str:
    if not name.startswith("own-"):
        return name
    return (kept.face_path(name.removeprefix("own-")) if kept else None) or "sans"


def _text(canvas: Canvas, text: BoardText, fields: Mapping[str, str], kept: KeptPictures | None) -> None:
    made = block(_filled(text.text, fields), _face(text.face, kept), text.size, text.wide or None)
    draw_marks(canvas, made.at(*text.at, text.colour, text.aligned))


def _title_block(
    canvas: Canvas, board: Board, fields: Mapping[str, str], ink: str, soft: str, kept: KeptPictures | None
) -> None:
    said, page = board.block, board.page
    margin, size, face = page.module.margin, said.size, _face(said.face, kept)
    rows = [(r.label, _filled(r.text, fields)) for r in said.rows]
    if not rows:
        return
    if said.shape == "strip":
        top = page.height - margin - size * 3.4
        cells = (page.width - 2 * margin) / len(rows)
        canvas.stroke([np.array([(margin, top), (page.width - margin, top)])], Stroke(0.25, ink))
        for k, (label, text) in enumerate(rows):
            x = margin + k * cells
            draw_marks(canvas, block(label, face, size * 0.72).at(x, top + size * 0.9, soft))
            draw_marks(canvas, block(text, face, size).at(x, top + size * 2.3, ink))
        return
    step = size * 2.6
    left, top = page.width - margin - said.width, page.height - margin - step * len(rows)
    labels = max(block(label, face, size * 0.72).wide for label, _ in rows) + size * 2
    for k, (label, text) in enumerate(rows):
        y = top + k * step
        canvas.stroke([np.array([(left, y), (page.width - margin, y)])], Stroke(0.18, soft))
        draw_marks(canvas, block(label, face, size * 0.72).at(left, y + size * 0.95, soft))
        draw_marks(canvas, block(text, face, size, said.width - labels).at(left + labels, y + size * 0.72, ink))
    bottom = page.height - margin
    canvas.stroke([np.array([(left, bottom), (page.width - margin, bottom)])], Stroke(0.35, ink))
