"""Commands on finishes, and on what a view changes of its own."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.study import looks
from warmgraphite.study.commands._command import Command, Identity, Name
from warmgraphite.study.document import StudyDocument


class LayFinish(Command):
    """Lay a finish over a view, the one on the desk by default."""

    do: Literal["lay_finish"] = "lay_finish"
    finish_id: Identity
    view_id: Identity = ""
    label: str = "Lay a finish over"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.lay_finish(document, self.finish_id, self.view_id)


class KeepFinish(Command):
    do: Literal["keep_finish"] = "keep_finish"
    name: Name
    label: str = "Keep finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.keep_finish(document, self.name)


class GiveBack(Command):
    """Give the view's own changes, at a place or all of them, to its finish."""

    do: Literal["give_back"] = "give_back"
    path: tuple[Annotated[str, Field(max_length=1000)], ...] = Field(default=(), max_length=12)
    label: str = "Give back to the finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.give_back(document, self.path)


class DropChanges(Command):
    """Drop the view's own changes, at a place or all of them."""

    do: Literal["drop_changes"] = "drop_changes"
    path: tuple[Annotated[str, Field(max_length=1000)], ...] = Field(default=(), max_length=12)
    label: str = "Drop own changes"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.drop_changes(document, self.path)


class RenameFinish(Command):
    do: Literal["rename_finish"] = "rename_finish"
    finish_id: Identity
    name: Name
    label: str = "Rename finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.rename_finish(document, self.finish_id, self.name)


class RemoveFinish(Command):
    do: Literal["remove_finish"] = "remove_finish"
    finish_id: Identity
    label: str = "Remove finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.remove_finish(document, self.finish_id)


class TakeFinish(Command):
    """Take a finish in from the text of its file, and lay it over the view on the desk."""

    do: Literal["take_finish"] = "take_finish"
    text: str = Field(max_length=2_000_000)
    label: str = "Take a finish in"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.take_finish(document, self.text)
