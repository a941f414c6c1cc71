"""A study: its document, the finishes that its views wear, and the commands that change it."""

from warmgraphite.study.changes import Change, changes_between, make_changes
from warmgraphite.study.commands import Command, apply_commands, label_of
from warmgraphite.study.document import Desk, SavedView, StudyDocument, fresh_document, read_document
from warmgraphite.study.drawing_file import read_drawing, write_drawing_file
from warmgraphite.study.finish import DrawnLook, Finish, Look, OwnChange, compare_looks, describe_changes, write_finish
from warmgraphite.study.following import follow_edit, follow_names
from warmgraphite.study.views import reshape_view

__all__ = [
    "Change",
    "Command",
    "Desk",
    "DrawnLook",
    "Finish",
    "Look",
    "OwnChange",
    "SavedView",
    "StudyDocument",
    "apply_commands",
    "changes_between",
    "compare_looks",
    "describe_changes",
    "follow_edit",
    "follow_names",
    "fresh_document",
    "label_of",
    "make_changes",
    "read_document",
    "read_drawing",
    "reshape_view",
    "write_drawing_file",
    "write_finish",
]
