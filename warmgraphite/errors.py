"""Every error a user can meet. Each is one sentence: what was wrong, where, and what to do.

There are three sorts: what was asked for cannot be (:class:`AskedError`), what a file holds cannot be taken
(:class:`FileError`), and what is our own fault (:class:`OurFault`). The first two are said to whoever asked, as they
stand; the third is written down with its place, and whoever asked is told that it is no fault of theirs. Nobody takes
one of them for another: where something that was named may be gone, that alone is caught (:class:`NotThere`).
"""

from __future__ import annotations

__all__ = [
    "AskedError",
    "Cancelled",
    "EditError",
    "FileError",
    "GraphiteError",
    "ModelFileError",
    "NotThere",
    "NothingShown",
    "OurFault",
    "OutputError",
    "PictureError",
    "StudyNotFoundError",
    "ViewError",
]


class GraphiteError(Exception):
    """Base of all errors whose text is fit to be shown to a user as it stands."""


class AskedError(GraphiteError):
    """What was asked for cannot be: to be said otherwise."""


class FileError(GraphiteError):
    """What a file holds cannot be taken: another file helps, or a mended one."""


class OurFault(Exception):
    """The program contradicts itself, whatever was asked for and whatever a file holds."""


class ModelFileError(FileError):
    """A model file cannot be read, or holds nothing to draw."""


class PictureError(FileError):
    """A picture cannot be taken in."""


class EditError(AskedError):
    """A change of the model cannot be made."""


class ViewError(AskedError):
    """What is said of a view, of its look or of a study is not valid, or shows nothing."""


class NotThere(ViewError):
    """Something is named that is not there: a part set, a kept region, a place of a document."""


class NothingShown(ViewError):
    """A view, by its name where that is known, shows nothing."""

    def __init__(self, view: str = "") -> None:
        named = f"View “{view}”" if view else "The view"
        super().__init__(f"{named} shows no part at all; take its cuts back, show parts again or step back.")


class OutputError(AskedError):
    """A result cannot be written where it was asked for."""


class StudyNotFoundError(AskedError):
    """A study was named that does not exist."""


class Cancelled(GraphiteError):
    """The work was stopped because somebody asked for it."""

    def __init__(self, what: str = "The work") -> None:
        super().__init__(f"{what} was stopped on request; nothing was changed.")
