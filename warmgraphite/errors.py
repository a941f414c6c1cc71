"""Every error a user can meet. Each is one sentence: what was wrong, where, and what to do."""

from __future__ import annotations

__all__ = [
    "Cancelled",
    "EditError",
    "GraphiteError",
    "ModelFileError",
    "NothingShown",
    "OutputError",
    "PictureError",
    "StudyNotFoundError",
    "ViewError",
]


class GraphiteError(Exception):
    """Base of all errors whose text is fit to be shown to a user as it stands."""


class ModelFileError(GraphiteError):
    """A model file cannot be read, or holds nothing to draw."""


class EditError(GraphiteError):
    """A change of the model cannot be made."""


class ViewError(GraphiteError):
    """A view specification is not valid, or shows nothing."""


class NothingShown(ViewError):
    """A view, by its name where that is known, shows nothing."""

    def __init__(self, view: str = "") -> None:
        named = f"View “{view}”" if view else "The view"
        super().__init__(f"{named} shows no part at all; take its cuts back, show parts again or step back.")


class OutputError(GraphiteError):
    """A result cannot be written where it was asked for."""


class PictureError(GraphiteError):
    """A picture cannot be taken in."""


class StudyNotFoundError(GraphiteError):
    """A study was named that does not exist."""


class Cancelled(GraphiteError):
    """The work was stopped because somebody asked for it."""

    def __init__(self, what: str = "The work") -> None:
        super().__init__(f"{what} was stopped on request; nothing was changed.")
