"""Commands on boards."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.study import boards
from warmgraphite.study.changes import Change
from warmgraphite.study.commands._command import Command, Identity
from warmgraphite.study.document import StudyDocument


class ChangeBoards(Command):
    """Lay out, change, add, take out or order boards; paths begin with ``boards``."""

    do: Literal["boards"] = "boards"
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=2000)]
    label: str = "Change a board"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return boards.change_boards(document, self.changes)


class ExtendPage(Command):
    """Make the page of a board longer by so many ``millimetres`` on one side, shorter below zero.
    What stands on it stays where it is.
    """

    do: Literal["extend_page"] = "extend_page"
    board_id: Identity
    side: Literal["left", "right", "top", "bottom"]
    millimetres: float = Field(ge=-5000, le=5000)
    label: str = "Draw the page out"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return boards.extend_page(document, self.board_id, self.side, self.millimetres)
