"""Shingles: courses, and joints as unlike as the shingles."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="shingles", label="Shingles", spacing=1.6, metres=0.15, group="roofs",
    courses=(
        Course(),
        Course(step=0.62, angle=90.0, marks=(1.0, 1.6), slip=0.9, loose=0.5),
    ),
)  # fmt: skip
