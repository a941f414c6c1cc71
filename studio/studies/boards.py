"""The drawings of a board as they are looked at.
Whether their passes are there, their pictures, and where they stand.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from django.http import Http404

from studio.studies.desk import DESK_PIXELS, PICTURES, desk_drawing, picture_path, store, wanted
from studio.studies.models import Study
from warmgraphite.atomic import atomic_write, is_whole_picture
from warmgraphite.board.drawn import box_of
from warmgraphite.board.lines import Lie, lie_of, placed
from warmgraphite.board.specification import Board, PlacedDrawing
from warmgraphite.colour import is_light
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.keys import key_of
from warmgraphite.sheet.notes import inks_for
from warmgraphite.sheet.preview import LayerCache, compose, encode_jpeg
from warmgraphite.study.placed_drawings import Source, in_study

__all__ = [
    "BOARD_PIXELS",
    "Shown",
    "board_of",
    "draw_picture",
    "drawing_of",
    "picture_of",
    "pixels_of",
    "shown_on",
    "source_of",
]

#: Pixels of the longer side of a drawing on a board: a quarter of a board's width is seldom more on a screen.
BOARD_PIXELS = max(64, DESK_PIXELS // 2)


@dataclass(frozen=True)
class Shown:
    """A drawing of a board as it is now."""

    row: PlacedDrawing
    at: tuple[float, float]
    size: tuple[float, float]
    fresh: bool
    picture: str
    paper: bool
    mark: str
    name: str
    scale: float | None
    perspective: bool
    problem: str
    lie: Lie | None

    @property
    def box(self) -> tuple[float, float, float, float]:
        return box_of(self.row, self.size, self.at)


def board_of(study: Study, board_id: str) -> Board:
    """A board of a study. Raises :class:`Http404` where it has none of that id."""
    found = next((b for b in study.document.boards if b.id == board_id), None)
    if found is None:
        raise Http404
    return found


def source_of(study: Study, row: PlacedDrawing) -> Source:
    """What a drawing of a board shows."""
    return in_study(row, study.document, study.model)


def pixels_of(fine: bool) -> int:
    """The pixels of a drawing on a board, or of one that is looked at closely: as many as on the desk."""
    return DESK_PIXELS if fine else BOARD_PIXELS


def drawing_of(study: Study, source: Source, fine: bool = False) -> Drawing:
    """A drawing of a board as it is looked at: nothing of it is computed here."""
    return desk_drawing(study, source.view, source.look, pixels_of(fine))


def shown_on(study: Study, board: Board, fine: bool = False) -> list[Shown]:
    """The drawings of a board, with where they stand."""
    found: list[tuple[PlacedDrawing, Source, Drawing | None, str]] = []
    lies: dict[str, Lie | None] = {}
    for row in board.drawings:
        source = source_of(study, row)
        drawing, problem = drawing_of(study, source, fine), ""
        if drawing.is_fresh("frame"):
            problem = str(drawing.result("frame").problem)
            lies[row.id] = None if problem else lie_of(drawing.paper)
        else:
            # Where it lies is known before any of it is drawn.
            try:
                lies[row.id] = lie_of(Drawing(study.model, source.view, drawing.size, store(), ink=source.look).paper)
            except ViewError as error:
                problem = str(error)
        found.append((row, source, drawing, problem))
    where = placed(board, lies)
    out = []
    for row, source, known, problem in found:
        assert known is not None
        drawing = known
        name = _name(drawing, source, row)
        fresh = not problem and (
            is_whole_picture(_path(study, name)) or all(drawing.fresh(wanted(source.look)).values())
        )
        own = row.paper == "own" or (row.paper == "auto" and not is_light(inks_for(source.look.traces).paper))
        frame = source.view.frame
        scale = drawing.paper.scale if drawing.is_fresh("frame") and not problem else frame.scale
        perspective = source.view.projection.kind == "perspective"
        out.append(
            Shown(
                row,
                where[row.id],
                (frame.width, frame.height),
                fresh,
                name,
                own,
                source.mark,
                source.view.name,
                scale,
                perspective,
                problem,
                lies.get(row.id),
            )
        )
    return out


def _name(drawing: Drawing, source: Source, row: PlacedDrawing) -> str:
    """Names the picture of a drawing on a board: it changes with all that it shows, and with nothing else."""
    look = source.look
    said = [m.model_dump(mode="json") for m in (*look.traces, *look.notes, look.lettering, source.sheet, source.view)]
    return key_of(
        "board",
        [drawing.key(n) for n in wanted(look)],
        said,
        drawing.size,
        row.notes,
        row.furniture,
        row.paper,
        by=PICTURES,
    )


def _path(study: Study, name: str) -> Path:
    return picture_path(study, name)


def picture_of(study: Study, board: Board, drawing_id: str, fine: bool = False) -> bytes | None:
    """A drawing of a board as JPEG; ``None`` while a pass is stale, or where there is no such drawing."""
    row = next((d for d in board.drawings if d.id == drawing_id), None)
    if row is None:
        return None
    source = source_of(study, row)
    drawing = drawing_of(study, source, fine)
    path = _path(study, _name(drawing, source, row))
    if not is_whole_picture(path):
        if not all(drawing.fresh(wanted(source.look)).values()) or drawing.result("frame").problem:
            return None
        draw_picture(study, row, source, drawing)
    return path.read_bytes()


def draw_picture(study: Study, row: PlacedDrawing, source: Source, drawing: Drawing) -> None:
    """Draw a drawing of a board, and keep it as a picture."""
    path = _path(study, _name(drawing, source, row))
    if is_whole_picture(path):
        return
    plate = drawing.plate(source.study, source.look)
    plate = plate if row.notes else plate.without_notes()
    sheet = source.sheet
    if not row.furniture:
        sheet = sheet.model_copy(update={"title_on": False, "scale_bar_on": False, "north_on": False})
    dark = not is_light(inks_for(source.look.traces).paper)
    own = row.paper == "own" or (row.paper == "auto" and dark)
    traces = source.look.traces if own else tuple(t for t in source.look.traces if not t.ground)
    with atomic_write(path, lasting=False) as draft:
        draft.write_bytes(encode_jpeg(compose(plate, traces, sheet, drawing.size, LayerCache()), 90))
