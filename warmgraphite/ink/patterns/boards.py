"""Boards upright: their joints."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="boards", label="Boards, upright", spacing=1.6, metres=0.12, group="timber",
    courses=(Course(angle=90.0),),
)  # fmt: skip
