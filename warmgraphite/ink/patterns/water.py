"""Water: level strokes, broken, as ripples lie before the viewer."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="water", label="Water", spacing=1.3, metres=0.16, group="water and green",
    courses=(Course(marks=(6.0, 4.4), slip=3.7, loose=0.85),),
    turned="viewer",
)  # fmt: skip
