"""Planks laid level, with staggered joints at their ends."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="planks", label="Planks with joints", spacing=1.8, metres=0.14, group="timber",
    courses=(
        Course(),
        Course(step=9.0, angle=90.0, marks=(1.0, 3.0), slip=1.0),
        Course(step=9.0, angle=90.0, at=4.5, marks=(1.0, 3.0), slip=1.0, along=2.0),
    ),
)  # fmt: skip
