"""Parallel lines broken off at random."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="broken", label="Broken lines", spacing=1.2, metres=0.05, group="lines",
    courses=(Course(marks=(5.0, 1.2), slip=2.3, loose=0.6),),
)  # fmt: skip
