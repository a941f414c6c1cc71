"""Roof tiles: courses, and the joints between tiles, shifted from course to course."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="tiles", label="Tiles", spacing=2.0, metres=0.3, group="roofs",
    courses=(
        Course(),
        Course(step=0.5, angle=90.0, marks=(1.0, 1.0), slip=1.0),
    ),
)  # fmt: skip
