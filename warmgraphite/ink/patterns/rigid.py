"""Rigid insulation: crossed lines at 60 degrees."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="rigid", label="Rigid insulation", spacing=1.8, metres=0.06, group="layers",
    courses=(Course(angle=60.0), Course(angle=-60.0)),
)  # fmt: skip
