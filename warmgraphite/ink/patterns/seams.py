"""Standing seams of a metal roof, down the slope."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="seams", label="Standing seams", spacing=4.0, metres=0.5, group="roofs",
    courses=(
        Course(angle=90.0),
        Course(angle=90.0, at=0.06, weight=0.6),
    ),
)  # fmt: skip
