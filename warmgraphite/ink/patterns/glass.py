"""Glass: pairs of oblique strokes, far apart."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="glass", label="Glass", spacing=6.0, metres=0.6, group="layers",
    courses=(
        Course(angle=48.0, marks=(1.6, 3.2), slip=1.3, loose=0.6),
        Course(angle=48.0, at=0.14, along=0.2, marks=(1.0, 3.8), slip=1.3, loose=0.6),
    ),
)  # fmt: skip
