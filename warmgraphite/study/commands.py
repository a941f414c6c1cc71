"""What can be done to a study, as typed commands; what each may touch is guarded here.

A command says what it changes and how that is called in the history. It is applied to a document and gives another; what is
not right is one sentence, and the document stays as it was.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.collage.kinds import AnyTrace
from warmgraphite.errors import ViewError
from warmgraphite.ink.buildups.specification import Outer
from warmgraphite.ink.fills import Fill
from warmgraphite.model.edits import RoleRule
from warmgraphite.regions.query import Match, Query
from warmgraphite.specification import Specification, valid
from warmgraphite.study import boards, figures, lifting, looks, marks, notes, pouring, regions, views
from warmgraphite.study.changes import Change, make_changes
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.study.figure_sheets import with_sheets
from warmgraphite.view.specification import ViewSpecification

__all__ = ["Command", "apply_commands", "label_of"]

Identity = Annotated[str, Field(max_length=60)]
Changes = Annotated[tuple[Change, ...], Field(min_length=1, max_length=200)]
Name = Annotated[str, Field(max_length=200)]


class ChangeView(Specification):
    """Change the view on the desk; paths begin at its fields, as in ``sun.azimuth``. Saved views stay as they are."""

    do: Literal["view"] = "view"
    changes: Changes
    label: str = "Change the view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        with valid("This change"):
            view = ViewSpecification.model_validate(make_changes(document.desk.view.model_dump(mode="json"), self.changes))
        return replaced(document, desk=document.desk.model_copy(update={"view": view}))


class PutView(Specification):
    """Put another view in the place of the one on the desk."""

    do: Literal["put_view"] = "put_view"
    view: ViewSpecification
    label: str = "Move the view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.reshape_view(document, lambda _: self.view)


class ChangeLook(Specification):
    """Change pens, poche, build-ups or traces of the view on the desk: for itself, or ``everywhere`` that its finish is worn. Paths
    begin with ``pens``, ``poche``, ``build_ups``, ``construction``, ``entourage`` or
    ``traces``."""

    do: Literal["look"] = "look"
    changes: Changes
    everywhere: bool = False
    label: str = "Change the look"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.change_look(document, self.changes, self.everywhere)


class LiftForPrint(Specification):
    """Open the darks of the view on the desk so that they do not fill in on paper; ``lift`` 0 takes that away."""

    do: Literal["lift"] = "lift"
    lift: float = Field(ge=0, le=1)
    black: float = Field(default=0.0, ge=0, le=0.5)
    label: str = "Lift for print"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return lifting.lift_for_print(document, self.lift, self.black)


class PourFill(Specification):
    """Pour a fill into what a query means: into what is ``cut``, or onto what is seen, there also ``over`` what lies there. Once
    more empties it. For the view on the desk, or ``everywhere`` that its finish is worn."""

    do: Literal["pour"] = "pour"
    where: Match
    fill: Fill
    cut: bool = False
    over: bool = False
    everywhere: bool = False
    label: str = "Pour a fill"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.pour(document, self.where, self.fill, cut=self.cut, over=self.over, everywhere=self.everywhere)


class PourBuildUp(Specification):
    """Build the parts that a query means of a build-up, of the finish or of the kit, by its id; ``outer`` says which side is the outer
    one. Once more takes it away. For the view on the desk, or ``everywhere`` that its finish is worn."""

    do: Literal["build"] = "build"
    where: Match
    build_up: Identity
    outer: Outer = "auto"
    everywhere: bool = False
    label: str = "Pour a build-up"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.build(document, self.where, self.build_up, self.outer, everywhere=self.everywhere)


class PourTrace(Specification):
    """Pour a trace into the region that a query means: the trace with its id grows by it, or loses it where it was in already.
    Without ``where`` it is laid over all. For the view on the desk, or ``everywhere`` that its finish is worn."""

    do: Literal["pour_trace"] = "pour_trace"
    trace: AnyTrace
    where: Match | None = None
    everywhere: bool = False
    label: str = "Pour a trace"

    def apply(self, document: StudyDocument) -> StudyDocument:
        if self.where is None:
            return pouring.lay_trace(document, self.trace, everywhere=self.everywhere)
        return pouring.pour_trace(document, self.trace, self.where, everywhere=self.everywhere)


class ChangeMarks(Specification):
    """Lay, change, take out or order marks; paths begin with ``marks``."""

    do: Literal["marks"] = "marks"
    changes: Changes
    label: str = "Change a mark"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return marks.change_marks(document, self.changes)


class ChangeFigures(Specification):
    """Put, change, take out or order figures; paths begin with ``figures``."""

    do: Literal["figures"] = "figures"
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=3000)]
    label: str = "Change a figure"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return figures.change_figures(document, self.changes)


class ChangeNotes(Specification):
    """Write, change, take out or order notes of the view on the desk; paths begin with ``notes``."""

    do: Literal["notes"] = "notes"
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=2000)]
    label: str = "Change a note"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return notes.change_notes(document, self.changes)


class ChangeBoards(Specification):
    """Lay out, change, add, take out or order boards; paths begin with ``boards``."""

    do: Literal["boards"] = "boards"
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=2000)]
    label: str = "Change a board"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return boards.change_boards(document, self.changes)


class ExtendPage(Specification):
    """Make the page of a board longer by so many ``millimetres`` on one side, shorter below zero; what stands on it stays where it is."""

    do: Literal["extend_page"] = "extend_page"
    board_id: Identity
    side: Literal["left", "right", "top", "bottom"]
    millimetres: float = Field(ge=-5000, le=5000)
    label: str = "Draw the page out"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return boards.extend_page(document, self.board_id, self.side, self.millimetres)


class ChangeSheet(Specification):
    """Change the sheet round the view on the desk; paths begin at its fields."""

    do: Literal["sheet"] = "sheet"
    changes: Changes
    label: str = "Change the sheet"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.change_sheet(document, self.changes)


class SetRoleRules(Specification):
    do: Literal["role_rules"] = "role_rules"
    rules: tuple[RoleRule, ...] = Field(max_length=500)
    label: str = "Role rules"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return replaced(document, role_rules=self.rules)


class OpenView(Specification):
    do: Literal["open_view"] = "open_view"
    view_id: Identity
    label: str = "Open view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.open_view(document, self.view_id)


class SaveView(Specification):
    do: Literal["save_view"] = "save_view"
    label: str = "Save view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.save_view(document)


class KeepView(Specification):
    do: Literal["keep_view"] = "keep_view"
    name: Name
    label: str = "Keep view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.keep_view(document, self.name)


class RemoveView(Specification):
    do: Literal["remove_view"] = "remove_view"
    view_id: Identity
    label: str = "Remove view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.remove_view(document, self.view_id)


class DuplicateView(Specification):
    do: Literal["duplicate_view"] = "duplicate_view"
    view_id: Identity
    label: str = "Duplicate view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.duplicate_view(document, self.view_id)


class OrderView(Specification):
    """Put a saved view at another place of the list, counted from 0."""

    do: Literal["order_view"] = "order_view"
    view_id: Identity
    place: int
    label: str = "Order of views"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.order_view(document, self.view_id, self.place)


class LockView(Specification):
    do: Literal["lock_view"] = "lock_view"
    view_id: Identity
    locked: bool = True
    label: str = "Lock view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.mark_view(document, self.view_id, locked=self.locked)


class GroupView(Specification):
    do: Literal["group_view"] = "group_view"
    view_id: Identity
    name: Name
    label: str = "Group view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.mark_view(document, self.view_id, group=self.name.strip()[:100])


class PasteView(Specification):
    """Keep a view from its JSON as a new one, and lay it on the desk."""

    do: Literal["paste_view"] = "paste_view"
    text: str = Field(max_length=200_000)
    label: str = "Paste view"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return views.paste_view(document, self.text)


class PasteDrawing(Specification):
    """Keep a drawing from its text as a new view with its finish, and lay it on the desk."""

    do: Literal["paste_drawing"] = "paste_drawing"
    text: str = Field(max_length=5_000_000)
    label: str = "Paste drawing"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.paste_drawing(document, self.text)


class KeepRegion(Specification):
    do: Literal["keep_region"] = "keep_region"
    name: Name
    query: Query | None = None
    label: str = "Keep region"

    def apply(self, document: StudyDocument) -> StudyDocument:
        if self.query is None:
            raise ViewError("There is no region to keep; select one in the drawing first.")
        return regions.keep_region(document, self.name, self.query)


class RenameRegion(Specification):
    do: Literal["rename_region"] = "rename_region"
    region_id: Identity
    name: Name
    label: str = "Rename region"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return regions.rename_region(document, self.region_id, self.name)


class RemoveRegion(Specification):
    do: Literal["remove_region"] = "remove_region"
    region_id: Identity
    label: str = "Remove region"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return regions.remove_region(document, self.region_id)


class LayFinish(Specification):
    """Lay a finish over a view, the one on the desk by default."""

    do: Literal["lay_finish"] = "lay_finish"
    finish_id: Identity
    view_id: Identity = ""
    label: str = "Lay a finish over"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.lay_finish(document, self.finish_id, self.view_id)


class KeepFinish(Specification):
    do: Literal["keep_finish"] = "keep_finish"
    name: Name
    label: str = "Keep finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.keep_finish(document, self.name)


class GiveBack(Specification):
    """Give the view's own changes, at a place or all of them, to its finish."""

    do: Literal["give_back"] = "give_back"
    path: tuple[Annotated[str, Field(max_length=1000)], ...] = Field(default=(), max_length=12)
    label: str = "Give back to the finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.give_back(document, self.path)


