"""The study document: everything of a study that a user can change, but for the model itself."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

from pydantic import Field, field_validator, model_validator

from warmgraphite.board.specification import Board
from warmgraphite.figures.figure import Figure, with_figure_ids
from warmgraphite.figures.kinds import AnyFigure
from warmgraphite.ink.marks.following import marks_in
from warmgraphite.ink.marks.specification import AnyMark, with_mark_ids
from warmgraphite.model.role_rules import RoleRule
from warmgraphite.notes.kinds import AnyNote
from warmgraphite.notes.note import Companion, Note, numbered_notes
from warmgraphite.regions.query import NamedRegion
from warmgraphite.sheet.specification import Sheet
from warmgraphite.specification import Specification, Words, valid
from warmgraphite.study.changes import Change
from warmgraphite.study.finish import DrawnLook, Finish, Look, fresh_finish, worn
from warmgraphite.study.formats import DOCUMENT
from warmgraphite.view.specification import Parallel, ViewSpecification

__all__ = ["Desk", "SavedView", "StudyDocument", "fresh_document", "read_document", "replaced"]


class SavedView(Specification):
    """A view under its mark (a letter), with the finish that it wears and the sheet that belongs to it.

    ``notes`` are what is written on it; ``changes`` what it changes of its finish for itself. A ``locked`` one is
    neither saved over nor removed; those of one ``group`` are listed together.
    """

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    mark: str = Field(max_length=3)
    view: ViewSpecification
    finish: str = Field(max_length=40)
    changes: tuple[Change, ...] = Field(default=(), max_length=25_000)
    sheet: Sheet = Sheet()
    notes: tuple[AnyNote, ...] = Field(default=(), max_length=2000)
    locked: bool = False
    group: Words = Field(default="", max_length=100)

    @field_validator("notes")
    @classmethod
    def _numbered(cls, notes: tuple[Any, ...]) -> tuple[Any, ...]:
        return numbered_notes(notes)

    @model_validator(mode="after")
    def _each_note_once(self) -> SavedView:
        if len({n.id for n in self.notes}) != len(self.notes):
            raise ValueError("two notes have the same id")
        return self


class Desk(Specification):
    """What lies on the desk: a saved view, as it is being changed."""

    view_id: str
    view: ViewSpecification


class StudyDocument(Specification):
    """Views, desk, finishes, role rules, named regions, marks, figures and boards of a study."""

    format: int = Field(default=DOCUMENT.number, ge=DOCUMENT.number, le=DOCUMENT.number)
    name: Words = Field(min_length=1, max_length=120)
    views: tuple[SavedView, ...] = Field(min_length=1, max_length=200)
    desk: Desk
    finishes: tuple[Finish, ...] = Field(min_length=1, max_length=100)
    role_rules: tuple[RoleRule, ...] = Field(default=(), max_length=500)
    regions: tuple[NamedRegion, ...] = Field(default=(), max_length=500)
    marks: tuple[AnyMark, ...] = Field(default=(), max_length=2000)
    figures: tuple[AnyFigure, ...] = Field(default=(), max_length=5000)
    boards: tuple[Board, ...] = Field(default=(), max_length=100)

    @field_validator("figures")
    @classmethod
    def _known(cls, figures: tuple[Any, ...]) -> tuple[Any, ...]:
        return with_figure_ids(figures)

    @field_validator("marks")
    @classmethod
    def _numbered(cls, marks: tuple[Any, ...]) -> tuple[Any, ...]:
        return with_mark_ids(marks)

    @model_validator(mode="after")
    def _hangs_together(self) -> StudyDocument:
        for what, rows in (
            ("views", self.views),
            ("regions", self.regions),
            ("finishes", self.finishes),
            ("marks", self.marks),
            ("figures", self.figures),
            ("boards", self.boards),
        ):
            if len({r.id for r in rows}) != len(rows):  # type: ignore[attr-defined]
                raise ValueError(f"two {what} have the same id")
        for what, named in (("regions", self.regions), ("finishes", self.finishes)):
            if len({r.name for r in named}) != len(named):  # type: ignore[attr-defined]
                raise ValueError(f"two {what} have the same name")
        if self.desk.view_id not in {v.id for v in self.views}:
            raise ValueError("the view on the desk is not among the saved views")
        shown = {d.view for b in self.boards for d in b.drawings} - {v.id for v in self.views}
        if shown:
            raise ValueError(f"a board shows the view “{min(shown)}”, which is not among the saved views")
        missing = {v.finish for v in self.views} - {f.id for f in self.finishes}
        if missing:
            raise ValueError(f"a view wears the finish “{min(missing)}”, which is not there")
        return self

    @property
    def on_desk(self) -> SavedView:
        """The saved view that the desk began from."""
        return next(v for v in self.views if v.id == self.desk.view_id)

    @property
    def unsaved(self) -> bool:
        """Whether the view on the desk is another than the saved one that it began from."""
        return self.desk.view != self.on_desk.view

    def finish_of(self, saved: SavedView) -> Finish:
        """The finish that a saved view wears."""
        return next(f for f in self.finishes if f.id == saved.finish)

    def look_of(self, saved: SavedView) -> Look:
        """How a saved view is inked and toned: its finish, with what it changes for itself."""
        return worn(self.finish_of(saved), saved.changes)

    def drawn_look(self, saved: SavedView) -> DrawnLook:
        """The look of a saved view as it is drawn: with kept regions taken for what they mean, and with its marks."""
        return self.marked(self.look_of(saved), saved.id)

    def marked(self, look: Look, view_id: str) -> DrawnLook:
        """Any look as a view is drawn in it."""
        here = tuple(f for f in self.figures if f.paper is None or f.paper.view == view_id)
        saved = next((v for v in self.views if v.id == view_id), None)
        notes = self.notes_of(saved) if saved is not None else ()
        return look.resolved(self.regions).marked(marks_in(self.marks, view_id, self.regions), here, notes)

    def notes_of(self, saved: SavedView) -> tuple[Note, ...]:
        """The notes of a saved view, with what they say of the others."""
        others = [Companion(v.mark, v.view) for v in self.views if v.id != saved.id]
        return tuple(n.settled(others) for n in saved.notes)

    @cached_property
    def look(self) -> Look:
        """How the view on the desk is inked and toned."""
        return self.look_of(self.on_desk)


def fresh_document(
    name: str, views: list[ViewSpecification] | None = None, finishes: Mapping[str, Look] | None = None,
    wears: Mapping[str, str] | None = None,
    figures: Sequence[Figure] = (), notes: Mapping[str, Sequence[Note]] | None = None, boards: Sequence[Board] = (),
) -> StudyDocument:  # fmt: skip
    """The document of a new study: the views given, or one axonometric of all.
    It has the usual finish, and ``finishes`` by name; ``wears`` says by a view's name which of them it wears;
    ``figures`` stand in it, ``notes`` are those of views by their names, and ``boards`` show views that are called
    view-1 and so on.
    """
    chosen = views or [ViewSpecification(name="Axonometric", projection=Parallel(direction=(0.6, 1.0, -0.75)))]
    usual = fresh_finish()
    own = [
        Finish(id=f"finish-{k}", name=called, **{n: getattr(look, n) for n in Look.model_fields})
        for k, (called, look) in enumerate((finishes or {}).items(), 2)
    ]
    of = {f.name: f.id for f in own}
    saved = tuple(
        SavedView(
            id=f"view-{i + 1}",
            mark=chr(65 + i),
            view=v,
            finish=of.get((wears or {}).get(v.name, ""), usual.id),
            notes=tuple((notes or {}).get(v.name, ())),
        )
        for i, v in enumerate(chosen)
    )
    return StudyDocument(
        name=name,
        views=saved,
        desk=Desk(view_id=saved[0].id, view=saved[0].view),
        finishes=(usual, *own),
        figures=tuple(figures),
        boards=tuple(boards),
    )


def read_document(data: dict[str, Any]) -> StudyDocument:
    """The document that was kept as ``data``, in whatever format.
    Raises what validation raises, or :class:`ViewError` for the document of a newer version.
    """
    return StudyDocument.model_validate(DOCUMENT.upgraded(data))


def replaced(document: StudyDocument, **changes: Any) -> StudyDocument:
    """The document with other fields, valid as a whole. Raises :class:`ViewError` that names what is wrong."""
    with valid("This change"):
        return StudyDocument.model_validate(document.model_copy(update=changes).model_dump())
