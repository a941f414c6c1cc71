"""Slates: close courses, and joints shifted by half a slate."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="slates", label="Slates", spacing=1.5, metres=0.2, group="roofs",
    courses=(
        Course(),
        Course(step=0.75, angle=90.0, marks=(1.0, 1.0), slip=1.0, weight=0.8),
    ),
)  # fmt: skip
