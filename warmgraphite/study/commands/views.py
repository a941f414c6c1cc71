"""Commands on views: the one on the desk, and those that are saved."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from warmgraphite.specification import valid
from warmgraphite.study import views
from warmgraphite.study.changes import make_changes
from warmgraphite.study.commands._command import Changes, Command, Identity, Name
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.view.specification import ViewSpecification


class ChangeView(Command):
    """Change the view on the desk; paths begin at its fields, as in ``sun.azimuth``. Saved views stay as they are."""

    do: Literal["view"] = "view"
    changes: Changes
    label: str = "Change the view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        with valid("This change"):
            view = ViewSpecification.model_validate(
                make_changes(document.desk.view.model_dump(mode="json"), self.changes)
            )
        return replaced(document, desk=document.desk.model_copy(update={"view": view}))


class PutView(Command):
    """Put another view in the place of the one on the desk."""

    do: Literal["put_view"] = "put_view"
    view: ViewSpecification
    label: str = "Move the view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.reshape_view(document, lambda _: self.view)


class OpenView(Command):
    do: Literal["open_view"] = "open_view"
    view_id: Identity
    label: str = "Open view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.open_view(document, self.view_id)


class SaveView(Command):
    do: Literal["save_view"] = "save_view"
    label: str = "Save view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.save_view(document)


class KeepView(Command):
    do: Literal["keep_view"] = "keep_view"
    name: Name
    label: str = "Keep view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.keep_view(document, self.name)


class RemoveView(Command):
    do: Literal["remove_view"] = "remove_view"
    view_id: Identity
    label: str = "Remove view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.remove_view(document, self.view_id)


class DuplicateView(Command):
    do: Literal["duplicate_view"] = "duplicate_view"
    view_id: Identity
    label: str = "Duplicate view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.duplicate_view(document, self.view_id)


class OrderView(Command):
    """Put a saved view at another place of the list, counted from 0."""

    do: Literal["order_view"] = "order_view"
    view_id: Identity
    place: int
    label: str = "Order of views"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.order_view(document, self.view_id, self.place)


class LockView(Command):
    do: Literal["lock_view"] = "lock_view"
    view_id: Identity
    locked: bool = True
    label: str = "Lock view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.mark_view(document, self.view_id, locked=self.locked)


class GroupView(Command):
    do: Literal["group_view"] = "group_view"
    view_id: Identity
    name: Name
    label: str = "Group view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.mark_view(document, self.view_id, group=self.name.strip()[:100])


class PasteView(Command):
    """Keep a view from its JSON as a new one, and lay it on the desk."""

    do: Literal["paste_view"] = "paste_view"
    text: str = Field(max_length=200_000)
    label: str = "Paste view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.paste_view(document, self.text)
