"""Bricks in stretcher bond: bed joints, and head joints that shift by half a brick."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="bond", label="Brick bond", spacing=1.4, metres=0.075, group="walls",
    courses=(
        Course(),
        Course(step=1.667, angle=90.0, marks=(1.0, 1.0), slip=1.0),
    ),
)  # fmt: skip
