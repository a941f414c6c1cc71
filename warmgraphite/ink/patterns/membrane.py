"""A membrane: marks and gaps along its length."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="membrane", label="Membrane", spacing=1.0, metres=0.02, group="layers",
    courses=(Course(marks=(3.0, 1.5), slip=2.2, weight=1.6),),
)  # fmt: skip