class DropChanges(Specification):
    """Drop the view's own changes, at a place or all of them."""

    do: Literal["drop_changes"] = "drop_changes"
    path: tuple[Annotated[str, Field(max_length=1000)], ...] = Field(default=(), max_length=12)
    label: str = "Drop own changes"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.drop_changes(document, self.path)


class RenameFinish(Specification):
    do: Literal["rename_finish"] = "rename_finish"
    finish_id: Identity
    name: Name
    label: str = "Rename finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.rename_finish(document, self.finish_id, self.name)


class RemoveFinish(Specification):
    do: Literal["remove_finish"] = "remove_finish"
    finish_id: Identity
    label: str = "Remove finish"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.remove_finish(document, self.finish_id)


class TakeFinish(Specification):
    """Take a finish in from the text of its file, and lay it over the view on the desk."""

    do: Literal["take_finish"] = "take_finish"
    text: str = Field(max_length=2_000_000)
    label: str = "Take a finish in"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.take_finish(document, self.text)


Command = Annotated[
    ChangeView | PutView | ChangeLook | LiftForPrint | PourFill | PourBuildUp | PourTrace | ChangeMarks | ChangeFigures | ChangeNotes | ChangeBoards | ExtendPage | ChangeSheet | SetRoleRules
    | OpenView | SaveView | KeepView | RemoveView | DuplicateView | OrderView | LockView | GroupView | PasteView | PasteDrawing
    | KeepRegion | RenameRegion | RemoveRegion
    | LayFinish | KeepFinish | GiveBack | DropChanges | RenameFinish | RemoveFinish | TakeFinish,
    Field(discriminator="do"),
]  # fmt: skip


def apply_commands(document: StudyDocument, commands: Sequence[Command]) -> StudyDocument:
    """The document after commands, in order; all of them or none, with the sheets that its figures need by then. Raises :class:`ViewError`."""
    before = document
    for command in commands:
        document = command.apply(document)
    return with_sheets(document, before)


def label_of(commands: Sequence[Command]) -> str:
    """What undo calls these commands: as whoever gave the last one called it."""
    return commands[-1].label[:120]
