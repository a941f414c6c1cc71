"""Courses of brick: the bed joints, broken off here and there."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="courses", label="Brick courses", spacing=1.4, metres=0.075, group="walls",
    courses=(Course(marks=(7.0, 1.6), slip=3.1, loose=0.7),),
)  # fmt: skip
