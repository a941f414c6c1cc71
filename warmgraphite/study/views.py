"""The saved views of a study and the one on the desk: opened, saved, kept, ordered, removed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from warmgraphite.board.specification import Board
from warmgraphite.errors import ViewError
from warmgraphite.ink.marks.specification import Ground, OnPaper
from warmgraphite.study.document import Desk, SavedView, StudyDocument, replaced
from warmgraphite.view.specification import ViewSpecification, read_view

__all__ = [
    "add_view",
    "duplicate_view",
    "keep_view",
    "mark_view",
    "open_view",
    "order_view",
    "paste_view",
    "remove_view",
    "reshape_view",
    "save_view",
]


def open_view(document: StudyDocument, view_id: str) -> StudyDocument:
    """The document with a saved view laid on the desk, exactly as it was saved."""
    for saved in document.views:
        if saved.id == view_id:
            return replaced(document, desk=Desk(view_id=view_id, view=saved.view))
    raise ViewError("That view is not among the saved views any more; choose another.")


def save_view(document: StudyDocument) -> StudyDocument:
    """The document with the view on the desk saved over the one it began from, unless that one is locked."""
    _unlocked(document.on_desk)
    views = tuple(
        v.model_copy(update={"view": document.desk.view}) if v.id == document.desk.view_id else v
        for v in document.views
    )
    return replaced(document, views=views)


def keep_view(document: StudyDocument, name: str) -> StudyDocument:
    """The document with the view on the desk kept as a new one, with the collage of the one it began from."""
    name = name.strip()
    if not name:
        raise ViewError("The new view needs a name; type one and keep it again.")
    if any(v.view.name == name for v in document.views):
        raise ViewError(f"There is a view “{name}” already; choose another name.")
    view = document.desk.view.model_copy(update={"name": name})
    before = document.on_desk
    document, saved = _added(document, before, view)
    return replaced(_marked_alike(document, before, saved), desk=Desk(view_id=saved.id, view=view))


def _found(document: StudyDocument, view_id: str) -> SavedView:
    for saved in document.views:
        if saved.id == view_id:
            return saved
    raise ViewError("That view is not among the saved views any more; choose another.")


def _unlocked(saved: SavedView) -> None:
    if saved.locked:
        raise ViewError(f"View “{saved.view.name}” is locked; unlock it first, or keep the desk as a new view.")


def _added(
    document: StudyDocument, like: SavedView, view: ViewSpecification, after: str = ""
) -> tuple[StudyDocument, SavedView]:
    """The document with one more view, with the collage of another, and that view; ``after`` one, or at the end."""
    marks = {v.mark for v in document.views}
    letters = [chr(65 + i) for i in range(26)] + [chr(65 + i // 26 - 1) + chr(65 + i % 26) for i in range(26, 702)]
    mark = next(letter for letter in letters if letter not in marks)
    numbers = [int(v.id.rpartition("-")[2]) for v in document.views if v.id.rpartition("-")[2].isdigit()]
    number = max(numbers, default=0) + 1
    saved = like.model_copy(update={"id": f"view-{number}", "mark": mark, "view": view, "locked": False})
    views = list(document.views)
    views.insert(next((i + 1 for i, v in enumerate(views) if v.id == after), len(views)), saved)
    return replaced(document, views=tuple(views)), saved


def _marked_alike(document: StudyDocument, like: SavedView, saved: SavedView) -> StudyDocument:
    """The document where what was drawn, and put, on the paper of one view lies on that of another, too."""
    own = [
        m
        for m in document.marks
        if not isinstance(m, Ground) and isinstance(m.plane, OnPaper) and m.plane.view == like.id
    ]
    copies = tuple(m.model_copy(update={"id": "", "plane": OnPaper(view=saved.id)}) for m in own)
    figures = tuple(
        f.model_copy(update={"id": "", "paper": f.paper.model_copy(update={"view": saved.id})})
        for f in document.figures
        if f.paper is not None and f.paper.view == like.id
    )
    if not copies and not figures:
        return document
    return replaced(document, marks=(*document.marks, *copies), figures=(*document.figures, *figures))


def _free_name(document: StudyDocument, name: str) -> str:
    """A name like this one that no saved view has."""
    names = {v.view.name for v in document.views}
    if name not in names:
        return name
    return next(f"{name[:190]} {k}" for k in range(2, len(names) + 3) if f"{name[:190]} {k}" not in names)


def duplicate_view(document: StudyDocument, view_id: str) -> StudyDocument:
    """The document with a saved view a second time, behind the first; the desk stays as it is."""
    saved = _found(document, view_id)
    view = saved.view.model_copy(update={"name": _free_name(document, saved.view.name)})
    document, copy = _added(document, saved, view, after=view_id)
    return _marked_alike(document, saved, copy)


def order_view(document: StudyDocument, view_id: str, place: int) -> StudyDocument:
    """The document with a saved view at another place of the list, counted from 0."""
    saved = _found(document, view_id)
    views = [v for v in document.views if v.id != view_id]
    views.insert(min(max(place, 0), len(views)), saved)
    return replaced(document, views=tuple(views))


def mark_view(document: StudyDocument, view_id: str, **marks: Any) -> StudyDocument:
    """The document with a saved view ``locked`` or not, or in another ``group``."""
    _found(document, view_id)
    return replaced(document, views=tuple(v.model_copy(update=marks) if v.id == view_id else v for v in document.views))


def paste_view(document: StudyDocument, text: str) -> StudyDocument:
    """The document with a view from its JSON, as it was copied, kept as a new one and laid on the desk."""
    return add_view(document, read_view(text, "The pasted text"))


def add_view(document: StudyDocument, view: ViewSpecification) -> StudyDocument:
    """The document with one more view, laid on the desk.
    It is there under a name that is free, with the collage of the one that was there.
    """
    view = view.model_copy(update={"name": _free_name(document, view.name)})
    document, saved = _added(document, document.on_desk, view)
    return replaced(document, desk=Desk(view_id=saved.id, view=view))


def reshape_view(document: StudyDocument, change: Callable[[ViewSpecification], ViewSpecification]) -> StudyDocument:
    """The document with the view on the desk changed."""
    return replaced(document, desk=document.desk.model_copy(update={"view": change(document.desk.view)}))


def remove_view(document: StudyDocument, view_id: str) -> StudyDocument:
    """The document without a saved view. The last one stays, and so does a locked one."""
    left = tuple(v for v in document.views if v.id != view_id)
    if not left:
        raise ViewError("A study keeps at least one view; save another before you remove this one.")
    if len(left) == len(document.views):
        raise ViewError("That view is not among the saved views any more.")
    _unlocked(_found(document, view_id))
    desk = document.desk if document.desk.view_id != view_id else Desk(view_id=left[0].id, view=left[0].view)
    marks = tuple(
        m
        for m in document.marks
        if isinstance(m, Ground) or not isinstance(m.plane, OnPaper) or m.plane.view != view_id
    )
    figures = tuple(f for f in document.figures if f.paper is None or f.paper.view != view_id)
    boards = tuple(_without(b, view_id) for b in document.boards)
    return replaced(document, views=left, desk=desk, marks=marks, figures=figures, boards=boards)


def _without(board: Board, view_id: str) -> Board:
    """A board without the drawings of a view; what kept in line with them stands where it is."""
    gone = {d.id for d in board.drawings if d.view == view_id}
    if not gone:
        return board
    freed = lambda d: d.model_copy(update={w: "" for w in ("line_x", "line_y") if getattr(d, w) in gone})
    return board.model_copy(update={"drawings": tuple(freed(d) for d in board.drawings if d.id not in gone)})
