"""Grass: tufts of short blades."""

from __future__ import annotations

from warmgraphite.ink.pattern import Pattern, Scatter

_BLADE = ((0.0, 0.0), (0.05, 0.3), (0.16, 0.55))
_LEFT = ((-0.1, 0.0), (-0.16, 0.25), (-0.32, 0.42))
_LOW = ((0.12, 0.0), (0.22, 0.22), (0.42, 0.34))

PATTERN = Pattern(
    name="grass", label="Grass", spacing=2.0, metres=0.25, group="water and green",
    scatters=(
        Scatter(marks=(_BLADE, _LEFT, _LOW), apart=1.1, turn=14.0, vary=0.5),
        Scatter(marks=(_LEFT, _LOW), apart=1.7, turn=10.0, vary=0.4, seed=1),
    ),
)  # fmt: skip
