"""Roles by rules."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.model.edits._edit import Edit
from warmgraphite.model.model import Model
from warmgraphite.model.role_rules import RoleRule, apply_rules


class ApplyRules(Edit):
    """Assign roles by name pattern; of several rules that match a part the last one counts."""

    do: Literal["rules"] = "rules"
    rules: Annotated[tuple[RoleRule, ...], Field(min_length=1, max_length=500)]

    def apply(self, model: Model) -> Model:
        return apply_rules(model, self.rules)

    def called(self, _what: str) -> str:
        return "Roles by rule"
