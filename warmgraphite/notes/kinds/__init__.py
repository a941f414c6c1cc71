"""The kinds of note: one module each, found by being here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from warmgraphite.catalogue import Catalogue, any_of, classes_in, name_of
from warmgraphite.notes.note import Note

__all__ = ["KINDS", "AnyNote"]

#: Each kind by its name.
KINDS: Catalogue[type[Note]] = Catalogue(lambda: classes_in(__name__, Note), name_of, name_of)

if TYPE_CHECKING:
    AnyNote = Note
else:
    AnyNote: Any = any_of(KINDS.values())
