"""Dots strewn evenly, as a blue noise."""

from __future__ import annotations

from warmgraphite.ink.pattern import Pattern, Scatter

PATTERN = Pattern(
    name="stipple", label="Stipple", spacing=0.8, metres=0.03, group="lines",
    scatters=(Scatter(marks=(((0.0, 0.0),),), apart=1.0),),
)  # fmt: skip
