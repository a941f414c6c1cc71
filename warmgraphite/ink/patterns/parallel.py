"""Parallel lines."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="parallel", label="Parallel lines", spacing=1.2, metres=0.05, group="lines",
    courses=(Course(),),
)  # fmt: skip
