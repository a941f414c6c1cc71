"""Blocks of masonry, two to one."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="blocks", label="Blocks", spacing=2.6, metres=0.2, group="walls",
    courses=(
        Course(),
        Course(step=1.0, angle=90.0, marks=(1.0, 1.0), slip=1.0),
    ),
)  # fmt: skip
