"""Commands on how the view on the desk looks, and on what stands in and round it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.collage.kinds import AnyTrace
from warmgraphite.ink.buildups.specification import Outer
from warmgraphite.ink.fills import Fill
from warmgraphite.regions.query import Match
from warmgraphite.study import figures, lifting, looks, marks, notes, pouring
from warmgraphite.study.changes import Change
from warmgraphite.study.commands._command import Changes, Command, Identity
from warmgraphite.study.document import StudyDocument


class ChangeLook(Command):
    """Change pens, poche, build-ups or traces of the view on the desk.
    For itself, or ``everywhere`` that its finish is worn. Paths begin with ``pens``, ``poche``, ``build_ups``,
    ``construction``, ``entourage`` or ``traces``.
    """

    do: Literal["look"] = "look"
    changes: Changes
    everywhere: bool = False
    label: str = "Change the look"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.change_look(document, self.changes, self.everywhere)


class LiftForPrint(Command):
    """Open the darks of the view on the desk so that they do not fill in on paper; ``lift`` 0 takes that away."""

    do: Literal["lift"] = "lift"
    lift: float = Field(ge=0, le=1)
    black: float = Field(default=0.0, ge=0, le=0.5)
    label: str = "Lift for print"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return lifting.lift_for_print(document, self.lift, self.black)


class PourFill(Command):
    """Pour a fill into what a query means.
    Into what is ``cut``, or onto what is seen, there also ``over`` what lies there. Once more empties it. For the view
    on the desk, or ``everywhere`` that its finish is worn.
    """

    do: Literal["pour"] = "pour"
    where: Match
    fill: Fill
    cut: bool = False
    over: bool = False
    everywhere: bool = False
    label: str = "Pour a fill"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.pour(document, self.where, self.fill, cut=self.cut, over=self.over, everywhere=self.everywhere)


class PourBuildUp(Command):
    """Build the parts that a query means of a build-up, of the finish or of the kit, by its id.
    ``outer`` says which side is the outer one. Once more takes it away. For the view on the desk, or ``everywhere``
    that its finish is worn.
    """

    do: Literal["build"] = "build"
    where: Match
    build_up: Identity
    outer: Outer = "auto"
    everywhere: bool = False
    label: str = "Pour a build-up"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.build(document, self.where, self.build_up, self.outer, everywhere=self.everywhere)


class PourTrace(Command):
    """Pour a trace into the region that a query means.
    The trace with its id grows by it, or loses it where it was in already. Without ``where`` it is laid over all. For
    the view on the desk, or ``everywhere`` that its finish is worn.
    """

    do: Literal["pour_trace"] = "pour_trace"
    trace: AnyTrace
    where: Match | None = None
    everywhere: bool = False
    label: str = "Pour a trace"

    def apply(self, document: StudyDocument) -> StudyDocument:
        if self.where is None:
            return pouring.lay_trace(document, self.trace, everywhere=self.everywhere)
        return pouring.pour_trace(document, self.trace, self.where, everywhere=self.everywhere)


class ChangeMarks(Command):
    """Lay, change, take out or order marks; paths begin with ``marks``."""

    do: Literal["marks"] = "marks"
    changes: Changes
    label: str = "Change a mark"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return marks.change_marks(document, self.changes)


class ChangeFigures(Command):
    """Put, change, take out or order figures; paths begin with ``figures``."""

    do: Literal["figures"] = "figures"
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=3000)]
    label: str = "Change a figure"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return figures.change_figures(document, self.changes)


class ChangeNotes(Command):
    """Write, change, take out or order notes of the view on the desk; paths begin with ``notes``."""

    do: Literal["notes"] = "notes"
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=2000)]
    label: str = "Change a note"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return notes.change_notes(document, self.changes)


class ChangeSheet(Command):
    """Change the sheet round the view on the desk; paths begin at its fields."""

    do: Literal["sheet"] = "sheet"
    changes: Changes
    label: str = "Change the sheet"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.change_sheet(document, self.changes)


class PasteDrawing(Command):
    """Keep a drawing from its text as a new view with its finish, and lay it on the desk."""

    do: Literal["paste_drawing"] = "paste_drawing"
    text: str = Field(max_length=5_000_000)
    label: str = "Paste drawing"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return looks.paste_drawing(document, self.text)
