"""The notes of a view: written, changed, taken out; and how they go along with the model."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from pydantic import Field

from warmgraphite.errors import ViewError
from warmgraphite.notes.kinds import AnyNote
from warmgraphite.notes.note import Note, numbered_notes
from warmgraphite.specification import Specification, valid
from warmgraphite.study.changes import Change, make_changes
from warmgraphite.study.document import StudyDocument, replaced

__all__ = ["change_notes", "each_note"]


class _Notes(Specification):
    # As many as a view may have: what is written here is not looked through again.
    notes: tuple[AnyNote, ...] = Field(default=(), max_length=2000)


def change_notes(document: StudyDocument, changes: Sequence[Change]) -> StudyDocument:
    """The document with other notes of the view on the desk; paths begin with ``notes``."""
    rows = [n.model_dump(mode="json") for n in document.on_desk.notes]
    with valid("This note"):
        notes = numbered_notes(_Notes.model_validate(make_changes({"notes": rows}, changes)).notes)
        if len({n.id for n in notes}) != len(notes):
            raise ViewError("Two notes have the same id; give one of them another.")
    mine = document.desk.view_id
    # Nothing else of the document can have become wrong by it: a note that is drawn about need not wait for all of it
    # to be looked through.
    views = tuple(v.model_copy(update={"notes": notes}) if v.id == mine else v for v in document.views)
    return document.model_copy(update={"views": views})


def each_note(document: StudyDocument, change: Callable[[Note], Note]) -> StudyDocument:
    """The document with each note of each view changed."""
    if not any(v.notes for v in document.views):
        return document
    views = tuple(v.model_copy(update={"notes": tuple(change(n) for n in v.notes)}) for v in document.views)
    return replaced(document, views=views)
