"""Grain of timber, cut along: long lines that come and go."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="grain_along", label="Grain along", spacing=0.7, metres=0.02, group="timber", turned="along",
    courses=(
        Course(marks=(16.0, 3.0), slip=7.3, loose=0.8),
        Course(step=2.0, at=0.38, marks=(9.0, 8.0), slip=5.1, loose=0.9, weight=0.8),
    ),
)  # fmt: skip
