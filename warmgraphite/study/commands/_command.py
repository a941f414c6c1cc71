"""What every command on a study is."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from warmgraphite.specification import Specification
from warmgraphite.study.changes import Change
from warmgraphite.study.document import StudyDocument

__all__ = ["Changes", "Command", "Identity", "Name"]

Identity = Annotated[str, Field(max_length=60)]
Changes = Annotated[tuple[Change, ...], Field(min_length=1, max_length=200)]
Name = Annotated[str, Field(max_length=200)]


class Command(Specification):
    """A change to a study.
    ``do`` is its name in files and over the wire, ``label`` what it is called in the history.
    """

    do: str
    label: str

    def apply(self, document: StudyDocument) -> StudyDocument:
        """The document as it is then. Raises :class:`ViewError` with one sentence for what is not right."""
        raise NotImplementedError
