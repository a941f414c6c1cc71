"""Commands on kept regions."""

from __future__ import annotations

from typing import Literal

from warmgraphite.errors import ViewError
from warmgraphite.regions.query import Query
from warmgraphite.study import regions
from warmgraphite.study.commands._command import Command, Identity, Name
from warmgraphite.study.document import StudyDocument


class KeepRegion(Command):
    do: Literal["keep_region"] = "keep_region"
    name: Name
    query: Query | None = None
    label: str = "Keep region"

    def apply(self, document: StudyDocument) -> StudyDocument:
        if self.query is None:
            raise ViewError("There is no region to keep; select one in the drawing first.")
        return regions.keep_region(document, self.name, self.query)


class RenameRegion(Command):
    do: Literal["rename_region"] = "rename_region"
    region_id: Identity
    name: Name
    label: str = "Rename region"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return regions.rename_region(document, self.region_id, self.name)


class RemoveRegion(Command):
    do: Literal["remove_region"] = "remove_region"
    region_id: Identity
    label: str = "Remove region"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return regions.remove_region(document, self.region_id)
