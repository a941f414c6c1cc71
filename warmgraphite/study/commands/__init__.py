"""What can be done to a study, as typed commands; what each may touch is guarded there.
Found by being here, whatever file they are in.

A command says what it changes and how that is called in the history. It is applied to a document and gives another;
what is not right is one sentence, and the document stays as it was.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from warmgraphite.catalogue import Catalogue, any_of, classes_in, name_of
from warmgraphite.study.commands import _command
from warmgraphite.study.document import StudyDocument
from warmgraphite.study.figure_sheets import with_sheets

__all__ = ["COMMANDS", "Command", "apply_commands", "label_of"]

#: Each command by its name.
COMMANDS: Catalogue[type[_command.Command]] = Catalogue(
    lambda: classes_in(__name__, _command.Command, by="do"), lambda c: name_of(c, "do")
)

if TYPE_CHECKING:
    Command = _command.Command
else:
    Command: Any = any_of(COMMANDS.values(), by="do")


def apply_commands(document: StudyDocument, commands: Sequence[Command]) -> StudyDocument:
    """The document after commands, in order; all of them or none, with the sheets that its figures need by then.
    Raises :class:`ViewError`.
    """
    before = document
    for command in commands:
        document = command.apply(document)
    return with_sheets(document, before)


def label_of(commands: Sequence[Command]) -> str:
    """What undo calls these commands: as whoever gave the last one called it."""
    return commands[-1].label[:120]
