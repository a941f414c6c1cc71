"""What belongs to a set, and by what each file of it is known.
The same key is the same drawing, which is not drawn again.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from warmgraphite.board.specification import Board
from warmgraphite.errors import OutputError, ViewError
from warmgraphite.keys import key_of
from warmgraphite.model.model import Model
from warmgraphite.out.settings import OutSettings
from warmgraphite.out.write import FORMATS
from warmgraphite.specification import Specification, Words
from warmgraphite.study.document import SavedView, StudyDocument
from warmgraphite.study.finish import Finish
from warmgraphite.study.placed_drawings import Source, in_study

__all__ = ["Item", "SeriesSettings", "plan_of", "safe_name"]

#: What writes drawings: where that is another, sets are drawn anew.
WRITTEN = ("warmgraphite.series.draw", "warmgraphite.collage.kinds", "warmgraphite.notes.kinds")


class SeriesSettings(Specification):
    """What is drawn of a study, and how: in a ``finish`` by name, or each view in its own.
    The ``views`` and boards of these names, marks or ids, or all.
    """

    format: str = "pdf"
    out: OutSettings = OutSettings()
    finish: Words = Field(default="", max_length=120)
    views: tuple[Words, ...] = Field(default=(), max_length=400)


@dataclass(frozen=True)
class Item:
    """One file of a set: a view, or a board, or of a format that holds one page a page of a board.
    ``name`` and ``mark`` are what it is called, ``key`` is all that it shows, ``file`` what its file is called. One
    that cannot be drawn says why in ``problem``.
    """

    kind: Literal["view", "board"]
    id: str
    name: str
    mark: str
    file: str
    key: str
    page: int = 1
    problem: str = ""


def safe_name(words: str) -> str:
    """Words as the name of a file on any system."""
    found = re.sub(r"\s+", " ", re.sub(r'[\x00-\x1f<>:"/\\|?*]+', " ", words)).strip(" .")
    return found[:100] or "Drawing"


def plan_of(document: StudyDocument, model: Model, settings: SeriesSettings) -> list[Item]:
    """The files of a set in their order, views first.
    Raises :class:`OutputError` for a format, a finish, a view or a board that is not there.
    """
    if settings.format not in FORMATS:
        raise OutputError(f"“{settings.format}” is no format that is written; use {', '.join(FORMATS)}.")
    if settings.finish and finish_of(document, settings.finish) is None:
        known = ", ".join(f"“{f.name}”" for f in document.finishes)
        raise OutputError(f"There is no finish “{settings.finish}” in the study; its finishes are {known}.")
    known_by: list[tuple[SavedView | Board, tuple[str, ...]]] = [
        *((v, (v.id, v.mark, v.view.name)) for v in document.views), *((b, (b.id, b.name)) for b in document.boards),
    ]  # fmt: skip
    for asked in settings.views:
        if not any(asked in names for _, names in known_by):
            there = ", ".join(f"“{names[-1]}”" for _, names in known_by)
            raise OutputError(f"There is no view and no board “{asked}” in the study; there are {there}.")
    chosen = [thing for thing, names in known_by if not settings.views or set(names) & set(settings.views)]
    out: list[Item] = []
    for thing in chosen:
        out += (
            [_view(document, model, settings, thing)]
            if isinstance(thing, SavedView)
            else _board(document, model, settings, thing)
        )
    return _told_apart(out, settings.format)


def finish_of(document: StudyDocument, name: str) -> Finish | None:
    """A finish of a study by its name or id; ``None`` where it has none."""
    return next((f for f in document.finishes if name in (f.id, f.name)), None)


def source_of(document: StudyDocument, model: Model, settings: SeriesSettings, saved: SavedView) -> Source:
    """What a saved view shows in a set."""
    look = document.drawn_look(saved)
    finish = finish_of(document, settings.finish) if settings.finish else None
    if finish is not None and finish.id != saved.finish:
        look = document.marked(finish.plain, saved.id)
    view = document.desk.view if document.desk.view_id == saved.id else saved.view
    frame = view.frame.model_copy(update={"resolution": settings.out.resolution})
    return Source(model, view.model_copy(update={"frame": frame}), look, saved.sheet, saved.mark, document.name)


def board_of(document: StudyDocument, settings: SeriesSettings, identity: str) -> Board:
    """A board as it is drawn in a set: where one finish is asked for, in that."""
    board = next(b for b in document.boards if b.id == identity)
    if not settings.finish:
        return board
    return board.model_copy(
        update={"drawings": tuple(d.model_copy(update={"finish": settings.finish}) for d in board.drawings)}
    )


def _said(source: Source) -> list[object]:
    return [
        source.model.version, source.view.model_dump(mode="json"), source.look.model_dump(mode="json"),
        source.sheet.model_dump(mode="json"), source.mark, source.study,
    ]  # fmt: skip


def _how(settings: SeriesSettings) -> list[object]:
    return [settings.format, settings.out.model_dump(mode="json")]


def _view(document: StudyDocument, model: Model, settings: SeriesSettings, saved: SavedView) -> Item:
    source = source_of(document, model, settings, saved)
    key = key_of("set", "view", _how(settings), _said(source), by=WRITTEN)
    return Item("view", saved.id, saved.view.name, saved.mark, safe_name(f"{saved.mark} {saved.view.name}"), key)


def _board(document: StudyDocument, model: Model, settings: SeriesSettings, board: Board) -> list[Item]:
    board = board_of(document, settings, board.id)
    try:
        sources = [_said(in_study(row, document, model)) for row in board.drawings]
    except ViewError as error:
        return [Item("board", board.id, board.name, "", safe_name(board.name), "", problem=str(error))]
    pages: Sequence[int] = (1,) if FORMATS[settings.format].many else range(1, board.pages + 1)
    said = [_how(settings), board.model_dump(mode="json"), sources]
    return [
        Item("board", board.id, board.name + (f", page {n}" if len(pages) > 1 else ""), "",
            safe_name(f"{board.name} {n}" if len(pages) > 1 else board.name),
            key_of("set", "board", n, said, by=WRITTEN), n)
        for n in pages
    ]  # fmt: skip


def _told_apart(items: list[Item], ending: str) -> list[Item]:
    """With names of files of which none comes twice, also where capitals are not told from small letters."""
    used: set[str] = set()
    out = []
    for item in items:
        name, number = item.file, 1
        while name.lower() in used:
            number += 1
            name = f"{item.file} {number}"
        used.add(name.lower())
        out.append(
            Item(item.kind, item.id, item.name, item.mark, f"{name}.{ending}", item.key, item.page, item.problem)
        )
    return out
