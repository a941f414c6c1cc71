"""Concrete: sand, and a few three-cornered stones."""

from __future__ import annotations

from warmgraphite.ink.pattern import Pattern, Scatter

_STONE = ((-0.5, -0.29), (0.5, -0.33), (0.05, 0.5), (-0.5, -0.29))
_FLAT = ((-0.55, -0.2), (0.45, -0.35), (0.2, 0.36), (-0.55, -0.2))

PATTERN = Pattern(
    name="concrete", label="Concrete", spacing=1.0, metres=0.03, group="earth and stone",
    scatters=(
        Scatter(marks=(((0.0, 0.0),),), apart=1.1),
        Scatter(marks=(_STONE, _FLAT), apart=3.4, vary=0.4, seed=1),
    ),
)  # fmt: skip
