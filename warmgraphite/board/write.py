"""A board as a file: all its pages where a format holds several, else one of them."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from warmgraphite.board.drawn import OnBoard, board_leaf
from warmgraphite.board.specification import Board
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.out.format import About
from warmgraphite.out.settings import OutSettings
from warmgraphite.out.write import format_of, write_leaves
from warmgraphite.progress import Progress, silent

__all__ = ["write_board"]


def write_board(
    board: Board, drawings: Sequence[OnBoard], path: Path, *, study: str = "", page: int = 1,
    kept: KeptPictures | None = None, date: datetime.date | None = None, watch: Progress = silent, **said: Any,
) -> None:  # fmt: skip
    """Write a board in the format of the path's ending.
    ``page`` is the one that formats of a single page show; ``said`` are fields of :class:`OutSettings`.

    Raises :class:`OutputError` for an unknown ending, a page that there is not, or a place that cannot be written to.
    """
    board.refuse_page(page)
    settings = OutSettings(**said)
    numbers = range(1, board.pages + 1) if format_of(path).many else (page,)
    drawn = [d.written_as(settings) for d in drawings]
    leaves = [
        board_leaf(board, n, drawn, study, kept, date, lambda f, k=k: watch((k + f) / len(numbers)))  # type: ignore[misc]
        for k, n in enumerate(numbers)
    ]
    write_leaves(
        leaves,
        path,
        settings,
        About(": ".join(w for w in (study, board.name) if w), board.name, (study,) if study else ()),
    )
