"""Roles that parts get by what they are called."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from typing import Annotated

from pydantic import Field

from warmgraphite.model.behaviour import Role
from warmgraphite.model.model import Model
from warmgraphite.specification import Specification

__all__ = ["RoleRule", "apply_rules"]


class RoleRule(Specification):
    """Parts whose ``layer/path/name`` matches ``pattern`` (``*`` and ``?``, whatever the case) get ``role``."""

    pattern: Annotated[str, Field(min_length=1, max_length=200)]
    role: Role


def apply_rules(model: Model, rules: Sequence[RoleRule], parts: Sequence[int] | None = None) -> Model:
    """The model with roles by rules; only for some ``parts`` when they are given."""
    numbers = range(len(model.parts)) if parts is None else parts
    rows = list(model.parts)
    tests = [(r.pattern.lower(), r.role) for r in rules]
    for number in numbers:
        part = rows[number]
        path, name = part.path.lower(), part.name.lower()
        role = next((role for p, role in reversed(tests) if fnmatchcase(path, p) or fnmatchcase(name, p)), None)
        if role is not None and role != part.role:
            rows[number] = replace(part, role=role)
    return model.said(parts=tuple(rows))
