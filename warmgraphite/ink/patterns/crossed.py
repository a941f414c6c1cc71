"""Lines that cross at right angles."""

from __future__ import annotations

from warmgraphite.ink.pattern import Course, Pattern

PATTERN = Pattern(
    name="crossed", label="Crossed lines", spacing=1.4, metres=0.06, group="lines",
    courses=(Course(), Course(angle=90.0)),
)  # fmt: skip
