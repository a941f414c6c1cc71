"""The boards of a study: laid out, changed, taken out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from warmgraphite.board.specification import Board
from warmgraphite.errors import ViewError
from warmgraphite.specification import Specification, valid
from warmgraphite.study.changes import Change, make_changes
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.view.frame import Side

__all__ = ["change_boards", "extend_page"]


class _Boards(Specification):
    boards: tuple[Board, ...] = ()


def change_boards(document: StudyDocument, changes: Sequence[Change]) -> StudyDocument:
    """The document with other boards; paths begin with ``boards``."""
    rows = [b.model_dump(mode="json") for b in document.boards]
    with valid("This board"):
        boards = _Boards.model_validate(make_changes({"boards": rows}, changes)).boards
    return replaced(document, boards=boards)


def extend_page(document: StudyDocument, board_id: str, side: Side, millimetres: float) -> StudyDocument:
    """The document with the page of a board longer on one side; what stands on it stays where it is on the paper."""
    board = next((b for b in document.boards if b.id == board_id), None)
    if board is None:
        raise ViewError("That board is not in the study any more; choose another.")
    field = "width" if side in ("left", "right") else "height"
    long = round(getattr(board.page, field) + millimetres, 3)
    if not 20 <= long <= 5000:
        raise ViewError(
            f"That would make the page {long:g} mm {'wide' if field == 'width' else 'high'}; it can be between 20 and "
            f"5000 mm."
        )
    by = (millimetres if side == "left" else 0.0, millimetres if side == "top" else 0.0)

    def moved(row: Any) -> Any:
        return row.model_copy(update={"at": (round(row.at[0] + by[0], 4), round(row.at[1] + by[1], 4))})

    changed = board.model_copy(
        update={
            "page": board.page.model_copy(update={field: long}), "drawings": tuple(moved(d) for d in board.drawings),
            "texts": tuple(moved(t) for t in board.texts), "pictures": tuple(moved(p) for p in board.pictures),
        }
    )  # fmt: skip
    return replaced(document, boards=tuple(changed if b.id == board_id else b for b in document.boards))
