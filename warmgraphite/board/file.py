"""The board file: one board as one JSON text, with its drawings in it or beside it."""

from __future__ import annotations

import json

from warmgraphite import MADE_BY
from warmgraphite.board.specification import Board
from warmgraphite.errors import ViewError
from warmgraphite.formats import Format, as_it_was, read_json
from warmgraphite.specification import valid

__all__ = ["BOARD", "read_board", "write_board_file"]

BOARD = Format("board", (as_it_was,))


def read_board(text: str, name: str = "The board") -> Board:
    """The board of a text. Raises :class:`ViewError` with one sentence, which calls it ``name``."""
    data = read_json(text, name)
    if not isinstance(data, dict) or "format" not in data:
        raise ViewError(f"{name} is no board: it has no “format”; copy it whole.")
    if data["format"] == 0:
        raise ViewError(f"{name} says format 0, which there never was; the first is 1.")
    data = BOARD.upgraded(data, name)
    data.pop("format")
    data.setdefault("id", "board-1")
    with valid(name):
        board = Board.model_validate(data)
    for number, row in enumerate(board.drawings):
        if not row.drawing and not row.view:
            raise ViewError(f"{name}: “drawings.{number}” says neither a “drawing” nor a “view”; say which it shows.")
        if not row.model:
            raise ViewError(
                f"{name}: “drawings.{number}” says no “model”; give the path of a model, or the name of a study."
            )
    return board


def write_board_file(board: Board) -> str:
    """A board as the text of its file."""
    return json.dumps(
        {"format": BOARD.number, "made_by": MADE_BY, **board.model_dump(mode="json")}, indent=1, ensure_ascii=False
    )
