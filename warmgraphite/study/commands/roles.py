"""Commands on the roles that parts get by rules."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from warmgraphite.model.role_rules import RoleRule
from warmgraphite.study.commands._command import Command
from warmgraphite.study.document import StudyDocument, replaced


class SetRoleRules(Command):
    do: Literal["role_rules"] = "role_rules"
    rules: tuple[RoleRule, ...] = Field(max_length=500)
    label: str = "Role rules"

    def apply(self, document: StudyDocument) -> StudyDocument:
        return replaced(document, role_rules=self.rules)
