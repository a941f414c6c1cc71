"""The drawings of a board as they are looked at: whether their passes are there, their pictures, and where they stand."""

from __future__ import annotations

from dataclasses import dataclass

from studio.studies.desk import desk_drawing, store, tone_size, wanted
from studio.studies.models import Study
from warmgraphite.board.drawn import box_of
from warmgraphite.board.lines import Lie, lie_of, placed
from warmgraphite.board.ready import Source, in_study
from warmgraphite.board.specification import Board, PlacedDrawing
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.notes.setting import is_dark
from warmgraphite.passes.store import pass_key
from warmgraphite.sheet.notes import inks_for
from warmgraphite.sheet.preview import LayerCache, compose, encode_jpeg
from warmgraphite.view.frame import sized_within

__all__ = ["Shown", "picture_of", "shown_on", "source_of"]

_layers = LayerCache(300_000_000)
#: Pixels of a picture on a board, and of its longer side.
MOST, LONGEST = 8_000_000, 4000


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


def source_of(study: Study, row: PlacedDrawing) -> Source:
    """What a drawing of a board shows."""
    return in_study(row, study.document, study.model)


def _drawing(study: Study, source: Source) -> Drawing:
    return desk_drawing(study, source.view, source.look)


def shown_on(study: Study, board: Board) -> list[Shown]:
    """The drawings of a board, with where they stand."""
    found: list[tuple[PlacedDrawing, Source, Drawing | None, str]] = []
    lies: dict[str, Lie | None] = {}
    for row in board.drawings:
        source = source_of(study, row)
        drawing, problem = _drawing(study, source), ""
        if drawing.is_fresh("frame"):
            problem = str(drawing.result("frame").problem)
            lies[row.id] = None if problem else lie_of(drawing.paper)
        else:
            # Where it lies is known before any of it is drawn.
            try:
                lies[row.id] = lie_of(Drawing(study.model, source.view, tone_size(source.view), store(), ink=source.look).paper)
            except ViewError as error:
                problem = str(error)
        found.append((row, source, drawing, problem))
    where = placed(board, lies)
    out = []
    for row, source, drawing, problem in found:
        assert drawing is not None
        needs = wanted(source.look)
        fresh = not problem and all(drawing.fresh(needs).values())
        said = [
            m.model_dump(mode="json")
            for m in (*source.look.traces, *source.look.notes, source.look.lettering, source.sheet, source.view)
        ]
        name = pass_key("on board", [drawing.key(n) for n in needs], said, row.notes, row.furniture, row.paper)
        own = row.paper == "own" or (row.paper == "auto" and is_dark(inks_for(source.look.traces).paper))
        frame = source.view.frame
        scale = drawing.paper.scale if fresh else frame.scale
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


def picture_of(study: Study, board: Board, drawing_id: str, width: int) -> bytes | None:
    """A drawing of a board as JPEG, ``width`` pixels wide; ``None`` while a pass is stale, or where there is no such drawing."""
    row = next((d for d in board.drawings if d.id == drawing_id), None)
    if row is None:
        return None
    source = source_of(study, row)
    drawing = _drawing(study, source)
    if not all(drawing.fresh(wanted(source.look)).values()) or drawing.result("frame").problem:
        return None
    plate = drawing.plate(source.study, source.look)
    plate = plate if row.notes else plate.without_notes()
    sheet = source.sheet
    if not row.furniture:
        sheet = sheet.model_copy(update={"title_on": False, "scale_bar_on": False, "north_on": False})
    dark = is_dark(inks_for(source.look.traces).paper)
    own = row.paper == "own" or (row.paper == "auto" and dark)
    traces = source.look.traces if own else tuple(t for t in source.look.traces if not t.ground)
    size = sized_within(source.view.frame, width, MOST, LONGEST)
    return encode_jpeg(compose(plate, traces, sheet, size, _layers), 90)
