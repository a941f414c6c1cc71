"""Sand: fine dots, and a few that are coarser."""

from __future__ import annotations

from warmgraphite.ink.pattern import Pattern, Scatter

PATTERN = Pattern(
    name="sand", label="Sand", spacing=0.9, metres=0.02, group="earth and stone",
    scatters=(
        Scatter(marks=(((0.0, 0.0),),), apart=1.0),
        Scatter(marks=(((0.0, 0.0),),), apart=3.0, weight=1.9, seed=1),
    ),
)  # fmt: skip
