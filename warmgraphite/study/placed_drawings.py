"""The drawings of a board, computed and put in their places."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from warmgraphite.board.drawn import OnBoard
from warmgraphite.board.lines import Lie, lie_of, placed
from warmgraphite.board.specification import Board, PlacedDrawing
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.drawing import Drawing
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.errors import ViewError
from warmgraphite.model.model import Model
from warmgraphite.passes.store import PassStore
from warmgraphite.sheet.specification import Sheet
from warmgraphite.study.document import StudyDocument
from warmgraphite.study.finish import DrawnLook
from warmgraphite.study.lifting import lifted_look
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import Perspective, ViewSpecification

__all__ = ["Source", "in_study", "made_ready", "rescaled"]

Watch = Callable[[str, float], None]


@dataclass(frozen=True)
class Source:
    """What a drawing of a board shows: a view of a model in a look, with its sheet.
    Its letter, and the name of its study.
    """

    model: Model
    view: ViewSpecification
    look: DrawnLook
    sheet: Sheet
    mark: str = ""
    study: str = ""

    def on(self, row: PlacedDrawing) -> Source:
        """The same as it is shown on a board: lifted for print where that is said."""
        return replace(self, look=lifted_look(self.look, row.lift, row.black)) if row.lift else self


def in_study(row: PlacedDrawing, document: StudyDocument, model: Model) -> Source:
    """What a drawing of a board shows of a study.
    The view on the desk is shown as it lies there. Raises :class:`ViewError` for a view or a finish that is not there.
    """
    saved = next((v for v in document.views if row.view in (v.id, v.mark, v.view.name)), None)
    if saved is None:
        raise ViewError(
            f"The board shows the view “{row.view}”, which is not among the saved views; choose another for it."
        )
    look = document.drawn_look(saved)
    if row.finish and row.finish != saved.finish:
        finish = next((f for f in document.finishes if row.finish in (f.id, f.name)), None)
        if finish is None:
            raise ViewError(
                f"The board shows “{saved.view.name}” in the finish “{row.finish}”, which the study has not; choose "
                f"another."
            )
        look = document.marked(finish.plain, saved.id)
    view = document.desk.view if document.desk.view_id == saved.id else saved.view
    if row.scale and row.scale != view.frame.scale:
        view = rescaled(view, row.scale, Drawing(model, view, ink=look).paper)
    return Source(model, view, look, saved.sheet, saved.mark, document.name).on(row)


def rescaled(view: ViewSpecification, scale: float, paper: Projection) -> ViewSpecification:
    """A view at another scale, 1:``scale``, on as much more or less paper as that takes: it shows the same.
    ``paper`` is how it lies now. A perspective stays as it is.
    """
    spec, frame = view.projection, view.frame
    if isinstance(spec, Perspective) or not paper.scale:
        return view
    times = paper.scale / scale
    middle = np.array([frame.width / 2 + frame.shift[0], frame.height / 2 + frame.shift[1], 0.0])
    x, y, z = spec.centre or tuple(np.round(paper.unproject(middle[None])[0], 6).tolist())
    size = {"width": round(frame.width * times, 3), "height": round(frame.height * times, 3), "scale": scale}
    shift = (round(frame.shift[0] * times, 3), round(frame.shift[1] * times, 3))
    changed = frame.model_copy(update={**size, "shift": shift})
    return view.model_copy(update={"frame": changed, "projection": spec.model_copy(update={"centre": (x, y, z)})})


def made_ready(
    board: Board, source_of: Callable[[PlacedDrawing], Source], folder: Path, resolution: float, *,
    store: PassStore | None = None,
    kept: KeptPictures | None = None, page: int | None = None, watch: Watch | None = None,
) -> list[OnBoard]:  # fmt: skip
    """The drawings of a board, or of one ``page``.
    Computed at ``resolution`` pixels per inch, in tiles that are kept in ``folder``; what has no pixels is kept in
    ``store``. Raises :class:`ViewError` for one that shows nothing, before any is computed.
    """
    tell = watch or (lambda _stage, _share: None)
    rows = [d for d in board.drawings if page is None or d.page == page or _lined_up(board, d, page)]
    sources = {d.id: source_of(d) for d in rows}
    out: list[OnBoard] = []
    lies: dict[str, Lie | None] = {}
    begun: list[tuple[PlacedDrawing, Source, Drawing]] = []
    for row in rows:
        source = sources[row.id]
        frame = source.view.frame.model_copy(update={"resolution": resolution})
        drawing = Drawing(
            source.model, source.view.model_copy(update={"frame": frame}), None, store, ink=source.look, pictures=kept
        )
        problem = drawing.result("frame").problem
        if problem:
            raise ViewError(f"The drawing “{row.id}” of “{board.name}” cannot be drawn: {problem}")
        lies[row.id] = lie_of(drawing.paper)
        if page is None or row.page == page:
            begun.append((row, source, drawing))
    made: list[tuple[PlacedDrawing, Source, TiledDrawing]] = []
    for number, (row, source, drawing) in enumerate(begun):
        tiled, name = TiledDrawing(drawing, folder), source.view.name
        tiled.compute_picture(
            source.look.traces,
            source.look,
            source.look.notes,
            lambda stage, f, n=number, name=name: tell(  # type: ignore[misc]
                f"{name}: {stage}" if stage else name, (n + f) / len(begun)
            ),
        )
        made.append((row, source, tiled))
    where = placed(board, lies)
    for row, source, tiled in made:
        plate = tiled.plate(source.study)
        out.append(OnBoard(row, plate, source.look.traces, source.sheet, where[row.id], source.mark))
    return out


def _lined_up(board: Board, row: PlacedDrawing, page: int) -> bool:
    """Whether something on a page keeps in line with a drawing of another page."""
    mine: Sequence[PlacedDrawing] = [d for d in board.drawings if d.page == page]
    return any(row.id in (d.line_x, d.line_y) for d in mine)
